"""The scenes of the demo: one building works case each, played by the functions that a person's clicks call."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta

from jolly_clerk.demo import drawings
from jolly_clerk.demo.stage import Stage, answers, checked, file_and_pay, judge_all, paper, plan, prepare, roof, shore, whole
from jolly_clerk.office.cases import endings, notices, paying
from jolly_clerk.office.cases.clock_job import run_clock
from jolly_clerk.office.desk import checking, reviewing, talking
from jolly_clerk.office.preparing import answering, attaching, drafts, signing


def saltern_slip(s: Stage) -> None:
    """Answers came back an hour ago: the workshop roof, with a change that nobody asked for."""
    s.go(14, 9, 12)
    given = answers()
    files = [plan("4 Saltern Slip", "workshop", 13.3, 7.2, 18, "A4", "site-plan-rev-b.pdf"), shore("4 Saltern Slip")]
    draft = prepare(s, "odalys", given, files, own="roof-4")
    reference = file_and_pay(s, "odalys", draft)
    s.go(12, 10, 5)
    checking.begin_checking(s.office, s.who["imre"], reference)
    wanting = {"documents.site_plan": ("wanting", ""), "documents.sections": ("wanting", "")}
    judge_all(s, "imre", reference, wanting)
    s.go(9, 15, 20)
    text = (
        "Send the site plan again on A3 or larger, drawn to 1:200 or 1:500, with a scale bar. State how the 18 m were measured."
    )
    checking.word_point(s.office, s.who["imre"], reference, "documents.site_plan", text)
    checking.send_letter(s.office, s.who["imre"], reference)
    s.back(1.2)
    draft = answering.begin_answering(s.office, s.who["odalys"], reference)
    person = s.who["odalys"]
    before = drafts.open_draft(s.office, person, draft)
    attaching.detach(s.office, person, draft, before.dossier.attachments[0].id)
    for slot, name, content in (
        plan("4 Saltern Slip", "workshop", 11.4, 7.2, 11.2, "A3", "site-plan-rev-c.pdf"),
        roof("4 Saltern Slip", "roof-sections-a3.pdf"),
    ):
        attaching.attach(s.office, person, draft, slot, name, content)
    given = before.dossier.answers | {"works": {**before.dossier.answers["works"], "area": "82.1"}}
    words = {1: "We measured again from the new survey pin. The old plan was taken from the quay wall.", 2: "Here they are."}
    drafts.keep(s.office, person, draft, None, answers=given, note="Sorry about the old plan.", words=words)
    signing.sign(s.office, person, draft, person.name)
    answering.send_answers(s.office, person, draft)


def lean_to(s: Stage) -> None:
    """A draft, half filled."""
    s.back(20)
    given = answers(
        place_address="17 Ropewalk", place_plot="Q-88", works_what="Glass lean-to", works_built_of="glass", works_use="dwelling",
        works_area="14.5", works_estimate="16500", works_begun_yet=None, service_speed=None, works_distance="140",
    )  # fmt: skip
    prepare(s, "odalys", given, [plan("17 Ropewalk", "lean-to", 5, 2.9, 140)], signed=False, own="lean-to")


def tarry_steps(s: Stage) -> None:
    """Answers wanted, due in a few days, with the answers half written."""
    s.go(26, 11)
    given = answers(
        place_address="1 Tarry Steps", place_plot="Q-31/4", place_role="tenant", works_what="Slipway winch house",
        works_use="boathouse", works_built_of="masonry", works_area="22", works_estimate="11000", works_distance="6.5",
        place_owner="Bram Tarrow",
    )  # fmt: skip
    files = [plan("1 Tarry Steps", "winch house", 5.5, 4, 6.5), roof("1 Tarry Steps"), shore("1 Tarry Steps")]
    draft = prepare(s, "corvin", given, files, own="winch")
    reference = file_and_pay(s, "corvin", draft)
    s.go(24, 9, 30)
    checking.begin_checking(s.office, s.who["imre"], reference)
    wanting = {"documents.consent": ("wanting", ""), "may-act": ("wanting", ""), "value-plausible": ("wanting", "")}
    judge_all(s, "imre", reference, wanting)
    s.go(19, 10)
    checking.send_letter(s.office, s.who["imre"], reference)


def ropemaker(s: Stage) -> None:
    """Being checked, runs out tomorrow, almost all judged."""
    s.go(9, 10)
    given = answers(
        place_address="9 Ropemaker Row", place_plot="Q-202", works_what="Store behind the net loft", works_use="store",
        works_area="38", works_estimate="9500", works_distance="64", place_owner="Tamsin Oake",
    )  # fmt: skip
    draft = prepare(s, "tamsin", given, [plan("9 Ropemaker Row", "store", 9.5, 4, 64), roof("9 Ropemaker Row")])
    reference = file_and_pay(s, "tamsin", draft)
    s.go(7, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, only=7)


def chandlery(s: Stage) -> None:
    """Filed, nobody's yet: new windows in a listed chandlery, fast."""
    s.go(3, 12)
    given = answers(
        place_address="2 Lantern Quay", place_plot="Q-7/1", place_role="agent", place_listed=True, works_what="New windows in the chandlery",
        works_use="dwelling", works_built_of="masonry", works_area="12", works_estimate="24000", works_distance="21.5",
        works_repair=True, service_speed="fast", service_reason="storm", place_owner="Quay Trust", place_list_number="H-31",
        need_sort="repair", need_height=None,
    )  # fmt: skip
    files = [
        plan("2 Lantern Quay", "chandlery", 8, 6, 21.5),
        roof("2 Lantern Quay"),
        ("consent", "consent-scan.jpg", drawings.scanned_consent(7)),
        paper("power", "Power to act", "The Quay Trust empowers Corvin Pell in this case.", "(signed) for the trustees"),
        paper("heritage", "Heritage statement", "The shop front of the chandlery is old; the windows are copied in oak."),
        shore("2 Lantern Quay"),
    ]
    file_and_pay(s, "corvin", prepare(s, "corvin", given, files))


