"""The ``jolly-clerk`` command."""

from __future__ import annotations

import json
import sys
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

import typer

app = typer.Typer(no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False)
rulebook_app = typer.Typer(no_args_is_help=True, help="Rulebook editions: check, publish.")
app.add_typer(rulebook_app, name="rulebook")
Data = Annotated[Path, typer.Option(help="The folder in which the office lives.")]
DATA = Path("data")


def fail(message: str) -> typer.Exit:
    """Say what is wrong on standard error and end with status 1."""
    typer.echo(message, err=True)
    return typer.Exit(1)


@app.command()
def assess(
    rulebook: Annotated[Path, typer.Option(help="An edition (YAML).")],
    dossier: Annotated[Path, typer.Option(help="A dossier (JSON).")],
    at: Annotated[str, typer.Option(help="The instant, ISO 8601 with its zone, e.g. 2026-11-12T10:00:00+00:00.")],
    history: Annotated[Path | None, typer.Option(help="A history (JSON).")] = None,
    known: Annotated[Path | None, typer.Option(help="What is known: calendar, readings (JSON).")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print the whole assessment as JSON.")] = False,
) -> None:
    """Assess a dossier under an edition and print what the rules say."""
    from pydantic import ValidationError

    from jolly_clerk.core.assess import ASSESSMENT
    from jolly_clerk.core.assess import assess as ask
    from jolly_clerk.core.dossier.model import Dossier
    from jolly_clerk.core.history import NO_HISTORY, History
    from jolly_clerk.core.known import Known, KnownFile
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook_file

    def read(model: Any, path: Path) -> Any:
        try:
            return model.model_validate_json(path.read_bytes())
        except OSError as error:
            raise fail(f"{path}: cannot be read: {error.strerror}") from None
        except ValidationError as error:
            places = [f"{path}: {'.'.join(map(str, p['loc'])) or 'the whole file'}: {p['msg']}" for p in error.errors()]
            raise fail("\n".join(places)) from None

    try:
        rules = read_rulebook_file(rulebook).rulebook
        told = read(KnownFile, known) if known else KnownFile()
        calendar = told.calendar.calendar() if told.calendar else calendar_beside(rulebook, rules.edition.calendar)
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    try:
        instant = datetime.fromisoformat(at)
    except ValueError:
        raise fail(f"--at {at!r} is not an instant; write it like 2026-11-12T10:00:00+00:00") from None
    instant = instant if instant.tzinfo else instant.replace(tzinfo=calendar.zone)
    past = read(History, history) if history else NO_HISTORY
    facts = Known(calendar, {r.sha256: r for r in told.readings})
    try:
        result = ask(rules, read(Dossier, dossier), past, facts, instant)
    except (IndexError, KeyError):
        raise fail(f"{history}: an entry names a round or a point that no letter before it asked") from None
    if as_json:
        typer.echo(ASSESSMENT.dump_json(result, indent=2).decode())
        return
    typer.echo(f"{result.title}: {result.state}")
    for line in result.fees.lines:
        shown = str(line.amount) if line.amount is not None else f"from {line.low}" + (f" to {line.high}" if line.high else "")
        typer.echo(f"  {line.title:28} {shown:>14}  {line.working()}")
    for r in result.requirements:
        typer.echo(f"  {r.standing:14} {r.title}: {r.because}")


@app.command()
def read(
    files: Annotated[list[Path], typer.Argument(help="Files to read.")],
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object a file.")] = False,
) -> None:
    """Read files as they would be read on arrival, in a fenced reader."""
    from jolly_clerk.core.dossier.model import Attachment
    from jolly_clerk.core.facts.findings import file_findings
    from jolly_clerk.reading.fence import Readers

    readers = Readers()
    try:
        for file in files:
            if not file.is_file():
                trouble = "there is no such file" if not file.exists() else "this is not a file"
                typer.echo(
                    json.dumps({"file": str(file), "opens": "not read", "trouble": trouble}) if as_json else f"{file}: {trouble}"
                )
                continue
            try:
                found = readers.read(file)
            except OSError as error:
                typer.echo(json.dumps({"file": str(file), "opens": "not read", "trouble": str(error.strerror)}))
                continue
            attachment = Attachment(id="a1", slot="none", name=file.name, sha256=found.sha256, size=found.size)
            findings = [{"weight": f.weight, "text": f.text, "page": f.page} for f in file_findings(attachment, found)]
            whole = {"file": str(file), **found.model_dump(mode="json"), "said": found.said(), "findings": findings}
            for page, told in zip(found.pages, whole["pages"], strict=True):
                told.update(sheet=page.sheet, orientation="landscape" if page.landscape else "portrait")
            typer.echo(json.dumps(whole, ensure_ascii=True) if as_json else f"{file}: {found.said()}")
            for finding in [] if as_json else findings:
                typer.echo(f"  {finding['weight']}: {finding['text']}")
    finally:
        readers.end()


@app.command()
def schema(what: Annotated[str, typer.Argument(help="rulebook, dossier, history, known, assessment or reading.")]) -> None:
    """Print a JSON Schema."""
    from jolly_clerk.core.assess import ASSESSMENT
    from jolly_clerk.core.dossier.model import Dossier
    from jolly_clerk.core.facts.reading import Reading
    from jolly_clerk.core.history import History
    from jolly_clerk.core.known import KnownFile
    from jolly_clerk.core.rulebook.model import edition_schema

    made: dict[str, Any] = {
        "rulebook": edition_schema,
        "dossier": Dossier.model_json_schema,
        "history": History.model_json_schema,
        "known": KnownFile.model_json_schema,
        "reading": Reading.model_json_schema,
        "assessment": lambda: ASSESSMENT.json_schema(mode="serialization"),
    }
    if what not in made:
        raise fail(f"there is no schema {what!r}; choose {', '.join(made)}")
    typer.echo(json.dumps(made[what](), indent=2))


@app.command()
def openapi() -> None:
    """Print the OpenAPI document of the web application."""
    from jolly_clerk.web.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1))


