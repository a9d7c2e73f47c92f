"""What happens of itself is listed for any day, and nothing is written by it."""

from __future__ import annotations

from jolly_clerk.office.cases.clock_job import to_come
from jolly_clerk.office.desk import checking
from tests.helpers import at
from tests.office.test_journey import SMALL_PLAN, Cases


class ToCome(Cases):
    def test_a_reminder_then_a_lapse(self) -> None:
        reference = self.filed(plan=SMALL_PLAN)
        self.move_to(2026, 11, 6)
        checking.begin_checking(self.office, self.imre, reference)
        checking.judge(self.office, self.imre, reference, "documents.site_plan", "wanting")
        before = checking.send_letter(self.office, self.imre, reference).entries
        self.assertEqual(to_come(self.office, at(2026, 11, 20)), [])
        (reminder,) = to_come(self.office, at(2026, 12, 1))
        self.assertEqual((reminder.reference, f"{reminder.at:%d %b}"), (reference, "30 Nov"))
        self.assertTrue(reminder.says.startswith("a reminder goes out: "), reminder.says)
        self.assertEqual(len(to_come(self.office, at(2027, 1, 20))), 1)
        self.assertEqual(len(self.loaded_entries(reference)), before)
        self.move_to(2026, 12, 8)
        (lapse,) = to_come(self.office, at(2026, 12, 24))
        self.assertTrue(lapse.says.startswith("lapses: "), lapse.says)

    def loaded_entries(self, reference: str) -> list[object]:
        from jolly_clerk.office.cases.casework import load_case

        return list(load_case(self.office, self.imre, reference).history.entries)