def boathouse(s: Stage) -> None:
    """Filed today, nobody's yet, with a damaged file."""
    s.back(5)
    given = answers(
        place_address="5 Heron Landing", place_plot="Q-160", works_what="Boathouse with a slip", works_use="boathouse",
        works_area="61.5", works_estimate="33000", works_distance="3", place_owner="Tamsin Oake",
    )  # fmt: skip
    broken = drawings.sections("5 Heron Landing")[:900]
    files = [
        plan("5 Heron Landing", "boathouse", 10.2, 6, 3),
        ("sections", "sections-final.pdf", broken),
        shore("5 Heron Landing"),
    ]
    file_and_pay(s, "tamsin", prepare(s, "tamsin", given, files))


def unpaid(s: Stage) -> None:
    """Waiting for payment."""
    s.go(2, 15)
    given = answers(
        place_address="28 Skerry Lane", place_plot="Q-93/7", works_what="Shed for two boats", works_use="store",
        works_area="24", works_estimate="7400", works_distance="55",
    )  # fmt: skip
    draft = prepare(s, "odalys", given, [plan("28 Skerry Lane", "shed", 6, 4, 55), roof("28 Skerry Lane")], own="shed")
    file_and_pay(s, "odalys", draft, pay=False)


def begun(s: Stage) -> None:
    """Being checked by another officer: works begun before filing."""
    s.go(6, 9)
    given = answers(
        place_address="12 Barnacle Steps", place_plot="Q-55", works_what="Steel canopy", works_built_of="steel", works_area="30",
        works_estimate="21000", works_distance="80", place_owner="Tamsin Oake", works_begun_yet=True,
        works_begun=(s.today - timedelta(days=20)).isoformat(),
    )  # fmt: skip
    draft = prepare(s, "tamsin", given, [plan("12 Barnacle Steps", "canopy", 7.5, 4, 80), roof("12 Barnacle Steps")])
    reference = file_and_pay(s, "tamsin", draft)
    s.go(5, 11)
    checking.begin_checking(s.office, s.who["brisa"], reference)
    judge_all(s, "brisa", reference, {"value-plausible": ("in doubt", "")}, only=4)


def first_look(s: Stage) -> None:
    """Being checked by Imre since this week: consent not signed, a password on a file."""
    s.go(4, 14)
    given = answers(
        place_address="6 Compass Close", place_plot="Q-140", place_role="tenant", works_what="Timber workshop", works_area="44",
        works_estimate="18500", works_distance="30", place_owner="Ivo Marrable",
    )  # fmt: skip
    files = [
        plan("6 Compass Close", "workshop", 8.8, 5, 30),
        roof("6 Compass Close"),
        ("consent", "consent.pdf", drawings.consent("Ivo Marrable", "6 Compass Close", "3 November", signed=False)),
        shore("6 Compass Close"),
    ]
    reference = file_and_pay(s, "corvin", prepare(s, "corvin", given, files))
    s.go(2, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, only=2)


