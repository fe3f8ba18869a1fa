"""Nothing that a place does waits for the archive on the interface's own thread, however slowly the archive answers."""

from __future__ import annotations

import threading
import time
import traceback
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

from sqlalchemy import event
from textual.pilot import Pilot
from textual.screen import ModalScreen
from textual.worker import WorkerState

from samovar.tui.app import SamovarApp
from samovar.tui.aside import behind
from samovar.tui.screens.place import Place
from samovar.tui.widgets.rail import PLACES
from tests.demo_archive import demo_archive, with_many_runs
from tests.tui.driving import Driven, until

RUNS = 2000
SLOW_S = 0.02
"""Every statement takes so much longer than it would."""
LEFT_OUT = {"leave", "editor", "publish", "record", "row", "replay", "stop_publishing"}
"""Actions that end the program, or that begin what is no matter of the archive."""


class _Watch:
    """Statements that the interface's own thread waited for."""

    def __init__(self) -> None:
        self.thread = threading.get_ident()
        self.statements: list[str] = []
        self.doing = ""

    def statement(self, _c: object, _k: object, statement: str, *_rest: object) -> None:
        if threading.get_ident() == self.thread:
            where = [
                f"{f.name} in {Path(f.filename).name}"
                for f in traceback.extract_stack()
                if "/tui/" in f.filename
            ]
            self.statements.append(f"{self.doing}: {where[-4:]} {' '.join(statement.split())[:60]}")
        else:
            time.sleep(SLOW_S)


@contextmanager
def watched(app: SamovarApp) -> Iterator[_Watch]:
    """While this holds, statements are slow, and whoever waits for one on the interface's thread is noted."""
    watch = _Watch()
    engine = behind(app.session.archive)._engine
    event.listen(engine, "before_cursor_execute", watch.statement)
    try:
        yield watch
    finally:
        event.remove(engine, "before_cursor_execute", watch.statement)


def _busy(app: SamovarApp) -> bool:
    return app.turn.taken or any(w.state in (WorkerState.PENDING, WorkerState.RUNNING) for w in app.workers)


async def at_rest(app: SamovarApp, pilot: Pilot[None]) -> None:
    """Until nothing is under way any more."""
    await pilot.pause()
    await until(pilot, lambda: not _busy(app), 90.0)


def _stands(sheet: ModalScreen[object]) -> bool:
    return sheet.is_mounted and (sheet.focused is not None or not sheet.focus_chain)


def _is_left(app: SamovarApp, sheet: ModalScreen[object]) -> bool:
    return app.screen is not sheet


async def left(app: SamovarApp, pilot: Pilot[None]) -> None:
    """Leave every sheet that an action opens, as soon as it stands."""
    while True:
        await until(pilot, lambda: isinstance(app.screen, ModalScreen) or not _busy(app), 90.0)
        sheet = app.screen
        if not isinstance(sheet, ModalScreen):
            return
        await until(pilot, partial(_stands, sheet))
        sheet.dismiss(None)
        await until(pilot, partial(_is_left, app, sheet))


class NothingBlocksTest(Driven):
    def test_no_action_of_any_place_waits_for_the_archive(self) -> None:
        path = demo_archive(self.folder)
        with_many_runs(path, RUNS)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await at_rest(app, pilot)
            with watched(app) as watch:
                for place, key, _ in PLACES:
                    watch.doing = f"to {place}"
                    await pilot.press(key)
                    await until(pilot, lambda p=place: isinstance(app.screen, Place) and p == app.screen.NAME)
                    await at_rest(app, pilot)
                    for binding in app.screen.own_keys():  # type: ignore[attr-defined]
                        if binding.action.partition("(")[0] in LEFT_OUT:
                            continue
                        watch.doing = f"{place}, {binding.action}"
                        await app.run_action(binding.action, app.place(place))
                        await pilot.pause(0.05)
                        await left(app, pilot)
                        if app.screen is not app.place(place):
                            app.action_go(place)
                            await at_rest(app, pilot)
            self.assertEqual(watch.statements, [])

        self.drive(steps, kept=path)


if __name__ == "__main__":
    unittest.main()
