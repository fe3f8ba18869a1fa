"""Trace through Textual's pilot: the list of held stretches, stretches left out, a note, another run beside, residuals,
and the chart of what is shown."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from textual.pilot import Pilot
from textual.widgets import Input

from samovar.archive import Archive
from samovar.core.by_hand.reading import HandReading
from samovar.core.results.result import Result
from samovar.figures.palette import DARK
from samovar.tui.app import SamovarApp
from samovar.tui.pixels.layer import draw_in_pixels
from samovar.tui.pixels.terminal import SIXEL, Pixels
from samovar.tui.screens.trace import TracePlace
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.traced_run import traced
from samovar.tui.widgets.reading_panel import panel_text
from samovar.tui.widgets.strip_tiles import TILE
from samovar.tui.widgets.strips import StripStack
from tests.core.turns import TURNS, loops_under_a_budget, turned
from tests.demo_archive import demo_archive
from tests.tui.driving import Driven, screen_text, text_of, until
from tests.tui.pixels.stage import has_dots


def place(app: SamovarApp) -> TracePlace:
    assert isinstance(app.screen, TracePlace)
    return app.screen


class TraceTest(Driven):
    async def open_run(self, app: SamovarApp, pilot: Pilot[None], number: int) -> None:
        app.session.trace_run = number
        await pilot.press("4")
        await until(pilot, lambda: "steady" in text_of(app, "#panel"))

    def test_a_level_over_full_scale_is_called_so(self) -> None:
        with Archive(demo_archive(self.folder)) as archive:
            found = traced(archive, 1)
        assert found is not None
        level = Result("other", "microphone", "noise", "mean", "dBFS", -71.04, 0.1)
        words = panel_text(DARK, replace(found, results=[level]), None).plain
        self.assertRegex(words, r"microphone +−71\.0 ±0\.1 dBFS")

    def test_the_list_of_held_stretches_zooms_to_the_chosen_one(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await self.open_run(app, pilot, 1)
            await pilot.press("down", "down")
            reading = place(app).reading_shown
            assert reading is not None and len(reading.held) == 2
            self.assertIn("▸▓ thermal", text_of(app, "#panel"))
            await pilot.press("enter")
            begin, end = place(app).span
            held = reading.held[1]
            self.assertLess(begin, held.start_s)
            self.assertGreater(end, held.end_s)
            self.assertLess(end - begin, 1.2 * (held.end_s - held.start_s))
            self.assertEqual(place(app).cursor_s, held.start_s)
            await pilot.press("up", "enter")
            self.assertEqual(place(app).cursor_s, reading.held[0].start_s)
            await pilot.press("a", "z", "z")
            cool = reading.phases[-1]
            self.assertLess(abs(place(app).span[0] - cool.start_s), 0.1 * cool.duration_s)

        self.drive(steps)

    def test_the_view_follows_a_cursor_that_leaves_it_by_whole_pieces(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await self.open_run(app, pilot, 1)
            for _ in range(4):
                await pilot.press("plus")
            here = place(app)
            follows = 0
            piece = TILE * (here.span[1] - here.span[0]) / app.screen.query_one(StripStack).plot_width
            for key, step in (("shift+right", 1.0), ("shift+left", -1.0)):
                for _ in range(25):
                    begin, end = here.span
                    await pilot.press(key)
                    assert here.cursor_s is not None
                    self.assertTrue(here.span[0] <= here.cursor_s < here.span[1])
                    self.assertAlmostEqual(here.span[1] - here.span[0], end - begin, places=6)
                    moved = here.span[0] - begin
                    self.assertGreaterEqual(moved * step, 0.0)
                    if abs(begin % piece) < 1e-6 and 0.0 < here.span[0] < here.whole()[1] - (end - begin):
                        self.assertAlmostEqual(moved / piece, round(moved / piece), places=6)
                    follows += moved != 0.0
            self.assertGreater(follows, 4)

        self.drive(steps)

    def test_times_are_typed_for_the_cursors_and_for_the_window(self) -> None:
        async def answer(app: SamovarApp, pilot: Pilot[None], key: str, typed: str) -> None:
            await pilot.press(key)
            await until(pilot, lambda: isinstance(app.screen, Ask))
            app.screen.query_one(Input).value = typed
            await pilot.press("enter")
            await until(pilot, lambda: isinstance(app.screen, TracePlace))

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await self.open_run(app, pilot, 4)
            await answer(app, pilot, "g", "9:30")
            self.assertEqual((place(app).anchor_s, place(app).cursor_s), (None, 570.0))
            await answer(app, pilot, "g", "600 s to 12:00")
            self.assertEqual((place(app).anchor_s, place(app).cursor_s), (600.0, 720.0))
            await answer(app, pilot, "g", "3:00:00")
            self.assertEqual(place(app).cursor_s, 720.0)
            await answer(app, pilot, "t", "10:00 to 12:00")
            await until(pilot, lambda: "set by hand" in text_of(app, "#panel"))
            self.assertEqual(app.session.archive.runs.annotations.window(4), (600.0, 720.0))
            await answer(app, pilot, "t", "10:00 to 10:05")
            self.assertEqual(app.session.archive.runs.annotations.window(4), (600.0, 720.0))

        self.drive(steps)

    def test_without_a_review_the_newest_run_is_shown_and_many_stretches_tell_one_by_one(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("4")
            self.assertIn("No run to show", screen_text(app))
            log = turned(TURNS.index(loops_under_a_budget))
            app.session.archive.runs.add(log.recording, "loops", "2026-03-02T09:00:00Z", facts=log.facts)
            app.session.open_review(None)
            await pilot.press("0", "4")
            await until(pilot, lambda: "held 7 times" in text_of(app, "#panel"))
            self.assertIn("choose one", text_of(app, "#panel"))
            self.assertNotIn("package power flat", text_of(app, "#panel"))
            await pilot.press("down", "down")
            self.assertEqual(text_of(app, "#panel").count("package power flat"), 1)
            self.assertIn("▸▚ power 3:23", text_of(app, "#panel"))

        self.drive(steps, empty=True)

    def test_a_stretch_is_left_out_with_its_reason_and_comes_back(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await self.open_run(app, pilot, 4)
            before = app.session.archive.runs.reading(4).steady["Tdie"].mean
            await pilot.press("k")
            self.assertEqual(app.session.archive.runs.annotations.excluded(4), [])
            await pilot.press("space", *(["right"] * 4), "k")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            await pilot.press("1")
            await until(pilot, lambda: "left out of all figures" in text_of(app, "#panel"))
            (out,) = app.session.archive.runs.annotations.excluded(4)
            self.assertEqual(out.reason, "door opened")
            self.assertIn("door opened", text_of(app, "#panel"))
            after = app.session.archive.runs.reading(4)
            self.assertLess(abs(after.steady["Tdie"].mean - before), 0.5)
            # What is seen left out is left out of an export's reading too.
            self.assertTrue(app.screen.query_one(StripStack).view.left_out)
            await pilot.press("u")
            await until(pilot, lambda: "left out of all figures" not in text_of(app, "#panel"))
            self.assertEqual(app.session.archive.runs.annotations.excluded(4), [])

        self.drive(steps)

    def test_a_note_stays_with_the_run(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await self.open_run(app, pilot, 4)
            await pilot.press("n")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            app.screen.query_one(Input).value = "second mounting"
            await pilot.press("enter")
            await until(pilot, lambda: "second mounting" in text_of(app, "#panel"))
            self.assertEqual(app.session.archive.runs.annotations.note(4), "second mounting")

        self.drive(steps)

    def test_another_run_beside_this_one_and_the_chart_of_both(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            for number, score in ((20, 812.0), (19, 951.0)):
                app.session.archive.runs.hands.add(
                    number, HandReading(600.0, "score", score, 4.0, "pts", "x")
                )
            await self.open_run(app, pilot, 20)
            await pilot.press("w")
            await until(pilot, lambda: isinstance(app.screen, Choose))
            await pilot.press("enter")
            await until(pilot, lambda: "beside r00" in text_of(app, "#panel"))
            panel = text_of(app, "#panel")
            self.assertRegex(panel, r"rise +71\.\d +\d+\.\d +[−+]\d+\.\d ±")
            self.assertIn("throttles", panel)
            self.assertRegex(panel, r"score +812\.0 +951\.0 +\+139")
            specs = app.screen.query_one(StripStack).view.specs
            self.assertTrue(all(s.other is not None for s in specs if s.quantity in ("temperature", "power")))
            await pilot.press("o")
            specs = app.screen.query_one(StripStack).view.specs
            self.assertEqual(specs[1].title, "Residual")
            chart = self.folder / "both.svg"
            await pilot.press("z", "e")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            app.screen.query_one(Input).value = str(chart)
            await pilot.press("enter")
            await until(pilot, chart.exists)
            await until(pilot, lambda: chart.read_text(encoding="utf-8").endswith("</svg>\n"))
            self.assertIn("thermal model", chart.read_text(encoding="utf-8"))
            await pilot.press("w")
            await until(pilot, lambda: "beside r00" not in text_of(app, "#panel"))

        self.drive(steps)

    def test_pixels_are_there_again_once_a_sheet_is_closed(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            draw_in_pixels(app, Pixels(SIXEL, 8, 16))
            await pilot.press("4")
            strips = app.place("trace").query_one(StripStack)

            def in_dots() -> bool | None:
                # What is drawn, not what would be if it were asked for now.
                rows = strips._rows
                return None if rows is None else any(has_dots(row.text) for row in rows)

            await until(pilot, lambda: len(strips.pictures._pictures) > 1 and in_dots() is False)
            await pilot.press("question_mark")
            await until(pilot, lambda: in_dots() is True)
            await pilot.press("escape")
            await until(pilot, lambda: in_dots() is False)

        self.drive(steps)


class ExportedTest(Driven):
    def test_an_exported_run_reads_as_the_run_does_with_all_that_was_set_by_hand(self) -> None:
        from samovar.core.exclusions import Exclusion
        from samovar.exchange.export import export_recording
        from samovar.lookup import reading_of

        where: Path = demo_archive(self.folder)
        with Archive(where) as archive:
            said = archive.runs.annotations
            said.set_excluded(4, [Exclusion(600.0, 640.0, "panel taken off")])
            said.set_window(4, (900.0, 1200.0))
            run = archive.runs.run(4)
            assert run is not None
            export_recording(archive.runs.recording(4), self.folder / "r.csv", run.facts, *said.by_hand(4))
        ours = reading_of("r0004", None, None, where).reading
        theirs = reading_of(str(self.folder / "r.csv"), None, None, where).reading
        self.assertEqual(ours.judgement, theirs.judgement)
        self.assertEqual([(h.by, h.start_s) for h in ours.held], [(h.by, h.start_s) for h in theirs.held])
        assert ours.window is not None and theirs.window is not None
        self.assertEqual(ours.window.span, theirs.window.span)
        self.assertAlmostEqual(ours.steady["Tdie"].mean, theirs.steady["Tdie"].mean, places=6)
