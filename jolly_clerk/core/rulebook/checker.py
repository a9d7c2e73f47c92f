"""Walks the tree of a rule once: which nodes, names and types may stand where; writes the plain Python that runs."""

from __future__ import annotations

import ast
from decimal import Decimal
from typing import Any

from jolly_clerk.core.absence import NONE
from jolly_clerk.core.in_words import all_of
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.complaints import (
    called_otherwise,
    not_comparable,
    not_joined,
    unknown_function,
    unknown_name,
)
from jolly_clerk.core.rulebook.dates import MEMBER, SAME
from jolly_clerk.core.rulebook.evaluate import EACH
from jolly_clerk.core.rulebook.functions import AGGREGATES
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.scope import ExpressionError, Scope, dotted
from jolly_clerk.core.say import say
from jolly_clerk.core.things import things
from jolly_clerk.core.values import Value

MOST_NODES, MOST_DEPTH, MOST_DIGITS, MOST_LOOPS = 400, 40, 28, 2

_ARITHMETIC = {ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.Div: "/", ast.FloorDiv: "//", ast.Mod: "%"}
_ORDER = (ast.Lt, ast.LtE, ast.Gt, ast.GtE)
_WORDS = {"yes": True, "no": False, "True": True, "False": False}


class Checker:
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
            raise self.fail(node, say("this rule is too long; name a part of it under `values`"))
        handler = getattr(self, f"on_{type(node).__name__}", None)
        if isinstance(node, ast.Subscript):
            raise self.fail(node, called_otherwise(node, self.scope))
        if handler is None:
            raise self.fail(node, say("`{expression}` may not stand in a rule", expression=ast.unparse(node)))
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
        raise self.fail(
            node, say("`{expression}` is no plain number; write it with digits and one point", expression=ast.unparse(node))
        )

    def on_Name(self, node: ast.expr, depth: int) -> tuple[ast.expr, str]:
        name = dotted(node)
        if name is None:
            raise self.fail(node, say("only names like part.question may have a point in them"))
        node.dotted = name  # type: ignore[attr-defined]  # so that the evaluator need not spell it again
        if name in _WORDS:
            node.word = _WORDS[name]  # type: ignore[attr-defined]
            return ast.Constant(_WORDS[name]), types.YES_NO
        if name == "no_date" and name not in self.scope.names:
            node.word = NONE  # type: ignore[attr-defined]
            return ast.Name("_NONE", ast.Load()), types.DATE
        head, _, rest = name.partition(".")
        if head in self.loops:
            if not self.loops[head].startswith(types.ITEMS):
                if rest:
                    raise self.fail(
                        node,
                        say(
                            "{head} is a {loops}; nothing stands after its point", head=head, loops=types.called(self.loops[head])
                        ),
                    )
                return ast.Name(head, ast.Load()), self.loops[head]
            part = self.loops[head].removeprefix(types.ITEMS)
            if not rest:
                raise self.fail(node, say("say which question of {head} is meant: {head}.something", head=head))
            kind = self.scope.items[part].get(rest)
            if kind is None:
                raise self.fail(
                    node,
                    say(
                        "`{part}` has no `{rest}`{near}",
                        rest=rest,
                        part=part,
                        near=did_you_mean(rest, self.scope.items[part]),
                    ),
                )
            self.reads.add(f"{part}.{rest}")
            return ast.Subscript(ast.Name(head, ast.Load()), ast.Constant(rest), ast.Load()), kind
        kind = self.scope.names.get(name)
        if kind is None:
            raise self.fail(node, unknown_name(name, self.scope))
        self.reads.add(name)
        return ast.Subscript(ast.Name("v", ast.Load()), ast.Constant(name), ast.Load()), kind

    on_Attribute = on_Name

    def on_BoolOp(self, node: ast.BoolOp, depth: int) -> tuple[ast.expr, str]:
        word = "and" if isinstance(node.op, ast.And) else "or"
        parts = [self.expect(v, types.YES_NO, say("`{word}` joins conditions", word=word), depth) for v in node.values]
        return self.as_bool(ast.BoolOp(node.op, parts)), types.YES_NO

    def as_bool(self, fast: ast.expr) -> ast.expr:
        return ast.IfExp(fast, ast.Constant(True), ast.Constant(False))

    def on_UnaryOp(self, node: ast.UnaryOp, depth: int) -> tuple[ast.expr, str]:
        if isinstance(node.op, ast.Not):
            return ast.UnaryOp(
                node.op, self.expect(node.operand, types.YES_NO, say("`not` goes before a condition"), depth)
            ), types.YES_NO
        if isinstance(node.op, ast.USub):
            return ast.UnaryOp(
                node.op, self.expect(node.operand, types.NUMBER, say("a minus goes before a number"), depth)
            ), types.NUMBER
        raise self.fail(node, say("only `not` and a minus may go before a value"))

    def expect(self, node: ast.expr, wanted: str, why: str, depth: int) -> ast.expr:
        fast, given = self.visit(node, depth)
        if not types.fits(given, wanted):
            raise self.fail(
                node,
                say(
                    "{why}; `{expression}` is a {given}, not a {wanted}",
                    why=why,
                    expression=ast.unparse(node),
                    given=types.called(given),
                    wanted=types.called(wanted),
                ),
            )
        return fast

    def on_BinOp(self, node: ast.BinOp, depth: int) -> tuple[ast.expr, str]:
        if isinstance(node.op, (ast.Pow, ast.BitXor)):
            power = f"power({ast.unparse(node.left)}, {ast.unparse(node.right)})"
            raise self.fail(node, say("a power is written `{right}`", right=power))
        if type(node.op) not in _ARITHMETIC:
            raise self.fail(node, say("only + - * / // % may join numbers"))
        (left, a), (right, b) = self.visit(node.left, depth), self.visit(node.right, depth)
        fast = ast.BinOp(left, node.op, right)
        if types.fits(a, types.NUMBER) and types.fits(b, types.NUMBER):
            return fast, types.NUMBER
        if isinstance(node.op, (ast.Add, ast.Sub)):
            if types.fits(a, types.DATE) and types.fits(b, types.SPAN):
                return fast, types.DATE
            if a == types.MOMENT and b in (types.SPAN, types.DURATION):
                return fast, types.MOMENT
        raise self.fail(node, not_joined(node, a, b, _ARITHMETIC[type(node.op)]))

    def on_Compare(self, node: ast.Compare, depth: int) -> tuple[ast.expr, str]:
        operands = [self.visit(n, depth) for n in (node.left, *node.comparators)]
        sides = [node.left, *node.comparators]
        for op, (_, a), (_, b), left, where in zip(node.ops, operands, operands[1:], sides, node.comparators, strict=False):
            if isinstance(op, (ast.In, ast.NotIn)):
                if not b.startswith(types.LIST) and b != types.ANY:
                    raise self.fail(
                        where,
                        say("`in` looks into a list; `{expression}` is a {b}", expression=ast.unparse(where), b=types.called(b)),
                    )
                fitting = types.fits(a, types.element(b))
            elif isinstance(op, (ast.Eq, ast.NotEq, *_ORDER)):
                fitting = types.fits(a, b)
                if fitting and isinstance(op, _ORDER) and types.YES_NO in (a, b):
                    raise self.fail(where, say("yes and no have no order"))
            else:
                raise self.fail(node, say("write `==` to compare, `!=` for its opposite; besides there are < <= > >= in, not in"))
            if not fitting:
                raise self.fail(where, not_comparable(left, where, a, b, self.scope))
        fast = [f for f, _ in operands]
        return ast.Compare(fast[0], node.ops, fast[1:]), types.YES_NO

    def on_IfExp(self, node: ast.IfExp, depth: int) -> tuple[ast.expr, str]:
        test = self.expect(node.test, types.YES_NO, say("after `if` comes a condition"), depth)
        (body, a), (other, b) = self.visit(node.body, depth), self.visit(node.orelse, depth)
        if not types.fits(a, b):
            raise self.fail(
                node,
                say("both sides of if-else are of one type; these are a {a} and a {b}", a=types.called(a), b=types.called(b)),
            )
        return ast.IfExp(test, body, other), b if a == types.ANY else a

    def on_List(self, node: ast.List | ast.Tuple, depth: int) -> tuple[ast.expr, str]:
        members = [self.visit(n, depth) for n in node.elts]
        kinds = {kind for _, kind in members} - {types.ANY}
        if len(kinds) > 1:
            raise self.fail(node, say("a list holds values of one type; these are {others}", others=all_of(sorted(kinds))))
        return ast.Tuple([f for f, _ in members], ast.Load()), types.LIST + (kinds.pop() if kinds else types.ANY)

    on_Tuple = on_List

    def on_Call(self, node: ast.Call, depth: int) -> tuple[ast.expr, str]:
        name = dotted(node.func)
        if name is None or node.keywords or any(isinstance(a, ast.Starred) for a in node.args):
            raise self.fail(node, say("call a function by its name, with values in brackets"))
        if name == "asked":
            return self.on_asked(node)
        if name in AGGREGATES:
            return self.on_aggregate(name, node, depth)
        function = self.scope.function(name)
        if function is None:
            raise self.fail(node, unknown_function(name, self.scope))
        most = len(function.takes)
        if not most - function.optional <= len(node.args) <= most:
            raise self.fail(
                node,
                say(
                    "`{name}` takes {values}, not {count}: `{help}`",
                    name=name,
                    values=things(most, "value")
                    if not function.optional
                    else say("{least} to {most} values", least=most - function.optional, most=most),
                    help=say(function.help),
                    count=len(node.args),
                ),
            )
        args, kinds = [], []
        for argument, wanted in zip(node.args, function.takes, strict=False):
            fast, kind = self.visit(argument, depth)
            if not types.fits(kind, wanted):
                told = say(
                    "`{name}` takes a {wanted} here; `{expression}` is a {kind}",
                    name=name,
                    wanted=types.called(wanted),
                    expression=ast.unparse(argument),
                    kind=types.called(kind),
                )
                raise self.fail(argument, told)
            args.append(fast)
            kinds.append(kind)
        if function.given:
            args.insert(0, ast.Subscript(ast.Name("v", ast.Load()), ast.Constant(function.given), ast.Load()))
        gives = {SAME: kinds[0], MEMBER: types.element(kinds[0])}.get(function.gives, function.gives)
        return ast.Call(ast.Name(f"_f_{name}", ast.Load()), args, []), gives

    def on_asked(self, node: ast.Call) -> tuple[ast.expr, str]:
        if len(node.args) != 1 or dotted(node.args[0]) is None:
            raise self.fail(node, say("asked() takes one name: asked(part.question)"))
        fast, _ = self.visit(node.args[0])
        return ast.Compare(fast, [ast.IsNot()], [ast.Name("_NONE", ast.Load())]), types.YES_NO

    def on_aggregate(self, name: str, node: ast.Call, depth: int) -> tuple[ast.expr, str]:
        if not node.args or (len(node.args) > 1 and name not in ("min", "max")):
            raise self.fail(
                node,
                say("`{name}` takes one list or several values", name=name)
                if name in ("min", "max")
                else say(
                    "`sum` goes over one list; plain numbers are joined: `{right}`",
                    right=" + ".join(ast.unparse(a) for a in node.args),
                )
                if name == "sum" and node.args
                else say("`{name}` takes one list: `{name}(owners.share)`", name=name),
            )
        if len(node.args) > 1:
            members = [self.visit(a, depth) for a in node.args]
            kinds = {kind for _, kind in members} - {types.ANY}
            if len(kinds) > 1:
                raise self.fail(
                    node,
                    say("{name} compares values of one type; these are {others}", name=name, others=all_of(sorted(kinds))),
                )
            return ast.Call(ast.Name(f"_a_{name}", ast.Load()), [f for f, _ in members], []), kinds.pop() if kinds else types.ANY
        only = node.args[0]
        fast, kind = self.on_each(only, depth, name == "count") if isinstance(only, EACH) else self.visit(only, depth)
        if not kind.startswith((types.LIST, types.ITEMS)) and kind != types.ANY:
            raise self.fail(
                only,
                say(
                    "`{name}` goes over a list; `{expression}` is a {kind}",
                    name=name,
                    expression=ast.unparse(only),
                    kind=types.called(kind),
                ),
            )
        inner = types.element(kind)
        wanted = {"sum": types.NUMBER, "any": types.YES_NO, "all": types.YES_NO}.get(name)
        if wanted and (not types.fits(inner, wanted) or kind.startswith(types.ITEMS)):
            raise self.fail(
                only,
                say(
                    "`{name}` goes over a {wanted}; this is a {kind}",
                    name=name,
                    wanted=types.called(types.LIST + wanted),
                    kind=types.called(kind),
                ),
            )
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
                raise self.fail(
                    node, say("a rule goes over {most_loops} lists at a time, each with one letter", most_loops=MOST_LOOPS)
                )
            items, kind = self.visit(loop.iter, depth)
            if kind.startswith(types.ITEMS):
                self.loops[self.letter(loop.target)] = kind
            elif kind.startswith(types.LIST):
                self.loops[self.letter(loop.target)] = types.element(kind)
            else:
                raise self.fail(
                    loop.iter,
                    say(
                        "after `in` comes a part that repeats, or a list; `{expression}` is a {kind}",
                        expression=ast.unparse(loop.iter),
                        kind=types.called(kind),
                    ),
                )
            tests = [self.expect(t, types.YES_NO, say("after `if` comes a condition"), depth) for t in loop.ifs]
            made.append(ast.comprehension(ast.Name(loop.target.id, ast.Store()), items, tests, 0))
        if counted and isinstance(node.elt, ast.Name) and self.loops.get(node.elt.id, "").startswith(types.ITEMS):
            # whole items are counted: count(b for b in boats if b.crane)
            node.elt = ast.copy_location(ast.Attribute(node.elt, "position", ast.Load()), node.elt)
        element, kind = self.visit(node.elt, depth)
        self.loops = outer
        return ast.GeneratorExp(element, made), types.LIST + kind

    def letter(self, target: ast.Name) -> str:
        if target.id in self.scope.names or target.id in self.loops or target.id == "v" or target.id.startswith("_"):
            raise self.fail(target, say("{letter} already means something; choose another letter", letter=f"{target.id!r}"))
        return target.id
