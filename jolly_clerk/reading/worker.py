"""The fenced worker: paths in on standard input, one JSON reading a line out. Bounded in memory and time."""

from __future__ import annotations

import json
import os
import resource
import sys
from pathlib import Path

MEMORY = 2_000_000_000


def main() -> None:
    """Read files until the input ends."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(int(sys.argv[1]) if len(sys.argv) > 1 else 0)  # whoever waits for a page comes first
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # each thread would take of the bounded memory before it does anything
    from jolly_clerk.reading.read import read_file, warm

    warm()

    answers = sys.stdout
    sys.stdout = sys.stderr
    for line in sys.stdin:
        try:
            answers.write(read_file(Path(json.loads(line))).model_dump_json() + "\n")
        except Exception as error:
            answers.write(json.dumps({"trouble": f"{type(error).__name__}: {error}"[:200]}) + "\n")
        answers.flush()


if __name__ == "__main__":
    main()
