"""The three-valued evaluator, and the working of an expression in words.

Source: house rules, *Expressions in rulebooks*: *none* makes comparisons false, counts as false,
and swallows arithmetic; *unknown* follows Kleene through and, or and not.
"""

from __future__ import annotations

import ast
import operator
from collections.abc import Callable, Iterator, Mapping
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import NONE, UNKNOWN, is_absent, truth
from jolly_clerk.core.in_words import in_words
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.functions import AGGREGATES
from jolly_clerk.core.say import _, say
from jolly_clerk.core.values import Value

_BINARY: dict[type, tuple[Callable[[Any, Any], Any], str, int]] = {
    ast.Add: (operator.add, "+", 1),
    ast.Sub: (operator.sub, "−", 1),
    ast.Mult: (operator.mul, "×", 2),
    ast.Div: (operator.truediv, "÷", 2),
    ast.FloorDiv: (operator.floordiv, "÷ (whole)", 2),
    ast.Mod: (operator.mod, _("rest of ÷"), 2),
}
_COMPARE: dict[type, tuple[Callable[[Any, Any], Any], str]] = {
    ast.Eq: (operator.eq, "is"),
    ast.NotEq: (operator.ne, _("is not")),
    ast.Lt: (operator.lt, "<"),
    ast.LtE: (operator.le, "≤"),
    ast.Gt: (operator.gt, ">"),
    ast.GtE: (operator.ge, "≥"),
    ast.In: (lambda a, b: a in b, "in"),
    ast.NotIn: (lambda a, b: a not in b, _("not in")),
}
Functions = Mapping[str, Function]
#: functions that are told with their values; of all others only what comes out is told
TOLD = ("asked", "abs", "started", "age", "round_up", "round_down", "round_to", "round_even")
#: the two ways in which a rule goes over a list
EACH = (ast.GeneratorExp, ast.ListComp)


def evaluate(tree: ast.expr, values: Mapping[str, Any], functions: Functions) -> Value:
    """The value of a checked tree, NONE or UNKNOWN. What cannot be computed is UNKNOWN."""
    try:
        return _Evaluator(values, functions).visit(tree)
    except (ArithmeticError, ValueError, TypeError, AttributeError):
        return UNKNOWN


def conjunction(parts: Iterator[Any]) -> Value:
    """Kleene's *and* over True, False and UNKNOWN."""
    result: Any = True
    for part in parts:
        if part is False:
            return False
        if part is UNKNOWN:
            result = UNKNOWN
    return result


def negation(value: Value) -> Value:
    """Kleene's *not*."""
    return value if value is UNKNOWN else not value


def disjunction(parts: Iterator[Any]) -> Value:
    """Kleene's *or*."""
    return negation(conjunction(negation(part) for part in parts))


class _Evaluator:
    def __init__(self, values: Mapping[str, Any], functions: Functions) -> None:
        self.values, self.functions = values, functions
        self.loops: dict[str, Any] = {}

    def visit(self, node: ast.expr) -> Value:
        method: Callable[[Any], Any] = getattr(self, f"on_{type(node).__name__}")
        return method(node)

    def on_Constant(self, node: ast.Constant) -> Value:
        return getattr(node, "decimal", node.value)

    def on_Name(self, node: ast.expr) -> Value:
        word = getattr(node, "word", None)
        if word is not None:
            return word
        name: str = getattr(node, "dotted", None) or ast.unparse(node)
        head, _, rest = name.partition(".")
        if head in self.loops:
            return self.loops[head][rest] if rest else self.loops[head]
        return self.values[name]

    on_Attribute = on_Name

    def on_List(self, node: ast.List | ast.Tuple) -> Value:
        return tuple(self.visit(n) for n in node.elts)

    on_Tuple = on_List

    def on_BoolOp(self, node: ast.BoolOp) -> Value:
        parts = (truth(self.visit(n)) for n in node.values)
        return conjunction(parts) if isinstance(node.op, ast.And) else disjunction(parts)

    def on_UnaryOp(self, node: ast.UnaryOp) -> Value:
        value = self.visit(node.operand)
        if isinstance(node.op, ast.Not):
            return negation(truth(value))
        return value if is_absent(value) else -value

    def on_BinOp(self, node: ast.BinOp) -> Value:
        return self.joined([self.visit(node.left), self.visit(node.right)], _BINARY[type(node.op)][0])

    def joined(self, values: list[Any], call: Callable[..., Any]) -> Value:
        if any(v is NONE for v in values):
            return NONE
        if any(v is UNKNOWN for v in values):
            return UNKNOWN
        return call(*values)

    def on_Compare(self, node: ast.Compare) -> Value:
        operands = [self.visit(n) for n in (node.left, *node.comparators)]
        pairs = zip(node.ops, operands, operands[1:], strict=False)
        return conjunction(self.compared(op, a, b) for op, a, b in pairs)

    def compared(self, op: ast.cmpop, a: Value, b: Value) -> Value:
        if a is NONE or b is NONE:
            return False
        if a is UNKNOWN or b is UNKNOWN:
            return UNKNOWN
        if isinstance(op, (ast.In, ast.NotIn)):
            found = disjunction(UNKNOWN if m is UNKNOWN else m is not NONE and m == a for m in b)
            return found if isinstance(op, ast.In) else negation(found)
        return _COMPARE[type(op)][0](a, b)

    def on_IfExp(self, node: ast.IfExp) -> Value:
        test = truth(self.visit(node.test))
        if test is not UNKNOWN:
            return self.visit(node.body if test else node.orelse)
        a, b = self.visit(node.body), self.visit(node.orelse)
        return a if a is b or (not is_absent(a) and not is_absent(b) and a == b) else UNKNOWN

    def on_Call(self, node: ast.Call) -> Value:
        name = ast.unparse(node.func)
        if name == "asked":
            return self.visit(node.args[0]) is not NONE
        if name in AGGREGATES:
            return self.aggregate(name, node)
        return self.called(self.functions[name], [self.visit(a) for a in node.args])

    def called(self, function: Function, args: list[Any]) -> Value:
        """A function over its values; in a list *none* is skipped, and one that is unknown makes the whole unknown."""
        for n, given in enumerate(args):
            if isinstance(given, (tuple, list)):
                if any(member is UNKNOWN for member in given):
                    args[n] = UNKNOWN
                else:
                    args[n] = tuple(member for member in given if member is not NONE)
        known = [self.values[function.given]] if function.given else []
        return self.joined(args, lambda *values: function.call(*known, *values))

    def aggregate(self, name: str, node: ast.Call) -> Value:
        values = self.members(node)
        if values is UNKNOWN:
            return UNKNOWN
        present = [v for v in values if v is not NONE]
        if name in ("any", "all"):
            parts = (truth(v) for v in present)
            return disjunction(parts) if name == "any" else conjunction(parts)
        if any(v is UNKNOWN for v in present):
            return UNKNOWN
        if name == "count":
            return Decimal(len(present))
        if name == "sum":
            return sum(present, Decimal(0))
        if not present:
            return NONE
        return min(present) if name == "min" else max(present)

    def members(self, node: ast.Call) -> Value:
        only = node.args[0]
        if len(node.args) > 1:
            return [self.visit(a) for a in node.args]
        values = self.each(only) if isinstance(only, EACH) else self.visit(only)
        return [] if values is NONE else values

    def each(self, node: ast.GeneratorExp | ast.ListComp) -> Value:
        found: list[Any] = []
        outer = dict(self.loops)
        whole = self.over(node, 0, found)
        self.loops = outer
        return found if whole else UNKNOWN

    def over(self, node: ast.GeneratorExp | ast.ListComp, depth: int, found: list[Any]) -> bool:
        """Go over one list after the other; False if one of them is unknown."""
        if depth == len(node.generators):
            found.append(self.visit(node.elt))
            return True
        loop = node.generators[depth]
        items = self.visit(loop.iter)
        if is_absent(items):
            return items is NONE
        for item in items:
            if is_absent(item):
                if item is UNKNOWN:
                    return False
                continue
            self.loops[loop.target.id] = item  # type: ignore[attr-defined]
            test = conjunction(truth(self.visit(t)) for t in loop.ifs)
            if test is UNKNOWN:
                found.append(UNKNOWN)
            elif test and not self.over(node, depth + 1, found):
                return False
        return True

    def on_GeneratorExp(self, node: ast.GeneratorExp | ast.ListComp) -> Value:
        values = self.each(node)
        return values if values is UNKNOWN else tuple(values)

    on_ListComp = on_GeneratorExp


