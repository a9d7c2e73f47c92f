"""Commands over files alone, without an office: assess, read, fact, schema, openapi."""

from __future__ import annotations

import json
import sys
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from jolly_clerk.cli.shared import DATA, Data, app, fail, opened
from jolly_clerk.core.say import say

if TYPE_CHECKING:
    from pydantic import BaseModel

Shape = TypeVar("Shape", bound="BaseModel")


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

    from jolly_clerk.core.assessment import assess as ask
    from jolly_clerk.core.assessment_view import ASSESSMENT, assessment_view
    from jolly_clerk.core.dossier.model import Dossier
    from jolly_clerk.core.history import NO_HISTORY, History
    from jolly_clerk.core.known import Known, KnownFile
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook_file

    def read(model: type[Shape], path: Path) -> Shape:
        try:
            return model.model_validate_json(path.read_bytes())
        except OSError as error:
            raise fail(say("{path}: cannot be read: {strerror}", path=path, strerror=error.strerror)) from None
        except ValidationError as error:
            places = [f"{path}: {'.'.join(map(str, p['loc'])) or say('the whole file')}: {p['msg']}" for p in error.errors()]
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
        raise fail(say("--at {at} is not an instant; write it like 2026-11-12T10:00:00+00:00", at=f"{at!r}")) from None
    instant = instant if instant.tzinfo else instant.replace(tzinfo=calendar.zone)
    past = read(History, history) if history else NO_HISTORY
    facts = Known(calendar, {r.sha256: r for r in told.readings}, {r.name: r for r in told.registers})
    try:
        result = ask(rules, read(Dossier, dossier), past, facts, instant)
    except (IndexError, KeyError):
        raise fail(say("{history}: an entry names a round or a point that no letter before it asked", history=history)) from None
    if as_json:
        typer.echo(ASSESSMENT.dump_json(assessment_view(result), indent=2).decode())
        return
    typer.echo(f"{result.title}: {result.state}")
    for line in result.fees.lines:
        shown = (
            str(line.amount)
            if line.amount is not None
            else say("from {low}", low=line.low) + (say(" to {high}", high=line.high) if line.high else "")
        )
        typer.echo(f"  {line.title:28} {shown:>14}  {line.working()}")
    for r in result.requirements:
        typer.echo(f"  {r.standing:14} {r.title}: {r.because}")


@app.command()
def read(
    files: Annotated[list[Path], typer.Argument(help="Files to read.")],
    as_json: Annotated[bool, typer.Option("--json", help="One JSON object a file.")] = False,
    scans: Annotated[bool, typer.Option("--scans", help="Read the text of scanned pages as well.")] = False,
) -> None:
    """Read files as they would be read on arrival, in a fenced reader."""
    from jolly_clerk.core.dossier.model import Attachment
    from jolly_clerk.core.facts.file_findings import file_findings
    from jolly_clerk.reading.fence import Readers
    from jolly_clerk.reading.read import scans_can_be_read, scans_of, with_page_text

    readers = Readers()
    try:
        for file in files:
            if not file.is_file():
                trouble = say("there is no such file") if not file.exists() else say("this is not a file")
                typer.echo(
                    json.dumps({"file": str(file), "opens": "not read", "trouble": trouble}) if as_json else f"{file}: {trouble}"
                )
                continue
            try:
                found = readers.read(file)
                if scans and found.scans == "waiting" and scans_can_be_read():
                    for no in scans_of(found):
                        found = with_page_text(found, no, readers.read_page(file, found.type, no))
                elif found.scans == "waiting" and not scans_can_be_read():
                    found = found.model_copy(update={"scans": "not installed"})
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


@app.command("read-again")
def read_once_more(
    data: Data = DATA,
    every: Annotated[
        bool, typer.Option("--all", help="Every file, not only those that could not be read or an older reader read.")
    ] = False,
    scans: Annotated[
        bool, typer.Option("--scans", help="Read the text of scans here as well, and not in the server's queue.")
    ] = False,
) -> None:
    """Read files once more. No standing that an officer gave changes by it."""
    from jolly_clerk.office.preparing.reading_again import read_again, read_waiting_pages, to_read_again

    office = opened(data)
    hashes = to_read_again(office, every)
    told = say("nothing to read again")
    try:
        for now in read_again(office, hashes):
            told = say("{done} of {of} files, {read} of them read", done=now.done, of=now.of, read=now.read)
            typer.echo(told, err=True)
        if scans:
            typer.echo(say("{count} pages of scans read", count=read_waiting_pages(office)), err=True)
    finally:
        office.close()
    typer.echo(told)


@app.command()
def fact(
    name: Annotated[str, typer.Argument(help="names, mrz, stays, claims, practice, cover, age or words.")] = "",
    listed: Annotated[
        bool, typer.Option("--list", help="Print each name with the JSON Schemas of what goes in and comes out.")
    ] = False,
) -> None:
    """Work out a fact of the trade: JSON lines on standard input, JSON lines out, one for one."""
    from pydantic import ValidationError

    from jolly_clerk.core.fact_commands import FACTS

    if listed:
        for command in FACTS.values():
            schemas = {"in": command.takes.model_json_schema(), "out": command.gives.model_json_schema(mode="serialization")}
            typer.echo(json.dumps({"name": command.name, "says": command.says, **schemas}))
        return
    if name not in FACTS:
        raise fail(say("there is no fact {name}; choose {facts}", name=f"{name!r}", facts=", ".join(FACTS)))
    for line in sys.stdin.buffer:
        if not line.strip():
            continue
        try:
            typer.echo(FACTS[name].run(line).model_dump_json(by_alias=True))
        except ValidationError as error:
            told = [f"{'.'.join(map(str, p['loc'])) or say('the line')}: {p['msg']}" for p in error.errors()]
            typer.echo(json.dumps({"error": "; ".join(told)}))
        except (ValueError, OverflowError) as error:
            typer.echo(json.dumps({"error": str(error)}))


@app.command()
def schema(
    what: Annotated[str, typer.Argument(help="rulebook, calendar, dossier, history, known, assessment or reading.")],
) -> None:
    """Print a JSON Schema."""
    from jolly_clerk.core.assessment_view import ASSESSMENT
    from jolly_clerk.core.dossier.model import Dossier
    from jolly_clerk.core.facts.reading import Reading
    from jolly_clerk.core.history import History
    from jolly_clerk.core.known import CalendarFile, KnownFile
    from jolly_clerk.core.rulebook.model import edition_schema

    made: dict[str, Any] = {
        "rulebook": edition_schema,
        "calendar": CalendarFile.model_json_schema,
        "dossier": Dossier.model_json_schema,
        "history": History.model_json_schema,
        "known": KnownFile.model_json_schema,
        "reading": Reading.model_json_schema,
        "assessment": lambda: ASSESSMENT.json_schema(mode="serialization"),
    }
    if what not in made:
        raise fail(say("there is no schema {what}; choose {made}", what=f"{what!r}", made=", ".join(made)))
    typer.echo(json.dumps(made[what](), indent=2))


@app.command()
def openapi() -> None:
    """Print the OpenAPI document of the web application."""
    from jolly_clerk.web.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1))
