"""Nothing that a place does waits for the archive on the interface's own thread, however slowly the archive answers, or
computes there for long."""

from __future__ import annotations

import gc
import os
import threading
import time
import traceback
import unittest
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from unittest.mock import patch

from sqlalchemy import event
from textual.pilot import Pilot
from textual.screen import ModalScreen
from textual.worker import WorkerState

from samovar.tui import aside
from samovar.tui.app import SamovarApp
from samovar.tui.aside import behind
from samovar.tui.screens.place import Place
from samovar.tui.widgets.rail import PLACES
from tests.demo_archive import demo_archive, with_many_runs
from tests.tui.driving import Driven, until

RUNS = 2000
SLOW_S = float(os.environ.get("SAMOVAR_SLOW_S", "0.2"))
"""Every statement takes so much longer than it would. Whoever waits for one fails, however short it is: with 0.02 the test says
the same in half the time."""
LEFT_OUT = {"leave", "editor", "publish", "record", "row", "replay", "stop_publishing"}
"""Actions that end the program, or that begin what is no matter of the archive."""


HOLDS_UP_S = 0.05
"""What an action may compute on the interface's own thread at one go, between two of its own awaits: processor time."""
ROUNDS = 1_000_000
ROUNDS_S = 0.05
"""So many rounds of adding up take so long on the machine that this is meant for; a slower one is given more."""


def allowed_s() -> float:
    """What an action may compute at one go here and now."""
    started, total = time.thread_time(), 0
    for k in range(ROUNDS):
        total += k
    return HOLDS_UP_S * max(1.0, (time.thread_time() - started) / ROUNDS_S)


class _Watch:
    """Statements that the interface's own thread waited for, and what it computed at one go for longer than it may."""

    def __init__(self) -> None:
        self.thread = threading.get_ident()
        self.statements: list[str] = []
        self.computed: dict[str, float] = {}
        self.doing = ""
        self._swept_s = self._sweep_began_s = 0.0

    def sweep(self, phase: str, _facts: object) -> None:
        """What the collector of what is no longer used takes is no action's: it comes whenever it comes."""
        if threading.get_ident() == self.thread:
            if phase == "start":
                self._sweep_began_s = time.thread_time()
            else:
                self._swept_s += time.thread_time() - self._sweep_began_s

    def computes(self, leap: Callable[..., object], *arguments: object) -> object:
        """One stretch of an action, from one of its awaits to the next."""
        began = time.thread_time() - self._swept_s
        try:
            return leap(*arguments)
        finally:
            took = time.thread_time() - self._swept_s - began
            self.computed[self.doing] = max(took, self.computed.get(self.doing, 0.0))

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
    gc.callbacks.append(watch.sweep)

    class Stretch(aside._Stretch):
        def switch(self, *arguments: object) -> object:
            return watch.computes(super().switch, *arguments)

    try:
        with patch.object(aside, "_Stretch", Stretch):
            yield watch
    finally:
        gc.callbacks.remove(watch.sweep)
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
    def test_no_action_of_any_place_holds_up_the_interface(self) -> None:
        path = demo_archive(self.folder)
        with_many_runs(path, RUNS)

        async def steps(app: SamovarApp, pilot: Pilot[None]) -> None:
            await at_rest(app, pilot)
            before = allowed_s()
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
            self.assertGreater(len(watch.computed), 40)
            most = max(before, allowed_s())
            self.assertEqual({k: v for k, v in watch.computed.items() if v > most}, {})

        self.drive(steps, kept=path)


if __name__ == "__main__":
    unittest.main()
