"""Conditions and amounts of a rulebook: parsed once, checked, typed, compiled.

The language is a small subset of Python's expression syntax (house rules, *Expressions in
rulebooks*). An :class:`Expression` runs as plain compiled Python while every value it meets is
known; when one is absent it is evaluated again by :mod:`jolly_clerk.core.rulebook.evaluate`,
which knows *none* and *unknown*.
"""

from __future__ import annotations

import ast
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import NONE, Absent, truth
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.dates import MEMBER, SAME
from jolly_clerk.core.rulebook.evaluate import EACH, evaluate
from jolly_clerk.core.rulebook.functions import AGGREGATES, BUILT_IN, Function, count_of, sum_of
from jolly_clerk.core.values import Value

MOST_CHARACTERS, MOST_NODES, MOST_DEPTH, MOST_DIGITS, MOST_LOOPS = 4000, 400, 40, 28, 2

_ARITHMETIC = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/", ast.FloorDiv: "//", ast.Mod: "%"}
_ORDER = (ast.Lt, ast.LtE, ast.Gt, ast.GtE)
_WORDS = {"yes": True, "no": False, "True": True, "False": False}


class ExpressionError(ValueError):
    """An expression that may not stand in a rulebook: what is wrong and what would be right.

    ``column`` counts from 1 within the expression's own text.
    """

    def __init__(self, message: str, column: int = 1) -> None:
        super().__init__(message)
        self.column = column


@dataclass(frozen=True, slots=True)
class Scope:
    """What an expression may name.

    ``names`` maps a dotted name to its type; ``items`` maps a repeating part to the types of its
    questions; ``functions`` are the rulebook's tables, beside the built-in functions.
    """

    names: Mapping[str, str]
    items: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    functions: Mapping[str, Function] = field(default_factory=dict)

    def function(self, name: str) -> Function | None:
        """The function called ``name``, if there is one."""
        return self.functions.get(name) or BUILT_IN.get(name)


@dataclass(frozen=True, slots=True)
class Expression:
    """A compiled rule. ``reads`` are the dotted names it can look at, found without running it."""

    source: str
    gives: str
    reads: frozenset[str]
    tree: ast.expr
    fast: Callable[[Mapping[str, Any]], Any]
    functions: Mapping[str, Function]

    def value(self, values: Mapping[str, Any]) -> Value:
        """The value, or NONE or UNKNOWN. What cannot be computed (a division by zero) is UNKNOWN."""
        try:
            return self.fast(values)
        except (Absent, ArithmeticError, ValueError, TypeError, AttributeError):
            return evaluate(self.tree, values, self.functions)

    def holds(self, values: Mapping[str, Any]) -> Value:
        """True, False or UNKNOWN: a bare *none* counts as false."""
        value = self.value(values)
        return value if value is True or value is False else truth(value)


def dotted(node: ast.expr) -> str | None:
    """``a.b.c`` for a chain of attributes on a name, else None."""
    parts: list[str] = []
    while isinstance(node, ast.Attribute):
        parts.append(node.attr)
        node = node.value
    if not isinstance(node, ast.Name):
        return None
    return ".".join([node.id, *reversed(parts)])


class _WholeColumns(ast.NodeTransformer):
    """Takes ``stay.offers.price``, a column of a question with rows, for the list of its cells."""

    def __init__(self, scope: Scope) -> None:
        self.scope = scope

    def visit_Attribute(self, node: ast.Attribute) -> ast.expr:
        name = dotted(node)
        rows, _, column = (name or "").rpartition(".")
        if name in self.scope.names or rows not in self.scope.names or column not in self.scope.items.get(rows, {}):
            return node
        cells = ast.parse(f"[row_.{column} for row_ in {rows}]", mode="eval").body
        for inner in ast.walk(cells):
            if isinstance(inner, ast.expr):
                ast.copy_location(inner, node)
        return cells


