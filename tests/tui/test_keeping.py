"""The archive in the interface: found again by any word, others' runs, guests, checking, copies, a broken one."""

from __future__ import annotations

import asyncio
import sqlite3
import time
import unittest
from datetime import date
from pathlib import Path

from textual.pilot import Pilot
from textual.widgets import DataTable, OptionList, TextArea

from samovar.archive import Archive
from samovar.archive.backup import keep_daily
from samovar.archive.check import check
from samovar.archive.database import BrokenArchive
from samovar.archive.moving import move
from samovar.tui.app import SamovarApp
from samovar.tui.aside import behind
from samovar.tui.broken import COPY, SAVE, BrokenApp
from samovar.tui.keeping import check_archive, copy_of_today
from samovar.tui.screens.help import HelpScreen
from samovar.tui.sheets.ask import Ask
from samovar.tui.sheets.choose import Choose
from samovar.tui.sheets.find import Find
from tests.demo_archive import DEMO_RUNS, demo_archive
from tests.recordings import DIE, FACTS, simple_run
from tests.server import Server, needs_server
from tests.tui.driving import Driven, choose, screen_text, text_of, until


def said(app: SamovarApp) -> str:
    """Everything that was notified."""
    return "\n".join(str(note.message) for note in app._notifications)


class KeepingTest(Driven):
    def test_anything_is_found_and_gone_to(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await pilot.press("slash")
            await until(pilot, lambda: isinstance(app.screen, Find))
            await pilot.press(*"encoder")
            await until(
                pilot, lambda: "Relay-site encoder board" in screen_text(app) and "r0028" in screen_text(app)
            )
            await pilot.press("enter")
            await until(pilot, lambda: "Relay-site encoder board" in text_of(app, "#title"))
            await pilot.press("slash")
            await until(pilot, lambda: isinstance(app.screen, Find))
            await pilot.press(*"product:fjord worst")
            await until(pilot, lambda: app.screen.query_one(OptionList).option_count > 2)
            await pilot.press("enter")
            await until(pilot, lambda: "Fjord 280" in text_of(app, "#title"))
            await pilot.press("slash")
            await until(pilot, lambda: isinstance(app.screen, Find))
            await pilot.press(*"no such thing")
            await until(pilot, lambda: "nothing has all of" in screen_text(app))
            await pilot.press("escape")
            await until(pilot, lambda: not isinstance(app.screen, Find))

        self.drive(steps)

    def test_what_another_bench_records_appears_by_itself(self) -> None:
        path = demo_archive(self.folder)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await until(pilot, lambda: app.screen.query_one("#runs", DataTable).row_count == DEMO_RUNS)
            # Its first look is what later ones are held against.
            await until(pilot, lambda: app._state is not None)
            with Archive(path) as other:
                other.runs.add(simple_run(60), "soak", "2026-03-05T09:00:00Z", facts=FACTS)
            await until(pilot, lambda: app.screen.query_one("#runs", DataTable).row_count == DEMO_RUNS + 1)
            self.assertEqual(str(app.screen.query_one("#runs", DataTable).get_row_at(0)[0]), "r0039")

        self.drive(steps, kept=path)

    @needs_server
    def test_the_interface_lives_on_while_its_server_is_restarted_under_two_recorders(self) -> None:
        server = Server()
        self.addCleanup(server.close)
        address = server.database()
        with Archive(demo_archive(self.folder)) as source, Archive(address) as there:
            move(source, there)
        benches = [Archive(address) for _ in range(2)]
        for one in benches:
            self.addCleanup(one.close)
        writers = [one.runs.begin((DIE,), "none", "2026-03-05T09:00:00Z") for one in benches]

        def record(begin: int, end: int) -> None:
            for k in range(begin, end):
                for writer in writers:
                    writer.append(float(k), (40.0 + k,))
                time.sleep(0.05)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await until(pilot, lambda: app.screen.query_one("#runs", DataTable).row_count == DEMO_RUNS + 2)
            await asyncio.to_thread(record, 0, 30)
            await asyncio.to_thread(server.stop)
            await until(pilot, lambda: "cannot be reached" in said(app))
            for key in ("2", "4", "5", "1", "6", "0"):
                await pilot.press(key)
            await asyncio.to_thread(record, 30, 60)
            await asyncio.to_thread(server.start)
            await until(pilot, lambda: "answers again" in said(app))
            await asyncio.to_thread(record, 60, 90)
            for bench, writer in zip(benches, writers, strict=True):
                await until(pilot, writer.flush)
                self.assertTrue(bench.runs.seal(writer, "sealed"))
                writer.close()
            await pilot.press("2")
            await until(pilot, lambda: "Osprey 161" in screen_text(app))
            await pilot.press("0")
            newest = lambda: app.screen.query_one("#runs", DataTable).get_row_at(0)  # noqa: E731
            await until(pilot, lambda: "recording" not in str(newest()[4]))

        self.drive(steps, kept=address)
        with Archive(address) as archive:
            for writer in writers:
                self.assertEqual(
                    list(archive.runs.recording(writer.number).time_s), [float(k) for k in range(90)]
                )
            self.assertTrue(check(archive).whole)

    def test_an_article_that_two_write_holds_both_texts(self) -> None:
        path = demo_archive(self.folder)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            # Not seen before it is kept: what is seen is shown, where nothing was written here.
            app.changed = lambda: None  # type: ignore[method-assign]
            await pilot.press("6")
            await until(pilot, lambda: bool(app.screen.query(TextArea)) and "holds" in screen_text(app))
            with Archive(path) as other:
                other.reviews.set_verdict(1, "Theirs.")
            await pilot.press("t", *"Mine.")
            await pilot.press("escape")
            await until(pilot, lambda: app.session.archive.reviews.reviews()[0].verdict == "Theirs.\n\nMine.")
            await until(pilot, lambda: app.screen.query_one(TextArea).text == "Theirs.\n\nMine.")

        self.drive(steps, kept=path)

    def test_a_guest_is_offered_nothing_that_writes(self) -> None:
        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            behind(app.session.archive).read_only = True
            app.screen.refresh_bindings()
            app.place("desk").refresh_all()
            await until(pilot, lambda: "you may only read" in text_of(app, "#title"))
            self.assertNotIn("New review", screen_text(app))
            await pilot.press("a", "x")
            await until(pilot, lambda: isinstance(app.screen, Ask))
            await pilot.press("escape", "question_mark")
            await until(pilot, lambda: isinstance(app.screen, HelpScreen))
            self.assertNotIn("frame a new review", screen_text(app))
            await pilot.press("escape", "6")
            await until(pilot, lambda: bool(app.screen.query(TextArea)) and "holds" in screen_text(app))
            self.assertTrue(app.screen.query_one(TextArea).read_only)
            await pilot.press("a")
            for place in ("4", "2", "5", "1"):
                await pilot.press(place, "delete")
            self.assertNotIn("deleted", screen_text(app))

        path = demo_archive(self.folder)
        with Archive(path) as before:
            state = before.state()
        self.drive(steps, kept=path)
        with Archive(path) as after:
            self.assertEqual(after.state(), state)

    def test_the_archive_is_checked_with_progress_and_what_is_damaged_is_shown(self) -> None:
        path = demo_archive(self.folder)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            check_archive(app.place("desk"))
            await until(pilot, lambda: f"is whole: {DEMO_RUNS} runs" in said(app))
            with sqlite3.connect(path) as base:
                base.execute("UPDATE mark SET text = 'other' WHERE run_id = 11")
            check_archive(app.place("desk"))
            await until(pilot, lambda: "r0011: no longer what was kept: its marks" in said(app))
            await pilot.press("2")
            await until(
                pilot, lambda: "damaged: no longer what was kept" in screen_text(app) or _to_cell(app)
            )

        def _to_cell(app: SamovarApp) -> bool:
            data = app.session.data
            left = (
                [run.left_out for c in data.cells.values() for run, _ in c.runs if run.id == "r0011"]
                if data
                else []
            )
            return bool(left and left[0] and left[0].startswith("damaged"))

        self.drive(steps, kept=path)

    def test_the_copy_of_the_day_is_made_once_and_looked_through(self) -> None:
        path = demo_archive(self.folder)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            for _ in range(2):
                await asyncio.to_thread(copy_of_today, app.place("desk"))
            self.assertEqual(said(app), "")

        self.drive(steps, kept=path)
        copies = list((self.folder / "demo.sqlite.backups").iterdir())
        self.assertEqual([c.name for c in copies], [f"{date.today().isoformat()}.sqlite"])

    def test_of_a_broken_archive_a_copy_or_what_is_left_is_offered(self) -> None:
        path = demo_archive(self.folder)
        keep_daily(path, date.today())
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])

        def opened(choice: str) -> Path:
            with self.assertRaises(BrokenArchive) as found:
                Archive(path)
            app = BrokenApp(found.exception)

            async def run() -> None:
                async with app.run_test(size=(120, 40)) as pilot:
                    await until(pilot, lambda: isinstance(app.screen, Choose))  # type: ignore[arg-type]
                    await choose(app, pilot, choice)  # type: ignore[arg-type]
                    await until(pilot, lambda: not app.is_running or app.return_value is not None)  # type: ignore[arg-type]

            asyncio.run(run())
            assert app.return_value is not None
            return app.return_value

        cut = path.read_bytes()
        copy, saved = opened(COPY), opened(SAVE)
        self.assertEqual(path.read_bytes(), cut)
        self.assertEqual([p.name for p in (copy, saved)], ["demo.rescued.sqlite", "demo.rescued-2.sqlite"])
        for one, whole in ((copy, DEMO_RUNS), (saved, 0)):
            with Archive(one) as archive:
                self.assertTrue(check(archive).whole)
                self.assertGreaterEqual(sum(r.left_out is None for r in archive.runs.runs()), whole)


if __name__ == "__main__":
    unittest.main()
