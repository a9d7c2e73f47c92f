"""The ``jolly-clerk`` command."""

from __future__ import annotations

import json
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

if TYPE_CHECKING:
    from pydantic import BaseModel

    from jolly_clerk.office.office import Office

Shape = TypeVar("Shape", bound="BaseModel")

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

    from jolly_clerk.core.assess import assess as ask
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
    facts = Known(calendar, {r.sha256: r for r in told.readings}, {r.name: r for r in told.registers})
    try:
        result = ask(rules, read(Dossier, dossier), past, facts, instant)
    except (IndexError, KeyError):
        raise fail(f"{history}: an entry names a round or a point that no letter before it asked") from None
    if as_json:
        typer.echo(ASSESSMENT.dump_json(assessment_view(result), indent=2).decode())
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
def fact(
    name: Annotated[str, typer.Argument(help="names, mrz, stays, claims, practice, cover, age or words.")] = "",
    listed: Annotated[
        bool, typer.Option("--list", help="Print each name with the JSON Schemas of what goes in and comes out.")
    ] = False,
) -> None:
    """Work out a fact of the trade: JSON lines on standard input, JSON lines out, one for one."""
    from pydantic import ValidationError

    from jolly_clerk.core.facts.commands import FACTS

    if listed:
        for command in FACTS.values():
            schemas = {"in": command.takes.model_json_schema(), "out": command.gives.model_json_schema(mode="serialization")}
            typer.echo(json.dumps({"name": command.name, "says": command.says, **schemas}))
        return
    if name not in FACTS:
        raise fail(f"there is no fact {name!r}; choose {', '.join(FACTS)}")
    for line in sys.stdin.buffer:
        if not line.strip():
            continue
        try:
            typer.echo(FACTS[name].run(line).model_dump_json(by_alias=True))
        except ValidationError as error:
            told = [f"{'.'.join(map(str, p['loc'])) or 'the line'}: {p['msg']}" for p in error.errors()]
            typer.echo(json.dumps({"error": "; ".join(told)}))
        except (ValueError, OverflowError) as error:
            typer.echo(json.dumps({"error": str(error)}))


@app.command()
def schema(what: Annotated[str, typer.Argument(help="rulebook, dossier, history, known, assessment or reading.")]) -> None:
    """Print a JSON Schema."""
    from jolly_clerk.core.assessment_view import ASSESSMENT
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
    """Check an edition; every fault is named with its line, and so is what is worth a look."""
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import advice_for, read_rulebook_file

    try:
        edition = read_rulebook_file(file).rulebook.edition
        told = advice_for(file)
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    for note in told:
        typer.echo(f"{note} (worth a look)")
    typer.echo(f"{edition.id}: {edition.title}. No faults.")


@rulebook_app.command("test")
def test_edition(file: Path) -> None:
    """Try an edition on the examples that it carries."""
    from jolly_clerk.core.trying import try_examples
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import calendar_beside, read_rulebook_file

    try:
        rules = read_rulebook_file(file).rulebook
        calendar = calendar_beside(file, rules.edition.calendar)
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    misses = [str(miss) for miss in try_examples(rules, calendar)]
    if misses:
        raise fail("\n".join(misses))
    count = sum(1 + len(e.also) for e in rules.edition.examples)
    typer.echo(f"{rules.edition.id}: {count} examples come out.")


@rulebook_app.command("functions")
def rulebook_functions() -> None:
    """Every function that a rule may call, with what it gives."""
    from jolly_clerk.core.rulebook.functions import AGGREGATES, BUILT_IN

    typer.echo(f"over many values, skipping none: {', '.join(AGGREGATES)}; asked(part.question)")
    for function in sorted(BUILT_IN.values(), key=lambda f: f.name):
        typer.echo(f"{function.name}: {function.help}")