@app.command()
def verify(data: Data = DATA) -> None:
    """Check that the history, the files and the lists of an office are whole; name what is not."""
    from jolly_clerk.office.verifying import verify as check

    office = _open(data)
    wrong = list(check(office))
    office.close()
    for line in wrong:
        typer.echo(line)
    if wrong:
        raise typer.Exit(1)
    typer.echo("All is whole: histories, files, lists, receipts.")


@app.command()
def rebuild(data: Data = DATA) -> None:
    """Write every list row anew from the histories."""
    from jolly_clerk.office.verifying import rebuild as write_anew

    office = _open(data)
    typer.echo(f"{write_anew(office)} rows changed.")
    office.close()


@rulebook_app.command("check")
def check(file: Path) -> None:
    """Check an edition; every fault is named with its line."""
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import read_rulebook_file

    try:
        edition = read_rulebook_file(file).rulebook.edition
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    typer.echo(f"{edition.id}: {edition.title}. No faults.")


@rulebook_app.command("publish")
def publish(file: Path, data: Data = DATA) -> None:
    """Publish an edition; it decides for filings filed from its day on."""
    from jolly_clerk.office.errors import OfficeError
    from jolly_clerk.office.rulebooks import publish as put
    from jolly_clerk.shelf.nodes import UnreadableRulebook

    office = _open(data)
    try:
        typer.echo(f"published {put(office, file)[:12]}…")
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    except OfficeError as error:
        raise fail(error.detail) from None
    finally:
        office.close()


@app.command()
def demo(
    data: Data = Path("data/demo"),
    fresh: Annotated[bool, typer.Option(help="Lay the demo data anew even if it is there.")] = False,
) -> None:
    """Lay the Quillhaven demo data, relative to today."""
    from jolly_clerk.demo.lay import lay

    typer.echo(lay(data, fresh))


@app.command()
def serve(
    data: Data = DATA,
    port: Annotated[int, typer.Option(help="The port on 127.0.0.1.")] = 8321,
    demo: Annotated[bool, typer.Option(help="Allow sign-in by one click.")] = False,
) -> None:
    """Serve an office on this machine."""
    import uvicorn

    from jolly_clerk.office.office import open_office
    from jolly_clerk.web.app import create_app

    office = open_office(data, demo=demo)
    typer.echo(f"Jolly Clerk: http://localhost:{port}")
    uvicorn.run(create_app(office), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=5)


def _open(data: Path) -> Any:
    from jolly_clerk.office.office import open_office

    if not (data / "office.db").exists():
        raise fail(f"{data}: there is no office here")
    return open_office(data)


def main() -> None:
    """The entry point."""
    if hasattr(sys.stdout, "reconfigure"):
        sys.stdout.reconfigure(encoding="utf-8")
    app()


if __name__ == "__main__":
    main()
