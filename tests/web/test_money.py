"""Money: what a terminal tells is signed, for what was asked, once; what is booked by hand counts once and has a second pair of eyes."""

from __future__ import annotations

import json
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from typing import Any

from jolly_clerk.exchange.notices import signature
from jolly_clerk.office.cases import paying
from jolly_clerk.office.cases.casework import load_case
from jolly_clerk.office.desk import checking, handwork
from jolly_clerk.office.errors import Invalid, NotAllowed, NotReady
from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.preparing import filing
from tests.office.test_ports import Machine
from tests.web.test_web import WebTest

KEY = "a key that both know"


class Notices(WebTest):
    """A real office with a terminal of its own."""

    def setUp(self) -> None:
        super().setUp()
        self.reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        self.office.terminal, self.office.terminal_key = Machine(), KEY
        self.order = paying.ask_payment(self.office, self.odalys, self.reference).key

    def tell(
        self, key: str = KEY, order: str = "", later: int = 0, signed: str = "", body: bytes | None = None, **told: Any
    ) -> Any:
        """Send a notice as a terminal would."""
        notice = {"notice": "n-1", "outcome": "approved", "amount": "438.18", "currency": "EUR"} | told
        sent = json.dumps(notice).encode() if body is None else body
        order, time = order or self.order, int(self.instant.timestamp()) + later
        headers = {
            "Notice-Order": order,
            "Notice-Time": str(time),
            "Notice-Signature": signed or signature(key, order, time, sent),
            "Content-Type": "application/json",
        }
        return self.client().post("/api/terminal/notices", content=sent, headers=headers)

    def paid(self) -> Decimal:
        return load_case(self.office, self.odalys, self.reference).so_far.paid

    def test_a_signed_notice_is_booked_once(self) -> None:
        self.assertEqual([self.tell().json()["made"] for _ in range(3)], ["booked", "known already", "known already"])
        self.assertEqual(self.paid(), Decimal("438.18"))
        self.assertEqual(load_case(self.office, self.odalys, self.reference).assessment.state, "Filed")
        self.assertEqual(self.tell(outcome="declined", notice="n-2").json()["made"], "noted")
        self.assertEqual(self.paid(), Decimal("438.18"))

    def test_the_same_notice_many_times_at_once(self) -> None:
        with ThreadPoolExecutor(20) as pool:
            told = Counter(pool.map(lambda _: self.tell().json()["made"], range(20)))
        self.assertEqual(told, {"booked": 1, "known already": 19})
        self.assertEqual(self.paid(), Decimal("438.18"))

    def test_a_forged_an_old_and_a_changed_one_are_refused(self) -> None:
        for wrong in (
            {"key": "another key"},
            {"later": -301},
            {"later": 301},
            {"signed": "0" * 64},
            {"signed": "?" * 64},
        ):
            with self.subTest(wrong):
                self.assertEqual(self.tell(**wrong).status_code, 403)
        good = json.dumps({"notice": "n", "outcome": "approved", "amount": "438.18", "currency": "EUR"}).encode()
        time = int(self.instant.timestamp())
        moved = self.tell(signed=signature(KEY, "another order", time, good), body=good)
        changed = self.tell(signed=signature(KEY, self.order, time, good), body=good.replace(b"438.18", b"1.00"))
        self.assertEqual((moved.status_code, changed.status_code), (403, 403))
        self.assertEqual(self.paid(), Decimal("0.00"))

    def test_what_is_no_notice(self) -> None:
        for body in (b"", b"[]", b"{", b'{"notice": ""}', b'{"notice": "a b", "outcome": "approved"}'):
            self.assertEqual(self.tell(body=body).status_code, 422, body)
        for told in ({"amount": "NaN"}, {"amount": "-1"}, {"amount": "1e99"}, {"currency": "EURO"}, {"outcome": "maybe"}):
            self.assertEqual(self.tell(**told).status_code, 422, told)

    def test_what_does_not_fit_is_kept_and_listed_to_the_leads(self) -> None:
        for n, (told, why) in enumerate(
            (
                ({"amount": "438.17"}, "EUR 438.18 was asked"),
                ({"currency": "USD"}, "EUR 438.18 was asked"),
                ({"order": "never-asked"}, "no such order was asked"),
                ({}, ""),
                ({"notice": "twice"}, "this order was paid already"),
            )
        ):
            self.assertEqual(self.tell(**({"notice": f"n{n}"} | told)).json()["made"], "not placed" if why else "booked", told)
        listed = self.client("maud").get("/api/money").json()["not_placed"]
        self.assertEqual(Counter(n["why"] for n in listed)["EUR 438.18 was asked"], 2)
        self.assertEqual({n["reference"] for n in listed if n["why"] != "no such order was asked"}, {self.reference})
        self.assertEqual(self.client("imre").get("/api/money").status_code, 403)
        self.assertEqual(self.paid(), Decimal("438.18"))

    def test_an_office_without_a_terminal_takes_no_notice(self) -> None:
        self.office.terminal_key = ""
        self.assertEqual(self.tell().status_code, 404)

    def test_the_applicant_tells_nothing_where_the_terminal_is_a_real_one(self) -> None:
        answer = self.client("odalys").post(f"/api/terminal/{self.order}", json={"outcome": "approved"})
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.paid(), Decimal("0.00"))

    def test_the_payment_page_is_told_the_account(self) -> None:
        self.office.settings.account = "QH07 0001 2345"
        self.assertEqual(self.client("odalys").get("/api/session").json()["account"], "QH07 0001 2345")


