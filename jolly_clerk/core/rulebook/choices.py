"""Looks into compiled rules for what can never hold: a choice that its list does not have, a table without the row.

A condition that compares an answer with a word outside its list reads well and is never true; it is found here, not by an applicant.
"""

from __future__ import annotations

import ast
from collections.abc import Iterator, Mapping
from itertools import pairwise, product

from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.scope import dotted
from jolly_clerk.core.say import say

#: a table call with more combinations than this is not looked through
MOST_ROWS = 2000


def never_chosen(rule: Expression, options: Mapping[str, Mapping[str, str]]) -> Iterator[str]:
    """A sentence for each comparison of an answer with a word that is none of its choices.

    ``options`` maps a question (``part.question``) to its choices by id.
    """
    loops = _loops(rule.tree)
    for node in ast.walk(rule.tree):
        if not isinstance(node, ast.Compare):
            continue
        operands = [node.left, *node.comparators]
        for one, other in pairwise(operands):
            for asked, said in ((one, other), (other, one)):
                name = _question(asked, loops)
                if name in options:
                    yield from _foreign(name, said, options[name])


def _loops(tree: ast.expr) -> dict[str, str]:
    """The letters of ``for x in part`` with their parts."""
    found = {}
    for node in ast.walk(tree):
        if isinstance(node, ast.comprehension) and isinstance(node.target, ast.Name):
            found[node.target.id] = dotted(node.iter) or ""
    return found


def _question(node: ast.expr, loops: Mapping[str, str]) -> str:
    name = dotted(node) or ""
    head, point, rest = name.partition(".")
    return f"{loops[head]}{point}{rest}" if head in loops else name


def _foreign(name: str, node: ast.expr, choices: Mapping[str, str]) -> Iterator[str]:
    members = node.elts if isinstance(node, (ast.List, ast.Tuple)) else [node]
    for member in members:
        if isinstance(member, ast.Constant) and isinstance(member.value, str) and member.value not in choices:
            from rapidfuzz import process

            best = process.extractOne(member.value, list(choices), score_cutoff=60)
            hint = (
                say("; did you mean {best}?", best=f"{best[0]!r}")
                if best
                else say("; its choices are {choices}", choices=", ".join(choices))
            )
            yield say(
                "{value} is no choice of {name}, so this never holds{hint}", value=f"{member.value!r}", name=name, hint=hint
            )


def missing_rows(
    rule: Expression, options: Mapping[str, Mapping[str, str]], tables: Mapping[str, set[tuple[str, ...]]]
) -> Iterator[str]:
    """A sentence for each combination of choices for which a table that the rule looks into has no row."""
    for node in ast.walk(rule.tree):
        if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name) or node.func.id not in tables:
            continue
        names = [dotted(argument) or "" for argument in node.args]
        if not all(name in options for name in names):
            continue
        columns = [list(options[name]) for name in names]
        count = 1
        for column in columns:
            count *= len(column)
        if count > MOST_ROWS:
            continue
        absent = [key for key in product(*columns) if key not in tables[node.func.id]]
        if absent:
            shown = "; ".join(", ".join(key) for key in absent[:3]) + (
                say(" and {count} more", count=len(absent) - 3) if len(absent) > 3 else ""
            )
            yield say("the table {table} has no row for {shown}", table=node.func.id, shown=shown)
