"""What is wrong with a file that cannot be read at all: a quote, a bracket, a colon, an indent, a tab; and on which line."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ruamel.yaml.error import MarkedYAMLError

from jolly_clerk.core.say import say

#: a key with its value, perhaps the first of an item
_KEY = re.compile(r"^(\s*)(- )?([\w-]+): ?(.*)$")
_QUOTED = re.compile(r'"(?:[^"\\]|\\.)*"|\'[^\']*\'')


def mend(error: MarkedYAMLError, text: str) -> tuple[int, str]:
    """The line, counted from 1, and a sentence that says what would be right."""
    marks = [mark.line + 1 for mark in (error.problem_mark, error.context_mark) if mark]
    lines = text.splitlines()
    last = min(max(marks, default=0), len(lines))
    for told in (_tab, _quote, _condition, _bracket, _comma, _value, _key, _item, _indent):
        for line, message in told(lines, last, f"{error.problem} {error.context}"):
            return line, message
    return last, say("this line does not fit to those above it; look at its indent, quotes, brackets and colons")


_Told = Iterator[tuple[int, str]]


def _tab(lines: list[str], last: int, problem: str) -> _Told:
    for n, line in enumerate(lines[:last], 1):
        if re.match(r" *\t", line):
            yield n, say("there is a tab at the beginning of this line; indent with blanks")


def _condition(lines: list[str], last: int, problem: str) -> _Told:
    here = lines[last - 1] if last else ""
    value = here.partition(": ")[2].strip()
    if value[:1] in ("'", '"') and any(sign in value for sign in ("==", "!=", " in ", " and ", " or ")):
        yield (
            last,
            say("a condition that begins with a quote is cut short; put the whole condition on a line of its own after `>`"),
        )


def _open_quote(line: str) -> bool:
    rest = _QUOTED.sub("", line.partition(" #")[0])
    return '"' in rest or bool(re.search(r"(?:^|[\s\[{,])'", rest))


def _quote(lines: list[str], last: int, problem: str) -> _Told:
    for n, line in enumerate(lines, 1):
        if not line.lstrip().startswith("#") and _open_quote(line) and n <= last + 1:
            yield n, say('a quote that is opened on this line is not closed; a `"` is missing')
            return


def _bracket(lines: list[str], last: int, problem: str) -> _Told:
    for n in range(last, max(last - 4, 0), -1):
        bare = _QUOTED.sub("", lines[n - 1].partition(" #")[0])
        for opened, closed in ("{}", "[]"):
            if bare.count(opened) > bare.count(closed):
                yield n, say("a `{closed}` is missing on this line", closed=closed)
            if bare.count(closed) > bare.count(opened):
                yield n, say("there is one `{closed}` too many on this line", closed=closed)


def _comma(lines: list[str], last: int, problem: str) -> _Told:
    """Two keys within braces without a comma between them."""
    line = lines[last - 1] if last else ""
    bare = _QUOTED.sub(lambda found: "_" * len(found[0]), line)
    if "{" in bare and (found := re.search(r"[{,] *\w+: [^,{}\[\]]*?[ ;](\w+): |\{(?:\w+)[ ;](\w+): ", bare)):
        key = found[1] or found[2]
        yield last, say("a comma is missing before `{key}`", key=key)


def _value(lines: list[str], last: int, problem: str) -> _Told:
    """A text with a colon that stands without quotes."""
    found = _KEY.match(lines[last - 1]) if last else None
    if found and re.search(r"^[^\"'{\[|>].*: ", found[4]) and "not allowed" in problem:
        right = f'{found[3]}: "{found[4]}"'
        yield last, say("a text with a colon in it stands in double quotes: `{right}`", right=right)


def _key(lines: list[str], last: int, problem: str) -> _Told:
    """A key without its colon, or without the blank after it."""
    if "expected ':'" not in problem and "not allowed" not in problem:
        return
    for n in (last - 1, last, last - 2):
        line = lines[n - 1].strip().removeprefix("- ") if 0 < n <= len(lines) else ""
        if found := re.match(r"^([a-z_]+):([^\s].*)$", line):
            yield n, say("a blank is missing after the colon: `{right}`", right=f"{found[1]}: {found[2]}")
        elif found := re.match(r"^([a-z_]+) ([^:]*)$", line):
            before = lines[n - 2].rstrip() if n > 1 else ""
            if not before.endswith((">", ">-", "|", ",")) and not re.match(r"^[a-z_]+$", line):
                yield n, say("a `:` is missing after the key: `{right}`", right=f"{found[1]}: {found[2]}")


def _item(lines: list[str], last: int, problem: str) -> _Told:
    """An item of a list without its dash."""
    if "sequence" not in problem:
        return
    for n in (last, last - 1):
        line = lines[n - 1] if 0 < n <= len(lines) else ""
        if line.strip().startswith("{"):
            yield n, say("an item of a list begins with `- `: `{right}`", right=f"- {line.strip()[:40]}…")


def _indent(lines: list[str], last: int, problem: str) -> _Told:
    """A line that stands further in or out than those beside it."""

    def depth(n: int) -> int:
        return len(lines[n - 1]) - len(lines[n - 1].lstrip())

    for n in (last, last - 1):
        if not 1 < n <= len(lines) or not lines[n - 1].strip():
            continue
        above = next((m for m in range(n - 1, 0, -1) if lines[m - 1].strip()), 0)
        if above and depth(n) != depth(above) and "block" in problem + "block":
            way = say("further in") if depth(n) > depth(above) else say("further out")
            yield n, say("the indent of this line is wrong: it stands {way} than the line above, to which it belongs", way=way)
