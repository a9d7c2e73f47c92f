"""Commands over rulebooks: check, test, functions, compare, replay, publish."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from jolly_clerk.cli.shared import DATA, Data, fail, opened, rulebook_app
from jolly_clerk.core.say import say


@rulebook_app.command("check")
def check(file: Path) -> None:
    """Check an edition; every fault is named with its line, and so is what is worth a look."""
    from jolly_clerk.shelf.nodes import UnreadableRulebook
    from jolly_clerk.shelf.rulebooks import check_rulebook_file

    try:
        checked = check_rulebook_file(file)
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    for note in checked.advice:
        typer.echo(say("{note} (worth a look)", note=note))
    if checked.rulebook is None:
        typer.echo(say("{file}: a calendar. No faults.", file=file.name))
        return
    edition = checked.rulebook.edition
    typer.echo(say("{edition}: {title}. No faults.", edition=edition.id, title=edition.title))


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
    typer.echo(say("{edition}: {count} examples come out.", edition=rules.edition.id, count=count))


@rulebook_app.command("functions")
def rulebook_functions() -> None:
    """Every function that a rule may call, with what it gives."""
    from jolly_clerk.core.rulebook.functions import AGGREGATES, BUILT_IN

    typer.echo(say("over many values, skipping none: {aggregates}; asked(part.question)", aggregates=", ".join(AGGREGATES)))
    for function in sorted(BUILT_IN.values(), key=lambda f: f.name):
        typer.echo(f"{function.name}: {say(function.help)}")


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

    from jolly_clerk.office.rules.replaying import Progress, replay
    from jolly_clerk.shelf.nodes import UnreadableRulebook

    last, told, what = Progress(0, 0, ()), 0, Counter[str]()
    try:
        for last in replay(data, file):
            typer.echo(say("\r{done} of {of} cases", done=last.done, of=last.of), nl=False, err=True)
            for case in (c for c in last.latest if c.differs):
                what.update(d.what for d in case.differs)
                told += 1
                if told <= show:
                    typer.echo(f"\n{case.reference}: " + "; ".join(f"{d.what}: {d.was} -> {d.now}" for d in case.differs))
    except UnreadableRulebook as error:
        typer.echo("\n".join(str(fault) for fault in error.faults))
        raise typer.Exit(1) from None
    typer.echo(
        say("\n{told} of {of} cases would differ.", told=told, of=last.of)
        + "".join(say("\n  {count} in {name}", count=count, name=name) for name, count in what.most_common())
    )


@rulebook_app.command("publish")
def publish(file: Path, data: Data = DATA) -> None:
    """Publish an edition; it decides for filings filed from its day on."""
    from jolly_clerk.office.errors import OfficeError
    from jolly_clerk.office.rules.rulebooks import publish as put
    from jolly_clerk.shelf.nodes import UnreadableRulebook

    office = opened(data)
    try:
        typer.echo(say("published {put}…", put=put(office, file)[:12]))
    except UnreadableRulebook as error:
        raise fail(str(error)) from None
    except OfficeError as error:
        raise fail(error.detail) from None
    finally:
        office.close()
