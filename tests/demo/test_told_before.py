"""What the desk would propose as wanting or in doubt is told before filing, in the same sentence and at a place that the form shows;
and following the list of what is left is enough to file."""

from __future__ import annotations

import os
import random
import unittest
from collections.abc import Iterator
from copy import deepcopy
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from sqlalchemy import select

from jolly_clerk.core import history as h
from jolly_clerk.core.assessment import Assessment, assess
from jolly_clerk.core.assessment_view import AssessmentView, RequirementView
from jolly_clerk.core.dossier.changing import tick
from jolly_clerk.core.dossier.model import Attachment, Dossier, Signing, Version
from jolly_clerk.core.facts.reading import Reading
from jolly_clerk.core.history import History
from jolly_clerk.core.known import Known
from jolly_clerk.core.rulebook.compiled import AskedQuestion, Rulebook
from jolly_clerk.core.sides import as_applicant, as_office
from jolly_clerk.office.desk.registers import prepared
from jolly_clerk.office.office import Office, open_office
from jolly_clerk.office.rules.rulebooks import known_for, rulebook
from jolly_clerk.store.chain import load_history
from jolly_clerk.store.database import read_session
from jolly_clerk.store.tables import Case, Draft
from tests.core.test_workings import value_for
from tests.helpers import demo_folder

#: how many random drafts are tried; 200 in the long run
COUNT = int(os.environ.get("JOLLY_CLERK_DRAFTS", "60"))
#: what is told at a question, at an item, a part or a slot, as the screen shows it: see frontend/src/filing/draft.ts
AT_A_PLACE = ("rule", "agreement", "prerequisite")


@dataclass(frozen=True, slots=True)
class Prepared:
    """What somebody has before the eyes who is about to file, and what is known of it."""

    name: str
    rules: Rulebook
    dossier: Dossier
    known: Known
    at: datetime

    def assessed(self, history: History = h.NO_HISTORY) -> Assessment:
        return assess(self.rules, self.dossier, history, self.known, self.at)

    def filed(self) -> Assessment:
        """The same, filed this instant, as the desk has it."""
        version = Version(no=1, at=self.at, dossier=self.dossier)
        entry = h.Filed(
            at=self.at,
            who="x",
            role="applicant",
            version=1,
            edition=self.rules.edition.id,
            edition_sha256="0" * 64,
            dossier_hash="0" * 64,
            due_at_filing=0,
        )
        return self.assessed(History(entries=(entry,), versions=(version,)))


def is_shown(view: AssessmentView, rules: Rulebook, place: str) -> bool:
    """True if the form shows a place: a question or an item of an asked part, a slot, a declaration, the signature."""
    head = place.partition(".")[0]
    if head in ("documents", "declarations", "signature"):
        return True
    part = next((p for p in view.parts if p.id == head), None)
    if part is None or not part.asked:
        return False
    items = rules.parts[head].each and place.count(".") < 2
    return bool(items) or any(q.place == place and q.asked != "no" for q in part.questions) or place == head


def told(r: RequirementView, view: AssessmentView, rules: Rulebook) -> bool:
    """True if the applicant reads the sentence of a requirement, at one of its places or in the list of what is left."""
    at_a_place = any(is_shown(view, rules, place.ref) for place in r.places)
    if r.kind in AT_A_PLACE:
        return at_a_place
    if r.kind == "document":
        return at_a_place and (bool(r.findings) or not r.files or r.proposed == "wanting")
    if r.kind == "answer":
        state = next((q for p in view.parts for q in p.questions if q.place == r.places[0].ref), None)
        listed = any(gap.place and gap.place.ref == r.places[0].ref for gap in view.left)
        return listed and (state is None or state.fault in ("", r.because))
    return any(gap.place == r.places[0] for gap in view.left)


