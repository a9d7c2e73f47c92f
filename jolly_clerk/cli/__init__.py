"""The ``jolly-clerk`` command."""

from __future__ import annotations

import sys

from jolly_clerk.cli import office, packages, reading, rulebooks
from jolly_clerk.cli.shared import app

__all__ = ["app", "main", "office", "packages", "reading", "rulebooks"]


def main() -> None:
    """The entry point."""
    if hasattr(sys.stdout, "reconfigure"):
        sys.stdout.reconfigure(encoding="utf-8")
    app()
