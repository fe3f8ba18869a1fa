"""Versus through Textual's pilot: four views of one choice, terms, channels, and files of each view."""

from __future__ import annotations

import csv
import tempfile
from pathlib import Path

from textual.pilot import Pilot
from textual.widgets import Input, TextArea

from samovar.tui.app import SamovarApp
from samovar.tui.screens.versus import VersusPlace
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.cell_runs import CellRuns
from samovar.tui.sheets.lines import Lines
from samovar.tui.widgets.ladder import Ladder
from samovar.tui.widgets.plain import Static
from tests.tui.driving import Driven, screen_text, text_of, until


def place(app: SamovarApp) -> VersusPlace:
    assert isinstance(app.screen, VersusPlace)
    return app.screen


class VersusTest(Driven):
    def test_four_views_of_one_choice(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5")
            await until(pilot, lambda: "like for like" in screen_text(app))
            self.assertIn("at least 22.3", screen_text(app))
            await pilot.press("v")
            await until(pilot, lambda: "wins alone" in text_of(app, "#criteria"))
            table = text_of(app, "#criteria")
            for words in (
                "work done, 1/s",
                "price, EUR",
                "warranty",
                "mark out of ten",
                "Fjord 280 wins",
                "level",
            ):
                self.assertIn(words, table)
            # One table, not one below the other for each setup.
            self.assertEqual(table.count("judgement"), 1)
            await pilot.press("v")
            await until(pilot, lambda: "nothing beats it in both" in screen_text(app))
            self.assertIn("28 dBA asked for", screen_text(app))
            await pilot.press("v")
            await until(pilot, lambda: "Rise over the room" in screen_text(app))
            await pilot.press("v")
            self.assertEqual(place(app).view, "ladder")

        self.drive(steps)

    def test_the_table_and_the_trade_follow_the_terms(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5", "t", *(["down"] * 8), "v")
            await until(pilot, lambda: "rise over the room, K, at 24 dBA" in text_of(app, "#criteria"))
            self.assertIn("price, EUR", text_of(app, "#criteria"))
            await pilot.press("up")
            await until(pilot, lambda: "rise over the room, K, at 24.5 dBA" in text_of(app, "#criteria"))
            await pilot.press("v")
            await until(pilot, lambda: "24.5 dBA looked at" in screen_text(app))

        self.drive(steps)

    def test_loads_side_by_side_and_everything_ever_measured(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5", "L")
            await until(pilot, lambda: "which load is harder here?" in text_of(app, "#criteria"))
            table = text_of(app, "#criteria")
            self.assertIn("heavy work and worst case are level", table)
            self.assertEqual(table.count("\neveryday "), 1)
            await pilot.press("S")
            await until(pilot, lambda: "how far the ties carry" in text_of(app, "#criteria"))
            self.assertIn("Plain 65: at its limit", text_of(app, "#criteria"))
            await pilot.press("S")
            await until(pilot, lambda: place(app).tabled == "")

        self.drive(steps)

    def test_criteria_are_chosen_a_line_each_and_undone(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5", "k")
            await until(pilot, lambda: isinstance(app.screen, Lines))
            area = app.screen.query_one(TextArea)
            area.text = "noise\nhum"
            await pilot.pause()
            self.assertIn("line 2", str(app.screen.query_one("#lines-state", Static).content))
            await pilot.press("ctrl+s")
            self.assertIsInstance(app.screen, Lines)
            area.text = "noise x2\nlooks x3: Osprey 161 = 8, Loam P = 6\nmissing Osprey 161: a fan hub"
            await pilot.press("ctrl+s")
            await until(pilot, lambda: "by weight" in text_of(app, "#criteria"))
            table = text_of(app, "#criteria")
            self.assertIn("Osprey 161 3, Loam P 2", table)
            self.assertIn("Osprey 161: a fan hub", table)
            self.assertNotIn("warranty", table)
            await pilot.press("z")
            await until(pilot, lambda: "warranty" in text_of(app, "#criteria"))

        self.drive(steps)

    def test_a_click_on_a_bar_shows_the_runs_behind_it(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5")
            await until(pilot, lambda: "like for like" in screen_text(app))
            await pilot.click(Ladder, offset=(20, 2))
            await until(pilot, lambda: isinstance(app.screen, CellRuns))
            self.assertIn("Osprey 161 ▸ worst case", text_of(app, "#cell-title"))

        self.drive(steps)

    def test_terms_go_round_and_the_level_moves(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5", "t")
            await until(pilot, lambda: place(app).terms.noise_dba == 28.0)
            self.assertIn("a run with faster fans would tell", screen_text(app))
            await pilot.press(*(["down"] * 8))
            self.assertEqual(place(app).terms.noise_dba, 24.0)
            shown = place(app).shown
            assert shown is not None
            self.assertEqual([r.name for r in shown.ladder.rungs], ["Fjord 280", "Osprey 161"])
            await pilot.press("t")
            self.assertIsNotNone(place(app).terms.heat_w)
            self.assertIn("would be held at its limit", screen_text(app))
            await pilot.press("f")
            await pilot.pause()
            self.assertEqual(place(app).terms.words, "as they ran")

        self.drive(steps)

    def test_each_view_is_written_as_figure_and_table(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5")
            await until(pilot, lambda: place(app).curves_shown() is not None)
            with tempfile.TemporaryDirectory() as folder:
                for count, view in enumerate(("ladder", "criteria", "trade", "curves"), 1):
                    await pilot.press("e")
                    await until(pilot, lambda: isinstance(app.screen, Ask))
                    app.screen.query_one(Input).value = folder
                    await pilot.press("enter")
                    await until(pilot, lambda count=count: len(list(Path(folder).iterdir())) == 3 * count)  # type: ignore[misc]
                    self.assertEqual(len(list(Path(folder).glob(f"*{view}.svg"))), 1)
                    await pilot.press("v")
                with next(Path(folder).glob("*ladder.csv")).open(encoding="utf-8") as file:
                    rows = list(csv.DictReader(file))
                self.assertEqual(rows[0]["setup"], "Fjord 280")
                self.assertEqual(rows[0]["words"], "differs")

        self.drive(steps)

    def test_an_archive_with_nothing_says_what_to_do(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("5")
            self.assertIn("Choose a review", screen_text(app))
            await pilot.press("v", "t", "v", "c", "up", "e")
            self.assertIsInstance(app.screen, VersusPlace)

        self.drive(steps, empty=True)
