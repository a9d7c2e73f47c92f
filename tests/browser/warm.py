"""What the process has done from which the servers of tests are forked, so that none of them does it again: the program is imported, its
command is made, and the shipped editions are read."""

from __future__ import annotations

import hashlib

from typer.main import get_command

import jolly_clerk.web.app  # noqa: F401 - imported once for all
from jolly_clerk.cli import app
from jolly_clerk.core.say import say
from jolly_clerk.office.rules import rulebooks
from jolly_clerk.shelf.rulebooks import SHIPPED, editions_in, without_examples
from tests.sharing import share

#: ``jolly-clerk``
COMMAND = get_command(app)

share()
for file in editions_in(SHIPPED):
    text = file.read_bytes()
    sha256 = hashlib.sha256(text).hexdigest()
    rulebooks.read_rulebook(without_examples(text.decode()), say("edition {sha256}", sha256=sha256[:12]))
