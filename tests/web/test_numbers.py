"""Numbers that come from outside: too big for the database, with digits that are none; each refused or not found, never a 500."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from jolly_clerk.office.people.directory import add_person
from jolly_clerk.office.rules.rulebooks import publish
from jolly_clerk.shelf.rulebooks import SHIPPED
from tests.web.test_web import WebTest

#: above what 32 and 64 bits hold, above what Python turns into a number at once, and signs that only look like a digit
ODD = (str(2**31), str(2**63), "9" * 5000, "²", "٣")


def whole_numbers(schema: Any, path: str = "") -> Iterator[tuple[str, dict[str, Any]]]:
    """Each whole number in a JSON schema, with the path to it."""
    if isinstance(schema, dict):
        if schema.get("type") == "integer":
            yield path, schema
        for name, below in schema.items():
            yield from whole_numbers(below, f"{path}/{name}")
    elif isinstance(schema, list):
        for n, below in enumerate(schema):
            yield from whole_numbers(below, f"{path}/{n}")


class Numbers(WebTest):
    def test_each_whole_number_that_is_taken_has_its_limits(self) -> None:
        document, seen = self.app.openapi(), set[str]()
        parts, taken = document["components"]["schemas"], dict[str, dict[str, Any]]()

        def take(schema: Any, path: str) -> None:
            taken.update(whole_numbers(schema, path))
            for name in [n for n in parts if f"'#/components/schemas/{n}'" in str(schema) and n not in seen]:
                seen.add(name)
                take(parts[name], name)

        for path, methods in document["paths"].items():
            for method, route in methods.items():
                take([route.get("parameters", []), route.get("requestBody", {})], f"{method} {path}")
        self.assertGreater(len(taken), 20)
        held = {
            path
            for path, s in taken.items()
            if "enum" in s or "const" in s or ("minimum" in s and s.get("maximum", 2**53) < 2**53)
        }
        self.assertEqual(sorted(set(taken) - held), [])

    def test_numbers_in_paths(self) -> None:
        reference, client = self.filed(), self.client("imre")
        for odd in ODD[:4]:
            for path in (
                f"/api/cases/{reference}/papers/{odd}",
                f"/api/till/days/{odd}/closing.csv",
                f"/api/till/files/{odd}",
                f"/api/cases/{reference}/permit/inspections/{odd}",
            ):
                with self.subTest(path[:80]):
                    self.assertIn(client.get(path).status_code, (403, 404, 405, 422))

    def test_a_step_that_no_database_could_number(self) -> None:
        reference, client = self.filed(), self.client("imre")
        answer = client.post(f"/api/cases/{reference}/ready/taken-back", json={"step": 2**63})
        self.assertEqual((answer.status_code, answer.json()["place"]), (422, "step"))

    def test_pages_after_an_odd_mark(self) -> None:
        add_person(self.office, "anselm", "Anselm Gray", "auditor")
        for person, path in (("anselm", "/api/looks?after="), ("imre", "/api/tray/more?group=ready&after=")):
            for odd in ODD:
                with self.subTest(path + odd[:30]):
                    self.assertIn(self.client(person).get(path + odd[:80]).status_code, (200, 422))

    def test_items_with_odd_numbers(self) -> None:
        publish(self.office, SHIPPED / "QV" / "2026-06-01.yaml")
        client = self.client("odalys")
        draft = client.post("/api/drafts", json={"kind": "QV"}).json()["id"]
        for odd in (*ODD, 2**63, 2**31, -1, 1.5, None, [], {"a": 1}, "abc"):
            with self.subTest(str(odd)[:30]):
                body = {"answers": {"persons": [{"id": odd, "name": "Ila Renn"}, {"id": odd}]}}
                self.assertLess(client.put(f"/api/drafts/{draft}", json=body).status_code, 500)
                self.assertLess(client.get(f"/api/drafts/{draft}").status_code, 500)
                for slot in (f"portrait.{str(odd)[:40]}", "portrait.1"):
                    answer = client.post(
                        f"/api/drafts/{draft}/files", data={"slot": slot}, files={"file": ("a.png", b"\x89PNG\r\n")}
                    )
                    self.assertLess(answer.status_code, 500)
