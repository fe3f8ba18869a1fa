"""Runs in a row: by themselves where no hand is needed, with a prompt where one is, and on again after a restart."""

from __future__ import annotations

import unittest
from types import SimpleNamespace

from textual.pilot import Pilot

from samovar.bench.recorder import Outcome
from samovar.tui.app import SamovarApp
from samovar.tui.run_row import RunRow
from samovar.tui.widgets.banner import Banner
from tests.tui.driving import Driven, screen_text, until


class RowTest(Driven):
    def short_review(self, app: SamovarApp) -> None:
        """Two setups under two short loads, one pass each."""
        archive = app.session.archive
        archive.plans.add_course(
            "Short",
            {
                "idle_least_s": 2.0,
                "idle_most_s": 3.0,
                "load_s": 20.0,
                "cool_down_most_s": 3.0,
                "readings": [],
            },
        )
        products = {p.name: p.id for p in archive.shelf.products()}
        loads = ["everyday", "worst case"]
        key = archive.reviews.add_review(
            "Row", "Which?", loads, passes_wanted=1, courses=dict.fromkeys(loads, "Short")
        )
        for name in ("Plain 65", "Osprey 161"):
            archive.reviews.add_setup(key, name, None, [products[name]], reference=name == "Plain 65")
        app.session.open_review(archive.reviews.review(key))

    def test_a_row_runs_by_itself_asks_for_hands_and_survives_a_restart(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            self.short_review(app)
            archive, session = app.session.archive, app.session
            assert session.review is not None
            key = session.review.id

            def sealed() -> list[str]:
                return [r.load for r in archive.runs.runs(review_id=key) if r.state == "sealed"]

            await pilot.press("3")
            await until(pilot, lambda: "w to record all proposed runs" in screen_text(app))
            await pilot.press("w")
            # The second begins by itself, while another place is shown.
            await pilot.press("0")
            await until(pilot, lambda: len(sealed()) == 2, 60.0)
            self.assertEqual(sealed(), ["everyday", "worst case"])
            banner = app.place("bench").query_one(Banner)
            await until(pilot, lambda: "-shown" in banner.classes)
            self.assertIn("take off Plain 65; fit Osprey 161", str(banner.render()))
            await pilot.pause(1.5)
            self.assertEqual(len(sealed()), 2, "it waits for hands")
            # A restart: another session on the same archive knows that the row is under way.
            self.assertTrue(RunRow(session).on)
            await pilot.press("3", "r")
            await until(pilot, lambda: len(sealed()) == 4, 60.0)
            await until(pilot, lambda: "take off Osprey 161" in str(banner.render()))
            await pilot.press("r")
            await until(pilot, lambda: len(sealed()) == 5, 60.0)
            await until(pilot, lambda: not RunRow(session).on)
            await until(pilot, lambda: "E V E R Y" in str(banner.render()))
            live = session.live
            assert live is not None
            stopped = SimpleNamespace(
                id=live.id, setup=live.setup, outcome=Outcome("stopped", "stopped by hand", 9.0)
            )
            self.assertEqual(RunRow(session).after(stopped).kind, "paused")  # type: ignore[arg-type]

        self.drive(steps, speed=100.0)


if __name__ == "__main__":
    unittest.main()
