"""Framing through Textual's pilot: the Shelf's views, forms, undo; the Grid's setups, runs and large reviews."""

from __future__ import annotations

import re
import unittest
import xml.etree.ElementTree as ElementTree

from textual.pilot import Pilot
from textual.widgets import DataTable, Input

from samovar.tui.app import SamovarApp
from samovar.tui.screens.fit import FitScreen
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.form import FormSheet
from samovar.tui.widgets.cell_card import CellCard
from samovar.tui.widgets.cell_grid import CellGrid
from tests.demo_archive import DEMO_PRODUCTS, DEMO_REVIEWS
from tests.tui.driving import Driven, screen_text, text_of, until


def form_open(app: SamovarApp) -> bool:
    return isinstance(app.screen, FormSheet) and app.screen.focused is not None


async def go_to(app: SamovarApp, pilot: Pilot[None], name: str) -> None:
    """Put the Shelf's cursor on a thing."""
    table = app.screen.query_one("#things", DataTable)
    rows = [str(table.get_row_at(k)[0]) for k in range(table.row_count)]
    table.move_cursor(row=rows.index(name))
    await pilot.pause()


class ShelfTest(Driven):
    def test_products_with_claims_fit_and_prices_in_two_currencies(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1")
            await until(pilot, lambda: app.screen.query_one("#things", DataTable).row_count == DEMO_PRODUCTS)
            await go_to(app, pilot, "Osprey 161")
            shown = text_of(app, "#detail")
            for words in (
                "210 W ▸", "extrapolated by", "24 dBA ▸", "agrees within the uncertainty", "fits by 1.5 mm", "161 mm",
                "84.50 EUR at Kaimann", "71.01 EUR without", "≈ 84.25 EUR at 11.62", "the booth does not hear it",
            ):  # fmt: skip
                self.assertIn(words, " ".join(shown.split()))
            await go_to(app, pilot, "Heron 168")
            self.assertIn("does not fit: height too much by 3 mm", text_of(app, "#detail"))
            for letter, words in (
                ("g", "USB probe"),
                ("k", "guard stops"),
                ("w", "the program's own loads"),
                ("e", "the other way"),
            ):
                await pilot.press(letter)
                await until(pilot, lambda words=words: words in text_of(app, "#detail"))  # type: ignore[misc]

        self.drive(steps)

    def test_a_change_is_kept_and_undone(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            shelf = app.session.archive.shelf
            await pilot.press("1")
            await until(pilot, lambda: app.screen.query_one("#things", DataTable).row_count == DEMO_PRODUCTS)
            await go_to(app, pilot, "Tern 47")
            await pilot.press("enter")
            await until(pilot, lambda: form_open(app))
            await pilot.press("down")
            app.screen.query(Input)[1].value = "4,9 cm"
            await pilot.press("ctrl+s")
            await until(pilot, lambda: "49 mm" in text_of(app, "#detail"))
            await pilot.press("c")
            await until(pilot, lambda: form_open(app))
            app.screen.query(Input)[2].value = "39.90 EUR sale 2026-03-04"
            await pilot.press("ctrl+s")
            await until(pilot, lambda: "39.90 EUR" in text_of(app, "#detail"))
            await pilot.press("n")
            await until(pilot, lambda: form_open(app))
            app.screen.query(Input)[1].value = "gossip: no"
            await pilot.press("ctrl+s")
            self.assertTrue(form_open(app))
            app.screen.query(Input)[1].value = "quirk: rattles when lying"
            await pilot.press("ctrl+s")
            await until(pilot, lambda: "rattles" in text_of(app, "#detail"))
            for _ in range(3):
                await pilot.press("z")
            await until(
                pilot, lambda: "47 mm" in text_of(app, "#detail") and "39.90" not in text_of(app, "#detail")
            )
            self.assertNotIn("rattles", text_of(app, "#detail"))
            self.assertEqual(len(shelf.products()), DEMO_PRODUCTS)

        self.drive(steps)

    def test_duplicate_delete_archive_and_back(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            shelf = app.session.archive.shelf

            def names() -> list[str]:
                return [p.name for p in shelf.products()]

            await pilot.press("1")
            await until(pilot, lambda: app.screen.query_one("#things", DataTable).row_count == DEMO_PRODUCTS)
            await go_to(app, pilot, "Heron 168")
            await pilot.press("d")
            self.assertIn("Heron 168 (2)", names())
            await until(pilot, lambda: "Heron 168 (2)" in text_of(app, "#detail"))
            await pilot.press("delete")
            self.assertNotIn("Heron 168 (2)", names())
            await pilot.press("z")
            self.assertIn("Heron 168 (2)", names())
            await go_to(app, pilot, "Osprey 161")
            await pilot.press("delete")
            self.assertIn("Osprey 161", names(), "it is fitted: not deleted")
            await pilot.press("h")
            self.assertNotIn("Osprey 161", names())
            self.assertIn("Osprey 161", [s.products[0].name for s in app.session.review.setups])  # type: ignore[union-attr]
            await pilot.press("v")
            await until(pilot, lambda: "archived" in text_of(app, "#title"))
            await pilot.press("h", "v", "v")
            self.assertIn("Osprey 161", names())

        self.drive(steps)

    def test_leaving_a_changed_form_is_asked_about_once(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1", "enter")
            await until(pilot, lambda: form_open(app))
            before = app.screen.focused
            await pilot.press("pagedown", "up", "pageup")
            self.assertIs(app.screen.focused, before)
            await pilot.press("x", "escape")
            self.assertIn("Esc again", text_of(app, "#form-wrong"))
            await pilot.press("escape")
            await until(pilot, lambda: not isinstance(app.screen, FormSheet))
            self.assertEqual(app.session.archive.shelf.products()[0].name, "Dab 6")

        self.drive(steps)

    def test_sensors_are_confirmed_and_used_by_the_next_run(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1", "g")
            await until(pilot, lambda: app.screen.query_one("#things", DataTable).row_count == 5)
            await go_to(app, pilot, "Halden 8 in Larch C2")
            await until(pilot, lambda: "31 of 37" in screen_text(app))
            await pilot.press("s")
            await until(pilot, lambda: form_open(app))
            # Room, Tdie, Composite, VRM, Zone: the zone is a surface here.
            await pilot.press("down", "down", "down", "down", "s", "s", "ctrl+s")

            def with_sensors() -> list[str]:
                return [r.name for r in app.session.archive.shelf.rigs() if "surface" in r.sensors.values()]

            await until(pilot, lambda: with_sensors() == ["Halden 8 in Larch C2"])
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            self.assertEqual({c.name: c.role for c in live.channels}["Zone acpitz"], "surface")

        self.drive(steps)

    def test_the_fit_is_drawn_and_written(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("1")
            await until(pilot, lambda: app.screen.query_one("#things", DataTable).row_count == DEMO_PRODUCTS)
            await go_to(app, pilot, "Fjord 280")
            await pilot.press("f")
            await until(pilot, lambda: isinstance(app.screen, FitScreen))
            await until(pilot, lambda: "radiator 315" in screen_text(app))
            for words in ("side panel", "memory 40.5", "top mount 320 x 58", "gap 111"):
                self.assertIn(words, screen_text(app))
            await pilot.press("s")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            app.screen.query_one(Input).value = str(self.folder / "fit.svg")
            await pilot.press("enter")
            await until(pilot, lambda: (self.folder / "fit.pdf").exists())
            await pilot.press("r")
            await until(pilot, lambda: "Pebble K2" in text_of(app, "#fit-title"))
            await pilot.press("escape")
            await until(pilot, lambda: not isinstance(app.screen, FitScreen))

        self.drive(steps)
        root = ElementTree.parse(self.folder / "fit.svg").getroot()
        words = [("".join(e.itertext())).strip() for e in root.iter() if e.tag.endswith("}text")]
        for expected in ("radiator 315", "depth 55", "side panel", "Fjord 280"):
            self.assertIn(expected, words)

    def test_frames_go_to_a_file_and_come_back(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("x")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            app.screen.query_one(Input).value = str(self.folder / "booth.toml")
            await pilot.press("enter")
            await until(pilot, lambda: (self.folder / "booth.toml").exists())
            await pilot.press("i")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            app.screen.query_one(Input).value = str(self.folder / "booth.toml")
            await pilot.press("enter")
            await until(
                pilot, lambda: app.screen.query_one("#reviews", DataTable).row_count == DEMO_REVIEWS + 1
            )

        self.drive(steps)


class GridTest(Driven):
    def test_a_setup_is_added_changed_made_reference_and_deleted(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            def setups() -> list[tuple[str, bool]]:
                review = app.session.archive.reviews.reviews()[0]
                return [(s.name, s.reference) for s in review.setups]

            await pilot.press("2", "a")
            await until(pilot, lambda: form_open(app))
            await pilot.press("enter", "enter", "down", "down", "down", "space", "ctrl+s")
            await until(pilot, lambda: ("Heron 168", False) in setups())
            await until(pilot, lambda: "here Heron 168" in text_of(app, "#next"))
            self.assertIn("air cooler: Heron 168, not Plain 65", text_of(app, "#next"))
            await pilot.press("t")
            self.assertEqual([name for name, reference in setups() if reference], ["Heron 168"])
            await pilot.press("d")
            await until(pilot, lambda: form_open(app))
            await pilot.press(*"Slow", "enter", "enter", "enter", "enter")
            await pilot.press(*"700", "ctrl+s")
            await until(pilot, lambda: ("Slow", False) in setups())
            self.assertIn("fan speed: 700 rpm, not as the rig has it", text_of(app, "#next"))
            await pilot.press("z", "z", "up", "down", "delete")
            self.assertEqual(len(setups()), 5)
            self.assertEqual([name for name, reference in setups() if reference], ["Plain 65"])
            await pilot.press("z")
            self.assertEqual(len(setups()), 6)

        self.drive(steps)

    def test_a_run_is_left_out_with_a_reason_moved_and_brought_back(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            runs = app.session.archive.runs
            await pilot.press("2")
            await until(pilot, lambda: len(app.screen.query("CellCard.-selected")) == 1)
            await pilot.press("down", "right", "right", "enter")
            await until(pilot, lambda: bool(app.screen.query("#cell-table")))
            await pilot.press("x")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            await pilot.press(*"panel", "enter")
            await until(pilot, lambda: runs.run("r0004").left_out == "panel")  # type: ignore[union-attr]
            await until(pilot, lambda: "left out: panel" in screen_text(app))
            await pilot.press("z")
            self.assertIsNone(runs.run("r0004").left_out)  # type: ignore[union-attr]
            await pilot.press("m")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("down", "enter")
            await until(pilot, lambda: "under which load" in screen_text(app))
            await pilot.press("enter")
            await until(pilot, lambda: runs.run("r0004").load == "everyday")  # type: ignore[union-attr]
            self.assertEqual(runs.run("r0004").setup_id, 2)  # type: ignore[union-attr]
            await pilot.press("z")
            self.assertEqual((runs.run("r0004").setup_id, runs.run("r0004").load), (3, "worst case"))  # type: ignore[union-attr]

        self.drive(steps)

    def test_twelve_by_twelve_keeps_its_heads(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            store = app.session.archive.reviews
            key = store.add_review("Wide", "Which?", [f"load {k}" for k in range(12)])
            for k in range(12):
                store.add_setup(key, f"setup {k}", None, reference=k == 0)
            app.session.open_review(store.review(key))
            await pilot.press("2")
            # What is said under the grid takes its room: until it stands the grid has more.
            await until(pilot, lambda: re.search(r"here +setup 0", screen_text(app)) is not None)
            await until(pilot, lambda: len(app.screen.query(CellCard)) > 0 and "setup 0" in screen_text(app))
            shown = len(app.screen.query(CellCard))
            self.assertLess(shown, 60)
            await pilot.press(*["down"] * 11, *["right"] * 11)
            await until(pilot, lambda: "setup 11" in screen_text(app) and "load 11" in screen_text(app))
            grid = app.screen.query_one(CellGrid)
            self.assertGreater(min(grid.first), 0)
            chosen = app.screen.query("CellCard.-selected").first(CellCard)
            self.assertEqual(grid.place_of(chosen), (11, 11))
            self.assertRegex(screen_text(app), r"setups \d+–12/12")
            await pilot.press(*["up"] * 11)
            await until(pilot, lambda: "setup 0" in screen_text(app) and "load 11" in screen_text(app))
            self.assertEqual(len(app.screen.query(CellCard)), shown)

        self.drive(steps)

    def test_another_course_for_one_load(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("2", "k")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("down", "down", "down", "enter")
            await until(pilot, lambda: app.session.review.courses["everyday"] == "Four fan speeds")  # type: ignore[union-attr]
            setup = app.session.review.setups[0]  # type: ignore[union-attr]
            self.assertEqual(len(app.session.spec(setup, "everyday").steps), 4)
            self.assertEqual(len(app.session.spec(setup, "worst case").steps), 0)

        self.drive(steps)


class DeskTest(Driven):
    def test_reviews_are_deleted_and_brought_back_and_the_next_is_opened(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            table = app.screen.query_one("#reviews", DataTable)
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS)
            await pilot.press("delete")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS - 1)
            self.assertEqual(app.session.review.name if app.session.review else "", "Outside-broadcast van")
            await pilot.press("z")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS)
            await pilot.press("d")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS + 1)
            self.assertIn(
                "Outside-broadcast van (2)", [r.name for r in app.session.archive.reviews.reviews()]
            )
            await pilot.press("z")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS)
            await pilot.press("h")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS - 1)
            await pilot.press("v")
            await until(pilot, lambda: table.row_count == 1 and "archived" in text_of(app, "#reviews-head"))
            await pilot.press("h")
            await pilot.press("v", "v")
            await until(pilot, lambda: table.row_count == DEMO_REVIEWS)

        self.drive(steps)

    def test_a_load_started_by_hand_waits_for_the_key(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            from samovar.bench.loads.catalogue import OwnLoad

            archive = app.session.archive
            archive.plans.add_load(OwnLoad("console", "by hand"))
            archive.plans.add_course(
                "Short", {"idle_least_s": 5.0, "idle_most_s": 10.0, "load_s": 600.0, "cool_down_most_s": 5.0}
            )
            key = archive.reviews.add_review("Hand", "Which?", ["console"], courses={"console": "Short"})
            archive.reviews.add_setup(key, "One", None, reference=True)
            app.session.open_review(archive.reviews.review(key))
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: live.waiting)
            await until(pilot, lambda: "START THE LOAD NOW" in screen_text(app))
            self.assertIsNone(app.session.machine.rig.load)  # type: ignore[attr-defined]
            await pilot.press("g")
            await until(pilot, lambda: live.step == "load")
            await pilot.press("g")
            await until(pilot, live.sealed.is_set)
            self.assertEqual(archive.runs.run(live.number).state, "sealed")  # type: ignore[union-attr]

        self.drive(steps, speed=60.0)


if __name__ == "__main__":
    unittest.main()
