"""Makes an edition ready to run, or refuses it whole with all its faults at once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from jolly_clerk.core.in_words import one_of
from jolly_clerk.core.rulebook import model as m
from jolly_clerk.core.rulebook import types
from jolly_clerk.core.rulebook.checked import key_of
from jolly_clerk.core.rulebook.compiled import (
    AskedQuestion,
    CompiledAgree,
    CompiledBranch,
    CompiledDeclaration,
    CompiledEither,
    CompiledMust,
    CompiledPathway,
    CompiledPeriods,
    CompiledPrerequisite,
    CompiledSlot,
    ComputedValue,
    Path,
    Rulebook,
    RulebookFaults,
)
from jolly_clerk.core.rulebook.compiling_steps import Steps
from jolly_clerk.core.rulebook.expressions import Expression
from jolly_clerk.core.rulebook.fee_lines import compile_debts, compile_lines
from jolly_clerk.core.rulebook.glossary import glossary
from jolly_clerk.core.rulebook.near import did_you_mean, nearest
from jolly_clerk.core.rulebook.profiles import fault_of_profile
from jolly_clerk.core.rulebook.texts import Text, compile_text
from jolly_clerk.core.rulebook.wording import every_placed_text, placed_texts, plain
from jolly_clerk.core.say import say

LETTER_NAMES = dict.fromkeys(
    ("count", "due", "once_more", "target", "grounds", "refund", "amount", "because", "lane", "grants", "body"), types.TEXT
)
OTHER_TARGETS = {"answer", "declarations", "signature", "fee", "added", "not accepted", "out of scope", "refused"}


def _no_place(ref: str, places: Iterable[str]) -> str:
    same = [f"`{place}`" for place in sorted(places) if place.endswith(f".{ref}")]
    near = say("; did you mean {names}?", names=one_of(same)) if same else did_you_mean(ref, places)
    return say("`{ref}` is no place; write part.question or documents.slot{near}", ref=ref, near=near)


def compile_edition(edition: m.Edition) -> Rulebook:
    """Check and compile an edition. Raises :class:`RulebookFaults` with every fault found."""
    return _Compiler(edition).run()


class _Compiler(Steps):
    def run(self) -> Rulebook:
        self.unique_ids()
        part_when = {p.id: self.rule(p.when, ("parts", n, "when"), types.YES_NO) for n, p in enumerate(self.e.parts)}
        questions = dict(self.questions())
        values = list(self.early(list(self.values()), part_when, questions))
        branches = tuple(self.branches())
        self.registers(questions)
        self.lanes()
        self.letters_in()
        self.translations()
        rulebook = Rulebook(
            edition=self.e,
            parts={p.id: p for p in self.e.parts},
            questions=questions,
            order=tuple(self.ordered(questions, part_when, values)),
            part_when=part_when,
            slots={s.slot.slot: s for s in self.slots()},
            eithers=tuple(self.eithers()),
            musts=tuple(self.musts()),
            agrees=tuple(self.agrees({v.key: v for v in values})),
            prerequisites=tuple(self.prerequisites()),
            declarations=tuple(self.declarations()),
            branches=branches,
            way_in_asks=self.way_in_asks(questions, values, branches),
            pathways=tuple(self.pathways()),
            lines=tuple(compile_lines(self)),
            debts=tuple(compile_debts(self)),
            reasons=dict(self.reasons()),
            late=self.late,
            case_title=self.text(self.e.case_title, ("case_title",)) or compile_text("", self.scope),
            letters=self.letters(),
            step=self.step(),
            scope=self.scope,
            money_names=self.money,
            periods=self.periods(),
            words=glossary(self.e, {v.key: v for v in (*values, *(node for _, node in self.late))}),
        )
        if self.faults:
            raise RulebookFaults(self.faults)
        return rulebook

    def values(self) -> Iterator[ComputedValue]:
        for n, v in enumerate(self.e.values):
            path: Path = ("values", n)
            self.repeated(v.each, path)
            scope = self.scope_in(v.each, {f"{what}.{x.line}": types.NUMBER for x in self.e.fees for what in ("fee", "base")})
            if v.limit is None:
                rule = self.rule(v.rule, (*path, "rule"), types.ANY, scope)
            else:
                side = "before" if v.limit.before else "after"
                rule = self.rule(v.limit.before or v.limit.after, (*path, "limit", side), types.ANY, scope)
                wanted = types.MOMENT if v.limit.within.in_hours else types.DATE
                if rule and rule.gives not in (wanted, types.MOMENT, types.ANY):
                    self.fault(
                        (*path, "limit", side),
                        say(
                            "{within} are counted from a {wanted}; this gives a {gives}",
                            within=v.limit.within,
                            wanted=wanted,
                            gives=rule.gives,
                        ),
                    )
            if rule:
                yield ComputedValue(v, key_of(v), rule)

    def slots(self) -> Iterator[CompiledSlot]:
        for n, s in enumerate(self.e.documents):
            path: Path = ("documents", n)
            self.repeated(s.for_each, (*path,), "for_each")
            scope = self.scope_in(s.for_each)
            until = None
            if s.until:
                side = "before" if s.until.before else "after"
                until = self.rule(s.until.before or s.until.after, (*path, "until", side), types.DATE, scope)
                if s.until.within.in_hours:
                    self.fault((*path, "until", "within"), say("a document has days, weeks, months or years, not hours"))
            named = self.text(s.named, (*path, "named"), scope=scope)
            issued = self.rule(s.issued.before, (*path, "issued", "before"), types.DATE, scope) if s.issued else None
            valid = self.rule(s.valid.on, (*path, "valid", "on"), types.DATE, scope) if s.valid else None
            bears = self.rule(s.in_the_name_of, (*path, "in_the_name_of"), types.TEXT, scope)
            self.dated(s, path)
            self.form_fields(s, path)
            yield CompiledSlot(s, self.rule(s.when, (*path, "when"), types.YES_NO, scope), until, named, issued, valid, bears)

    def dated(self, s: m.Slot, path: Path) -> None:
        """Fault a day of a paper that nothing reads, and a slot that is no slot."""
        dates = {f.id for f in s.facts if f.type == "date"}
        for key, told in (("issued", s.issued), ("valid", s.valid)):
            if told and told.fact not in dates:
                self.fault((*path, key, "fact"), say("{fact} is no date among the `facts` of this slot", fact=f"{told.fact!r}"))
        others = {o.slot for o in self.e.documents if o.for_each == s.for_each} - {s.slot}
        for name in s.may_be_in:
            if name not in others:
                self.fault(
                    (*path, "may_be_in"), say("{name} is no other slot that stands as often as this one", name=f"{name!r}")
                )

    def eithers(self) -> Iterator[CompiledEither]:
        single = {s.slot for s in self.e.documents if s.for_each is None}
        for n, either in enumerate(self.e.either):
            for slot in either.slots:
                if slot not in single:
                    self.fault(("either", n, "slots"), say("{slot} is no slot that stands once", slot=f"{slot!r}"))
            yield CompiledEither(either, self.rule(either.when, ("either", n, "when"), types.YES_NO))

    def musts(self) -> Iterator[CompiledMust]:
        parts = {p.id for p in self.e.parts}
        places = self.places()
        for n, must in enumerate(self.e.must):
            path: Path = ("must", n)
            if must.part not in parts:
                self.fault((*path, "part"), say("no part is called {part}", part=f"{must.part!r}"))
            for ref in must.at:
                if ref not in places:
                    self.fault((*path, "at"), _no_place(ref, places))
            if must.rule and not must.otherwise:
                self.fault(path, say("a must with a rule says what is wrong `otherwise`"))
            self.repeated(must.each, path)
            scope = self.scope_in(must.each)
            yield CompiledMust(
                must,
                self.rule(must.when, (*path, "when"), types.YES_NO, scope),
                self.rule(must.rule, (*path, "rule"), types.YES_NO, scope),
                self.text(must.otherwise, (*path, "otherwise"), scope=scope),
            )

    def places(self) -> set[str]:
        asked = {f"{p.id}.{q.id}" for p in self.e.parts for q in p.questions} | {p.id for p in self.e.parts}
        return asked | {f"documents.{s.slot}" for s in self.e.documents} | {"signature"}

    def agrees(self, computed: Mapping[str, ComputedValue]) -> Iterator[CompiledAgree]:
        parts, known, asked = {p.id for p in self.e.parts}, self.fact_places(), self.places()
        questions = {f"{p.id}.{q.id}" for p in self.e.parts for q in p.questions}
        for n, agree in enumerate(self.e.agree):
            path: Path = ("agree", n)
            if agree.part not in parts:
                self.fault((*path, "part"), say("no part is called {part}", part=f"{agree.part!r}"))
            for ref in agree.places:
                if ref not in known and ref not in computed:
                    self.fault(
                        (*path, "places"),
                        say(
                            "{ref} is no question, no computed answer, no fact of a slot and no column of a register",
                            ref=f"{ref!r}",
                        ),
                    )
            self.repeated(agree.each, path)
            read = (
                name for ref in agree.places if ref in computed for name in sorted(computed[ref].rule.reads) if name in questions
            )
            looked = dict.fromkeys([*(ref for ref in agree.places if ref in asked), *read])
            looked |= dict.fromkeys(at for ref in agree.places if (at := f"documents.{ref.partition('.')[0]}") in asked)
            when = self.rule(agree.when, (*path, "when"), types.YES_NO, self.scope_in(agree.each))
            yield CompiledAgree(agree, when, tuple(looked) or (agree.part,))

    def prerequisites(self) -> Iterator[CompiledPrerequisite]:
        for n, wanted in enumerate(self.e.prerequisites):
            path: Path = ("prerequisites", n)
            if wanted.part not in {p.id for p in self.e.parts}:
                self.fault((*path, "part"), say("no part is called {part}", part=f"{wanted.part!r}"))
            register = self.e.registers.get(wanted.register_)
            if register is None or register.cases_of is None:
                self.fault(
                    (*path, "register"),
                    say("{register} is no register of cases; give it `cases_of`", register=f"{wanted.register_!r}"),
                )
            yield CompiledPrerequisite(wanted, self.rule(wanted.when, (*path, "when"), types.YES_NO))

    def declarations(self) -> Iterator[CompiledDeclaration]:
        for n, said in enumerate(self.e.declarations):
            yield CompiledDeclaration(said, self.rule(said.when, ("declarations", n, "when"), types.YES_NO))

    def translations(self) -> None:
        """Fault what translates no text of the form, at the text that it nearly is, if there is one."""
        texts = every_placed_text(self.e) if self.e.translations else placed_texts(self.e)
        placed = {plain(text): path for path, text in reversed(list(texts))}
        for language, told in self.e.translations.items():
            said = {plain(text) for text in told}
            for text in told:
                if plain(text) in placed:
                    continue
                near = nearest(plain(text), [there for there in placed if there not in said], 80)
                if near:
                    message = say(
                        "“{text}” is translated ({language}), and this text differs from it", text=text, language=language
                    )
                    self.fault(placed[near], message)
                self.fault(("translations", language, text), say("no text of the form reads “{text}”", text=text))

    def letters_in(self) -> None:
        """Fault a language of letters that is chosen by no question with choices."""
        asked = next((q for p in self.e.parts for q in p.questions if f"{p.id}.{q.id}" == self.e.letters_in), None)
        if self.e.letters_in and (asked is None or asked.type != "one of"):
            message = say(
                "{name} is no question with one choice; name the one that asks for the language", name=repr(self.e.letters_in)
            )
            self.fault(("letters_in",), message)

    def lanes(self) -> None:
        if self.e.lanes is None:
            return
        path: Path = ("lanes",)
        self.repeated(self.e.lanes.each, path)

    def periods(self) -> CompiledPeriods:
        found: dict[str, tuple[tuple[Expression, m.Instead], ...]] = {}
        for name in ("check", "answers", "pay", "decision"):
            rules = []
            for n, instead in enumerate(getattr(self.e.clock, name).instead):
                rule = self.rule(instead.when, ("clock", name, "instead", n, "when"), types.YES_NO)
                if rule is not None:
                    rules.append((rule, instead))
            if rules:
                found[name] = tuple(rules)
        latest, path = self.e.clock.answers.at_latest, ("clock", "answers", "at_latest")
        at = self.rule(latest.before, (*path, "before"), types.DATE) if latest else None
        if latest and latest.within.in_hours:
            self.fault((*path, "within"), say("a last day counted backwards has days, weeks or months, not hours"))
        granted = self.e.after_grant
        starts, ends = (
            self.rule(said.on, ("after_grant", name, "on"), types.DATE) if said else None
            for name, said in (("starts", granted and granted.starts), ("ends", granted and granted.ends))
        )
        by_post = self.e.clock.answers.printed
        printed = self.rule(by_post.when, ("clock", "answers", "printed", "when"), types.YES_NO) if by_post else None
        return CompiledPeriods(found, at, printed, starts, ends)

    def fact_places(self) -> set[str]:
        asked = {f"{p.id}.{q.id}" for p in self.e.parts for q in p.questions}
        facts = {f"{s.slot}.{f.id}" for s in self.e.documents for f in s.facts}
        return asked | facts | {f"{name}.{column}" for name, r in self.e.registers.items() for column in r.columns}

    def registers(self, questions: Mapping[str, AskedQuestion]) -> None:
        columns = {f"{name}.{column}" for name, r in self.e.registers.items() for column in r.columns}
        for name, register in self.e.registers.items():
            for key, question in (("asked_by", register.asked_by), ("measures", register.measures)):
                if question and question not in questions:
                    self.fault(("registers", name, key), say("no question is called {asked_by}", asked_by=f"{question!r}"))
            for column in (register.key, *register.inner):
                if column not in register.columns:
                    place: Path = ("registers", name, "key" if column == register.key else "inner")
                    columns_ = ", ".join(register.columns)
                    self.fault(
                        place, say("the register has no column `{column}`; it has {columns}", column=column, columns=columns_)
                    )
            for column in register.gives:
                if column not in register.columns or register.cases_of is None:
                    self.fault(("registers", name, "gives", column), say("`gives` fills a column of a register with `cases_of`"))
        for pn, part in enumerate(self.e.parts):
            for qn, q in enumerate(part.questions):
                if said := fault_of_profile(q.profile, q.type, bool(part.each)):
                    self.fault(("parts", pn, "questions", qn, "profile"), said)
                if q.register_ is not None and q.register_ not in columns:
                    self.fault(
                        ("parts", pn, "questions", qn, "register"),
                        say("{register} is no column of a register", register=f"{q.register_!r}"),
                    )

    def branches(self) -> Iterator[CompiledBranch]:
        for n, branch in enumerate(self.e.way_in):
            path: Path = ("way_in", n)
            last = n == len(self.e.way_in) - 1
            if (branch.when is None) != last:
                self.fault(
                    path,
                    say("the last branch of the way in has no `when`, and only the last")
                    if last
                    else say("only the last branch has no `when`"),
                )
            because = self.text(branch.because, (*path, "because")) or compile_text("", self.scope)
            yield CompiledBranch(branch, self.rule(branch.when, (*path, "when"), types.YES_NO), because)

    def way_in_asks(
        self, questions: Mapping[str, AskedQuestion], values: list[ComputedValue], branches: tuple[CompiledBranch, ...]
    ) -> tuple[str, ...]:
        """The questions that the branches read, with those that decide whether these are asked, in the order of the branches."""
        rules = {v.key: v.rule for v in values}
        place = {key: n for n, key in enumerate(questions)}
        found: dict[str, None] = {}

        def in_order(names: Iterable[str]) -> list[str]:
            return sorted(names, key=lambda name: (place.get(name, -1), name))

        def need(name: str) -> None:
            if name in rules:
                for other in in_order(rules[name].reads):
                    need(other)
            elif name in questions and name not in found:
                node = questions[name]
                for other in in_order(node.when.reads) if node.when else ():
                    need(other)
                found[name] = None

        for branch in branches:
            for name in in_order(branch.when.reads) if branch.when else ():
                need(name)
        return tuple(found)

    def pathways(self) -> Iterator[CompiledPathway]:
        for n, pathway in enumerate(self.e.pathways):
            last = n == len(self.e.pathways) - 1
            if (pathway.when is None) != last:
                self.fault(("pathways", n), say("the last pathway has no `when`, and only the last"))
            yield CompiledPathway(pathway, self.rule(pathway.when, ("pathways", n, "when"), types.YES_NO))

    def each_of(self, target: str) -> str | None:
        """The part whose items a reason is for, if its target is made for each of them."""
        each: dict[str, str | None] = {s.slot: s.for_each for s in self.e.documents}
        each |= {must.id: must.each for must in self.e.must} | {agree.id: agree.each for agree in self.e.agree}
        return each.get(target)

    def reasons(self) -> Iterator[tuple[str, tuple[m.Reason, Text]]]:
        targets = (
            {s.slot for s in self.e.documents}
            | {x.id for x in self.e.must}
            | {agree.id for agree in self.e.agree}
            | {either.id for either in self.e.either}
            | {wanted.id for wanted in self.e.prerequisites}
            | OTHER_TARGETS
        )
        for n, reason in enumerate(self.e.reasons):
            if reason.for_ not in targets:
                self.fault(
                    ("reasons", n, "for"),
                    say(
                        "`{what}` is no slot, no must, no agreement{near}; besides there are {others}",
                        what=reason.for_,
                        near=did_you_mean(reason.for_, targets),
                        others=", ".join(f"`{other}`" for other in sorted(OTHER_TARGETS)),
                    ),
                )
            text = self.text(reason.says, ("reasons", n, "says"), scope=self.scope_in(self.each_of(reason.for_)))
            if text:
                yield reason.id, (reason, text)

    def letters(self) -> dict[str, dict[str, Text]]:
        made: dict[str, dict[str, Text]] = {}
        for name in m.Letters.model_fields:
            letter = getattr(self.e.letters, name)
            made[name] = {
                key: text
                for key in m.LetterText.model_fields
                if (text := self.text(getattr(letter, key), ("letters", name, key), LETTER_NAMES))
            }
        return made
