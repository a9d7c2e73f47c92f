"""One of several serving processes: made anew in each, from what the command that started them put into the environment."""

from __future__ import annotations

import os
from datetime import UTC, datetime
from pathlib import Path

from fastapi import FastAPI

from jolly_clerk.office.lifetimes import after, days
from jolly_clerk.office.office import open_office
from jolly_clerk.web.app import create_app
from jolly_clerk.web.minding import set_up_log

DATA, DEMO, DAYS = "JOLLY_CLERK_SERVE_DATA", "JOLLY_CLERK_SERVE_DEMO", "JOLLY_CLERK_SERVE_DAYS"


def made() -> FastAPI:
    """The application over the office that the environment names."""
    set_up_log()
    later = days(int(os.environ.get(DAYS, "0")))
    return create_app(open_office(Path(os.environ[DATA]), lambda: after(datetime.now(UTC), later), bool(os.environ.get(DEMO))))
