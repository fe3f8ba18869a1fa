"""What every view of the Shelf answers, so that the place itself knows nothing of products or rigs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from textwrap import wrap
from typing import TYPE_CHECKING, Any, ClassVar

from rich.text import Text

from samovar.archive.kept import ARCHIVED, DELETED, KEPT
from samovar.figures.palette import Palette
from samovar.tui.session import Session
from samovar.tui.sheets.form import FormSheet, FormText, Line

if TYPE_CHECKING:
    from samovar.tui.screens.place import Place


class ShelfView:
    """One kind of thing on the shelf. Keys are the archive's; `state` is which of them are shown."""

    NAME: ClassVar[str] = ""
    ONE: ClassVar[str] = ""
    COLUMNS: ClassVar[Sequence[str]] = ()
    EMPTY: ClassVar[str] = ""

    def __init__(self, place: Place) -> None:
        self.place = place
        self.state = KEPT

    @property
    def session(self) -> Session:
        """What the places share."""
        return self.place.session

    @property
    def palette(self) -> Palette:
        """The colours now."""
        return self.place.palette

    def rows(self) -> list[tuple[int, Sequence[str | Text]]]:
        """Key and cells of each thing in the present state."""
        raise NotImplementedError

    def count(self) -> int:
        """How many there are in sight."""
        raise NotImplementedError

    def detail(self, key: int) -> Text:
        """All that is known of one."""
        raise NotImplementedError

    async def add(self) -> int | None:
        """Ask for a new one; its key, None where it was left."""
        raise NotImplementedError

    async def edit(self, key: int) -> None:
        """Ask for changes to one."""
        raise NotImplementedError

    def duplicate(self, key: int) -> int | None:
        """A second one like it; None where that makes no sense."""
        return None

    def name_of(self, key: int) -> str:
        """What it is called."""
        raise NotImplementedError

    def set_state(self, key: int, state: str) -> None:
        """Put it out of sight, delete it or bring it back. Raises ArchiveError where it is in use."""
        raise NotImplementedError

    def put(self, key: int, state: str) -> str:
        """Change its state, and remember how to undo that; answers what was done."""
        name, before = self.name_of(key), self.state
        self.set_state(key, state)
        words = {DELETED: "deleted", ARCHIVED: "archived", KEPT: "back on the shelf"}[state]
        self.session.remember(f"{name} {words}", lambda: self.set_state(key, before))
        return f"{name} {words}; z undoes it."

    async def ask(
        self,
        title: str,
        lines: Sequence[Line],
        intro: str = "",
        check: Callable[[Any], str | None] | None = None,
    ) -> dict[str, Any] | None:
        """A form over the place."""
        answer: dict[str, Any] | None = await self.place.app.push_screen_wait(
            FormSheet(FormText(title, intro, lines), check)
        )
        return answer

    def heading(self, name: str, words: str) -> Text:
        """The first lines of a detail."""
        text = Text()
        text.append(f"{name}\n", f"bold {self.palette.brass}")
        text.append(f"{words}\n", self.palette.soft)
        return text

    def section(self, text: Text, words: str) -> None:
        """A heading within a detail."""
        text.append(f"\n{words}\n", f"bold {self.palette.brass}")

    def pair(self, text: Text, label: str, value: str, colour: str | None = None, width: int = 32) -> None:
        """A label and its value; a long value goes on under itself."""
        width = min(width, 20) if self.place.narrow else width
        shown = label if len(label) < width else f"{label[: width - 2]}…"
        beside = 56 if self.place.narrow else 88
        room = max(16, self.place.size.width - beside - width)
        for k, part in enumerate(wrap(value, room) or [""]):
            text.append(f"{shown if k == 0 else '':<{width}}", self.palette.soft)
            text.append(f"{part}\n", colour or self.palette.text)