class _Checker:
    """Walks the tree once: allowed nodes, names, types; and writes the fast Python tree."""

    def __init__(self, source: str, scope: Scope) -> None:
        self.source, self.scope = source, scope
        self.reads: set[str] = set()
        self.constants: dict[str, Any] = {}
        #: a letter of a loop and the type of what it stands for
        self.loops: dict[str, str] = {}
        self.nodes = 0

    def fail(self, node: ast.expr, message: str) -> ExpressionError:
        return ExpressionError(message, getattr(node, "col_offset", 0) + 1)

    def constant(self, value: Value) -> ast.expr:
        name = f"_k{len(self.constants)}"
        self.constants[name] = value
        return ast.Name(name, ast.Load())

    def visit(self, node: ast.expr, depth: int = 0) -> tuple[ast.expr, str]:
        self.nodes += 1
        if self.nodes > MOST_NODES or depth > MOST_DEPTH:
            raise self.fail(node, "this rule is too long; name a part of it under `values`")
        handler = getattr(self, f"on_{type(node).__name__}", None)
        if handler is None:
            raise self.fail(node, f"{ast.unparse(node)!r} may not stand in a rule")
        result: tuple[ast.expr, str] = handler(node, depth + 1)
        return result

    def on_Constant(self, node: ast.Constant, depth: int) -> tuple[ast.expr, str]:
        if isinstance(node.value, bool):
            return node, types.YES_NO
        if isinstance(node.value, str):
            return node, types.TEXT
        text = (ast.get_source_segment(self.source, node) or "").replace("_", "")
        if isinstance(node.value, (int, float)) and text.replace(".", "", 1).isdigit() and len(text) <= MOST_DIGITS:
            node.decimal = Decimal(text)  # type: ignore[attr-defined]
            return self.constant(Decimal(text)), types.NUMBER
        raise self.fail(node, f"{ast.unparse(node)!r} is no plain number; write it with digits and one point")

    def on_Name(self, node: ast.expr, depth: int) -> tuple[ast.expr, str]:
        name = dotted(node)
        if name is None:
            raise self.fail(node, "only names like part.question may have a point in them")
        node.dotted = name  # type: ignore[attr-defined]  # so that the evaluator need not spell it again
        if name in _WORDS:
            node.word = _WORDS[name]  # type: ignore[attr-defined]
            return ast.Constant(_WORDS[name]), types.YES_NO
        head, _, rest = name.partition(".")
        if head in self.loops:
            if not self.loops[head].startswith(types.ITEMS):
                if rest:
                    raise self.fail(node, f"{head} is a {self.loops[head]}; nothing stands after its point")
                return ast.Name(head, ast.Load()), self.loops[head]
            part = self.loops[head].removeprefix(types.ITEMS)
            if not rest:
                raise self.fail(node, f"say which question of {head} is meant: {head}.something")
            kind = self.scope.items[part].get(rest)
            if kind is None:
                raise self.fail(node, f"no question {rest!r} in part {part!r}{self.near(rest, self.scope.items[part])}")
            self.reads.add(f"{part}.{rest}")
            return ast.Subscript(ast.Name(head, ast.Load()), ast.Constant(rest), ast.Load()), kind
        kind = self.scope.names.get(name)
        if kind is None:
            raise self.fail(node, f"nothing is called {name!r}{self.near(name, self.scope.names)}")
        self.reads.add(name)
        return ast.Subscript(ast.Name("v", ast.Load()), ast.Constant(name), ast.Load()), kind

    on_Attribute = on_Name

    def near(self, name: str, among: Mapping[str, Any]) -> str:
        from rapidfuzz import process

        best = process.extractOne(name, list(among), score_cutoff=70)
        return f"; did you mean {best[0]!r}?" if best else ""

    def on_BoolOp(self, node: ast.BoolOp, depth: int) -> tuple[ast.expr, str]:
        word = "and" if isinstance(node.op, ast.And) else "or"
        parts = [self.expect(v, types.YES_NO, f"`{word}` joins conditions", depth) for v in node.values]
        return self.as_bool(ast.BoolOp(node.op, parts)), types.YES_NO

    def as_bool(self, fast: ast.expr) -> ast.expr:
        return ast.IfExp(fast, ast.Constant(True), ast.Constant(False))

    def on_UnaryOp(self, node: ast.UnaryOp, depth: int) -> tuple[ast.expr, str]:
        if isinstance(node.op, ast.Not):
            return ast.UnaryOp(
                node.op, self.expect(node.operand, types.YES_NO, "`not` goes before a condition", depth)
            ), types.YES_NO
        if isinstance(node.op, ast.USub):
            return ast.UnaryOp(
                node.op, self.expect(node.operand, types.NUMBER, "a minus goes before a number", depth)
            ), types.NUMBER
        raise self.fail(node, "only `not` and a minus may go before a value")

    def expect(self, node: ast.expr, wanted: str, why: str, depth: int) -> ast.expr:
        fast, given = self.visit(node, depth)
        if not types.fits(given, wanted):
            raise self.fail(node, f"{why}; {ast.unparse(node)!r} is a {given}, not a {wanted}")
        return fast

    def on_BinOp(self, node: ast.BinOp, depth: int) -> tuple[ast.expr, str]:
        if type(node.op) not in _ARITHMETIC:
            raise self.fail(node, "only + - * / // % may join numbers")
        (left, a), (right, b) = self.visit(node.left, depth), self.visit(node.right, depth)
        fast = ast.BinOp(left, node.op, right)
        if types.fits(a, types.NUMBER) and types.fits(b, types.NUMBER):
            return fast, types.NUMBER
        if isinstance(node.op, (ast.Add, ast.Sub)):
            if types.fits(a, types.DATE) and types.fits(b, types.SPAN):
                return fast, types.DATE
            if a == types.MOMENT and b in (types.SPAN, types.DURATION):
                return fast, types.MOMENT
        if a == b == types.DATE:
            raise self.fail(node, "days between two dates are days_between(from, to)")
        if a == b == types.MOMENT:
            raise self.fail(node, "hours between two moments are hours_between(from, to)")
        raise self.fail(node, f"a {a} and a {b} cannot be joined by {_ARITHMETIC[type(node.op)]}")

    def on_Compare(self, node: ast.Compare, depth: int) -> tuple[ast.expr, str]:
        operands = [self.visit(n, depth) for n in (node.left, *node.comparators)]
        for op, (_, a), (_, b), where in zip(node.ops, operands, operands[1:], node.comparators, strict=False):
            if isinstance(op, (ast.In, ast.NotIn)):
                if not b.startswith(types.LIST) and b != types.ANY:
                    raise self.fail(where, f"`in` looks into a list; {ast.unparse(where)!r} is a {b}")
                fitting = types.fits(a, types.element(b))
            elif isinstance(op, (ast.Eq, ast.NotEq, *_ORDER)):
                fitting = types.fits(a, b)
                if fitting and isinstance(op, _ORDER) and types.YES_NO in (a, b):
                    raise self.fail(where, "yes and no have no order")
            else:
                raise self.fail(node, "compare with == != < <= > >= in, not in")
            if not fitting:
                raise self.fail(where, f"a {a} cannot be compared with a {b}")
        fast = [f for f, _ in operands]
        return ast.Compare(fast[0], node.ops, fast[1:]), types.YES_NO

    def on_IfExp(self, node: ast.IfExp, depth: int) -> tuple[ast.expr, str]:
        test = self.expect(node.test, types.YES_NO, "after `if` comes a condition", depth)
        (body, a), (other, b) = self.visit(node.body, depth), self.visit(node.orelse, depth)
        if not types.fits(a, b):
            raise self.fail(node, f"both sides of if-else must be of one type; these are a {a} and a {b}")
        return ast.IfExp(test, body, other), b if a == types.ANY else a

    def on_List(self, node: ast.List | ast.Tuple, depth: int) -> tuple[ast.expr, str]:
        members = [self.visit(n, depth) for n in node.elts]
        kinds = {kind for _, kind in members} - {types.ANY}
        if len(kinds) > 1:
            raise self.fail(node, f"a list holds values of one type; these are {' and '.join(sorted(kinds))}")
        return ast.Tuple([f for f, _ in members], ast.Load()), types.LIST + (kinds.pop() if kinds else types.ANY)

    on_Tuple = on_List

    def on_Call(self, node: ast.Call, depth: int) -> tuple[ast.expr, str]:
        name = dotted(node.func)
        if name is None or node.keywords or any(isinstance(a, ast.Starred) for a in node.args):
            raise self.fail(node, "call a function by its name, with values in brackets")
        if name == "asked":
            return self.on_asked(node)
        if name in AGGREGATES:
            return self.on_aggregate(name, node, depth)
        function = self.scope.function(name)
        if function is None:
            known = {**BUILT_IN, **self.scope.functions, **dict.fromkeys(AGGREGATES)}
            raise self.fail(node, f"no function is called {name!r}{self.near(name, known)}")
        most = len(function.takes)
        if not most - function.optional <= len(node.args) <= most:
            raise self.fail(node, f"{name} takes {most} value{'s' * (most != 1)} ({function.help}), not {len(node.args)}")
        args, kinds = [], []
        for argument, wanted in zip(node.args, function.takes, strict=False):
            fast, kind = self.visit(argument, depth)
            if not types.fits(kind, wanted):
                told = f"{name} takes a {wanted} here; {ast.unparse(argument)!r} is a {kind}, not a {wanted}"
                raise self.fail(argument, told)
            args.append(fast)
            kinds.append(kind)
        if function.given:
            args.insert(0, ast.Subscript(ast.Name("v", ast.Load()), ast.Constant(function.given), ast.Load()))
        gives = {SAME: kinds[0], MEMBER: types.element(kinds[0])}.get(function.gives, function.gives)
        return ast.Call(ast.Name(f"_f_{name}", ast.Load()), args, []), gives

    def on_asked(self, node: ast.Call) -> tuple[ast.expr, str]:
        if len(node.args) != 1 or dotted(node.args[0]) is None:
            raise self.fail(node, "asked() takes one name: asked(part.question)")
        fast, _ = self.visit(node.args[0])
        return ast.Compare(fast, [ast.IsNot()], [ast.Name("_NONE", ast.Load())]), types.YES_NO

    def on_aggregate(self, name: str, node: ast.Call, depth: int) -> tuple[ast.expr, str]:
        if not node.args or (len(node.args) > 1 and name not in ("min", "max")):
            raise self.fail(node, f"{name} takes one list" + (" or several values" if name in ("min", "max") else ""))
        if len(node.args) > 1:
            members = [self.visit(a, depth) for a in node.args]
            kinds = {kind for _, kind in members} - {types.ANY}
            if len(kinds) > 1:
                raise self.fail(node, f"{name} compares values of one type; these are {' and '.join(sorted(kinds))}")
            return ast.Call(ast.Name(f"_a_{name}", ast.Load()), [f for f, _ in members], []), kinds.pop() if kinds else types.ANY
        only = node.args[0]
        fast, kind = self.on_each(only, depth, name == "count") if isinstance(only, EACH) else self.visit(only, depth)
        if not kind.startswith((types.LIST, types.ITEMS)) and kind != types.ANY:
            raise self.fail(only, f"{name} goes over a list; {ast.unparse(only)!r} is a {kind}")
        inner = types.element(kind)
        wanted = {"sum": types.NUMBER, "any": types.YES_NO, "all": types.YES_NO}.get(name)
        if wanted and (not types.fits(inner, wanted) or kind.startswith(types.ITEMS)):
            raise self.fail(only, f"{name} goes over a list of {wanted}; this is a {kind}")
        gives = {"sum": types.NUMBER, "count": types.NUMBER}.get(name, inner)
        return ast.Call(ast.Name(f"_a_{name}", ast.Load()), [fast], []), gives

    def on_GeneratorExp(self, node: ast.GeneratorExp | ast.ListComp, depth: int) -> tuple[ast.expr, str]:
        fast, kind = self.on_each(node, depth)
        return ast.Call(ast.Name("_tuple", ast.Load()), [fast], []), kind

    on_ListComp = on_GeneratorExp

    def on_each(self, node: ast.GeneratorExp | ast.ListComp, depth: int, counted: bool = False) -> tuple[ast.expr, str]:
        outer, made = dict(self.loops), []
        for loop in node.generators:
            if not isinstance(loop.target, ast.Name) or len(self.loops) >= MOST_LOOPS:
                raise self.fail(node, f"a rule goes over {MOST_LOOPS} lists at a time, each with one letter")
            items, kind = self.visit(loop.iter, depth)
            if kind.startswith(types.ITEMS):
                self.loops[self.letter(loop.target)] = kind
            elif kind.startswith(types.LIST):
                self.loops[self.letter(loop.target)] = types.element(kind)
            else:
                raise self.fail(
                    loop.iter, f"after `in` comes a part that repeats, or a list; {ast.unparse(loop.iter)!r} is a {kind}"
                )
            tests = [self.expect(t, types.YES_NO, "after `if` comes a condition", depth) for t in loop.ifs]
            made.append(ast.comprehension(ast.Name(loop.target.id, ast.Store()), items, tests, 0))
        if counted and isinstance(node.elt, ast.Name) and self.loops.get(node.elt.id, "").startswith(types.ITEMS):
            # whole items are counted: count(b for b in boats if b.crane)
            node.elt = ast.copy_location(ast.Attribute(node.elt, "position", ast.Load()), node.elt)
        element, kind = self.visit(node.elt, depth)
        self.loops = outer
        return ast.GeneratorExp(element, made), types.LIST + kind

    def letter(self, target: ast.Name) -> str:
        if target.id in self.scope.names or target.id in self.loops or target.id == "v" or target.id.startswith("_"):
            raise self.fail(target, f"{target.id!r} already means something; choose another letter")
        return target.id


