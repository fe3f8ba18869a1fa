"""What to do with an archive that can no longer be read as it stands: its last copy, what is left of it, or nothing yet."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from textual import work
from textual.app import App, ComposeResult

from samovar.archive.backup import copy_file, free_path
from samovar.archive.database import BrokenArchive
from samovar.archive.place import ArchiveError
from samovar.archive.rescue import rescue
from samovar.tui.sheets.choose import Choose
from samovar.tui.theme import DARK_THEME
from samovar.tui.widgets.plain import Static

COPY, SAVE, LEAVE = "go on with a copy", "save what can be read", "leave it as it is"


def choose_instead(problem: BrokenArchive) -> Path | None:
    """Ask what to do; the answer is the archive to open instead, None where the broken one is left alone. Nothing is ever
    written over: the broken file stays where it is, and what is opened instead stands beside it."""
    return BrokenApp(problem).run()


class BrokenApp(App[Path | None]):
    """One question, and what it takes to answer it."""

    CSS = """
    #said { padding: 1 3; height: auto; }
    """

    def __init__(self, problem: BrokenArchive) -> None:
        super().__init__()
        self._problem = problem
        self.register_theme(DARK_THEME)
        self.theme = DARK_THEME.name

    def compose(self) -> ComposeResult:
        """What is being done."""
        yield Static("", id="said")

    def on_mount(self) -> None:
        """Ask at once."""
        self._ask()

    @work
    async def _ask(self) -> None:
        problem = self._problem
        options = [(SAVE, "in a new archive beside it; what is lost is listed")]
        if problem.backups:
            newest = problem.backups[0]
            day = datetime.fromtimestamp(newest.stat().st_mtime).strftime("%Y-%m-%d %H:%M")
            options.insert(0, (COPY, f"as it was on {day}, in a new archive beside it"))
        options.append((LEAVE, "nothing is done"))
        title = (
            f"{problem.path} is {problem.what} and cannot be opened. It stays as it is, whatever you choose."
        )
        chosen = await self.push_screen_wait(Choose(title, options))
        if chosen in (COPY, SAVE):
            self._do(chosen)
        else:
            self.exit(None)

    @work(thread=True)
    def _do(self, chosen: str) -> None:
        path = self._problem.path
        target = free_path(path.with_name(f"{path.stem}.rescued{path.suffix}"))

        def progress(done: int, total: int) -> None:
            self.call_from_thread(self._say, f"{chosen}: {100 * done // max(total, 1)} %")

        try:
            if chosen == COPY:
                copy_file(self._problem.backups[0], target, progress)
            else:
                rescue(path, target, progress)
        except ArchiveError as problem:
            self.call_from_thread(self.exit, None, 1, str(problem))
            return
        self.call_from_thread(self.exit, target)

    def _say(self, words: str) -> None:
        self.query_one("#said", Static).update(words)
