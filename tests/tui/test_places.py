"""The places through Textual's pilot: what they show, what their keys do, small windows, both themes."""

from __future__ import annotations

import asyncio
import sqlite3
import unittest
from unittest.mock import patch

from textual.pilot import Pilot
from textual.widget import MountError
from textual.widgets import DataTable, Input, ListView, Markdown, OptionList, TextArea

from samovar.archive.archive import Archive
from samovar.tui.app import SamovarApp
from samovar.tui.screens.help import HelpScreen
from samovar.tui.screens.small import TooSmall
from samovar.tui.screens.writeup import WriteUpPlace
from samovar.tui.theme import LIGHT_THEME
from samovar.tui.widgets.cell_card import CellCard
from samovar.tui.widgets.rail import Rail
from samovar.tui.widgets.strips import StripStack
from tests.demo_archive import DEMO_REVIEWS, DEMO_RUNS, demo_archive
from tests.tui.driving import Driven, choose, screen_text, text_of, until


class PlacesTest(Driven):
    def test_the_desk_lists_reviews_runs_and_sensors(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await until(pilot, lambda: app.screen.query_one("#plugged", DataTable).row_count > 5)
            self.assertEqual(app.screen.query_one("#reviews", DataTable).row_count, DEMO_REVIEWS)
            self.assertEqual(app.screen.query_one("#runs", DataTable).row_count, DEMO_RUNS)
            self.assertIn("19 of 21 channels usable", text_of(app, "#plugged-head"))
            self.assertIn("28 dBA", text_of(app, "#question"))
            self.assertEqual(app.screen.query_one(Rail).states["grid"], "5/15 cells")

        self.drive(steps)

    def test_readings_of_an_older_method_are_worked_out_again(self) -> None:
        path = demo_archive(self.folder)
        with sqlite3.connect(path) as database:
            database.execute("update finding set method_version = 1, judgement = 'stopped'")
        with Archive(path) as archive:
            self.assertEqual(len(archive.runs.findings.stale()), DEMO_RUNS)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await until(pilot, lambda: "is read again" in text_of(app, "#reviews-head"))
            await until(pilot, lambda: app.session.archive.runs.findings.stale() == [], 240.0)
            await until(pilot, lambda: "is read again" not in text_of(app, "#reviews-head"))
            judged = list(app.session.archive.runs.findings.judgements().values())
            self.assertEqual(judged.count("stopped"), 1)

        self.drive(steps, kept=path)

    def test_the_grid_moves_opens_and_leaves_out(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("2")
            await until(pilot, lambda: len(app.screen.query(CellCard)) == 15)
            await until(pilot, lambda: len(app.screen.query("CellCard.-selected")) == 1)
            chosen = app.screen.query("CellCard.-selected").first(CellCard)
            self.assertEqual((chosen.cell.setup.name, chosen.cell.load), ("Tern 47", "everyday"))
            await pilot.press("right", "right")
            chosen = app.screen.query("CellCard.-selected").first(CellCard)
            self.assertEqual((chosen.cell.setup.name, chosen.cell.load), ("Tern 47", "worst case"))
            self.assertEqual(chosen.cell.passes, 2)
            await pilot.press("x")
            self.assertEqual(app.session.archive.runs.run("r0011").left_out, "left out by hand in the Grid")  # type: ignore[union-attr]
            await until(
                pilot, lambda: app.screen.query("CellCard.-selected").first(CellCard).cell.passes == 1
            )
            await pilot.press("x")
            self.assertIsNone(app.session.archive.runs.run("r0011").left_out)  # type: ignore[union-attr]
            await pilot.press("enter")
            await until(pilot, lambda: bool(app.screen.query("#cell-table")))
            await pilot.press("down", "down", "enter")
            await until(pilot, lambda: bool(app.screen.query("#panel")) and "r0011" in text_of(app, "#title"))

        self.drive(steps)

    def test_trace_reads_zooms_and_walks_the_held_stretches(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            app.session.trace_run = 1
            await pilot.press("4")
            await until(pilot, lambda: "throttles" in text_of(app, "#panel"))
            strips = app.screen.query_one(StripStack)
            self.assertEqual([h.by for _, held in strips.view.held or () for h in held], ["power", "thermal"])
            self.assertRegex(text_of(app, "#panel"), r"resistance +0\.94\d ±0\.00\d K/W")
            whole = strips.view.end_s - strips.view.start_s
            await pilot.press("plus")
            self.assertAlmostEqual(strips.view.end_s - strips.view.start_s, whole / 2, delta=1.0)
            await pilot.press("a", "h")
            first = strips.view.cursor_s
            await pilot.press("h")
            self.assertGreater(strips.view.cursor_s or 0, first or 0)
            await pilot.press("left")
            self.assertLess(strips.view.cursor_s or 0, (strips.view.held or ())[0][1][1].start_s)
            await pilot.press("o")
            self.assertIsNotNone(strips.view.model)
            drawn = screen_text(app)
            for words in ("held by", "thermal", "limit 95", "base 3400", "Temperature"):
                self.assertIn(words, drawn)
            await pilot.press("full_stop")
            await until(pilot, lambda: "r0002" in text_of(app, "#title"))

        self.drive(steps)

    def test_trace_exports_samples_and_chart(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("4")
            await until(pilot, lambda: "steady" in text_of(app, "#panel"))
            for name in ("run.csv", "run.svg"):
                await pilot.press("e")
                await until(pilot, lambda: bool(app.screen.query(Input)))
                app.screen.query_one(Input).value = str(self.folder / name)
                await pilot.press("enter")
                await until(pilot, lambda name=name: (self.folder / name).exists())  # type: ignore[misc]

        self.drive(steps)
        self.assertTrue((self.folder / "run.csv").read_text().startswith("Time (s),"))
        self.assertIn("<text", (self.folder / "run.svg").read_text())

    def test_versus_ranks_and_warns(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5")
            await until(pilot, lambda: "at the temperature limit" in text_of(app, "#audit"))
            drawn = screen_text(app)
            self.assertLess(drawn.index("Fjord 280"), drawn.index("Plain 65"))
            await until(pilot, lambda: app.screen.query_one("#overlay", StripStack).envelope is not None)
            await pilot.press("f")
            self.assertEqual(app.session.measure_key, "power")
            await pilot.press("l")
            self.assertEqual(app.session.load, "everyday")

        self.drive(steps)

    def test_writeup_checks_accepts_drops_and_keeps_words(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            store = app.session.archive.reviews
            await pilot.press("6")
            await until(pilot, lambda: len(app.screen.query_one("#claims", ListView).children) == 6)
            await until(pilot, lambda: "Fjord 280" in app.screen.query_one(Markdown).source)
            await pilot.press("a")
            self.assertIn("cooler than Plain 65", store.claims(1)[0].accepted or "")
            await pilot.press("d")
            await until(pilot, lambda: len(store.claims(1)) == 5)
            await pilot.press("u")
            await until(pilot, lambda: len(store.claims(1)) == 6)
            await pilot.press("c")
            for wanted in ("is as good as another", "Osprey 161", "worst case", "Loam P", "work"):
                await choose(app, pilot, wanted)
            await until(pilot, lambda: len(store.claims(1)) == 7)
            made = store.claims(1)[-1]
            self.assertEqual((made.kind, made.about), ("level", {"figure": "work", "label": "work done"}))
            await until(pilot, lambda: app.screen.query_one("#claims", ListView).index == 6)
            await pilot.press("t")
            await pilot.press(*"Quiet")
            self.assertEqual(app.screen.query_one(TextArea).text, "Quiet")
            await pilot.press("escape")
            await until(pilot, lambda: store.reviews()[0].verdict == "Quiet")

        self.drive(steps)

    def test_each_drafted_sentence_is_kept_struck_or_reworded_and_numbers_follow_the_runs(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            store = app.session.archive.reviews
            await pilot.press("6", "n")
            await until(pilot, lambda: bool(app.screen.query("#draft-title")))
            await pilot.press("k", "k", "x", "escape")
            kept = "{rise | Osprey 161 | worst case = 49.6 ±0.4 K}"
            await until(pilot, lambda: kept in store.reviews()[0].verdict)
            self.assertEqual(
                [d.state for d in app.session.archive.drafts.of(1).values()], ["kept", "kept", "struck"]
            )
            area, preview = app.screen.query_one(TextArea), app.screen.query_one(Markdown)
            await until(pilot, lambda: "settles 49.6 ±0.4 K" in preview.source)
            area.text = area.text.replace("= 49.6 ±0.4 K", "= 51.0 ±0.4 K").replace("There it", "It")
            await until(pilot, lambda: "**49.6 ±0.4 K** ~~51.0 ±0.4 K~~" in preview.source)
            await pilot.press("escape", "g")
            await until(pilot, lambda: "51.0" not in preview.source)
            self.assertIn("= 49.6 ±0.4 K", store.reviews()[0].verdict)
            # The draft comes again, and leaves what is the reviewer's as it is.
            before = area.text
            await pilot.press("n")
            await until(pilot, lambda: bool(app.screen.query("#draft-title")))
            states = [
                str(app.screen.query_one(OptionList).get_option_at_index(k).prompt)[:18] for k in range(4)
            ]
            self.assertEqual(
                [s.split("\n")[0][2:] for s in states], ["in the article", "in your words", "struck", "new"]
            )
            await pilot.press("escape")
            await until(pilot, lambda: not app.screen.query("#draft-title"))
            self.assertEqual(app.screen.query_one(TextArea).text, before)

        self.drive(steps)

    def test_the_bench_records_marks_and_seals(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3")
            await until(pilot, lambda: "Ready to record" in text_of(app, "#ready"))
            await pilot.press("r")
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: live.step == "load")
            await pilot.press("m")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            app.screen.query_one(Input).value = "panel off"
            await pilot.press("enter")
            await pilot.press("n")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            app.screen.query_one(Input).value = "21.5"
            await pilot.press("enter")
            await until(pilot, lambda: any(m.text == "panel off" for m in live.recording().marks))
            await until(pilot, lambda: "heading for" in screen_text(app))
            await pilot.press("s")
            await until(pilot, live.sealed.is_set)
            run = app.session.archive.runs.run(live.number)
            assert run is not None
            self.assertEqual(run.state, "stopped")
            self.assertIsNone(app.session.machine.rig.load)  # type: ignore[attr-defined]
            hands = app.session.archive.runs.hands.of(live.number)
            self.assertEqual([(h.kind, h.value, h.bound) for h in hands], [("noise", 20.2, "at most")])
            await until(pilot, lambda: live.id in app.screen.query_one(Rail).app.screen._announced)  # type: ignore[attr-defined]
            await pilot.press("enter")
            await until(pilot, lambda: live.id in text_of(app, "#title"))

        self.drive(steps, speed=60.0)

    def test_leaving_in_mid_run_stops_the_load_and_seals(self) -> None:
        seen = []

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            seen.append(live)
            await until(pilot, lambda: live.step == "load")
            await pilot.press("q")
            await until(pilot, lambda: "is being recorded" in screen_text(app))
            await pilot.press("escape")
            await until(pilot, lambda: app.screen is app.place("bench"))
            self.assertFalse(live.sealed.is_set())
            await pilot.press("q")
            await until(pilot, lambda: "is being recorded" in screen_text(app))
            await pilot.press("down", "enter")
            await until(pilot, live.sealed.is_set)

        self.drive(steps, speed=60.0)
        self.assertTrue(seen[0].sealed.is_set())
        self.assertEqual(seen[0].outcome.state, "stopped")

    def test_empty_places_say_what_to_do(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            for key, words in (
                ("0", "No review yet"), ("1", "No product yet"), ("2", "No review is open"),
                ("3", "lands in the inbox"), ("4", "No run to show"), ("5", "Nothing to compare"), ("6", "choose one on the Desk"),
            ):  # fmt: skip
                await pilot.press(key)
                await pilot.pause()
                await until(pilot, lambda words=words: words in screen_text(app))  # type: ignore[misc]

        self.drive(steps, empty=True)

    def test_every_place_fits_the_least_window_in_both_themes(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            for theme_key in ("", "ctrl+t"):
                if theme_key:
                    await pilot.press(theme_key)
                for key in "0123456":
                    await pilot.press(key)
                    await pilot.pause(0.2)
                    self.assertNotIsInstance(app.screen, TooSmall)
                    self.assertEqual(len(screen_text(app).splitlines()), 30)
            self.assertEqual(app.theme, LIGHT_THEME.name)

        self.drive(steps, size=(100, 30))

    def test_a_window_too_small_says_so_and_recovers(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await until(pilot, lambda: isinstance(app.screen, TooSmall))
            self.assertIn("at least 100×30", text_of(app, "#size"))
            await pilot.resize_terminal(120, 40)
            await until(pilot, lambda: not isinstance(app.screen, TooSmall))

        self.drive(steps, size=(80, 24))

    def test_help_shows_the_keys_of_the_place(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("4", "question_mark")
            await until(pilot, lambda: isinstance(app.screen, HelpScreen))
            drawn = screen_text(app)
            self.assertIn("the held stretch before, or the next, in the list", drawn)
            self.assertIn("find any action by its name", drawn)
            await pilot.press("escape")
            await until(pilot, lambda: not isinstance(app.screen, HelpScreen))

        self.drive(steps)

    def test_what_comes_to_the_screen_while_the_program_ends_is_let_go(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("6")
            place = app.screen
            assert isinstance(place, WriteUpPlace)
            listed = place.query_one("#claims", ListView)
            await until(pilot, lambda: len(listed) > 1)

            async def ends() -> None:
                app._exit = True

            with patch.object(listed, "clear", ends):
                worker = place._show_claims()
                while not worker.is_finished:
                    await asyncio.sleep(0.01)
            self.assertIsInstance(worker.error, MountError)
            await asyncio.sleep(0.1)
            app._exit = False

        self.drive(steps)


if __name__ == "__main__":
    unittest.main()
