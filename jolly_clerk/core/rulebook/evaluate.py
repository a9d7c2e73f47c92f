"""The three-valued evaluator of expressions.

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
from jolly_clerk.core.rulebook.dates import Function
from jolly_clerk.core.rulebook.functions import AGGREGATES
from jolly_clerk.core.say import say
from jolly_clerk.core.values import Value

_BINARY: dict[type, Callable[[Any, Any], Any]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.FloorDiv: operator.floordiv,
    ast.Mod: operator.mod,
}
_COMPARE: dict[type, Callable[[Any, Any], Any]] = {
    ast.Eq: operator.eq,
    ast.NotEq: operator.ne,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
}
Functions = Mapping[str, Function]
#: the two ways in which a rule goes over a list
EACH = (ast.GeneratorExp, ast.ListComp)


def evaluate(tree: ast.expr, values: Mapping[str, Any], functions: Functions) -> Value:
    """The value of a checked tree, NONE or UNKNOWN. What cannot be computed is UNKNOWN."""
    try:
        return Evaluator(values, functions).visit(tree)
    except (ArithmeticError, ValueError, TypeError, AttributeError):
        return UNKNOWN


def trouble(tree: ast.expr, values: Mapping[str, Any], functions: Functions) -> str:
    """Why an expression over known values cannot be worked out; nothing if it can."""
    try:
        Evaluator(values, functions).visit(tree)
    except ZeroDivisionError:
        return say("it would be divided by nothing")
    except (ArithmeticError, AttributeError, TypeError):
        return say("the numbers that go in do not allow it")
    except ValueError as error:
        return str(error)
    return ""


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


class Evaluator:
    """Evaluates a tree node by node, with *none* and *unknown*."""

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
        return self.joined([self.visit(node.left), self.visit(node.right)], _BINARY[type(node.op)])

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
        return _COMPARE[type(op)](a, b)

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