def working(tree: ast.expr, values: Mapping[str, Any], functions: Functions) -> str:
    """The expression with its values put in, e.g. ``18.40 × max(0, 8 − 6)``."""
    return _Teller(values, functions).tell(tree)


class _Teller(_Evaluator):
    """Says an expression with values instead of names."""

    def tell(self, node: ast.expr, above: int = 0) -> str:
        if isinstance(node, ast.BinOp):
            _, sign, rank = _BINARY[type(node.op)]
            text = f"{self.tell(node.left, rank)} {say(sign)} {self.tell(node.right, rank + 1)}"
            return f"({text})" if rank < above else text
        if isinstance(node, ast.Compare):
            text = self.tell(node.left, 1)
            for op, other in zip(node.ops, node.comparators, strict=True):
                text += f" {say(_COMPARE[type(op)][1])} {self.tell(other, 1)}"
            return text
        if isinstance(node, ast.BoolOp):
            word = say("and") if isinstance(node.op, ast.And) else say("or")
            text = f" {word} ".join(self.tell(n, 1) for n in node.values)
            return f"({text})" if above else text
        if isinstance(node, ast.UnaryOp):
            told = self.tell(node.operand, 3)
            return say("not {told}", told=told) if isinstance(node.op, ast.Not) else f"−{told}"
        if isinstance(node, ast.Call) and not any(isinstance(a, EACH) for a in node.args):
            name = ast.unparse(node.func)
            if name not in AGGREGATES and name not in TOLD:
                return in_words(self.visit(node))  # a table, a date: what it says is clearer than how it was asked
            if name in ("min", "max") and len(node.args) == 2:
                first, second = (self.tell(a) for a in node.args)
                if name == "max":
                    return say("the higher of {first} and {second}", first=first, second=second)
                return say("the lower of {first} and {second}", first=first, second=second)
            summed = node.args[0].elts if len(node.args) == 1 and isinstance(node.args[0], (ast.List, ast.Tuple)) else node.args
            if name == "sum" and len(summed) > 1:  # a sum of several is told as one, without what is not asked
                added = " + ".join(self.tell(a, 1) for a in summed if self.visit(a) is not NONE)
                return f"({added})" if above else added
            return f"{ast.unparse(node.func)}({', '.join(self.tell(a) for a in node.args)})"
        if isinstance(node, ast.Call):
            if ast.unparse(node.func) not in AGGREGATES:
                return in_words(self.visit(node))
            members = self.members(node)
            listed = "?" if members is UNKNOWN else ", ".join(in_words(m) for m in members)
            return f"{ast.unparse(node.func)}({listed})"
        if isinstance(node, (ast.List, ast.Tuple)):
            return ", ".join(self.tell(n) for n in node.elts)
        return in_words(self.visit(node))