@rulebook_app.command("compare")
def compare_editions(before: Path, after: Path) -> None:
    """Say in words what differs between two editions."""
    from jolly_clerk.core.rulebook.comparing import compare
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import read_rulebook_file

    try:
        one, other = (read_rulebook_file(file).rulebook.edition for file in (before, after))
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    for change in compare(one, other):
        typer.echo(str(change))


@rulebook_app.command("replay")
def rulebook_replay(
    file: Annotated[Path, typer.Argument(help="The edition to try (YAML).")],
    data: Annotated[Path, typer.Option(help="The office's data folder.")] = Path("data"),
    show: Annotated[int, typer.Option(help="So many cases are told in full.")] = 20,
) -> None:
    """Try an edition on the past cases of its kind: how many would differ, in what, and which."""
    from collections import Counter

    from jolly_clerk.office.replaying import Progress, replay
    from jolly_clerk.shelf.nodes import UnreadableRulebook

    last, told, what = Progress(0, 0, ()), 0, Counter[str]()
    try:
        for last in replay(data, file):
            typer.echo(f"\r{last.done} of {last.of} cases", nl=False, err=True)
            for case in (c for c in last.latest if c.differs):
                what.update(d.what for d in case.differs)
                told += 1
                if told <= show:
                    typer.echo(f"\n{case.reference}: " + "; ".join(f"{d.what}: {d.was} -> {d.now}" for d in case.differs))
    except UnreadableRulebook as error:
        typer.echo("\n".join(str(fault) for fault in error.faults))
        raise typer.Exit(1) from None
    typer.echo(
        f"\n{told} of {last.of} cases would differ." + "".join(f"\n  {count} in {name}" for name, count in what.most_common())
    )


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
    kept: Annotated[
        Path | None, typer.Option(help="Keep a pristine demo in this folder and copy it while the sources stay the same.")
    ] = None,
) -> None:
    """Lay the Quillhaven demo data, relative to today."""
    from jolly_clerk.demo.lay import lay

    typer.echo(lay(data, fresh, kept))


@app.command()
def serve(
    data: Data = DATA,
    port: Annotated[int | None, typer.Option(help="The port; 8321 if the settings name no other.")] = None,
    demo: Annotated[bool, typer.Option(help="Allow sign-in by one click.")] = False,
    days_ahead: Annotated[int, typer.Option(help="Demo only: let it be so many days later.")] = 0,
) -> None:
    """Serve an office; stop it with Ctrl-C or SIGTERM."""
    import gc

    gc.disable()  # nothing that is made while starting is garbage; looking for it costs a sixth of the start
    import uvicorn

    from jolly_clerk.office.office import open_office
    from jolly_clerk.web.app import create_app
    from jolly_clerk.web.minding import set_up_log

    if days_ahead and not demo:
        raise fail("--days-ahead is for the demo only; a real office lives today")
    if not demo and not (data / "office.db").exists():
        raise fail(f"{data}: there is no office here; make one with: jolly-clerk office init --data {data}")
    later = timedelta(days=days_ahead)
    office = open_office(data, now=lambda: datetime.now(UTC) + later, demo=demo)
    port, host = port or office.settings.port, office.settings.host
    set_up_log()
    typer.echo(f"Jolly Clerk: http://{'localhost' if host == '127.0.0.1' else host}:{port}")
    served = create_app(office)
    gc.enable()
    gc.freeze()
    uvicorn.run(served, host=host, port=port, log_level="warning", timeout_graceful_shutdown=5, access_log=False)


