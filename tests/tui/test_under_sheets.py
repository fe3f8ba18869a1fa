"""Sheets over a run: it is drawn on beneath, readings reach the run they were meant for, keys typed ahead go astray to
nobody, and what needs a person's leave asks for it."""

from __future__ import annotations

import asyncio
import unittest
from unittest.mock import patch

from textual.events import Key
from textual.pilot import Pilot
from textual.widgets import Markdown, TextArea

from samovar.bench.loads.catalogue import OwnLoad
from samovar.recording.under_guard import UNGUARDED
from samovar.tui.app import SamovarApp
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.leave import Leave
from tests.tui.driving import Driven, screen_text, text_of, until


def type_at_once(app: SamovarApp, keys: str) -> None:
    """Keys as a fast typist, or a paste, brings them: all before the first is answered."""
    for key in keys:
        named = {".": "full_stop", "\n": "enter", " ": "space"}.get(key, key)
        app.post_message(Key(named, None if key == "\n" else key))


class SheetsTest(Driven):
    def test_the_bench_draws_on_beneath_a_sheet_and_a_late_reading_finds_its_run(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: live.step == "load")
            await pilot.press("n")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            bench = app.place("bench")
            before = str(bench.query_one("#title").render())
            await until(pilot, lambda: str(bench.query_one("#title").render()) != before)
            self.assertIsInstance(app.screen, Ask)
            live.stop()
            await until(pilot, live.sealed.is_set)
            type_at_once(app, "24.5\n")
            await until(pilot, lambda: bool(app.session.archive.runs.hands.of(live.number)))
            sealed = f"of {live.id}, which is sealed"
            await until(pilot, lambda: any(sealed in note.message for note in app._notifications))

        self.drive(steps)

    def test_leaving_asks_over_another_question_too(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: live.step == "load")
            app.push_screen(Choose("Which of them?", [("this", ""), ("that", "")]))
            await until(pilot, lambda: "Which of them?" in screen_text(app))
            app.action_leave()
            await until(pilot, lambda: "is being recorded" in screen_text(app))
            await pilot.press("escape")
            await until(pilot, lambda: "Which of them?" in screen_text(app))
            self.assertIsNone(app.return_value)
            self.assertNotEqual(live.outcome and live.outcome.reason, "stopped by hand")

        self.drive(steps)

    def test_keys_typed_ahead_reach_the_sheet_that_opens(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3", "r")
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: live.step == "load")
            # Digits go to other places where no sheet stands.
            type_at_once(app, "n24.6\n")
            await until(pilot, lambda: bool(live.hand_readings))
            self.assertAlmostEqual(live.hand_readings[0].value, 24.6, delta=2.0)
            self.assertIs(app.screen, app.place("bench"))
            type_at_once(app, "mrattle\n")
            await until(pilot, lambda: "rattle" in [m.text for m in live.marks()])

        self.drive(steps)

    def test_no_letter_of_an_article_is_lost_while_it_is_drawn_slowly(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            async def slowly(preview: Markdown, article: str) -> None:
                await asyncio.sleep(3.0)

            await pilot.press("6", "t")
            area = app.screen.query_one(TextArea)
            with patch.object(Markdown, "update", slowly):
                type_at_once(app, "Written on the bench.")
                await until(pilot, lambda: area.text == "Written on the bench.", 20.0)
                await pilot.press("escape", "p")
                await until(pilot, lambda: "Publish into which folder" in screen_text(app))

        self.drive(steps)

    def test_a_strangers_command_is_shown_whole_and_runs_only_once_allowed(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            plans = app.session.archive.plans
            plans.add_load(
                OwnLoad(
                    "warm up", "command", command="true\n rm -rf x", note="a short idle", origin="booth.toml"
                )
            )
            await pilot.press("3")
            names = list(app.session.loads())
            bench = app.place("bench")
            bench._free_load = names.index("warm up")  # type: ignore[attr-defined]
            await pilot.press("r")
            await until(pilot, lambda: isinstance(app.screen, Leave))
            shown = screen_text(app)
            for words in ("rm -rf x", "booth.toml", "a short idle"):
                self.assertIn(words, shown)
            self.assertIsNone(app.session.live)
            await pilot.press("escape")
            await until(pilot, lambda: app.screen is bench)
            self.assertIsNone(app.session.live)
            await pilot.press("r")
            await until(pilot, lambda: isinstance(app.screen, Leave))
            await pilot.press("ctrl+a")
            await until(pilot, lambda: app.session.live is not None)
            self.assertFalse(plans.own_loads()["warm up"].waits_for_leave)
            app.session.live.stop()  # type: ignore[union-attr]

        self.drive(steps, empty=True)

    def test_where_nothing_can_be_guarded_a_person_decides(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("3")
            with patch("samovar.recording.live.die_channels", return_value=()):
                await pilot.press("r")
                await until(pilot, lambda: isinstance(app.screen, Choose))
                self.assertIn("nothing here stands for the die", screen_text(app))
                await pilot.press("down", "enter")
                await until(pilot, lambda: app.session.live is not None)
            live = app.session.live
            assert live is not None
            await until(pilot, lambda: "UNGUARDED" in text_of(app, "#title"))
            live.stop()
            await until(pilot, live.sealed.is_set)
            self.assertIn(UNGUARDED, [m.text for m in live.marks()])

        self.drive(steps, empty=True)


class NamesTest(Driven):
    def test_names_with_brackets_are_shown_to_the_letter_in_every_place(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            archive = app.session.archive
            store = archive.reviews
            key = store.add_review("Quiet [/b] $x$", "Why [bold]?", ["worst case"])
            store.add_setup(key, "Loam P [/low]", None, reference=True)
            store.add_setup(key, "Fans [low]", None)
            archive.shelf.add_product("Vane [2]", "fan")
            app.session.open_review(store.review(key))
            for place, names in (
                ("0", ("Quiet [/b] $x$",)), ("1", ("Vane [2]",)), ("2", ("Loam P [/low]", "Fans [low]")),
                ("3", ("Loam P [/low]",)), ("4", ()), ("5", ()), ("6", ("Quiet [/b] $x$",)),
            ):  # fmt: skip
                await pilot.press(place)
                for name in names:
                    await until(pilot, lambda name=name: name in screen_text(app))  # type: ignore[misc]
            app.notify("Fans [low] [/x]")
            await pilot.pause()
            self.assertEqual(
                [(n.message, n.markup) for n in app._notifications][-1:], [("Fans [low] [/x]", False)]
            )

        self.drive(steps)


if __name__ == "__main__":
    unittest.main()
