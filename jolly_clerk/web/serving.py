"""A serving process: how it looks for rubbish; and one of several, made anew in each from what the command that started them put into the
environment."""

from __future__ import annotations

import gc
import os
from datetime import UTC, datetime
from pathlib import Path

from fastapi import FastAPI

from jolly_clerk.office.lifetimes import after, days
from jolly_clerk.office.office import open_office
from jolly_clerk.web.app import create_app
from jolly_clerk.web.minding import set_up_log

DATA, DEMO, DAYS = "JOLLY_CLERK_SERVE_DATA", "JOLLY_CLERK_SERVE_DEMO", "JOLLY_CLERK_SERVE_DAYS"


#: after how many new objects, and how many such rounds, Python looks for rubbish: a case is shown with some twenty thousand objects
RUBBISH = (20_000, 20, 20)


def settle() -> None:
    """What a process made while starting stays; from now on only what requests make is looked through for rubbish, and less often."""
    gc.freeze()
    gc.set_threshold(*RUBBISH)
    gc.enable()


def made() -> FastAPI:
    """The application over the office that the environment names."""
    set_up_log()
    later = days(int(os.environ.get(DAYS, "0")))
    app = create_app(open_office(Path(os.environ[DATA]), lambda: after(datetime.now(UTC), later), bool(os.environ.get(DEMO))))
    settle()
    return app
