"""Offices brought as far as each stage of the work, for the rows of the route table."""

from __future__ import annotations

import functools
import io
import json
import shutil
from decimal import Decimal
from pathlib import Path

from reportlab.pdfgen.canvas import Canvas
from sqlalchemy import select, update

from jolly_clerk.demo.lay import REGISTERS
from jolly_clerk.office.cases import endings, ledger, paying, refunding
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.cases.leaving import before_it_leaves
from jolly_clerk.office.desk import checking, handwork, inquiring, reviewing
from jolly_clerk.office.keeping import erasing
from jolly_clerk.office.keeping.importing import import_cases
from jolly_clerk.office.office import Who
from jolly_clerk.office.people import absences, firms
from jolly_clerk.office.people.directory import add_person, person
from jolly_clerk.office.post.mailing import put_out_mail
from jolly_clerk.office.preparing import (
    adding,
    answering,
    attaching,
    dockets,
    drafts,
    earlier,
    filing,
    inviting,
    issuing,
    mandates,
    pile,
    placing,
    remaking,
    signing,
    signing_sheet,
    transferring,
    undoing,
    uploading,
)
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.office.views.kept import kept_view
from jolly_clerk.shelf.rulebooks import SHIPPED
from jolly_clerk.store.beside import PileItem
from jolly_clerk.store.database import write_session
from jolly_clerk.store.tables import Case, Outgoing, Person
from tests.folders import office_made_once
from tests.helpers import EDITION, answers
from tests.office.test_adding import PHOTOS
from tests.office.test_importing import KEPT, package_of_another
from tests.office.test_journey import PLAN, ROOF, SMALL_PLAN, Cases
from tests.office.test_sheets import scanned
from tests.web import after_rows, desk_rows
from tests.web.after_rows import INSPECTED, ISSUED

REGISTER = """
registers:
  plots:
    title: Land register
    key: plot
    asked_by: place.plot
    columns: {plot: Plot, owner: Owner}
    article: "4(3)"
"""
DECLARATION = """
declarations:
  - {declare: true_word, title: All is true, text: What I say here is true., article: "12"}
"""

CREW = """
parts:
  - id: crew
    title: Crew
    one: Person
    each: true
    later: yes
    at_least: 0
    questions:
      - {id: name, ask: Name, type: person, article: "12"}
"""

#: the package of another office, in the folder of this one
PACKAGE = "of-another-office.zip"
#: what lies before a reviewer, or lay there
AFTER = ("meeting", "meeting on", "meeting held", "review", "beside", "decided", *ISSUED)
#: where nothing was paid yet
UNPAID = ("unpaid", "money")
BY_POST = 'printed: {when: case.today == case.today, received: 3 working days, article: "41(3)"}'
COMMITTEE = """
pathways:
  - id: plain
    title: Before the committee
    says: The committee looks at it.
    meeting: {body: committee, title: Works committee, article: "42(3)"}
    article: "42(2)"
"""


