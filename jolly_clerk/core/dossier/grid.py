"""Repeats of a part as a table: rows of a spreadsheet taken in with an exact complaint for each cell, and the same table given out.

A row belongs to the repeat whose number or name it bears, else it makes a new one. An empty cell leaves what stands there.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Final

from rapidfuzz import fuzz

from jolly_clerk.core.dossier.answers import ANSWER_TYPES, AnswerFault, answer_in_words, is_open, typed
from jolly_clerk.core.dossier.changing import answer, next_item
from jolly_clerk.core.dossier.model import Dossier, Version
from jolly_clerk.core.rulebook.compiled import AskedQuestion, Rulebook
from jolly_clerk.core.rulebook.wording import plain
from jolly_clerk.core.say import _, say, say_n
from jolly_clerk.core.searching import folded, words_in
from jolly_clerk.core.values import Raw

#: answers that fit in a cell
IN_A_CELL: Final = ("text", "long text", "person", "place", "mail address", "date", "date and time", "hour", "number", "count", "money", "one of",
                    "several of", "yes or no")  # fmt: skip
#: so many rows and columns are looked at, so many letters of a cell, so many complaints told
MOST_ROWS, MOST_COLUMNS, MOST_LETTERS, MOST_TOLD = 500, 60, 2000, 200
#: the heading of the lasting number of a repeat, and what else that column is called, in words as they are compared
NUMBER = _("No.")
_NUMBERS: Final = ("no", "n o", "nr", "number", "numero")
#: how alike a heading is to the words of a question to be proposed for it, of 100
NEAR = 70
_YES, _NO = ("yes", "y", "true", "1", "x", "sim", "oui", "ja", "si"), ("no", "n", "false", "0", "nao", "non", "nein")


@dataclass(frozen=True, slots=True)
class Complaint:
    """What is wrong with a cell or a row: the row of the table (from 1), the heading of its column, and what; ``place`` is where
    the cell went, empty if it went nowhere."""

    row: int
    column: str
    text: str
    place: str = ""


@dataclass(frozen=True, slots=True)
class TakenIn:
    """What became of a table: the dossier with it, how many repeats were added and changed, and what was wrong."""

    dossier: Dossier
    added: int
    changed: int
    complaints: tuple[Complaint, ...]


@dataclass(slots=True)
class _Taking:
    """A table that is being taken in."""

    books: tuple[Rulebook, ...]
    columns: dict[int, AskedQuestion]
    number: int | None = None
    complaints: list[Complaint] = field(default_factory=list)


def columns_of(rulebook: Rulebook, part: str) -> tuple[AskedQuestion, ...]:
    """The questions of a part that repeats whose answers fit in a cell, in the order of the form."""
    asked = (rulebook.questions[f"{part}.{q.id}"] for q in rulebook.parts[part].questions)
    return tuple(node for node in asked if node.question.type in IN_A_CELL)


def take_in(
    rulebook: Rulebook,
    dossier: Dossier,
    versions: Sequence[Version],
    part: str,
    rows: Sequence[Sequence[str]],
    filed: date,
    columns: Sequence[str] = (),
    first: int | None = None,
    also: Sequence[Rulebook] = (),
) -> TakenIn:
    """A dossier with the rows of a table. A first row that names columns says what each is; without one ``columns`` does (ids of
    questions from the left) and the rows go to the repeats from number ``first`` on, and then to new ones. ``also`` is the same edition
    in other languages, whose words are known too.

    What is wrong with a cell is told, and the cell goes in as it is; what cannot go in is told too. Nothing raises.
    """
    cut = [[str(cell)[:MOST_LETTERS].strip() for cell in row[:MOST_COLUMNS]] for row in rows[:MOST_ROWS]]
    books = (rulebook, *also)
    taking = _headed(books, part, cut[0] if cut else (), required=not columns)
    headed = taking is not None and bool(taking.columns)
    if not headed and columns:
        nodes = {node.question.id: node for node in columns_of(rulebook, part)}
        taking = _Taking(books, {n: nodes[name] for n, name in enumerate(columns) if name in nodes})
    if taking is None or not taking.columns:
        return TakenIn(dossier, 0, 0, tuple(taking.complaints if taking else ()))
    begins = 1 if headed else 0
    body = [(n, row) for n, row in enumerate(cut[begins:], begins + 1) if any(row)]
    given = dossier.answers.get(part)
    items = [dict(i) for i in given if isinstance(i, dict)] if isinstance(given, list) else []
    targets = _in_line(items, len(body), first) if not headed else _by_name(rulebook, part, taking, items, [r for _, r in body])
    most, added, changed = rulebook.parts[part].at_most, 0, 0
    number = next_item(dossier, versions, part)
    for (no, row), item in zip(body, targets, strict=True):
        new = item is None
        if item is None:
            if len(items) >= most:
                left = sum(1 for later, _ in body if later >= no)
                taking.complaints.append(
                    Complaint(no, "", say_n("At most {most} fit here; {n} row was not taken.",
                                            "At most {most} fit here; {n} rows were not taken.", left, most=most))
                )  # fmt: skip
                break
            item = {"id": number}
            number += 1
            items.append(item)
        before = dict(item)
        _fill(taking, part, item, no, row, filed)
        added += new
        changed += not new and item != before
    if len(rows) > MOST_ROWS:
        taking.complaints.append(Complaint(MOST_ROWS + 1, "", say("Only the first {most} rows were looked at.", most=MOST_ROWS)))
    done = answer(dossier, {**dossier.answers, part: items})
    return TakenIn(done, added, changed, tuple(taking.complaints[:MOST_TOLD]))


def _fill(taking: _Taking, part: str, item: dict[str, Raw], no: int, row: Sequence[str], filed: date) -> None:
    for at, node in taking.columns.items():
        cell = row[at] if at < len(row) else ""
        if not cell:
            continue
        raw, there = as_answer(taking.books, node, cell), item.get(node.question.id)
        if ANSWER_TYPES[node.question.type].names and there and words_in(str(there)) == words_in(cell):
            continue  # the same name written otherwise
        if _cell(node, there, filed) == cell:
            continue  # the same as it was given out
        place = f"{part}.{item['id']}.{node.question.id}"
        try:
            typed(node, raw, filed)
        except AnswerFault as fault:
            taking.complaints.append(Complaint(no, node.question.ask, str(fault), place))
            # a choice or a yes that nobody reads would only stand in the way of choosing one
            if node.question.type in ("one of", "several of", "yes or no"):
                continue
        item[node.question.id] = raw


def as_answer(books: Sequence[Rulebook], node: AskedQuestion, cell: str) -> Raw:
    """The answer that a cell states: choices and yes or no by their words in any language of the edition, all else as it stands."""
    if node.question.type == "yes or no":
        word = folded(cell)
        return True if word in _YES else False if word in _NO else cell
    if node.question.type == "one of":
        return _choice(books, node, cell)
    if node.question.type == "several of":
        return [_choice(books, node, one.strip()) for one in cell.split(";") if one.strip()]
    return cell


def _choice(books: Sequence[Rulebook], node: AskedQuestion, cell: str) -> str:
    wanted = words_in(cell)
    for book in books:
        for id_, title in book.questions[node.key].options.items():
            if wanted in (words_in(name) for name in (id_, *_in_all_languages(book, title))):
                return id_
    return cell


def _in_all_languages(rulebook: Rulebook, text: str) -> list[str]:
    """A text of the form as the edition says it in each of its languages."""
    translations = rulebook.edition.translations.values()
    return [text, *(said for told in translations for own, said in told.items() if plain(own) == plain(text))]


def _headed(books: tuple[Rulebook, ...], part: str, row: Sequence[str], required: bool) -> _Taking | None:
    """What the columns are by a row that names them; None if it names none and need not."""
    rulebook = books[0]
    nodes = {name: node for node in columns_of(rulebook, part) for name in _names_of(books, node)}
    found, taken, unknown = dict[int, AskedQuestion](), set[str](), list[int]()
    number = None
    for at, cell in enumerate(row):
        words = " ".join(words_in(cell))
        if not words:
            continue
        if words in _NUMBERS:
            number = at
        elif (node := nodes.get(words)) is None:
            unknown.append(at)
        elif node.key not in taken:
            found[at] = node
            taken.add(node.key)
        else:
            unknown.append(at)
    if not found and not required:
        return None
    if not required and len(found) < 2 and unknown:  # a person may be called like a column
        return None
    taking = _Taking(books, found, number)
    if not found:
        asks = ", ".join(f"“{node.question.ask}”" for node in columns_of(rulebook, part)[:4])
        said = say("The first row has to name the columns, for example {asks}. Nothing was taken.", asks=asks)
        taking.complaints.append(Complaint(1, "", said))
        return taking
    for at in unknown:
        taking.complaints.append(Complaint(1, row[at][:80], _unknown(nodes, taken, row[at])))
    return taking


def _unknown(nodes: Mapping[str, AskedQuestion], taken: set[str], heading: str) -> str:
    words = " ".join(words_in(heading))
    if words in nodes:
        return say("This column stands twice; the first one was taken.")
    left = [(fuzz.token_set_ratio(words, name), node) for name, node in nodes.items() if node.key not in taken]
    best = max(left, key=lambda one: one[0], default=None)
    if best and best[0] >= NEAR:
        return say("No question is called so; this column was not taken. Is it “{ask}”?", ask=best[1].question.ask)
    return say("No question is called so; this column was not taken.")


def _names_of(books: Sequence[Rulebook], node: AskedQuestion) -> set[str]:
    """What a column may be called: the words of its question in any language of the edition, with its unit or without, and its id."""
    q = node.question
    asks = [said for book in books for said in _in_all_languages(book, book.questions[node.key].question.ask)]
    names = [q.id, *asks, *(heading(ask, q.unit or "") for ask in asks)]
    return {" ".join(words_in(name)) for name in names} - {""}


def heading(ask: str, unit: str) -> str:
    """What a column is called: the words of its question, with the unit."""
    return f"{plain(ask)}, {unit}" if unit else plain(ask)


def _in_line(items: list[dict[str, Raw]], count: int, first: int | None) -> list[dict[str, Raw] | None]:
    """The repeats from one on, then new ones."""
    at = next((n for n, item in enumerate(items) if str(item.get("id")) == str(first)), len(items))
    return [items[at + n] if at + n < len(items) else None for n in range(count)]


def _by_name(
    rulebook: Rulebook, part: str, taking: _Taking, items: list[dict[str, Raw]], rows: Sequence[Sequence[str]]
) -> list[dict[str, Raw] | None]:
    """The repeat that each row belongs to, by its lasting number, else by a name that only one row and one repeat bear."""
    naming = next((q.id for q in rulebook.parts[part].questions if ANSWER_TYPES[q.type].names), "")
    at = next((n for n, node in taking.columns.items() if node.question.id == naming), None)

    def cell(row: Sequence[str], column: int | None) -> str:
        return row[column] if column is not None and column < len(row) else ""

    numbered = {str(item.get("id")): item for item in items}
    said = Counter(" ".join(words_in(cell(row, at))) for row in rows)
    named = Counter(" ".join(words_in(str(item.get(naming) or ""))) for item in items)
    by_name = {" ".join(words_in(str(item.get(naming) or ""))): item for item in items}
    found, used = list[dict[str, Raw] | None](), set[int]()
    for row in rows:
        name = " ".join(words_in(cell(row, at)))
        own = by_name.get(name) if name and said[name] == 1 and named[name] == 1 else None
        numbered_one = numbered.get(cell(row, taking.number))
        item = own if own is not None else numbered_one
        if item is not None and id(item) in used:
            item = None
        if item is not None:
            used.add(id(item))
        found.append(item)
    return found


def given_out(rulebook: Rulebook, dossier: Dossier, part: str, filed: date) -> list[list[str]]:
    """The repeats as a table: a row that names the columns, then one for each, its number first; what cannot be read stands as it is."""
    columns = columns_of(rulebook, part)
    table = [[say(NUMBER), *(heading(node.question.ask, node.question.unit or "") for node in columns)]]
    given = dossier.answers.get(part)
    for position, item in enumerate(given if isinstance(given, list) else [], 1):
        if isinstance(item, dict):
            cells = [_cell(node, item.get(node.question.id), filed) for node in columns]
            table.append([str(item.get("id", position)), *cells])
    return table


def _cell(node: AskedQuestion, raw: Raw, filed: date) -> str:
    if is_open(raw):
        return ""
    kind = node.question.type
    if kind == "several of":
        return "; ".join(node.options.get(str(one), str(one)) for one in raw) if isinstance(raw, list) else str(raw)
    if kind in ("one of", "yes or no"):
        return answer_in_words(node, raw, "")
    if kind == "date":  # as every spreadsheet reads it
        try:
            return str(typed(node, raw, filed))
        except AnswerFault:
            return str(raw)
    return str(raw)
