"""The print queue: letters by post wait there, go into one PDF, and are ticked in their cases."""

from __future__ import annotations

import pypdfium2

from jolly_clerk.office.errors import NotAllowed, NotFound, NotReady
from jolly_clerk.office.post.mailing import deliver_waiting, outbox
from jolly_clerk.office.post.printing import as_one_pdf, print_queue, printed
from tests.web.stages import Stages


class Printing(Stages):
    def setUp(self) -> None:
        super().setUp()
        self.names = self.bring("posted")

    def test_printed_together_and_ticked(self) -> None:
        reference = self.names["reference"]
        waiting = print_queue(self.office, self.imre)
        self.assertEqual([w.key for w in waiting], [f"{reference}-letter-1"])
        deliver_waiting(self.office)  # nothing by post goes by mail
        self.assertEqual([out.delivered_at for out, _ in outbox(self.office) if out.key == waiting[0].key], [None])
        pages = len(pypdfium2.PdfDocument(as_one_pdf(self.office, self.imre)))
        self.assertGreaterEqual(pages, 1)
        self.assertEqual(printed(self.office, self.imre, [waiting[0].key]), 1)
        self.assertEqual(print_queue(self.office, self.imre), [])
        self.assertTrue(self.said(reference).common.rounds[0].posted)
        with self.assertRaises(NotFound):
            printed(self.office, self.imre, [waiting[0].key])
        with self.assertRaises(NotReady):
            as_one_pdf(self.office, self.imre)

    def test_only_officers_print(self) -> None:
        for who in (self.odalys, self.anselm):
            with self.assertRaises(NotAllowed):
                print_queue(self.office, who)
