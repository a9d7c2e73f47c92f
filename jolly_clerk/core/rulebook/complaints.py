"""What the checker of rules says when a name, a function or a type does not fit, and what would."""

from __future__ import annotations

import ast
from collections.abc import Iterable, Mapping

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.functions import AGGREGATES, BUILT_IN
from jolly_clerk.core.rulebook.mending import ELSEWHERE, a_day_in_quotes
from jolly_clerk.core.rulebook.near import did_you_mean, nearest
from jolly_clerk.core.rulebook.scope import Scope, dotted
from jolly_clerk.core.say import say

#: words for nothing that stand where an amount is
_NOTHING = ("free", "none", "nil", "nothing", "gratis", "null", "zero")


def unknown_name(name: str, scope: Scope) -> str:
    """What is said of a name that nothing has."""
    head, _, rest = name.partition(".")
    lines, there = scope.hints.lines, list(scope.names)
    if head in ("fee", "base") and rest in lines:
        return say("the line `{line}` stands below this place; a rule names only lines that stand above it", line=rest)
    if head in ("fee", "base"):
        near = nearest(rest, lines)
        return say("no fee line is called `{name}`", name=name) + (
            say("; did you mean `{best}`?", best=f"{head}.{near}") if near else ""
        )
    same = [own for own in there if own.endswith(f".{name}") and not own.startswith(("fee.", "base."))]
    if name in lines and not same:
        return say("what a fee line comes to is written `fee.{name}`", name=name)
    if name.casefold() in _NOTHING:
        return say("“{name}” is no number; what costs nothing is `0`", name=name)
    if name.casefold() in ELSEWHERE:
        return say("write `{right}` for `{name}`", right=ELSEWHERE[name.casefold()], name=name)
    choices = [key for key, options in scope.hints.options.items() if name in options]
    if choices:
        return say('a choice stands in quotes: write `"{name}"`', name=name)
    if not rest and same:
        same += [f"fee.{name}"] * (name in lines)
        return say("nothing is called `{name}`; did you mean {names}?", name=name, names=one_of([f"`{s}`" for s in same[:3]]))
    own = sorted(there_too for there_too in there if there_too.startswith(f"{head}."))
    if rest and own and nearest(name, there) is None:
        return say("`{head}` has no `{rest}`; it has {names}", head=head, rest=rest, names=one_of([f"`{s}`" for s in own[:8]]))
    return say("nothing is called `{name}`{near}", name=name, near=did_you_mean(name, there))


def unknown_function(name: str, scope: Scope) -> str:
    """What is said of a function that nobody knows."""
    right = ELSEWHERE.get(name.casefold(), "")
    if right == "if":
        return say("write the amount first, then the condition: `5 if nights > 3 else 2`")
    if right in BUILT_IN or right in AGGREGATES:
        return say("no function is called `{name}`; what you mean is `{right}`", name=name, right=right) + _help(right)
    if right:
        return say("write `{right}` for `{name}()`", right=right, name=name)
    known = [*BUILT_IN, *scope.functions, *AGGREGATES]
    return say("no function is called `{name}`{near}", name=name, near=did_you_mean(name, known))


def _help(name: str) -> str:
    return f" ({say(BUILT_IN[name].help)})" if name in BUILT_IN else ""


def called_otherwise(node: ast.Subscript, scope: Scope) -> str:
    """What is said of square brackets: a table is asked in round ones."""
    name = dotted(node.value) or ""
    function = scope.functions.get(name)
    if function is None:
        return say("square brackets mean nothing here; the n-th of a list is `item(list, n)`")
    columns = [c.strip() for c in function.help.partition("(")[2].rstrip(")").split(",")]
    named = [next((n for n in scope.names if n.endswith(f".{column}")), column) for column in columns]
    return say("a table is asked in round brackets: `{right}`", right=f"{name}({', '.join(named)})")


def other_type(node: ast.expr, wanted: str, gives: str) -> str:
    """What is said of a rule that gives something else than its place needs."""
    told = say("a {wanted} is needed here; this gives a {gives}", wanted=types.called(wanted), gives=types.called(gives))
    name = dotted(node)
    if name and gives.startswith(types.LIST) and wanted == types.NUMBER:
        return told + _each(name)
    return told


def _each(name: str) -> str:
    part = name.partition(".")[0]
    return say("; `{name}` is one for each: write `sum({name})`, or say `each: {part}`", name=name, part=part)


def not_comparable(left: ast.expr, right: ast.expr, a: str, b: str, scope: Scope) -> str:
    """What is said of two values of different types that are compared."""
    for one, kind, other, other_kind in ((left, a, right, b), (right, b, left, a)):
        name = dotted(one) or ""
        said = other.value if isinstance(other, ast.Constant) else None
        if kind in (types.DATE, types.MOMENT) and isinstance(said, str) and (right_day := a_day_in_quotes(said)):
            return right_day
        if name and kind == types.YES_NO and isinstance(said, str):
            return say("a question of yes or no is a condition itself: write `{name}` or `not {name}`", name=name)
        if name in scope.hints.options and other_kind != types.TEXT:
            choices = scope.hints.options[name]
            return say(
                '{name} is a choice; compare it with one of its own in quotes, as in `{name} == "{first}"`',
                name=name,
                first=next(iter(choices), ""),
            )
        if name and kind.startswith(types.LIST) and not other_kind.startswith(types.LIST):
            told = say("a {a} cannot be compared with a {b}", a=types.called(a), b=types.called(b))
            return told + _each(name)
    return say("a {a} cannot be compared with a {b}", a=types.called(a), b=types.called(b))


def not_joined(node: ast.BinOp, a: str, b: str, sign: str) -> str:
    """What is said of two values that plus, minus and their like cannot join."""
    left, right = ast.unparse(node.left), ast.unparse(node.right)
    if a == b == types.DATE:
        return say("the days between two dates are `days_between({start}, {end})`", start=right, end=left)
    if a == b == types.MOMENT:
        return say("the hours between two moments are `hours_between({start}, {end})`", start=right, end=left)
    if a in (types.DATE, types.MOMENT) and b == types.NUMBER and sign in ("+", "-"):
        unit = "days" if a == types.DATE else "hours"
        return say("say of what: `{left} {sign} {unit}({right})`", left=left, sign=sign, unit=unit, right=right)
    for name, kind in ((dotted(node.left), a), (dotted(node.right), b)):
        if name and kind.startswith(types.LIST):
            return say("a {a} and a {b} are not joined by {sign}", a=types.called(a), b=types.called(b), sign=sign) + _each(name)
    return say("a {a} and a {b} are not joined by {sign}", a=types.called(a), b=types.called(b), sign=sign)


def turned_round(
    name: str, arguments: Iterable[ast.expr], columns: Iterable[str], options: Mapping[str, Mapping[str, str]]
) -> str:
    """What is said of a table that is asked with its columns in another order; nothing if they may stand so."""
    wanted, named = list(columns), [dotted(a) or "" for a in arguments]
    own = [n.rpartition(".")[2] for n in named]
    if own != wanted and sorted(own) == sorted(wanted):
        right = [next(n for n, short in zip(named, own, strict=True) if short == column) for column in wanted]
        first = next(iter(options.get(named[0], {})), "")
        told = say("the columns stand in another order: write `{right}`", right=f"{name}({', '.join(right)})")
        return told + (say('; `{column}` has no row "{first}"', column=wanted[0], first=first) if first else "")
    return ""
