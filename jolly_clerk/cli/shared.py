"""What the commands share: the applications, the folder of the office, how a command ends that cannot be done."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from jolly_clerk.core.say import say

if TYPE_CHECKING:
    from jolly_clerk.office.office import Office

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)
rulebook_app = typer.Typer(no_args_is_help=True, help="Rulebook editions: check, publish.")
app.add_typer(rulebook_app, name="rulebook")
office_app = typer.Typer(no_args_is_help=True, help="The office itself: init.")
app.add_typer(office_app, name="office")
Data = Annotated[Path, typer.Option(help="The folder in which the office lives.")]
DATA = Path("data")


def fail(message: str) -> typer.Exit:
    """Say what is wrong on standard error and end with status 1."""
    typer.echo(message, err=True)
    return typer.Exit(1)


def opened(data: Path) -> Office:
    """The office in a folder; the command ends if there is none."""
    from jolly_clerk.office.office import open_office
    from jolly_clerk.office.settings import is_office

    if not is_office(data):
        raise fail(say("{data}: there is no office here", data=data))
    return open_or_fail(lambda: open_office(data), data)


def open_or_fail(made: Callable[[], Office], data: Path) -> Office:
    """Open an office; the command ends with a sentence if its folder or its database does not let itself be opened."""
    from sqlalchemy.exc import DBAPIError

    try:
        return made()
    except (OSError, DBAPIError) as error:
        said = str(getattr(error, "orig", error))
        told = say(
            "{data}: the office cannot be opened: {said}. Look at the rights of the folder and at the disk.", data=data, said=said
        )
        raise fail(told) from None
