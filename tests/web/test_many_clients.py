"""Several people at once, each as fast as they are answered: nothing is lost, and no answer is a 5xx. ``make bench`` has sixty of them."""

from __future__ import annotations

import unittest

from bench import clients
from jolly_clerk.office.office import open_office
from tests.browser.house import Forked
from tests.helpers import demo_folder


class ManyClients(unittest.TestCase):
    def test_what_they_were_told_is_there(self) -> None:
        folder = demo_folder()
        said = clients.run(8, 4.0, folder, Forked)
        office = open_office(folder, demo=True)
        self.addCleanup(office.close)
        self.assertEqual(list(clients.lost(office, said)), [])
        self.assertLess(max(said.statuses), 500)
        print(said.statuses, said.refused)
        self.assertTrue(said.typed and said.judged, said.statuses)
        said.typed[next(iter(said.typed))] = "never typed"
        said.judged.append((said.judged[0][0], "never judged"))
        said.files.append("0" * 64)
        self.assertEqual(len(list(clients.lost(office, said))), 3)
