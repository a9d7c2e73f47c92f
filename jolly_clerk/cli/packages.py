"""Commands over case packages: a case taken along, and one of another office read in."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from jolly_clerk.cli.shared import DATA, Data, app, fail, opened
from jolly_clerk.core.say import say


@app.command("package")
def package_of(
    reference: Annotated[str, typer.Argument(help="The reference of the case.")],
    to: Annotated[Path | None, typer.Option(help="The ZIP file to write; REFERENCE-package.zip if not given.")] = None,
    data: Data = DATA,
) -> None:
    """Write a case as a package (BagIt in a ZIP) that another office can read in."""
    import shutil

    from jolly_clerk.office.errors import OfficeError
    from jolly_clerk.office.keeping.packing import package
    from jolly_clerk.office.office import Who

    office = opened(data)
    try:
        with package(office, Who("office", office.name, "lead"), reference) as packed:
            path = to or Path(packed.name)
            shutil.copyfile(packed.path, path)
    except OfficeError as error:
        raise fail(error.detail) from None
    finally:
        office.close()
    typer.echo(say("{path}: the hash of the last entry is {hash}", path=path, hash=packed.last_hash))


@app.command("read-in")
def read_in_package(
    file: Annotated[Path, typer.Argument(help="A package that an office of this program wrote.")],
    data: Data = DATA,
    last_hash: Annotated[str, typer.Option(help="How the hash of the last entry begins, as the other office says.")] = "",
) -> None:
    """Read a case of another office in: it goes on here if the same edition is published, else it is kept as it came."""
    from jolly_clerk.office.errors import OfficeError
    from jolly_clerk.office.keeping.reading_in import read_in
    from jolly_clerk.office.office import Who

    if not file.is_file():
        raise fail(say("{file} is not there", file=file))
    office = opened(data)
    try:
        taken = read_in(office, Who("office", office.name, "lead"), file, last_hash)
    except OfficeError as error:
        raise fail(error.detail) from None
    finally:
        office.close()
    if taken.goes_on:
        typer.echo(say("{reference}: it goes on here.", reference=taken.reference))
    else:
        typer.echo(say("{reference}: kept as it came, since its edition is not published here.", reference=taken.reference))
