"""What the commands share: the applications, the folder of the office, how a command ends that cannot be done."""

from __future__ import annotations

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

    if not (data / "office.db").exists():
        raise fail(say("{data}: there is no office here", data=data))
    return open_office(data)