class Told(unittest.TestCase):
    office: Office

    @classmethod
    def setUpClass(cls) -> None:
        cls.office = open_office(demo_folder(), demo=True)
        cls.addClassCleanup(cls.office.close)
        cls.good: dict[str, list[Prepared]] = {}
        cls.papers: dict[tuple[str, str], Attachment] = {}
        readings: dict[str, Reading] = {}
        for one in cls.all_prepared():
            kind = one.rules.edition.kind
            readings |= one.known.readings
            cls.papers |= {(kind, a.slot.partition(".")[0]): a for a in one.dossier.attachments}
            if not one.assessed().left and one.assessed().move("applicant", "file").allowed:
                cls.good.setdefault(kind, []).append(one)
        cls.readings = readings

    @classmethod
    def all_prepared(cls) -> Iterator[Prepared]:
        """Every draft of the demo, and the first version of every case as the draft that it was."""
        with read_session(cls.office.engine) as session:
            drafts = [(d.id, d.owner_id, d.kind, Dossier.model_validate(d.dossier)) for d in session.scalars(select(Draft))]
            cases = [
                (c.reference, c.applicant_id, c.edition_sha256, load_history(session, c.id))
                for c in session.scalars(select(Case))
            ]
        now = cls.office.now()
        editions = {sha: rulebook(cls.office, sha) for _, _, sha, _ in cases}
        newest = {r.edition.kind: sha for sha, r in sorted(editions.items(), key=lambda pair: pair[1].edition.in_force)}
        for id_, owner, kind, dossier in drafts:
            if kind in newest:
                yield cls.prepared(id_, owner, newest[kind], dossier, now)
        for reference, owner, sha, history in cases:
            if history.versions:
                yield cls.prepared(reference or "", owner, sha, history.versions[0].dossier, history.versions[0].at)

    @classmethod
    def prepared(cls, name: str, owner: str, sha: str, dossier: Dossier, at: datetime) -> Prepared:
        rules = rulebook(cls.office, sha)
        known = known_for(cls.office, sha, {a.sha256 for a in dossier.attachments})
        return Prepared(name, rules, dossier, replace(known, registers=prepared(cls.office, rules, dossier, owner)), at)

    def need_told(self, one: Prepared) -> int:
        """Every proposal of the desk stands before the applicant; returns how many."""
        view, desk = as_applicant(one.assessed()), as_office(one.filed(), {}, "officer")
        count = 0
        for r in desk.requirements:
            if r.proposed not in ("wanting", "in doubt") or r.kind in ("fee", "added"):
                continue
            before = view.requirement(r.id)
            self.assertIsNotNone(before, f"{one.name}: {r.id} is told to the desk alone")
            assert before is not None
            self.assertEqual((before.proposed, before.because, before.findings), (r.proposed, r.because, r.findings), r.id)
            self.assertTrue(told(before, view, one.rules), f"{one.name}: {r.id}, {r.because}")
            count += 1
        return count

    def test_of_every_draft_and_case_of_the_demo(self) -> None:
        counts = [self.need_told(one) for one in self.all_prepared()]
        self.assertGreater(len(counts), 60)
        self.assertGreater(sum(counts), 60)

    def test_of_random_drafts_and_the_list_of_what_is_left_is_enough_to_file_them(self) -> None:
        chance, counts, steps = random.Random(12), 0, []
        kinds = sorted(kind for kind, good in self.good.items() if good[0].rules.step is None)
        self.assertEqual(kinds, ["BW", "CP", "CT", "IP", "PL", "QV", "TL"])
        for n in range(COUNT):
            good = chance.choice(self.good[kinds[n % len(kinds)]])
            known = replace(good.known, readings=self.readings)
            one = replace(good, known=known, dossier=spoilt(good, chance), name=f"{good.name} spoilt {n}")
            counts += self.need_told(one)
            steps.append(self.follow_the_list(one, good))
        self.assertGreater(counts, COUNT)
        print(f"    {COUNT} random drafts: {counts} proposals of the desk told before, at most {max(steps)} steps to file one")

    def follow_the_list(self, one: Prepared, good: Prepared) -> int:
        """Put right what the list names, and nothing else, until it names nothing; then the engine takes it. Returns the steps."""
        chance, tried = random.Random(3), set[str]()
        for step in range(90):
            a = one.assessed()
            if a.way_in is not None and a.way_in.stops:  # told by the verdict of the way in: it is not filed at all
                return step
            if not a.left:
                move = a.move("applicant", "file")
                self.assertTrue(move.allowed, f"{one.name}: {[w.text for w in move.why_not]}")
                return step
            gap = a.left[0]
            assert gap.place is not None
            named = next(r for r in a.requirements if r.places and r.places[0] == gap.place and r.title == gap.title)
            dossier = one.dossier
            for place in named.places:
                if place.ref not in tried:
                    dossier = self.put_right(dossier, place.ref, good.dossier, one)
                tried.add(place.ref)
            if dossier == one.dossier:  # what was right for the good draft is not for this one: the other answer is
                for place in named.places:
                    dossier = answered_otherwise(dossier, place.ref, one, chance)
                    tried -= {place.ref} if place.ref.startswith(("documents.", "declarations.", "signature")) else set()
            self.assertTrue(dossier != one.dossier, f"{one.name}: {gap.text} names a place where nothing can be put right")
            one = replace(one, dossier=dossier)
        raise AssertionError(f"{one.name}: the list has no end: {[gap.text for gap in one.assessed().left]}")

    def put_right(self, dossier: Dossier, place: str, good: Dossier, one: Prepared) -> Dossier:
        """With what stands in the good draft at one place; what was not asked there is answered plainly."""
        head, _, rest = place.partition(".")
        if head == "documents":
            others = tuple(a for a in dossier.attachments if a.slot != rest)
            here = [a for a in good.attachments if a.slot == rest] or self.some_paper(one, rest)
            return dossier.model_copy(update={"attachments": (*others, *here)})
        if head == "declarations":
            said = next(d.declaration for d in one.rules.declarations if d.declaration.declare == rest)
            return tick(dossier, rest, said.text, one.at)
        if head == "signature":
            assert good.signature is not None
            signed = Signing(name=good.signature.name, at=one.at, text=good.signature.text)
            return dossier.model_copy(update={"signature": signed})
        answers = deepcopy(dict(dossier.answers))
        theirs = good.answers.get(head, [{"id": 1}] if one.rules.parts[head].each else {})
        answers.setdefault(head, [{"id": 1}] if one.rules.parts[head].each else {})
        if not rest:
            answers[head] = deepcopy(theirs)
        elif isinstance(theirs, list):
            number, _, question = rest.partition(".")
            same = {str(item.get("id", n)): item for n, item in enumerate(theirs, 1)}
            for n, item in enumerate(answers[head], 1):
                if str(item.get("id", n)) == number and question:
                    item[question] = deepcopy(same.get(number, {}).get(question) or plain_answer(one, head, question))
        elif isinstance(theirs, dict):
            there = theirs.get(rest)
            answers[head][rest] = plain_answer(one, head, rest) if there in (None, "", []) else deepcopy(there)
        return dossier.model_copy(update={"answers": answers})

    def some_paper(self, one: Prepared, slot: str) -> list[Attachment]:
        """A paper for a slot that the good draft has none for: that of another draft, or a plain one."""
        kind = one.rules.edition.kind
        paper = self.papers.get((kind, slot.partition(".")[0])) or next(
            a for (of, _), a in self.papers.items() if of == kind and a.name.endswith(".pdf")
        )
        return [paper.model_copy(update={"id": f"a{900 + len(slot)}", "slot": slot})]


