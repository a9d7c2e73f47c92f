"""The part of the compiler that minds questions: their ids, what each is ready to be read with, and the order they depend in."""

from __future__ import annotations

import keyword
from collections.abc import Iterable, Iterator, Mapping

from jolly_clerk.core.currency import decimals_of
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.checked import Checked
from jolly_clerk.core.rulebook.compiled import AskedQuestion, ComputedValue, Node, PartItems, Path
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.functions import AGGREGATES, BUILT_IN
from jolly_clerk.core.rulebook.near import did_you_mean
from jolly_clerk.core.rulebook.scope import Scope
from jolly_clerk.core.say import say


class Questions(Checked):
    """An edition whose questions are checked and ordered; faults are noted where they stand."""

    def unique_ids(self) -> None:
        def once(path: Path, ids: Iterable[str], what: str) -> None:
            seen: set[str] = set()
            for n, name in enumerate(ids):
                if name in seen:
                    self.fault(
                        (*path, n),
                        say("the {what} {name} stands twice; every rule has an id of its own", what=what, name=f"{name!r}"),
                    )
                seen.add(name)

        once(("parts",), (p.id for p in self.e.parts), "part")
        for n, p in enumerate(self.e.parts):
            once(("parts", n, "questions"), (q.id for q in p.questions), "question")
        once(("documents",), (s.slot for s in self.e.documents), "slot")
        once(("must",), (x.id for x in self.e.must), "must")
        once(("either",), (group.id for group in self.e.either), "either-or")
        once(("agree",), (x.id for x in self.e.agree), "agreement")
        once(("prerequisites",), (x.id for x in self.e.prerequisites), "prerequisite")
        once(("declarations",), (x.declare for x in self.e.declarations), "declaration")
        once(("way_in",), (x.id for x in self.e.way_in), "branch")
        once(("fees",), (x.line for x in self.e.fees), "fee line")
        for n, listed in enumerate(self.e.lists.values()):
            once(("lists", list(self.e.lists)[n]), (o.id for o in listed), "choice")
        once(("reasons",), (r.id for r in self.e.reasons), "reason")
        reserved = {"case", "documents", "declarations", "signature", "fee", "base", "answer", "added", "v"}
        tops: list[tuple[str, int | str, str]] = [
            *(("parts", n, p.id) for n, p in enumerate(self.e.parts)),
            *(("values", n, v.id) for n, v in enumerate(self.e.values) if v.each is None),
        ]
        for where, at, name in tops:
            if name in reserved or sum(1 for *_, other in tops if other == name) > 1:
                self.fault(
                    (where, at, "id") if isinstance(at, int) else (where, at),
                    say("{name} already means something; choose another id", name=f"{name!r}"),
                )
        called = [("tables", *self.e.tables), ("scales", *self.e.scales), ("curves", *self.e.curves)]
        functions = {*BUILT_IN, *AGGREGATES, "asked"}
        for where, *names in called:
            for name in names:
                if name in functions:
                    self.fault((where, name), say("{name} is a function already; choose another id", name=f"{name!r}"))
                functions.add(name)
        self.readable()
        for pn, p in enumerate(self.e.parts):
            taken = {"id", "position"} | {v.id for v in self.e.values if v.each == p.id}
            for qn, q in enumerate(p.questions):
                if p.each and q.id in taken:
                    self.fault(
                        ("parts", pn, "questions", qn, "id"),
                        say("{name} already means something here; choose another id", name=f"{q.id!r}"),
                    )

    def readable(self) -> None:
        """Fault an id that a rule could not name, because it is a word of the rule language."""
        ids: list[tuple[Path, str]] = [(("parts", n, "id"), p.id) for n, p in enumerate(self.e.parts)]
        for pn, p in enumerate(self.e.parts):
            for qn, q in enumerate(p.questions):
                ids.append((("parts", pn, "questions", qn, "id"), q.id))
                ids += [(("parts", pn, "questions", qn, "columns", cn, "id"), c.id) for cn, c in enumerate(q.columns)]
        ids += [(("values", n, "id"), v.id) for n, v in enumerate(self.e.values)]
        for path, name in ids:
            if keyword.iskeyword(name) or name in ("yes", "no"):
                self.fault(
                    path,
                    say("{name} is a word of the rule language, so no rule could name it; choose another id", name=f"{name!r}"),
                )

    def questions(self) -> Iterator[tuple[str, AskedQuestion]]:
        for pn, part in enumerate(self.e.parts):
            if part.later and not part.each:
                self.fault(("parts", pn, "later"), say("`later` is for a part that repeats; say it of a question here"))
            scope = self.scope_in(part.id if part.each else None)
            for qn, q in enumerate(part.questions):
                path: Path = ("parts", pn, "questions", qn)
                columns = tuple(
                    self.asked(part, self.as_question(c), (*path, "columns", n), scope) for n, c in enumerate(q.columns)
                )
                yield f"{part.id}.{q.id}", self.asked(part, q, path, scope, columns)

    def as_question(self, column: m.Column) -> m.Question:
        return m.Question.model_construct(**{**m.Question.model_construct().__dict__, **column.model_dump()})

    def asked(
        self, part: m.Part, q: m.Question, path: Path, scope: Scope, columns: tuple[AskedQuestion, ...] = ()
    ) -> AskedQuestion:
        """A question, or a column of one of rows, ready to be read. Money has the decimals of the currency."""
        if q.type == "money":
            q = q.model_copy(update={"decimals": decimals_of(self.e.currency)})
        listed = q.type in ("one of", "several of")
        if listed and (q.options is None or q.options not in self.e.lists):
            self.fault(
                (*path, "options"),
                say("name one of the `lists` at `options`: {lists}", lists=", ".join(self.e.lists) or say("none is defined")),
            )
        if not listed and q.options is not None:
            self.fault((*path, "options"), say("a question of type {kind} has no options", kind=f"{q.type!r}"))
        if q.needed_when and not q.optional:
            self.fault((*path, "needed_when"), say("`needed_when` belongs to an optional question; this one is always needed"))
        if q.added_as and not q.later:
            self.fault((*path, "added_as"), say("`added_as` belongs to a question that may be answered `later`"))
        if q.stands_as and not (q.public or q.on_permit):
            self.fault((*path, "stands_as"), say("`stands_as` belongs to a question that is `public` or stands `on_permit`"))
        if q.later and part.each:
            self.fault(
                (*path, "later"), say("a question of a part that repeats is not answered later by itself; say it of the part")
            )
        elif q.later == "on the day" and q.type != "date":
            self.fault((*path, "later"), say("`on the day` is for a date; this is of type {kind}", kind=f"{q.type!r}"))
        choices = self.e.lists.get(q.options or "", [])
        return AskedQuestion(
            part,
            q,
            f"{part.id}.{q.id}",
            self.rule(q.when, (*path, "when"), types.YES_NO, scope),
            {o.id: o.title for o in choices},
            self.rule(q.needed_when, (*path, "needed_when"), types.YES_NO, scope),
            {
                o.id: rule
                for n, o in enumerate(choices)
                if (rule := self.rule(o.when, ("lists", q.options or "", n, "when"), types.YES_NO, scope))
            },
            columns,
            self.rule(q.usual, (*path, "usual"), types.ANSWER_TYPES.get(q.type, types.ANY), scope),
        )

    def form_fields(self, slot: m.Slot, path: Path) -> None:
        """Fault a field of a blank form that is filled in from no question, or stands twice."""
        parts = [p for p in self.e.parts if not p.each or p.id == slot.for_each]
        asked = [f"{p.id}.{q.id}" for p in parts for q in p.questions if q.type != "rows"]
        for n, field in enumerate(slot.form):
            if field.from_ and field.from_ not in asked:
                near = did_you_mean(field.from_, asked)
                told = say("`{name}` is no question that stands as often as this form{near}", name=field.from_, near=near)
                self.fault((*path, "form", n, "from"), told)
            if field.id in [other.id for other in slot.form[:n]]:
                self.fault((*path, "form", n, "id"), say("the field {name} stands twice", name=f"{field.id!r}"))

    def early(
        self, values: list[ComputedValue], part_when: Mapping[str, Expression | None], questions: Mapping[str, AskedQuestion]
    ) -> Iterator[ComputedValue]:
        """The computed answers that read no fee; those that do are kept in :attr:`late`, in an order in which each can be reckoned.

        What is asked cannot hang on them, for fees come after the answers.
        """
        place = {f"{what}.{line.line}": n + 1 for n, line in enumerate(self.e.fees) for what in ("fee", "base")}
        late: dict[str, int] = {}
        waiting = list(values)
        while found := [v for v in waiting if any(name in place or name in late for name in v.rule.reads)]:
            ready = [v for v in found if not any(other.key in v.rule.reads for other in found)] or found
            for v in ready:
                late[v.key] = max(place.get(name, late.get(name, 0)) for name in v.rule.reads)
                self.late = (*self.late, (late[v.key], v))
                waiting.remove(v)
                if v.value.each is not None:
                    self.fault(self.path_of(v), say("a computed answer of each repeat reads no fees"))
        rules: list[tuple[Path, Expression | None]] = [
            (("parts", n, "when"), part_when[p.id]) for n, p in enumerate(self.e.parts)
        ]
        rules += [(self.path_of(q), rule) for q in questions.values() for rule in (q.when, q.needed_when) if rule]
        for path, rule in rules:
            for name in sorted(rule.reads & late.keys()) if rule else ():
                self.fault(path, say("`{name}` reads fees, which come after the answers: no question hangs on it", name=name))
        yield from waiting

    def ordered(
        self,
        questions: Mapping[str, AskedQuestion],
        part_when: Mapping[str, Expression | None],
        values: list[ComputedValue],
    ) -> Iterator[Node]:
        items = {p.id: PartItems(p, p.id) for p in self.e.parts if p.each}
        nodes: dict[str, Node] = {**items, **questions, **{v.key: v for v in values}}
        needs = {key: self.needs(node, part_when) for key, node in nodes.items()}
        done: dict[str, bool] = {}

        def place(key: str, trail: tuple[str, ...]) -> Iterator[Node]:
            if key in trail:
                circle = " needs ".join([*trail[trail.index(key) :], key])
                self.fault(self.path_of(nodes[key]), say("a circle: {circle}", circle=circle))
                return
            if key in done or key not in nodes:
                return
            for other in sorted(needs[key]):
                yield from place(other, (*trail, key))
            if key not in done:
                done[key] = True
                yield nodes[key]

        for key in nodes:
            yield from place(key, ())

    def needs(self, node: Node, part_when: Mapping[str, Expression | None]) -> set[str]:
        if isinstance(node, ComputedValue):
            return set(node.rule.reads) | ({node.value.each} if node.value.each else set())
        outer = part_when[node.part.id]
        read = set(outer.reads if outer else ())
        if isinstance(node, AskedQuestion):
            for rule in (node.when, node.needed_when, *node.option_when.values()):
                read |= rule.reads if rule else set()
            read |= {node.part.id} if node.part.each else set()
        return read

    def path_of(self, node: Node) -> Path:
        if isinstance(node, ComputedValue):
            return ("values", self.e.values.index(node.value), "rule")
        part = self.e.parts.index(node.part)
        ids = [q.id for q in node.part.questions]
        if isinstance(node, PartItems):
            return ("parts", part, "when")
        return ("parts", part, "questions", ids.index(node.question.id), "when")