def compile_expression(source: str, scope: Scope, wanted: str = types.ANY) -> Expression:
    """Parse, check and compile ``source``.

    ``wanted`` is the type that the place needs. Raises :class:`ExpressionError` with the column.
    """
    text = " ".join(source.split())
    if not text:
        raise ExpressionError("there is no rule here; write a condition or an amount")
    if len(text) > MOST_CHARACTERS:
        raise ExpressionError(f"this rule has {len(text)} characters; at most {MOST_CHARACTERS} may stand here")
    try:
        tree = ast.parse(text, mode="eval").body
    except (SyntaxError, ValueError, MemoryError, RecursionError) as error:
        raise ExpressionError(f"this cannot be read as a rule: {error}", getattr(error, "offset", 1) or 1) from None
    tree = _WholeColumns(scope).visit(tree)
    checker = _Checker(text, scope)
    fast, gives = checker.visit(tree)
    if not types.fits(gives, wanted):
        raise ExpressionError(f"a {wanted} is needed here; this gives a {gives}")
    called = {n.func.id for n in ast.walk(tree) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}
    functions = {name: f for name in called if (f := scope.function(name))}
    arguments = ast.arguments(args=[ast.arg("v")], posonlyargs=[], kwonlyargs=[], kw_defaults=[], defaults=[])
    program = ast.fix_missing_locations(ast.Expression(ast.Lambda(arguments, fast)))
    surroundings = {
        "__builtins__": {},
        "_NONE": NONE,
        "_a_sum": sum_of,
        "_a_count": count_of,
        "_a_min": min,
        "_a_max": max,
        "_a_any": any,
        "_a_all": all,
        "_tuple": tuple,
        **{f"_f_{name}": function.call for name, function in functions.items()},
        **checker.constants,
    }
    compiled = eval(compile(program, "<rule>", "eval"), surroundings)  # noqa: S307 - a tree of our own making
    return Expression(text, gives, frozenset(checker.reads), tree, compiled, functions)
