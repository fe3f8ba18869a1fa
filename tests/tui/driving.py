"""The application driven through Textual's pilot, on the demo's archive or an empty one."""

from __future__ import annotations

import asyncio
import tempfile
import time
import unittest
from collections.abc import Awaitable, Callable
from pathlib import Path

from textual.pilot import Pilot
from textual.screen import ModalScreen
from textual.widgets import OptionList, Static
from textual.worker import WorkerState

from samovar.archive import Archive
from samovar.simulator.machine import SimulatedMachine
from samovar.tui.app import SamovarApp
from samovar.tui.asking import is_quiet
from samovar.tui.session import Session
from samovar.tui.sheets.choose import Choose
from tests.demo_archive import demo_archive

Steps = Callable[[SamovarApp, Pilot[None]], Awaitable[None]]


def text_of(app: SamovarApp, selector: str) -> str:
    """What a Static shows; nothing where the screen has none, or none yet."""
    found = app.screen.query(selector)
    return str(found.first(Static).render()) if found else ""


def screen_text(app: SamovarApp) -> str:
    """Everything on the screen, row by row."""
    width, height = app.size
    rows = app.screen._compositor.render_strips()
    return "\n".join(strip.text for strip in rows[:height])[: (width + 1) * height]


async def until(pilot: Pilot[None], true: Callable[[], bool], seconds: float = 40.0) -> None:
    """Wait until something is so."""
    deadline = time.monotonic() + seconds
    while not true():
        if time.monotonic() > deadline:
            raise AssertionError("it never came to pass; the screen:\n" + screen_text(pilot.app))  # type: ignore[arg-type]
        await pilot.pause(0.05)


def done(app: SamovarApp) -> bool:
    """Whether what a key began is done, or asks for something: what it asks of the archive takes its time."""
    if app._typed._held:
        return False
    if isinstance(app.screen, ModalScreen):
        return not app.turn.taken
    acting = (
        not is_quiet(w.group) and not w._thread_worker and w.state in (WorkerState.PENDING, WorkerState.RUNNING)
        for w in app.workers
    )  # fmt: skip
    return not app.turn.taken and not any(acting)


class Driven(unittest.TestCase):
    """A test case with a folder of its own that can run the application."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def drive(
        self,
        steps: Steps,
        size: tuple[int, int] = (160, 50),
        empty: bool = False,
        speed: float = 400.0,
        kept: Path | str | None = None,
    ) -> None:
        """Run the application on the demo's archive (or an empty one, or one that is kept) and do something with it."""
        archive = Archive(kept or (self.folder / "empty.sqlite" if empty else demo_archive(self.folder)))
        machine = SimulatedMachine("Loam P", speed=speed)
        session = Session(archive, machine, "Harbour FM")
        reviews = archive.reviews.reviews()
        session.open_review(reviews[0] if reviews else None)
        app = SamovarApp(session)

        async def run() -> None:
            async with app.run_test(size=size) as pilot:
                await pilot.pause()
                press = pilot.press

                async def press_and_wait(*keys: str) -> None:
                    await press(*keys)
                    await until(pilot, lambda: done(app))

                pilot.press = press_and_wait  # type: ignore[method-assign]
                await steps(app, pilot)

        try:
            asyncio.run(run())
        finally:
            app.close()
            machine.close()
            archive.close()


async def choose(app: SamovarApp, pilot: Pilot[None], wanted: str) -> None:
    """Choose the option that begins so, once the sheet that offers it is there."""

    def there() -> int | None:
        screen = app.screen
        stands = isinstance(screen, Choose) and bool(screen.query(OptionList))
        names = [name for name, _ in screen._shown] if isinstance(screen, Choose) and stands else []
        return next((k for k, name in enumerate(names) if name.startswith(wanted)), None)

    await until(pilot, lambda: there() is not None)
    app.screen.query_one(OptionList).highlighted = there()
    app.screen.query_one(OptionList).action_select()
    await pilot.pause()