@office_app.command("init")
def office_init(
    data: Data = DATA,
    name: Annotated[str, typer.Option(prompt="Name of the office", help="It stands in every letter.")] = "",
    address: Annotated[str, typer.Option(prompt="Address, as in the letterhead")] = "",
    calendar: Annotated[
        str,
        typer.Option(prompt="Calendar file (empty for the one of Quillhaven)", help="Working days, closed days, office hours."),
    ] = "",
    registers: Annotated[
        str, typer.Option(prompt="Registers as name=file.csv, with blanks between (empty for none)", help="E.g. plots=plots.csv")
    ] = "",
    base_url: Annotated[str, typer.Option(prompt="Address of the website")] = "http://localhost:8321",
    lead_name: Annotated[str, typer.Option(prompt="Name of the first lead")] = "",
    lead_mail: Annotated[str, typer.Option(prompt="Mail address of the first lead")] = "",
    lead_password: Annotated[
        str, typer.Option(prompt="A password for the first lead", hide_input=True, confirmation_prompt=True)
    ] = "",
) -> None:
    """Make an office from nothing: settings, calendar, registers, the rulebooks that ship, and the first lead."""
    from jolly_clerk.office.errors import OfficeError
    from jolly_clerk.office.founding import Founding, found
    from jolly_clerk.shelf.nodes import UnreadableRulebook

    pairs = [pair.partition("=") for pair in registers.split()]
    if any(not file for _, _, file in pairs):
        raise fail("write registers as name=file.csv, with blanks between them")
    new = Founding(
        name=name,
        address=address,
        lead_name=lead_name,
        lead_mail=lead_mail,
        lead_password=lead_password,
        calendar=Path(calendar) if calendar.strip() else None,
        registers={key: Path(file) for key, _, file in pairs},
        base_url=base_url,
    )
    try:
        for line in found(data, new):
            typer.echo(line)
    except OfficeError as error:
        raise fail(error.detail) from None
    except (UnreadableRulebook, OSError) as error:
        raise fail(str(error)) from None
    typer.echo(f"Serve it with: jolly-clerk serve --data {data}")


@app.command()
def clock(data: Data = DATA) -> None:
    """Run the clock job once: reminders, lapses, mail that waits. The server does it by itself."""
    from jolly_clerk.office.clock_job import run_clock

    office = _open(data)
    done = run_clock(office)
    office.close()
    typer.echo(f"{done.reminded} reminded, {done.lapsed} lapsed, {done.sent} sent.")


@app.command()
def outbox(
    data: Data = DATA,
    key: Annotated[str, typer.Option(help="Print this item as a mail (EML).")] = "",
) -> None:
    """What left the office or waits to leave; with --key one item as a mail (EML)."""
    from jolly_clerk.office.mailing import message_of
    from jolly_clerk.office.mailing import outbox as listed

    office = _open(data)
    rows = listed(office)
    for out, reference in rows:
        if key and out.key == key:
            sys.stdout.buffer.write(message_of(office, out, reference).as_bytes())
        elif not key:
            typer.echo(
                f"{out.put_at:%Y-%m-%d %H:%M}  {'gone   ' if out.delivered_at else 'aside  ' if out.trouble else 'waiting'}  "
                f"{out.key}  to {out.to}: {out.subject}{f'  ({out.trouble})' if out.trouble else ''}"
            )
    office.close()
    if key and all(out.key != key for out, _ in rows):
        raise fail(f"nothing in the outbox is called {key!r}")


@app.command()
def backup(to: Annotated[Path, typer.Argument(help="The TAR file to write.")], data: Data = DATA) -> None:
    """Copy the whole office into one file, also while it is served."""
    from jolly_clerk.office.backup import back_up

    office = _open(data)
    count = back_up(office, to)
    office.close()
    typer.echo(f"{to}: the database and {count} files.")


@app.command()
def restore(archive: Annotated[Path, typer.Argument(help="A file that backup wrote.")], data: Data = DATA) -> None:
    """Make an office from a copy, in a new folder, and verify it."""
    from jolly_clerk.office.backup import restore as bring_back
    from jolly_clerk.office.errors import OfficeError

    try:
        wrong = bring_back(archive, data)
    except OfficeError as error:
        raise fail(error.detail) from None
    if wrong:
        raise fail("\n".join(wrong))
    typer.echo(f"{data}: restored, and all is whole.")


def _open(data: Path) -> Office:
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
