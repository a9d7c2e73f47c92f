"""``python -m jolly_clerk.cli``."""

from __future__ import annotations

from jolly_clerk.cli import main

main()