def waiting_for_odalys(s: Stage) -> None:
    """Answers wanted of Odalys: two points, time enough."""
    s.go(11, 10)
    given = answers(
        place_address="3 Mizzen Court", place_plot="Q-77/2", works_what="Roof over the yard", works_area="52", works_estimate="11500",
        works_distance="26", works_begun_yet=False,
    )  # fmt: skip
    draft = prepare(
        s,
        "odalys",
        given,
        [plan("3 Mizzen Court", "yard roof", 10.4, 5, 26, "A4", "plan-mizzen.pdf"), shore("3 Mizzen Court")],
        own="yard",
    )
    reference = file_and_pay(s, "odalys", draft)
    s.go(9, 9)
    checking.begin_checking(s.office, s.who["imre"], reference)
    judge_all(s, "imre", reference, {"documents.site_plan": ("wanting", ""), "documents.sections": ("wanting", "")})
    s.go(7, 16)
    checking.send_letter(s.office, s.who["imre"], reference)


def complete(s: Stage) -> None:
    """Complete since a week, waits to be handed over."""
    s.go(14, 10)
    reference = file_and_pay(
        s, "odalys", whole(s, "odalys", "8 Pilot Walk", "Q-19/3", "Timber store", works_area="26", works_estimate="12600")
    )
    s.go(10, 9)
    checked(s, "imre", reference)


def under_review(s: Stage) -> None:
    """Handed over to Silas, with the permit fee prepaid."""
    s.go(28, 10)
    draft = whole(s, "odalys", "11 Gull Street", "Q-12", "Workshop of a sailmaker", works_area="40", works_estimate="19000")
    reference = file_and_pay(s, "odalys", draft, prepay=True)
    s.go(24, 9)
    checked(s, "brisa", reference)
    s.later(20)
    reviewing.hand_over(s.office, s.who["brisa"], reference, "silas")
    s.go(20, 11)
    talking.note(s.office, s.who["silas"], reference, "The shore warden has no objection, by telephone.")
    s.go(3, 15)
    talking.write(s.office, s.who["odalys"], reference, "Is there anything you still need for the sail loft?")


def granted(s: Stage, address: str, plot: str, what: str, area: str, back: int, pay: bool) -> str:
    """Granted; the permit is issued once what is due at issue is paid."""
    s.go(back + 20, 10)
    reference = file_and_pay(s, "odalys", whole(s, "odalys", address, plot, what, works_area=area, works_estimate="15000"))
    s.go(back + 16, 9)
    checked(s, "jonas", reference)
    s.later(9)
    reviewing.hand_over(s.office, s.who["jonas"], reference, "silas")
    s.go(back, 14)
    reviewing.grant(s.office, s.who["silas"], reference, "Works begin within two years. The street stays clear.")
    if pay:
        s.later(50)
        at = paying.ask_payment(s.office, s.who["odalys"], reference)
        notices.at_stand_in(s.office, s.who["odalys"], at.key, "approved")
    return reference


def granted_issued(s: Stage) -> None:
    """Granted, paid, the permit is out."""
    granted(s, "14 Fathom Street", "Q-66", "Bakehouse with an oven", "34", 9, True)


def granted_to_pay(s: Stage) -> None:
    """Granted two days ago; the fee at issue is open."""
    granted(s, "6 Tern Street", "Q-18", "Net loft", "28", 2, False)


def refused(s: Stage) -> None:
    """Refused."""
    s.go(40, 10)
    reference = file_and_pay(
        s, "tamsin", whole(s, "tamsin", "2 Widgeon Walk", "Q-40", "Smoke house", works_area="18", works_estimate="9000")
    )
    s.go(37, 9)
    checked(s, "brisa", reference)
    reviewing.hand_over(s.office, s.who["brisa"], reference, "silas")
    s.go(15, 14)
    reviewing.refuse(s.office, s.who["silas"], reference, "The smoke house would stand less than 5 m from a dwelling (art. 18).")


def not_accepted(s: Stage) -> None:
    """Asked twice, not mended, not accepted."""
    s.go(44, 10)
    given = answers(
        place_address="31 Bell Rope Lane", place_plot="Q-251", place_owner="Corvin Pell", works_what="Barn on the hill", works_use="store",
        works_area="75", works_estimate="12000", works_distance="302",
    )  # fmt: skip
    reference = file_and_pay(s, "corvin", prepare(s, "corvin", given, [plan("31 Bell Rope Lane", "barn", 15, 5, 302)]))
    s.go(41, 9)
    checking.begin_checking(s.office, s.who["jonas"], reference)
    judge_all(s, "jonas", reference, {"documents.sections": ("wanting", "")})
    checking.send_letter(s.office, s.who["jonas"], reference)
    s.go(34, 12)
    draft = answering.begin_answering(s.office, s.who["corvin"], reference)
    drafts.keep(s.office, s.who["corvin"], draft, None, words={1: "There are no sections; the builder decides on site."})
    signing.sign(s.office, s.who["corvin"], draft, s.who["corvin"].name)
    answering.send_answers(s.office, s.who["corvin"], draft)
    s.go(31, 10)
    grounds = "The sections that we asked for were not sent, and the loads cannot be checked without them (art. 43)."
    endings.do_not_accept(s.office, s.who["jonas"], reference, grounds)