class Stages(Cases):
    """Brings a case as far as a stage of the work."""

    def begun(self, stage: str) -> dict[str, str]:
        """An office in which a case is filed, and all that a stage may need but the rest of the work."""
        file = self.folder / "BW" / "2026-07-02.yaml"
        file.parent.mkdir()
        text = EDITION.read_text("utf-8").replace("in_force: 2026-07-01", "in_force: 2026-07-02", 1)
        text = text.replace("\ncurrency:", "\nkeep: 1 day\ncurrency:", 1)
        text = text.replace("\nclock:\n", '\nclock:\n  other_body: {within: 20 days, article: "43"}\n', 1)
        text = text.replace("\nparts:\n", CREW, 1)
        text = text.replace("\nreasons:\n", f'\npublic_register: {{enters: decided, article: "47"}}\n{INSPECTED}reasons:\n', 1)
        text = text.replace(
            "files: 1 to 5, size: 20 MB}",
            "files: 1 to 5, size: 20 MB}\n    by_post: yes\n    form: [{id: what, ask: What is it?, from: works.what}]",
            1,
        )
        text = text.replace("\ndocuments:\n", f"\ndocuments:\n{PHOTOS}", 1)
        if stage == "posted":  # every letter goes by post
            text = text.replace("  answers: {within: 30 days,", f"  answers: {{within: 30 days, {BY_POST},", 1)
        if stage.startswith("meeting"):
            text += COMMITTEE
        file.write_text(text.replace("\nsignature:", f"{REGISTER}{DECLARATION}\nsignature:", 1), "utf-8")
        (self.folder / "registers").mkdir(exist_ok=True)
        (self.folder / "registers" / "plots.csv").write_text("plot,owner\nQ-114/2,Odalys Renn\n", "utf-8")
        shutil.copy(REGISTERS / "plots.geojson", self.folder / "registers")
        publish(self.office, file)
        publish(self.office, SHIPPED / "BX" / "2026-11-01.yaml")
        for id_, name, role in (("silas", "Silas Thorne", "reviewer"), ("petra", "Petra Lune", "rule-keeper")):
            add_person(self.office, id_, name, role)  # type: ignore[arg-type]
        add_person(self.office, "berta", "Berta Quill", "lead")
        add_person(self.office, "leaver", "Somebody Who Leaves", "officer", "leaver@office.example")
        names = {
            "no": "1",
            "name": "plots",
            "person": "leaver",
            "declaration": "true_word",
            "key": "none",
            "erasure": "1",
            "money": "none",
            "part": "crew",
            "kind": "csv",
            "step": "BX",
            "figure": "open",
            "form": "csv",
            "slot": "sections",
        }
        draft, to_file = self.draft(plan=SMALL_PLAN), self.draft(plan=SMALL_PLAN)
        posted = [
            dockets.add(self.office, self.odalys, one, "sections", "By hand").dossier.dockets[0] for one in (draft, to_file)
        ]
        reference = filing.file(self.office, self.odalys, to_file, take_gaps=True)
        names |= {"reference": reference, "draft": draft, "docket": posted[0].no, "docket_of_case": posted[1].no}
        names["edition"] = drafts.open_draft(self.office, self.odalys, draft).edition_sha256
        if stage not in UNPAID:
            self.pay(reference)
        return names

    def bring(self, stage: str) -> dict[str, str]:
        """An office at a stage, and the names that the addresses hold."""
        alike = stage if stage == "posted" else "meeting" if stage.startswith("meeting") else "unpaid" if stage in UNPAID else ""
        names: dict[str, str] = self.ready(f"begun-{alike}", lambda: self.begun(stage))
        names |= after_rows.rules(self, stage) if stage.startswith("rules") else {}
        berta, draft, reference = person(self.office, "berta"), names["draft"], names["reference"]
        if stage == "unpaid":
            names["unpaid"] = filing.file(self.office, self.odalys, self.draft(plan=SMALL_PLAN), take_gaps=True)
            names["key"] = paying.ask_payment(self.office, self.odalys, reference).key
        elif stage == "money":
            paying.take_money(self.office, self.imre, reference, Decimal("1.00"), "cheque", "C 9")
            names["money"] = self.money("transfer T 1")
            refunding.send_back(self.office, self.maud, self.money("transfer T 2"))
        else:
            self.further(stage, names)
        if stage == "package":
            packed = package_of_another(self.office, self.maud, load_case(self.office, self.maud, reference))
            shutil.copyfile(packed, self.folder / PACKAGE)
        if stage == "aside":
            with write_session(self.office.engine) as session:
                put_out_mail(session, "set-aside", "odalys@post.quillhaven.example", "A letter", "Here it is.", self.office.now())
                session.get_one(Outgoing, "set-aside").trouble = "the mail server refuses it for good"
        if stage in ("past", "listed"):
            endings.do_not_accept(self.office, self.imre, reference, "It cannot be.")
            self.move_to(2026, 11, 9)
            if stage == "listed":
                erasing.put_on_the_list(self.office, berta, reference, "Its time is over.")
        names["kept"] = self.kept()
        names["upload"] = uploading.begin_upload(self.office, self.odalys, names["draft"], "sections", "x.pdf", 9)
        files = drafts.open_draft(self.office, self.odalys, names["draft"]).dossier.attachments
        # taken out and put back it has the number that it had, so that it can be put back once more
        attaching.detach(self.office, self.odalys, names["draft"], files[-1].id)
        undoing.put_back_file(self.office, self.odalys, names["draft"], files[-1].id)
        item = self.piled(names["draft"])
        if stage == "filed":
            crew = {"crew": [{"id": 1, "name": "Odo Fenn"}]}
            other = drafts.start_draft(self.office, self.odalys, "BW")
            drafts.keep(self.office, self.odalys, other, None, answers=crew)
            names["earlier"] = earlier.earlier(self.office, self.odalys, names["draft"], "crew")[0].key
            names["sheet"] = scanned(signing_sheet.sheet(self.office, self.odalys, names["draft"])).decode("latin-1")
        if stage == "adding":
            names["draft"] = added = adding.begin(self.office, self.odalys, reference, "crew")
            there = drafts.open_draft(self.office, self.odalys, added).dossier.answers
            drafts.keep(self.office, self.odalys, added, None, answers={**there, "crew": [{"id": 1, "name": "Odo Fenn"}]})
            signing.sign(self.office, self.odalys, added, self.odalys.name)
        if stage == "invited":
            names["invitation"] = self.invited(names["draft"], ["look"])
        if stage == "issuer":
            names["request"] = issuing.ask(self.office, self.odalys, names["draft"], "site_plan", "ross@survey.example", "Ross")[
                0
            ].id
        if stage.startswith("mandate"):
            with write_session(self.office.engine) as session:
                session.get_one(Person, "odalys").mail = "odalys@renn.example"
            ida = add_person(self.office, "ida", "Ida Fenn", "applicant", "ida@fenn.example")
            (one,) = mandates.give(self.office, ida, "odalys@renn.example", "Odalys Renn", ["letters"])
            names["mandate"] = one.id
            if stage == "mandate over":
                mandates.accept(self.office, self.odalys, one.id)
                names["reference"] = self.filed_by(ida)
                mandates.end(self.office, ida, one.id)
        if stage == "away":
            away = absences.go_away(self.office, self.imre, "imre", "maud", self.instant.date(), self.instant.date())
            names["absence"] = away[0].id
        if stage == "firm":
            with write_session(self.office.engine) as session:
                session.get_one(Person, "odalys").mail = "odalys@renn.example"
            names["firm"] = firms.found(self.office, self.odalys, "Renn Works")[0].id
            (firm,) = firms.ask(self.office, self.odalys, names["firm"], "ben@firm.example", "Ben Marrow", keeper=False)
            names["member"] = next(m.id for m in firm.members if not m.own)
        if stage == "offered":
            with write_session(self.office.engine) as session:
                session.get_one(Person, "odalys").mail = "odalys@renn.example"
            names["draft"] = drafts.start_draft(self.office, self.tamsin, "BW")
            transferring.offer(self.office, self.tamsin, names["draft"], "odalys@renn.example")
        more = desk_rows.bring(self, stage, names)
        if stage == "counter":
            return names | {"attachment": files[-1].id, "sha256": files[-1].sha256, "item": item} | more
        names |= {name: told for name, told in more.items() if name not in names}
        if stage == "remade":
            made = remaking.remake(self.office, self.odalys, draft, "turned", [files[-1].id]).dossier.attachments[-1]
            return names | {"attachment": made.id, "sha256": made.sha256, "item": item, "piece": f"{item}-2-3"}
        return names | {"attachment": files[-1].id, "sha256": files[-1].sha256, "item": item, "piece": f"{item}-2-3"}

    def filed_by(self, who: Who) -> str:
        """The reference of a case that somebody else filed."""
        draft = drafts.start_draft(self.office, who, "BW")
        drafts.keep(self.office, who, draft, None, answers=answers())
        attaching.attach(self.office, who, draft, "site_plan", "plan.pdf", SMALL_PLAN)
        attaching.attach(self.office, who, draft, "sections", "sections.pdf", ROOF)
        signing.sign(self.office, who, draft, who.name)
        return filing.file(self.office, who, draft, take_gaps=True)

    def invited(self, of: str, rights: list[str]) -> str:
        """Ada Marsh is invited to a draft or a case of Odalys's; the invitation."""
        (one,) = inviting.invite(self.office, self.odalys, of, "ada@marsh.example", "Ada Marsh", rights)
        return one.id

    def piled(self, draft: str) -> str:
        """Sheets 2 and 3 of a file in the pile of a draft, cut from the first; their item's id."""
        buffer = io.BytesIO()
        canvas = Canvas(buffer)
        for no in range(3):
            canvas.drawString(60, 700, f"Sheet {no} of something")
            canvas.showPage()
        canvas.save()
        pile.add_to_pile(self.office, self.odalys, draft, "scan.pdf", buffer.getvalue())
        with write_session(self.office.engine) as session:
            (row,) = session.scalars(select(PileItem).where(PileItem.draft_id == draft))
            row.fixed, row.first, row.last = True, 1, 3
            session.flush()
            piece = f"{row.id}-1-3"
        placing.cut(self.office, self.odalys, draft, piece, 2)
        with write_session(self.office.engine) as session:
            return str(session.scalar(select(PileItem.id).where(PileItem.draft_id == draft, PileItem.first == 2)))

    def money(self, key: str) -> str:
        """Money that came and is not placed."""
        came = ledger.Came(key, "transfer", Decimal("20.00"), "EUR", self.instant.date())
        with write_session(self.office.engine) as session:
            return ledger.keep_money(session, self.office, "imre", came, came.amount, "it names no case").id

    def kept(self) -> str:
        """A case from elsewhere that is Odalys's; the hash of its file."""
        (self.folder / "kiln.pdf").write_bytes(ROOF)
        line = io.StringIO(json.dumps(KEPT | {"reference": "BA-1998-77"}))
        list(import_cases(self.folder, line, self.folder, io.StringIO(), 0))
        with write_session(self.office.engine) as session:
            session.execute(update(Case).where(Case.kept.is_(True)).values(applicant_id="odalys"))
        return kept_view(self.office, self.odalys, "BA-1998-77").files[0].sha256

    def further(self, stage: str, names: dict[str, str]) -> None:
        reference, imre = names["reference"], self.imre
        if stage in (
            "filed",
            "invited",
            "issuer",
            "remade",
            "offered",
            "mandate",
            "mandate over",
            "adding",
            "firm",
            "away",
            "counter",
            "feed",
            "view",
            "turn",
        ):
            return
        if stage.startswith(("till", "rules")):
            return
        checking.begin_checking(self.office, imre, reference)
        if stage == "fee set":
            handwork.set_fee(self.office, imre, reference, "shoreline", None, "A hardship.")
        if stage == "inquired":
            inquiring.ask_body(self.office, imre, reference, "Harbour Board", "May a boat lie there?")
        if stage in ("checking", "fee set", "past", "listed", "inquired"):
            return
        if stage in ("ready", "complete", *AFTER):
            self.judge_all(reference)
            if stage != "ready":
                checking.accept(self.office, imre, reference)
            if stage in AFTER:
                if stage == "beside":
                    add_person(self.office, "rowan", "Rowan Sedge", "reviewer")
                    reviewing.hand_over(self.office, imre, reference, "rowan", beside=["silas"])
                else:
                    reviewing.hand_over(self.office, imre, reference, "silas")
            if stage == "decided":
                reviewing.refuse(self.office, person(self.office, "silas"), reference, "It cannot be allowed here.")
            if stage in ISSUED:
                after_rows.issued(self, stage, reference)
            return
        checking.judge(self.office, self.maud, reference, "documents.sections", "met")
        checking.judge(self.office, imre, reference, "documents.site_plan", "wanting")
        if stage == "wanting":
            return
        if stage == "leaving":
            self.office.settings.letter_waits = 600
            before_it_leaves(
                self.office, imre, reference, "send the letter", "", lambda o: checking.send_letter(o, imre, reference)
            )
            return
        checking.send_letter(self.office, imre, reference)
        if stage == "returned":
            handwork.letter_came_back(self.office, imre, reference)
            return
        draft = names["draft"] = answering.begin_answering(self.office, self.odalys, reference)
        drafts.keep(self.office, self.odalys, draft, None, answers(works_area="82.1"), words={1: "It is large enough."})
        signing.sign(self.office, self.odalys, draft, self.odalys.name)
        if stage == "answered":
            answering.send_answers(self.office, self.odalys, draft)
            names["draft"] = self.draft(plan=PLAN)


@functools.cache
def at_stage(stage: str) -> tuple[Path, dict[str, str]]:
    """A folder with an office at a stage, made once for all processes of a run, and the names that the addresses hold."""

    def made() -> tuple[Path, dict[str, str]]:
        maker = Stages()
        maker.setUp()
        names = maker.bring(stage)
        maker.office.engine.dispose()  # its readers are shared
        return maker.folder, names

    return office_made_once(f"stage-{stage}", made)
