"""What the process has done from which the servers of tests are forked, so that none of them does it again: the program is imported, its
command is made, and the shipped editions are read. What one of them read of a file is kept for all of a run."""

from __future__ import annotations

import hashlib

from typer.main import get_command

import jolly_clerk.web.app  # noqa: F401 - imported once for all
from jolly_clerk.cli import app
from jolly_clerk.core.say import say
from jolly_clerk.office import office
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in, without_examples
from tests.helpers import KeptReaders
from tests.sharing import share


class LateReaders(KeptReaders):
    """Readers that start with the first file that none has read."""

    def warm(self, count: int = 1) -> None:
        """Nothing: mostly there is no such file."""


office.Readers = LateReaders  # type: ignore[misc]

#: ``jolly-clerk``
COMMAND = get_command(app)

share()
for file in editions_in(SHIPPED):
    text = file.read_bytes()
    sha256 = hashlib.sha256(text).hexdigest()
    rulebooks.read_rulebook(without_examples(text.decode()), say("edition {sha256}", sha256=sha256[:12]))
