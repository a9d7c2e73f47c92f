"""The tests. What leaves the office leaves at once, where a test does not say otherwise. One seed serves all that is random in them (``JOLLY_CLERK_SEED``); Hypothesis has no deadlines and tries the same each time."""

import os
from collections.abc import Callable
from multiprocessing.util import Finalize

from hypothesis import settings

SEED = int(os.environ.setdefault("JOLLY_CLERK_SEED", "20261127"))
for wait in ("JOLLY_CLERK_LETTER_WAITS", "JOLLY_CLERK_STEP_WAITS"):
    os.environ.setdefault(wait, "0")
settings.register_profile("house", deadline=None, derandomize=True, database=None)
settings.load_profile("house")

#: names the folder that all processes of one run share (``tests.folders.for_all_processes``)
BETWEEN = "JOLLY_CLERK_BETWEEN"


def at_end(do: Callable[..., object], *given: object) -> None:
    """Do something when this process ends, also if it was forked, where what is registered with :mod:`atexit` is not done."""
    Finalize(None, do, given, exitpriority=0)
