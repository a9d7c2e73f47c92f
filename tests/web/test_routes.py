"""The whole journey over HTTP alone, route by route, and what each answer carries."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from tests.helpers import answers
from tests.office.test_journey import PLAN, ROOF, SMALL_PLAN
from tests.web.test_web import WebTest


class OverHttp(WebTest):
    def setUp(self) -> None:
        super().setUp()
        self.applicant, self.officer = self.client("odalys"), self.client("imre")

    def ok(self, answer: Any, status: int = 200) -> Any:
        self.assertEqual(answer.status_code, status, answer.text[:300])
        told = answer.json() if answer.content and "json" in answer.headers["content-type"] else answer.content
        return told["view"] if isinstance(told, dict) and told.get("view") else told

    def upload(self, client: TestClient, draft: str, slot: str, name: str, content: bytes) -> Any:
        return self.ok(client.post(f"/api/drafts/{draft}/files", data={"slot": slot}, files={"file": (name, content)}), 201)

    def prepared(self, plan: bytes = PLAN) -> str:
        draft = self.ok(self.applicant.post("/api/drafts", json={"kind": "BW"}), 201)["id"]
        self.ok(self.applicant.put(f"/api/drafts/{draft}", json={"answers": answers(), "own_reference": "roof-4"}))
        self.upload(self.applicant, draft, "site_plan", "plan.pdf", plan)
        self.upload(self.applicant, draft, "sections", "sections.pdf", ROOF)
        self.ok(self.applicant.post(f"/api/drafts/{draft}/signature", json={"name": "Odalys Renn"}))
        return draft

    def filed_and_paid(self, plan: bytes = PLAN) -> str:
        reference = self.ok(self.applicant.post(f"/api/drafts/{self.prepared(plan)}/filing", json={"take_gaps": True}), 201)[
            "reference"
        ]
        at = self.ok(self.applicant.post(f"/api/cases/{reference}/payments", json={}), 201)
        self.assertEqual((at["amount"], at["currency"], at["state"]), ("438.18", "EUR", "asked"))
        done = self.ok(self.applicant.post(f"/api/terminal/{at['key']}", json={"outcome": "approved"}))
        self.assertEqual(done["said"], "The payment went through.")
        return str(reference)

    def test_the_form_is_made_from_the_rulebook(self) -> None:
        (kind,) = self.ok(self.client().get("/api/kinds"))
        self.assertEqual((kind["kind"], kind["title"], kind["edition"]), ("BW", "Building works permit", "BW 2026-07-01"))
        draft = self.ok(self.applicant.get(f"/api/drafts/{self.prepared()}"))
        answer = self.client().get(f"/api/editions/{draft['edition_sha256']}/form")
        form = self.ok(answer)
        self.assertIn("immutable", answer.headers["cache-control"])
        self.assertEqual([p["id"] for p in form["parts"]], ["place", "works", "service"])
        self.assertEqual(form["lists"]["roles"][0], {"id": "owner", "title": "I own the plot"})
        lines = {line["id"]: line for line in draft["assessment"]["fees"]["lines"]}
        self.assertEqual(
            (lines["examination"]["amount"], lines["permit"]["working"]),
            (
                "318.18",
                "324.50 + 20 × 8.25 [each started 1\u00a0000 of 44\u00a0547.00 [Value of the works] above 25\u00a0000] = 489.50",
            ),
        )
        self.assertEqual(
            [m["move"] for m in draft["assessment"]["moves"]],
            ["file", "pay", "send the answers", "more time", "take back", "withdraw", "write"],
        )

    def test_the_list_of_drafts(self) -> None:
        draft = self.prepared()
        (row,) = self.ok(self.applicant.get("/api/drafts"))
        self.assertEqual(
            (row["id"], row["title"], row["own_reference"], row["left"]),
            (draft, "New workshop roof, 4 Saltern Slip", "roof-4", 0),
        )
        self.ok(self.applicant.delete(f"/api/drafts/{draft}"), 204)
        self.assertEqual(self.ok(self.applicant.get("/api/drafts")), [])

    def test_files_go_in_and_come_out_as_they_were(self) -> None:
        draft = self.prepared()
        answer = self.applicant.get(f"/api/drafts/{draft}/files/a1")
        self.assertEqual((answer.headers["content-type"], answer.content), ("application/pdf", PLAN))
        view = self.ok(self.applicant.delete(f"/api/drafts/{draft}/files/a1"))
        self.assertEqual([f["attachment"]["id"] for f in view["files"]], ["a2"])
        self.assertEqual(self.applicant.get(f"/api/drafts/{draft}/files/a1").status_code, 404)

    def test_the_whole_journey(self) -> None:
        reference = self.filed_and_paid(SMALL_PLAN)
        base = f"/api/cases/{reference}"
        tray = self.ok(self.officer.get("/api/tray", params={"whose": "nobody's yet"}))
        self.assertEqual([r["reference"] for group in tray["groups"] for r in group["rows"]], [reference])
        view = self.ok(self.officer.post(f"{base}/checking", json={}))
        self.assertEqual((view["assessment"]["state"], view["revision"], view["officer"]), ("Being checked", 3, "Imre Holt"))
        for r in view["assessment"]["requirements"]:
            if r["proposed"] not in ("not asked", "not known yet"):
                standing = "wanting" if r["id"] == "documents.site_plan" else "met"
                view = self.ok(self.officer.post(f"{base}/judgements", json={"requirement": r["id"], "standing": standing}))
        (point,) = view["assessment"]["points"]
        self.assertEqual((point["requirement"], point["worded"]), ("documents.site_plan", False))
        worded = {"requirement": "documents.site_plan", "text": "Send it on A3."}
        view = self.ok(self.officer.post(f"{base}/words", json=worded))
        self.assertEqual(view["assessment"]["points"][0]["text"], "Send it on A3.")
        self.assertEqual(self.ok(self.officer.get(f"{base}/letter"))[:5], b"%PDF-")
        view = self.ok(self.officer.post(f"{base}/letter", json={}))
        self.assertEqual((view["assessment"]["state"], view["assessment"]["clock"]["holder"]), ("Answers wanted", "theirs"))

        draft = self.ok(self.applicant.post(f"{base}/answering"), 201)["id"]
        self.assertEqual(self.ok(self.applicant.get(f"/api/drafts/{draft}"))["answers_case"], reference)
        refused = self.applicant.post(f"/api/drafts/{draft}/answers", json={})
        self.assertEqual((refused.status_code, refused.json()["place"]), (409, "documents.site_plan"))
        self.ok(self.applicant.delete(f"/api/drafts/{draft}/files/a1"))
        self.upload(self.applicant, draft, "site_plan", "plan-c.pdf", PLAN)
        self.ok(self.applicant.put(f"/api/drafts/{draft}", json={"answers": answers(works_area="82.1", place_plot="Q-9")}))
        dropped = self.ok(self.applicant.post(f"/api/drafts/{draft}/put-back", json={"place": "place.plot"}))
        self.assertEqual(dropped["dossier"]["answers"]["place"]["plot"], "Q-114/2")
        self.ok(self.applicant.post(f"/api/drafts/{draft}/signature", json={"name": "Odalys Renn"}))
        self.ok(self.applicant.post(f"/api/drafts/{draft}/answers", json={}), 201)

        view = self.ok(self.officer.get(base))
        (round_,) = view["assessment"]["rounds"]
        self.assertEqual([c["kind"] for c in round_["points"][0]["changes"]], ["file replaced"])
        self.assertEqual([u["change"]["place"] for u in round_["unasked"]], ["works.area"])
        self.ok(self.officer.post(f"{base}/points/closed", json={"no": 1}))
        view = self.ok(self.officer.post(f"{base}/changes", json={"place": "works.area"}))
        for r in view["assessment"]["requirements"]:
            if r["proposed"] not in ("not asked", "not known yet") and not (r["given"] or {}).get("holds"):
                view = self.ok(
                    self.officer.post(
                        f"{base}/judgements", json={"requirement": r["id"], "standing": "met", "reason": "Looked at."}
                    )
                )
        view = self.ok(self.officer.post(f"{base}/acceptance", json={}))
        self.assertEqual(view["assessment"]["state"], "Complete")
        outer = self.ok(self.applicant.get(base))
        self.assertEqual((outer["assessment"]["state"], outer["offers"]), ("Complete", {}))
        for moment in outer["story"]:
            if moment["paper"]:
                self.assertEqual(self.ok(self.applicant.get(f"{base}/papers/{moment['no']}"))[:5], b"%PDF-")
        self.assertEqual(self.ok(self.officer.get("/api/search", params={"words": "saltern"}))[0]["state"], "Complete")
        self.assertEqual(self.ok(self.applicant.get("/api/my-cases"))[1]["rows"][0]["own_reference"], "roof-4")

    def test_an_answered_point_asked_again_and_a_change_asked_about(self) -> None:
        reference = self.filed_and_paid(SMALL_PLAN)
        base = f"/api/cases/{reference}"
        self.ok(self.officer.post(f"{base}/checking", json={}))
        self.ok(self.officer.post(f"{base}/judgements", json={"requirement": "documents.site_plan", "standing": "wanting"}))
        self.ok(self.officer.post(f"{base}/letter", json={}))
        draft = self.ok(self.applicant.post(f"{base}/answering"), 201)["id"]
        self.ok(
            self.applicant.put(
                f"/api/drafts/{draft}", json={"answers": answers(works_distance="11"), "words": {"1": "Large enough."}}
            )
        )
        self.ok(self.applicant.post(f"/api/drafts/{draft}/signature", json={"name": "Odalys Renn"}))
        self.ok(self.applicant.post(f"/api/drafts/{draft}/answers", json={}), 201)
        self.assertEqual(self.officer.post(f"{base}/letter", json={}).status_code, 409)
        self.ok(self.officer.post(f"{base}/points/asked-again", json={"no": 1, "text": "A3, please."}))
        view = self.ok(self.officer.post(f"{base}/questions", json={"place": "works.distance", "text": "How was it measured?"}))
        self.assertEqual(sorted(p["text"] for p in view["assessment"]["points"]), ["A3, please.", "How was it measured?"])
        self.assertEqual(self.officer.post(f"{base}/points/closed", json={"no": 9}).status_code, 404)
        self.assertEqual(self.officer.post(f"{base}/changes", json={"place": "works.use"}).status_code, 404)
        self.assertEqual(self.officer.post(f"{base}/questions", json={"place": "works.use"}).status_code, 404)

    def test_the_search_asks_for_two_letters(self) -> None:
        self.assertEqual(self.ok(self.officer.get("/api/search", params={"words": "s"})), [])
        self.assertEqual(self.officer.get("/api/tray", params={"whose": "ours"}).status_code, 422)

    def test_addresses_that_are_not_there(self) -> None:
        for path in ("/api/nothing", "/api/cases/BW-26-00001-B/papers/abc", "/api/drafts/none"):
            answer = self.applicant.get(path)
            self.assertIn(answer.status_code, (404, 422))
            self.assertEqual(answer.headers["content-type"], "application/problem+json")