def spoilt(good: Prepared, chance: random.Random) -> Dossier:
    """A good draft with some answers made odd, some left out, files taken out or put into another slot, ticks and signature gone."""
    answers: dict[str, Any] = deepcopy(dict(good.dossier.answers))
    for part, given in answers.items():
        for item in given if isinstance(given, list) else [given]:
            for q in good.rules.parts[part].questions if part in good.rules.parts else ():
                turn = chance.random()
                if q.id in item and turn < 0.07:
                    del item[q.id]
                elif turn < 0.16 and (new := value_for(q, good.rules, chance)) is not None:
                    item[q.id] = new
    files = [a for a in good.dossier.attachments if chance.random() > 0.12]
    if len(files) > 1 and chance.random() < 0.4:
        a, b = chance.sample(range(len(files)), 2)
        files[a], files[b] = (
            files[a].model_copy(update={"slot": files[b].slot}),
            files[b].model_copy(update={"slot": files[a].slot}),
        )
    declared = tuple(d for d in good.dossier.declared if chance.random() > 0.2)
    signature = good.dossier.signature if chance.random() > 0.3 else None
    more = {"answers": answers, "attachments": tuple(files), "declared": declared, "signature": signature}
    return good.dossier.model_copy(update=more)


def plain_answer(one: Prepared, part: str, question: str) -> Any:
    """An answer that fits the type of a question."""
    return plainly(one.rules.questions[f"{part}.{question}"], one.at.date().isoformat())


def plainly(asked: AskedQuestion, today: str) -> Any:
    kind, least = asked.question.type, asked.question.at_least
    if kind == "rows":
        return [{"id": 1, **{column.question.id: plainly(column, today) for column in asked.columns}}]
    if kind == "one of":
        return next(iter(asked.options))
    if kind == "several of":
        return list(asked.options)[:1]
    plain = {
        "yes or no": "no",
        "date": today,
        "number": str(least or 1),
        "count": str(least or 1),
        "money": str(least or 1),
    }
    return plain.get(kind, "As agreed")


def answered_otherwise(dossier: Dossier, place: str, one: Prepared, chance: random.Random) -> Dossier:
    """With another answer to a question that is answered by yes or no, by a number, or by a choice of what is offered."""
    part, _, rest = place.partition(".")
    number, _, question = rest.rpartition(".")
    asked = one.rules.questions.get(f"{part}.{question}")
    state = next((q for p in one.assessed().parts for q in p.questions if q.place == place), None)
    if asked is None or state is None:  # a part, a paper, the signature: nothing to choose from
        return dossier
    answers = deepcopy(dict(dossier.answers))
    given = answers[part]
    item = next(i for n, i in enumerate(given, 1) if str(i.get("id", n)) == number) if number else given
    if asked.question.type == "yes or no":
        item[question] = "no" if str(item.get(question)) in ("yes", "True") else "yes"
    elif asked.question.type in ("count", "number", "money"):  # more of it, where too little was said
        item[question] = str(asked.question.at_most or 1000)
    elif asked.question.type == "one of":
        offered = asked.options if state.offered is None else state.offered
        item[question] = chance.choice([o for o in offered if o != item.get(question)] or [None])
    return dossier.model_copy(update={"answers": answers})
