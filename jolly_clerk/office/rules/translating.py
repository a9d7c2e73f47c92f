"""The texts of an edition that is being written, side by side with what they are in another language; what has none yet comes first."""

from __future__ import annotations

import json
from dataclasses import dataclass

from jolly_clerk.core.rulebook.wording import every_placed_text, plain
from jolly_clerk.core.say import say
from jolly_clerk.office.errors import NotFound, NotReady
from jolly_clerk.office.office import Office, Who
from jolly_clerk.office.rules.writing import faultless, need_page, need_writer
from jolly_clerk.shelf.nodes import UnreadableRulebook, read_nodes


@dataclass(frozen=True, slots=True)
class TextBeside:
    """A text of the edition, the line on which it stands, and how it is said in the other language; empty if it has no text yet."""

    line: int
    text: str
    says: str


@dataclass(frozen=True, slots=True)
class Translation:
    """The texts of an edition in one other language: how many have none yet, and all of them, those first."""

    language: str
    missing: int
    texts: tuple[TextBeside, ...]


def translations(office: Office, who: Who, id_: str) -> list[Translation]:
    """The texts of an edition beside those of each language that it names. Raises NotAllowed, NotFound, NotReady while it has a fault."""
    need_page(who)
    row, rules = faultless(office, id_)
    edition, nodes = rules.edition, read_nodes(row.text, "edition")
    placed: dict[str, int] = {}
    for path, text in every_placed_text(edition):
        if path in nodes.lines:  # the plain words of the house have texts of their own
            placed.setdefault(plain(text), nodes.line(path))
    made = []
    for language, told in edition.translations.items():
        says = {plain(text): said for text, said in told.items()}
        texts = [TextBeside(line, text, says.get(text, "")) for text, line in placed.items()]
        texts.sort(key=lambda one: (bool(one.says), one.line))
        made.append(Translation(language, sum(not one.says for one in texts), tuple(texts)))
    return made


def with_translation(who: Who, text: str, language: str, original: str, says: str) -> str:
    """The text of an edition in which one of its texts is said so in another language; said with nothing, that goes.

    Raises NotAllowed, NotFound for a language that it does not name, NotReady where it cannot be read, or where the translation does not
    stand on a line of its own.
    """
    need_writer(who)
    says = plain(says)
    told, line = _told_in(text, language)
    keys = {plain(key): key for key in told}
    key = keys.get(plain(original))
    lines = text.splitlines(keepends=True)
    wanted = {**told, (key or plain(original)): says}
    entry = [f"    {json.dumps(key or plain(original), ensure_ascii=False)}: {json.dumps(says, ensure_ascii=False)}\n"]
    if not says:
        wanted.pop(key or plain(original))
        entry = []
    at = read_nodes(text, "edition").line(("translations", language, key)) if key else line
    made = "".join([*lines[: at - 1 if key else at], *entry, *lines[at:]])
    try:
        right = _told_in(made, language)[0] == wanted
    except (NotReady, NotFound):
        right = False
    if not right:
        raise NotReady(say("It does not stand on a line of its own: change it in the text, at line {line}.", line=at))
    return made


def _told_in(text: str, language: str) -> tuple[dict[str, str], int]:
    """What a text says in a language, and the line on which that begins."""
    try:
        nodes = read_nodes(text, "edition")
    except UnreadableRulebook as error:
        raise NotReady(say("It has a fault: {fault}", fault=error.faults[0].message)) from None
    of = nodes.value.get("translations") if isinstance(nodes.value, dict) else None
    told = of.get(language) if isinstance(of, dict) else None
    if not isinstance(told, dict):
        raise NotFound(say("The edition does not name this language."))
    return told, nodes.line(("translations", language))