def out_of_scope(s: Stage) -> None:
    """A slip below high water, which its answers do not say: the harbour master decides."""
    s.go(18, 11)
    draft = whole(s, "tamsin", "7 Tern Street", "Q-19/1", "Slip and moorings", works_area="12", works_estimate="4000")
    reference = file_and_pay(s, "tamsin", draft)
    s.go(16, 10)
    grounds = "What stands below high water belongs to the harbour master, Customs Stairs, Quill (art. 2)."
    endings.put_out_of_scope(s.office, s.who["brisa"], reference, grounds)


def lapsed(s: Stage) -> None:
    """Never paid: the clock job let it lapse."""
    s.go(30, 10)
    draft = whole(s, "corvin", "3 Widgeon Walk", "Q-41", "Hen house", works_use="store", works_area="14", works_estimate="3000")
    file_and_pay(s, "corvin", draft, pay=False)
    for back in (24, 18, 12):
        s.go(back, 6)
        run_clock(s.office)


def withdrawn(s: Stage) -> None:
    """Withdrawn before checking began: most of it came back."""
    s.go(22, 10)
    draft = whole(
        s, "odalys", "30 Bell Rope Lane", "Q-250", "Glass house", works_built_of="glass", works_area="60", works_estimate="21000"
    )
    reference = file_and_pay(s, "odalys", draft)
    s.go(21, 15)
    endings.withdraw(s.office, s.who["odalys"], reference, "We buy the house next door instead.")


def taken_back(s: Stage) -> None:
    """Taken back before checking began: a draft again, the money waits on the account."""
    s.go(5, 10)
    draft = whole(
        s, "corvin", "15 Fathom Street", "Q-67/1", "Bicycle shed", works_use="store", works_area="16", works_estimate="4100"
    )
    reference = file_and_pay(s, "corvin", draft)
    s.go(4, 9)
    endings.take_back(s.office, s.who["corvin"], reference, "The shed will be longer than the plan shows.")


def older(address: str, plot: str, what: str, back: int, grant: bool) -> Callable[[Stage], None]:
    """A case under the edition before."""

    def scene(s: Stage) -> None:
        turn = date(2026, 7, 1)
        s.before(turn, back, 10)
        reference = file_and_pay(
            s,
            "tamsin",
            whole(
                s,
                "tamsin",
                address,
                plot,
                what,
                owner="Odalys Renn",
                place_role="tenant",
                works_area="30",
                works_estimate="14000",
            ),
        )
        s.before(turn, back - 3, 9)
        checking.begin_checking(s.office, s.who["imre"], reference)
        judge_all(s, "imre", reference, {"documents.consent": ("waived", "The owner came to the counter and agreed.")})
        s.later(5)
        checking.accept(s.office, s.who["imre"], reference)
        reviewing.hand_over(s.office, s.who["imre"], reference, "silas")
        s.before(turn, back - 20, 9)
        if grant:
            reviewing.grant(s.office, s.who["silas"], reference)
            s.later(30)
            at = paying.ask_payment(s.office, s.who["tamsin"], reference)
            notices.at_stand_in(s.office, s.who["tamsin"], at.key, "approved")
        else:
            reviewing.refuse(s.office, s.who["silas"], reference, "The lamp house is listed and would lose its roof (art. 7).")

    return scene


SCENES: tuple[Callable[[Stage], None], ...] = (
    older("1 Lamp Hill", "Q-333", "Roof of the lamp house", 60, False),
    older("14 Fathom Street", "Q-66", "Flue of the bakehouse", 45, True),
    not_accepted,
    refused,
    lapsed,
    granted_issued,
    under_review,
    tarry_steps,
    granted_to_pay,
    withdrawn,
    out_of_scope,
    saltern_slip,
    complete,
    waiting_for_odalys,
    ropemaker,
    begun,
    taken_back,
    first_look,
    chandlery,
    unpaid,
    lean_to,
    boathouse,
)
