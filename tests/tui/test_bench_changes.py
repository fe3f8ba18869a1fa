"""The Bench in mid-run through Textual's pilot: changes, prepared marks, zoom, channels; marks changed afterwards."""

from __future__ import annotations

from textual.pilot import Pilot
from textual.widgets import Input, OptionList

from samovar.core.marks import Mark
from samovar.exchange.problems import InputError
from samovar.tui.app import SamovarApp
from samovar.tui.live_window import LiveWindow
from samovar.tui.mark_sheets import read_mark
from samovar.tui.sheets.channels import ChannelsSheet
from samovar.tui.widgets.strips import StripStack
from tests.tui.driving import Driven, screen_text, until


class MidRunTest(Driven):
    def test_changes_marks_zoom_and_channels_while_it_records(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3", "r")
            await until(pilot, lambda: app.session.live is not None and app.session.live.step == "load")
            live = app.session.live
            assert live is not None
            await pilot.press("c")
            await until(pilot, lambda: bool(app.screen.query(OptionList)))
            await pilot.press("enter")
            await until(pilot, lambda: any(m.text == "fans 100 %" for m in live.marks()))
            await pilot.press("m")
            await until(pilot, lambda: bool(app.screen.query(Input)))
            await pilot.press("2")
            await until(pilot, lambda: any(m.text == "panel off" for m in live.marks()))
            strips = app.screen.query_one("#strips", StripStack)
            await pilot.press("plus", "plus")
            await until(pilot, lambda: strips.view.end_s - strips.view.start_s < 0.5 * live.arrays()[0][-1])
            await pilot.press("left")
            self.assertIn("looking back", screen_text(app))
            await pilot.press("a")
            await until(pilot, lambda: strips.view.start_s == 0.0)
            self.assertIn("VRM", [c.name for c in live.channels])
            await pilot.press("v")
            await until(pilot, lambda: isinstance(app.screen, ChannelsSheet))
            lines = app.screen.query_one(OptionList)
            names = [str(lines.get_option_at_index(k).prompt) for k in range(lines.option_count)]
            self.assertIn("one band", names[0])
            lines.highlighted = next(k for k, n in enumerate(names) if "VRM" in n)
            await pilot.press("space", "escape")
            await until(pilot, lambda: not isinstance(app.screen, ChannelsSheet))
            self.assertNotIn("vrm", [label for s in strips.view.specs for label in s.labels])
            rig = live.setup.rig if live.setup else None
            assert rig is not None
            kept = app.session.archive.plans.channel_view(rig.id)
            self.assertEqual(len(kept["hidden"]), 1)
            await pilot.press("s")
            await until(pilot, live.sealed.is_set)

        self.drive(steps, speed=60.0)

    def test_a_mark_is_moved_reworded_taken_away_and_brought_back(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            runs = app.session.archive.runs
            app.session.trace_run = 4
            runs.change_mark(4, None, Mark(300.25, "panel of"))

            def marks() -> list[Mark]:
                return [m for m in runs.recording(4, [0]).marks if not m.text.startswith("load")]

            before = marks()
            await pilot.press("4")
            await until(pilot, lambda: "r0004" in screen_text(app))
            await until(pilot, lambda: "panel of" in screen_text(app))

            async def change(typed: str) -> None:
                await pilot.press("m")
                await until(pilot, lambda: bool(app.screen.query(OptionList)))
                lines = app.screen.query_one(OptionList)
                names = [str(lines.get_option_at_index(k).prompt) for k in range(lines.option_count)]
                lines.highlighted = next(k for k, n in enumerate(names) if "panel o" in n)
                await pilot.press("enter")
                await until(pilot, lambda: bool(app.screen.query(Input)))
                app.screen.query_one(Input).value = typed
                await pilot.press("enter")
                await until(pilot, lambda: not app.screen.query(Input))

            await change("5:00 panel off")
            self.assertIn(Mark(300.25, "panel off"), marks())
            await change("6:10 panel off")
            self.assertIn(Mark(370.0, "panel off"), marks())
            await change("")
            self.assertEqual(len(marks()), len(before) - 1)
            for _ in range(3):
                await pilot.press("u")
                await pilot.pause(0.1)
            self.assertEqual(marks(), before)

        self.drive(steps)

    def test_a_run_replayed_from_trace_is_recorded_again(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            app.session.trace_run = 4
            await pilot.press("4")
            await until(pilot, lambda: "r0004" in screen_text(app))
            await pilot.pause(0.5)
            await pilot.press("y")
            await until(
                pilot, lambda: app.session.live is not None and len(app.session.live.arrays()[0]) > 60
            )
            live = app.session.live
            assert live is not None
            await pilot.press("s")
            await until(pilot, live.sealed.is_set)
            again = app.session.archive.runs.recording(live.number)
            first = app.session.archive.runs.recording(4)
            near = [first.values[:, k].tolist() for k in range(10, 40)]
            self.assertIn(again.values[:, 20].tolist(), near)
            self.assertIn("replay of r0004", [m.text for m in again.marks])

        self.drive(steps)

    def test_the_averaging_window_is_set_at_the_cursor_and_undone(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            runs = app.session.archive.runs
            app.session.trace_run = 4
            found = runs.reading(4)
            assert found.window is not None and found.window.span is not None
            await pilot.press("4")
            await until(
                pilot, lambda: "from its last" in screen_text(app) or "the longest last" in screen_text(app)
            )
            place = app.screen
            place.cursor_s = found.window.span[0] + 60.0  # type: ignore[attr-defined]
            await pilot.press("left_square_bracket")
            await until(pilot, lambda: "set by hand" in screen_text(app))
            again = runs.reading(4)
            assert again.window is not None and again.window.span is not None
            self.assertAlmostEqual(again.window.span[0], found.window.span[0] + 60.0, delta=1.0)
            self.assertNotEqual(again.steady["Tdie"].mean, found.steady["Tdie"].mean)
            await pilot.press("u")
            await until(pilot, lambda: "the longest last" in screen_text(app))
            self.assertEqual(runs.reading(4).steady, found.steady)
            await pilot.press("space", "shift+right", "shift+right")
            await until(pilot, lambda: "from the second cursor" in screen_text(app))

        self.drive(steps)

    def test_a_part_follows_until_it_is_moved_back_and_follows_again(self) -> None:
        window = LiveWindow()
        self.assertEqual(window.span(500.0, 600.0), (0.0, 600.0))
        window.zoom(0.5, 500.0, 600.0)
        start, end = window.span(500.0, 600.0)
        self.assertTrue(start < 500.0 < end and abs(end - start - 300.0) < 1e-9)
        window.pan(-1, 500.0, 600.0)
        self.assertEqual(window.span(500.0, 600.0), window.span(560.0, 900.0))
        window.pan(1, 560.0, 900.0)
        window.pan(1, 560.0, 900.0)
        self.assertGreater(window.span(560.0, 900.0)[1], 560.0)
        window.zoom(8.0, 560.0, 900.0)
        self.assertEqual(window.span(560.0, 900.0), (0.0, 900.0))

    def test_marks_as_people_type_them(self) -> None:
        self.assertEqual(read_mark("14:32 panel off", 900.0), Mark(872.0, "panel off"))
        self.assertEqual(read_mark("1:02:03,5 fans", 9000.0), Mark(3723.5, "fans"))
        for wrong in ("panel off", "14:32", "14:72 x", "99:00 late"):
            with self.assertRaisesRegex(InputError, "14:32|ends at"):
                read_mark(wrong, 900.0)
