"""Looking after the archive from within the interface: checking, copying and rescuing it, and the day's copy."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial
from pathlib import Path

from rich.text import Text

from samovar.archive.archive import Archive
from samovar.archive.backup import Progress, backups_of, copy_file, keep_daily
from samovar.archive.check import check
from samovar.archive.moving import backup_of_server
from samovar.archive.place import ArchiveError, Place
from samovar.archive.rescue import rescue
from samovar.tui.aside import behind
from samovar.tui.screens.place import Place as Screen
from samovar.tui.sheets.ask import Ask
from samovar.tui.widgets.plain import Static

BAR = 24
SHOWN = 8
"""So many damaged things are named at once; the call `samovar archive check` lists all."""
GROUP = "archive"


def _say(place: Screen, words: str) -> None:
    text: Text = place.title_line()
    if words:
        text.append(f"   {words}", f"bold {place.palette.brass}")
    place.query_one("#title", Static).update(text)


def _work(place: Screen, word: str, act: Callable[[Archive, Progress], str]) -> None:
    """Do something with the whole archive in a worker, with progress; what came of it is said at the end."""

    def going() -> None:
        last = -1

        def progress(done: int, total: int) -> None:
            nonlocal last
            share = round(BAR * done / max(total, 1))
            if share != last:
                last = share
                place.tell(_say, place, f"{word} {'━' * share:<{BAR}} {100 * done // max(total, 1)} %")

        try:
            words, severity = act(behind(place.session.archive), progress), "information"
        except ArchiveError as problem:
            words, severity = str(problem), "error"
        place.tell(_say, place, "")
        place.tell(place.notify, words, severity=severity, timeout=20)

    place.run_worker(going, thread=True, exclusive=True, group=GROUP)


def check_archive(place: Screen) -> None:
    """Hold everything against its checksums; what is damaged is shown as that from now on."""

    def act(archive: Archive, progress: Progress) -> str:
        found = check(archive, progress)
        archive.runs.damage.settle(found.by_run())
        place.tell(place.samovar.changed)
        if found.whole:
            return f"{found.archive} is whole: {found.runs} runs."
        lines = [f"{one.run or 'archive'}: {one.what}" for one in found.damaged]
        more = f"\n… and {len(lines) - SHOWN} more" if len(lines) > SHOWN else ""
        return (
            "Damaged:\n" + "\n".join(lines[:SHOWN]) + more + "\nCtrl+P, Rescue saves what can still be read."
        )

    _work(place, "checking the archive", act)


async def copy_archive(place: Screen) -> None:
    """Ask where, then copy it as of now."""
    typed = await place.app.push_screen_wait(
        Ask(
            "Copy the archive to which new file?",
            str(Path.cwd() / f"archive-{date.today().isoformat()}.sqlite"),
        )
    )
    if not typed:
        return

    def act(archive: Archive, progress: Progress) -> str:
        target = Path(typed).expanduser()
        if archive.place.path is not None:
            copy_file(archive.place.path, target, progress)
        else:
            backup_of_server(archive, Place(target), progress)
        return f"{target}: a copy as of now."

    _work(place, "copying the archive", act)


async def rescue_archive(place: Screen) -> None:
    """Ask where, then save all that can be read."""
    path = behind(place.session.archive).place.path
    if path is None:
        place.notify(
            "A server looks after its own files: ask whoever keeps it for a copy.", severity="warning"
        )
        return
    copies = backups_of(path)
    hint = f" Its last copy is {copies[0]}." if copies else ""
    typed = await place.app.push_screen_wait(
        Ask(
            f"Save all that can be read in which new archive?{hint}",
            str(path.with_name(f"{path.stem}.rescued{path.suffix}")),
        )
    )
    if not typed:
        return

    def act(archive: Archive, progress: Progress) -> str:
        found = rescue(path, Path(typed).expanduser(), progress)
        lost = [f"{one.run or 'archive'}: {one.what}" for one in found.lost]
        words = "nothing was lost" if not lost else "lost:\n" + "\n".join(lost[:SHOWN])
        return f"{found.archive}: {found.runs} runs saved, {words}\nOpen it with samovar --archive {found.archive}"

    _work(place, "saving what can be read", act)


COMMANDS: tuple[tuple[str, str, Callable[[Screen], object]], ...] = (
    ("Check the archive", "Hold every run against its checksums, and say what is damaged", check_archive),
    ("Back up the archive", "Copy the archive as of now into a new file", copy_archive),
    ("Rescue the archive", "Save all that can be read of a damaged archive in a new one", rescue_archive),
)
"""In the command palette: name, what it does, and the doing."""


def command(place: Screen, act: Callable[[Screen], object]) -> None:
    """Do one of them from a place."""
    place.soon(partial(act, place))


def copy_of_today(place: Screen) -> None:
    """The day's copy, looked through: to be run in a worker. Only what is wrong is said."""
    archive: Archive = behind(place.session.archive)
    path = archive.place.path
    if path is None or archive.read_only:
        return
    try:
        copy = keep_daily(path, date.today())
        if copy is None:
            return
        with Archive(copy, look_only=True) as kept:
            found = check(kept)
    except ArchiveError as problem:
        place.tell(
            place.notify, f"The day's copy could not be made: {problem}", severity="warning", timeout=20
        )
        return
    if not found.whole:
        archive.runs.damage.settle(found.by_run())
        words = (
            f"{len(found.damaged)} things in the archive are damaged: Ctrl+P, Check the archive lists them."
        )
        place.tell(place.notify, words, severity="error", timeout=20)
        place.tell(place.samovar.changed)
