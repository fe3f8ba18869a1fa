"""Starting the interface: on the user's archive with this machine, or on the demo with its rig."""

from __future__ import annotations

import gc
import sys
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from samovar import first_frame
from samovar.archive import Archive
from samovar.archive.database import BrokenArchive
from samovar.bench.machine import Machine, ThisMachine
from samovar.exchange.problems import InputError
from samovar.settings import LIGHT, OFF, read_settings, settings_path, write_settings
from samovar.tui.app import SamovarApp
from samovar.tui.pixels.layer import draw_in_pixels, put_pixels_away
from samovar.tui.pixels.terminal import ask_terminal
from samovar.tui.session import Session
from samovar.tui.theme import DARK_THEME, LIGHT_THEME

if TYPE_CHECKING:
    from textual.pilot import Pilot

    from samovar.core.instrument import Instrument


class InternalFault(Exception):
    """A fault of the program itself; what was being recorded has been sealed."""

    def __init__(self, cause: Exception) -> None:
        import traceback

        from platformdirs import user_state_path

        log = user_state_path("samovar", appauthor=False, ensure_exists=True) / "fault.txt"
        log.write_text("".join(traceback.format_exception(cause)), encoding="utf-8")
        super().__init__(f"{type(cause).__name__}: {cause}; nothing recorded is lost, please send {log}")


def start(place: str | Path, sysroot: Path = Path("/")) -> None:
    """Open an archive; what is measured is this machine, its kernel files below `sysroot`. Raises ArchiveError, InputError."""
    _need_terminal()
    archive = _opened(place)
    if archive is not None:
        _run(archive, ThisMachine(sysroot), "Samovar")


def start_demo(place: Path, speed: float) -> None:
    """Open the demo; what is measured is the simulated rig, `speed` times as fast as life."""
    from samovar.simulator.instruments.booth import RIG, BoothInstruments
    from samovar.simulator.machine import SimulatedMachine

    _need_terminal()
    machine = SimulatedMachine("Loam P", speed=speed)
    around = BoothInstruments(lambda: machine.rig)
    try:
        archive = _opened(place)
        if archive is not None:
            _run(archive, machine, "Harbour FM", machine.close, {RIG: around.instruments})
    finally:
        around.close()
        machine.close()


def _need_terminal() -> None:
    if not sys.stdout.isatty() or not sys.stdin.isatty():
        raise InputError("terminal: the interface needs a terminal; start it in one, or see samovar --help")


def _opened(place: str | Path) -> Archive | None:
    """The archive; of one that is broken what a person chose instead of it, None where that was to leave it."""
    try:
        return Archive(place)
    except BrokenArchive as problem:
        from samovar.tui.broken import choose_instead

        chosen = choose_instead(problem)
        return None if chosen is None else Archive(chosen)


def _run(
    archive: Archive,
    machine: Machine,
    title: str,
    on_close: Callable[[], None] | None = None,
    beside: Mapping[str, Sequence[Instrument]] | None = None,
) -> None:
    # What was imported by now stays: looking through it again and again would hold up the interface.
    gc.freeze()
    gc.enable()
    with archive:
        session = Session(archive, machine, title, beside=beside or {})
        session.messages += [f"{name} was handed on to {archive.where}" for name in archive.handed_on]
        session.messages += [
            f"{name} was interrupted; it is whole up to its last second" for name in archive.recovered
        ]
        path = settings_path()
        settings, wrong = read_settings(path)
        session.messages += [wrong] if wrong else []
        app = SamovarApp(session, on_close)
        app.theme = (LIGHT_THEME if settings["theme"] == LIGHT else DARK_THEME).name
        pixels, typed = ask_terminal()
        draw_in_pixels(app, pixels)
        if settings["pixels"] == OFF:
            put_pixels_away(app)

        def remember(key: str, word: str) -> None:
            settings[key] = word
            # What somebody wrote there, and meant something else by, is his to mend.
            if not wrong:
                try:
                    write_settings(path, settings)
                except InputError as problem:
                    app.notify(str(problem), severity="warning")

        app.remember = remember

        async def typed_before(pilot: Pilot[object]) -> None:
            await pilot.press(*typed)

        try:
            app.run(auto_pilot=typed_before if typed else None)
        finally:
            app.close()
        if app.failure is not None:
            first_frame.leave()
            raise InternalFault(app.failure) from app.failure
