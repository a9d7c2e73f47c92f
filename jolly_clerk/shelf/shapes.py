"""What is wrong with the shape of a rulebook or a calendar, in the words of the guide: which key, what stands there, what would be right."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from datetime import date
from typing import Any, Final, get_args

from pydantic import BaseModel, ValidationError
from pydantic_core import ErrorDetails

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.say import _, say
from jolly_clerk.core.values import Raw

Path = tuple[str | int, ...]
_NUMBERS = {1: _("one"), 2: _("two"), 3: _("three")}
_NUMBER_LIKE = re.compile(r"-?\d[\d., ]*")
#: what an item of the edition is called, by the name of its model
_CALLED = {
    "FeeLine": _("a fee line"), "Question": _("a question"), "Part": _("a part"), "Slot": _("a slot"), "Must": _("a must"),
    "Agree": _("an agreement"), "Table": _("a table"), "Scale": _("a scale"), "Curve": _("a curve"), "Band": _("a band"),
    "Change": _("a change"), "Example": _("an example"), "Gives": _("what an example gives"), "Reason": _("a reason"),
    "Edition": _("an edition"), "CalendarFile": _("a calendar"), "ClosedDay": _("a closed day"), "Value": _("a computed answer"),
    "Clock": _("the clock"),
}  # fmt: skip


#: keys that people bring from elsewhere, and what may be called so here
_ELSEWHERE: Final = {
    "holidays": ("closed",), "label": ("ask", "title"), "name": ("id", "line", "title"), "text": ("says", "ask"), "price": ("flat", "amount"),
    "fee": ("flat", "amount"), "condition": ("when",), "if": ("when",), "min": ("at_least",), "max": ("at_most",),
    "required": ("optional",), "choices": ("options",), "message": ("otherwise", "says"), "law": ("article",), "section": ("article",),
}  # fmt: skip


def shape_faults(error: ValidationError, root: Raw, model: type[BaseModel]) -> Iterator[tuple[Path, str]]:
    """Each fault as the path to its place, as far as it exists, and a sentence; the same place is told once for the same reason."""
    seen: set[tuple[Path, str]] = set()
    problems = sorted(error.errors(), key=lambda p: -len(p["loc"]))
    for problem in problems:
        path = _place(problem["loc"], root, problem["type"] == "missing")
        holder = _model_at(model, path[:-1] if problem["type"] in ("missing", "extra_forbidden") else path)
        message = _said(problem, path, holder, root)
        if problem["type"] == "value_error":
            path = _nearer(path, message, root)
        if problem["type"] in _UNION and any(len(other) > len(path) and other[: len(path)] == path for other, _m in seen):
            continue  # another shape that was tried told the truer fault within
        if (path, message) not in seen:
            seen.add((path, message))
            yield path, message


#: told of a place that may hold one thing or another, besides the truer fault within it
_UNION: Final = ("model_type", "list_type", "string_type", "dict_type")


def _place(loc: tuple[str | int, ...], root: Raw, missing: bool) -> Path:
    """The path of a fault in what was written: parts that only tell which of several shapes was tried are left out."""
    at, path = root, list[str | int]()
    for n, part in enumerate(loc):
        if isinstance(at, dict) and (part in at or (missing and n == len(loc) - 1)):
            path.append(part)
            at = at.get(str(part))
        elif isinstance(at, list) and isinstance(part, int) and part < len(at):
            path.append(part)
            at = at[part]
    return tuple(path)


def _at(root: Raw, path: Path) -> Raw:
    for part in path:
        root = (
            root[part] if isinstance(root, list) and isinstance(part, int) else root.get(part) if isinstance(root, dict) else None
        )
    return root


def _nearer(path: Path, message: str, root: Raw) -> Path:
    """The key that a sentence about a whole item names first, if the item has it."""
    item = _at(root, path)
    named = [key for key in re.findall(r"`(\w+)`", message) if isinstance(item, dict) and key in item]
    return (*path, named[0]) if named else path


def _model_at(model: type[BaseModel], path: Path) -> type[BaseModel]:
    """The model of the innermost item on a path."""
    at = model
    for part in path:
        if isinstance(part, int):
            continue
        field = next((f for name, f in at.model_fields.items() if part in (name, f.alias)), None)
        inner = next(_models(field.annotation), None) if field else None
        at = inner or at
    return at


def _models(annotation: Any) -> Iterator[type[BaseModel]]:  # noqa: ANN401 - whatever stands as an annotation
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        yield annotation
    for inner in get_args(annotation):
        yield from _models(inner)


def _keys(model: type[BaseModel]) -> list[str]:
    return [field.alias or name for name, field in model.model_fields.items()]


def _said(problem: ErrorDetails, path: Path, holder: type[BaseModel], root: Raw) -> str:
    key = next((part for part in reversed(path) if isinstance(part, str)), "")
    tell = _BY_TYPE.get(problem["type"])
    if problem["type"] == "value_error":
        return problem["msg"].removeprefix("Value error, ")
    if tell is None:
        return say("what stands at `{key}` cannot be read", key=key)
    return tell(problem, key, holder, _at(root, path))


def _missing(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    return say("`{key}` is missing in {what}", key=key, what=say(_CALLED.get(holder.__name__, _("this item"))))


def _unknown(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    keys, what = _keys(holder), say(_CALLED.get(holder.__name__, _("this item")))
    meant = next((right for right in _ELSEWHERE.get(key, ()) if right in keys), "")
    hint = say("; did you mean `{best}`?", best=meant) if meant else did_you_mean(key, keys, 66)
    hint = hint or say("; it may have {keys}", keys=", ".join(keys[:12]) + (" …" if len(keys) > 12 else ""))
    return say("`{key}` is no key of {what}{hint}", key=key, what=what, hint=hint)


def _one_of(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    choices = [c for c in re.findall(r"'([^']*)'", str(problem.get("ctx", {}).get("expected", ""))) if c]
    told = one_of([f"`{choice}`" for choice in choices])
    return say(
        "“{given}” is not known at `{key}`{near}; write {choices}",
        given=given,
        key=key,
        near=did_you_mean(str(given), choices, 60),
        choices=told,
    )


def _number(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    text = str(given).strip()
    if re.fullmatch(r"-?\d+,\d+", text):
        return say("write `{right}`, with a point and not a comma", right=text.replace(",", "."))
    if found := _NUMBER_LIKE.match(text):
        plain = found[0].strip().replace(",", "").replace(" ", "").rstrip(".")
        if plain != text:
            return say(
                "write `{right}` alone at `{key}`, without “{rest}”",
                right=plain,
                key=key,
                rest=text.replace(found[0].strip(), "", 1).strip() or ",",
            )
    return say(
        "“{given}” is no number; a number is needed at `{key}`, as in `12.50`, and what costs nothing is `0`", given=text, key=key
    )


def _bound(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    context: Mapping[str, object] = problem.get("ctx", {})
    if key == "to":
        return say("a step to which is rounded is above 0, as in `to: 0.01`")
    if "gt" in context:
        return say("`{key}` is above {bound}; {given} is not", key=key, bound=context["gt"], given=given)
    if "ge" in context:
        return say("`{key}` is not below {bound}; {given} is", key=key, bound=context["ge"], given=given)
    if "lt" in context:
        return say("`{key}` is below {bound}; {given} is not", key=key, bound=context["lt"], given=given)
    return say("`{key}` is not above {bound}; {given} is", key=key, bound=context.get("le", ""), given=given)


def _keys_needed(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    if key == "percent":
        return say("write `{{of: LINE, rate: {rate}}}`: of which line, and how many per cent", rate=given)
    wanted = [f.alias or name for name, f in holder.model_fields.items() if f.is_required()]
    return say("`{key}` has keys of its own: {keys}", key=key, keys=", ".join(f"`{k}:`" for k in wanted or _keys(holder)[:4]))


def _list_needed(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    if isinstance(given, dict):
        return say("a list is needed at `{key}`: put each on a line of its own that begins with `- `", key=key)
    text = str(given)
    if key == "of" and "+" in text:
        return say("several lines stand in a list: `[{names}]`", names=", ".join(part.strip() for part in text.split("+")))
    found = re.match(r"\d+", text)
    return say("a list is needed at `{key}`, in square brackets: `[{given}]`", key=key, given=found[0] if found else text)


def _text_needed(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    if key == "options":
        return say("name one of the `lists` here; the choices themselves stand there")
    return say("one text is needed at `{key}`; put it in double quotes", key=key)


def _yes_or_no(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    return say("write `true` or `false` at `{key}`, not “{given}”", key=key, given=given)


def _day(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    text = str(given)
    if found := re.fullmatch(r"(\d{4})-(\d{1,2})-(\d{1,2})", text):
        year, month = int(found[1]), int(found[2])
        if 1 <= month <= 12 and year:
            last = (date(year + month // 12, month % 12 + 1, 1) - date.resolution).day if (year, month) < (9999, 12) else 31
            return say(
                "{year}-{month} has {last} days; {given} is none of them", year=year, month=f"{month:02}", last=last, given=text
            )
    if found := re.fullmatch(r"(\d{1,2})[./](\d{1,2})[./](\d{4})", text):
        day_, month_ = (int(found[1]), int(found[2])) if "." in text else (int(found[2]), int(found[1]))
        return say(
            "write a day as year, month and day: `{year}-{month}-{day}`", year=found[3], month=f"{month_:02}", day=f"{day_:02}"
        )
    return say("“{given}” is no day; write it as year, month and day, as in `2026-07-01`", given=text)


def _hour(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    return say('“{given}” is no hour of the day; write it in quotes, as in `"16:30"`', given=given)


def _name(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    text = str(given)
    if key in ("kind", "sub_kind_of", "cases_of"):
        return say("a kind is two capital letters, as in `BW`; “{given}” is not", given=text)
    if key == "currency":
        return say("a currency is written in three capital letters, as in `EUR`; “{given}” is not", given=text)
    if key == "of" and "+" in text:
        return say("several lines stand in a list: `[{names}]`", names=", ".join(part.strip() for part in text.split("+")))
    right = re.sub(r"[^a-z0-9]+", "_", text.casefold()).strip("_")
    right = right if right[:1].isalpha() else f"n_{right}"
    return say("“{given}” is no name; a name has small letters, digits and `_`, as in `{right}`", given=text, right=right[:40])


def _empty(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    return say("nothing stands at `{key}`; write it, or leave `{key}` out if it is not needed", key=key)


def _too_few(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    least = int(problem.get("ctx", {}).get("min_length", 1))
    words = say(_NUMBERS.get(least, str(least)))
    if key == "points":
        return say("a curve goes through at least {least} points", least=words)
    return say("`{key}` needs at least {least}; here are {count}", key=key, least=words, count=len(given or ()))


def _too_many(problem: ErrorDetails, key: str, holder: type[BaseModel], given: Raw) -> str:
    most = problem.get("ctx", {}).get("max_length", "")
    return say("`{key}` is longer than may be; at most {most}", key=key, most=most)


_Tell = Callable[[ErrorDetails, str, type[BaseModel], Raw], str]
_BY_TYPE: Final[dict[str, _Tell]] = {
    "missing": _missing, "extra_forbidden": _unknown, "literal_error": _one_of, "enum": _one_of,
    **dict.fromkeys(["decimal_parsing", "decimal_type", "int_parsing", "int_type", "float_parsing", "int_from_float", "decimal_max_digits",
                     "decimal_whole_digits", "decimal_max_places", "finite_number"], _number),
    **dict.fromkeys(["greater_than", "greater_than_equal", "less_than", "less_than_equal"], _bound),
    **dict.fromkeys(["model_type", "dict_type", "model_attributes_type"], _keys_needed),
    **dict.fromkeys(["list_type", "tuple_type"], _list_needed),
    "string_type": _text_needed,
    **dict.fromkeys(["bool_parsing", "bool_type"], _yes_or_no),
    **dict.fromkeys(["date_parsing", "date_from_datetime_parsing", "date_type", "date_from_datetime_inexact"], _day),
    **dict.fromkeys(["time_parsing", "time_type"], _hour),
    "string_pattern_mismatch": _name, "string_too_short": _empty, "string_too_long": _too_many,
    "too_short": _too_few, "too_long": _too_many,
}  # fmt: skip
