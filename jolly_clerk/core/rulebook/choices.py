"""Looks into compiled rules for what can never hold: a choice that its list does not have, a table without the row.

A condition that compares an answer with a word outside its list reads well and is never true; it is found here, not by an applicant.
"""

from __future__ import annotations

import ast
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise, product
from math import prod

from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.near import nearest
from jolly_clerk.core.rulebook.scope import dotted
from jolly_clerk.core.rulebook.tariff import Table
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
            titled = next((id_ for id_, title in choices.items() if title.casefold() == member.value.casefold()), None)
            best = titled or nearest(member.value, choices, 60)
            hint = (
                say('; did you mean `"{best}"`?', best=best)
                if best
                else say("; its choices are {choices}", choices=", ".join(choices))
            )
            yield say('"{value}" is no choice of {name}, so this never holds{hint}', value=member.value, name=name, hint=hint)


@dataclass(frozen=True, slots=True)
class TableCall:
    """A table that a rule asks about answers that are choices: its name, what stands in the brackets, and the questions meant."""

    table: str
    arguments: tuple[ast.expr, ...]
    questions: tuple[str, ...]


def table_calls(rule: Expression, options: Mapping[str, Mapping[str, str]], tables: Collection[str]) -> Iterator[TableCall]:
    """Each call of a table over choices alone."""
    loops = _loops(rule.tree)
    for node in ast.walk(rule.tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in tables:
            questions = tuple(_question(argument, loops) for argument in node.args)
            if questions and all(question in options for question in questions):
                yield TableCall(node.func.id, tuple(node.args), questions)


def no_choices(call: TableCall, table: Table, options: Mapping[str, Mapping[str, str]]) -> Iterator[tuple[int, str]]:
    """For each row of a table with a cell that is near to a choice and none: its number, and a sentence."""
    for n, row in enumerate(table.rows):
        for column, question in zip(table.of, call.questions, strict=False):
            cell, choices = row.get(column, ""), options[question]
            if cell not in choices and (best := nearest(cell, choices, 60)):
                told = say(
                    '"{cell}" is no choice of {question}; did you mean `"{best}"`?', cell=cell, question=question, best=best
                )
                yield n, told


def missing_rows(call: TableCall, options: Mapping[str, Mapping[str, str]], rows: Collection[tuple[str, ...]]) -> str:
    """A sentence about the combinations of choices for which a table has no row; nothing if it has all."""
    columns = [list(options[name]) for name in call.questions]
    if prod(len(column) for column in columns) > MOST_ROWS:
        return ""
    absent = [key for key in product(*columns) if key not in rows]
    if not absent:
        return ""
    shown = "; ".join(", ".join(key) for key in absent[:3])
    shown += say(" and {count} more", count=len(absent) - 3) if len(absent) > 3 else ""
    return say("the table {table} has no row for {shown}; add it, or say `otherwise`", table=call.table, shown=shown)
