"""What the places share: proposals, estimates, the rail's words, moving from review to review."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from samovar.archive import Archive
from samovar.bench.machine import ThisMachine
from samovar.tui.session import Session
from tests.demo_archive import DEMO_PRODUCTS, demo_archive
from tests.recordings import FACTS, simple_run


class SessionTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.archive = Archive(demo_archive(Path(folder.name)))
        self.addCleanup(self.archive.close)
        self.session = Session(self.archive, ThisMachine())
        self.session.open_review(self.archive.reviews.reviews()[0])

    def test_the_rail_gauges_the_review(self) -> None:
        rail = self.session.rail()
        self.assertEqual(rail["grid"], "5/15 cells")
        self.assertEqual(rail["shelf"], f"{DEMO_PRODUCTS} products")
        self.assertEqual(rail["writeup"], "3/6 hold")
        self.assertEqual(rail["bench"], "idle")
        self.assertRegex(rail["trace"], r"\d to look at")
        self.assertRegex(rail["versus"], r"\d cautions")
        self.assertTrue(all(len(words) <= 14 for words in rail.values()))

    def test_the_proposal_moves_on_when_a_run_is_in(self) -> None:
        first = self.session.proposal()
        assert first is not None and self.session.review is not None
        self.assertEqual((first.setup, first.load), ("Tern 47", "everyday"))
        setup = next(s for s in self.session.review.setups if s.name == first.setup)
        for _ in range(2):
            self.archive.runs.add(
                simple_run(400), first.load, "2026-03-09T09:00:00Z",
                review_id=self.session.review.id, setup_id=setup.id, facts=FACTS,
            )  # fmt: skip
        plan = self.session.plan()
        assert plan is not None
        before = plan.time_left()
        self.session.reload()
        second = self.session.proposal()
        assert second is not None
        self.assertNotEqual((second.setup, second.load), (first.setup, first.load))
        plan = self.session.plan()
        assert plan is not None
        self.assertEqual(plan.fitted, "Tern 47")
        self.assertEqual(plan.time_left().runs, before.runs - 2)
        self.assertLess(plan.time_left().seconds, before.seconds)

    def test_a_chosen_cell_goes_before_the_proposed_one(self) -> None:
        self.session.chosen = ("Loam P", "everyday")
        cell = self.session.next_cell()
        assert cell is not None
        self.assertEqual((cell[0].name, cell[1]), ("Loam P", "everyday"))
        self.assertIn("you chose", cell[2])

    def test_without_a_review_nothing_is_proposed(self) -> None:
        self.session.open_review(None)
        self.assertIsNone(self.session.proposal())
        self.assertIsNone(self.session.next_cell())
        self.assertEqual(self.session.holding(), (0, 0))
        self.assertIsNone(self.session.plan())
        self.assertEqual(self.session.rail()["grid"], "")

    def test_another_review_starts_with_nothing_measured(self) -> None:
        key = self.archive.reviews.add_review("Van", "Which kit?", ["worst case"], passes_wanted=1)
        self.archive.reviews.add_setup(key, "closed", None, reference=True)
        self.session.open_review(self.archive.reviews.review(key))
        self.assertEqual(self.session.rail()["grid"], "0/1 cells")
        self.assertEqual(self.session.rail()["writeup"], "no claims")
        proposal = self.session.proposal()
        assert proposal is not None
        self.assertIn("reference first", proposal.reason)


if __name__ == "__main__":
    unittest.main()