class ByHand(WebTest):
    def test_one_number_counts_once_in_the_office(self) -> None:
        first, second = (filing.file(self.office, self.odalys, self.draft(), take_gaps=True) for _ in range(2))
        for _ in range(2):
            paying.take_money(self.office, self.imre, first, Decimal("400.00"), "transfer", "SAME MARK")
        with self.assertRaises(Invalid) as refused:
            paying.take_money(self.office, self.imre, second, Decimal("400.00"), "transfer", "SAME  MARK")
        self.assertIn(first, refused.exception.detail)
        self.assertEqual(load_case(self.office, self.imre, first).so_far.paid, Decimal("400.00"))
        self.assertEqual(load_case(self.office, self.imre, second).so_far.paid, Decimal("0.00"))
        paying.take_money(self.office, self.imre, second, Decimal("400.00"), "cheque", "SAME MARK")

    def test_much_more_than_is_asked_is_booked_by_a_lead_alone(self) -> None:
        reference = filing.file(self.office, self.odalys, self.draft(), take_gaps=True)
        open_now = load_case(self.office, self.imre, reference).assessment.account.open_and_prepay
        with self.assertRaises(NotAllowed):
            paying.take_money(self.office, self.imre, reference, open_now + Decimal("100.01"), "cheque", "C 1")
        paying.take_money(self.office, self.imre, reference, open_now + Decimal("100.00"), "cheque", "C 2")
        done = paying.take_money(self.office, self.maud, reference, Decimal("9999.00"), "cheque", "C 3")
        self.assertEqual(done.so_far.paid, open_now + Decimal("10099.00"))


class Fees(WebTest):
    """The limit of 100.00 is over the whole case, against what the rules say."""

    def setUp(self) -> None:
        super().setUp()
        self.reference = self.filed()
        checking.begin_checking(self.office, self.imre, self.reference)

    def set(self, line: str, amount: str, who: Any = None) -> bool:
        """True if it waits for a second person."""
        done = handwork.set_fee(self.office, who or self.imre, self.reference, line, Decimal(amount), "for a reason")
        return line in done.so_far.fees_waiting

    def test_steps_of_less_than_the_limit_do_not_pass_it(self) -> None:
        self.assertEqual([self.set("examination", "268.18"), self.set("examination", "218.18")], [False, False])
        self.assertTrue(self.set("examination", "168.18"))
        waiting = load_case(self.office, self.imre, self.reference).so_far.fees_waiting
        self.assertEqual(list(waiting), ["examination"])

    def test_several_lines_count_together_whoever_set_them(self) -> None:
        self.assertFalse(self.set("examination", "258.18"))
        self.assertFalse(self.set("shoreline", "80.00", add_person(self.office, "jonas", "Jonas Vey", "officer")))
        self.assertTrue(self.set("shoreline", "79.99"))

    def test_back_to_the_rules_needs_nobody(self) -> None:
        self.set("examination", "218.18")
        self.assertFalse(self.set("examination", "318.18"))

    def test_a_leads_own_waits_for_another_lead_or_for_an_officer_where_there_is_none(self) -> None:
        self.assertTrue(self.set("examination", "1.00", self.maud))
        with self.assertRaises(NotAllowed):
            handwork.settle_fee(self.office, self.maud, self.reference, "examination", True)
        berta = add_person(self.office, "berta", "Berta Quill", "lead")
        with self.assertRaises(NotAllowed):
            handwork.settle_fee(self.office, self.imre, self.reference, "examination", True)
        handwork.settle_fee(self.office, berta, self.reference, "examination", False)
        self.assertTrue(self.set("examination", "1.00", self.maud))
        from jolly_clerk.office.people.accounts import leave

        leave(self.office, self.maud, "berta")
        shown = self.client("imre").get(f"/api/cases/{self.reference}").json()["fees_waiting"]
        self.assertEqual([f["may_settle"] for f in shown], [True])
        done = handwork.settle_fee(self.office, self.imre, self.reference, "examination", True)
        self.assertEqual(done.so_far.fees_waiting, {})

    def test_what_an_officer_set_is_never_settled_by_an_officer(self) -> None:
        self.assertTrue(self.set("examination", "1.00"))
        jonas = add_person(self.office, "jonas", "Jonas Vey", "officer")
        for who in (self.imre, jonas):
            with self.assertRaises((NotAllowed, NotReady)):
                handwork.settle_fee(self.office, who, self.reference, "examination", True)
