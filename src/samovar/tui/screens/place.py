"""What all places have in common: the rail, a title line, the keys at the foot."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any, ClassVar, cast

from rich.text import Text
from textual import work
from textual.app import ComposeResult
from textual.binding import Binding, BindingType
from textual.containers import Horizontal, Vertical
from textual.screen import Screen

from samovar.figures.palette import Palette
from samovar.tui.aside import waits_aside
from samovar.tui.asking import SHOWING, Asking
from samovar.tui.pixels.layer import draw_anew, forget_pictures
from samovar.tui.session import Session
from samovar.tui.theme import palette_of
from samovar.tui.widgets.key_line import KeyLine
from samovar.tui.widgets.plain import Static
from samovar.tui.widgets.rail import Rail
from samovar.tui.writing import WRITES

if TYPE_CHECKING:
    from samovar.tui.app import SamovarApp


NARROW = 132


class Place(Asking, Screen[None]):
    """A place of the interface. Subclasses compose `body`, and bring it up to date in `fill`."""

    NAME: ClassVar[str] = ""
    BINDINGS: ClassVar[list[BindingType]] = []

    @property
    def samovar(self) -> SamovarApp:
        """The application."""
        from samovar.tui.app import SamovarApp

        assert isinstance(self.app, SamovarApp)
        return self.app

    @property
    def session(self) -> Session:
        """What the places share."""
        return self.samovar.session

    @property
    def palette(self) -> Palette:
        """The colours now."""
        return palette_of(self.app.theme)

    def compose(self) -> ComposeResult:
        """Rail, title, body, keys."""
        with Horizontal():
            yield Rail(self.NAME)
            with Vertical(id="main"):
                with Horizontal(id="title-row"):
                    yield Static(id="title")
                    yield Static("asking the archive …", id="waiting")
                yield from self.body()
        yield KeyLine()

    def body(self) -> ComposeResult:
        """The place's own widgets."""
        yield from ()

    def fill(self) -> None:
        """Bring the widgets up to date with the session."""

    def on_resize(self) -> None:
        """A narrow window leaves out what can be spared."""
        self.set_class(self.size.width < NARROW, "-narrow")

    @property
    def narrow(self) -> bool:
        """Whether the window is too narrow for everything side by side."""
        return self.size.width < NARROW

    def on_screen_resume(self) -> None:
        """Coming here shows what is so now, in pixels again."""
        draw_anew(self)
        self.refresh_all()

    def on_screen_suspend(self) -> None:
        """Something else comes over this place: what was drawn in pixels is drawn in dots under it."""
        forget_pictures(self.app)
        draw_anew(self)

    def refresh_all(self) -> None:
        """Rail, title and body anew, as soon as the archive has answered; within an action, before it goes on."""
        if not self.is_mounted:
            return
        if waits_aside():
            self._refresh()
        else:
            self.soon(self._refresh, group=SHOWING, exclusive=True)

    def _refresh(self) -> None:
        if not self.query("#title"):
            # The program is ending, or has not got so far yet.
            return
        self._gauge()
        self.query_one("#title", Static).update(self.title_line())
        self.fill()

    @work(thread=True, exclusive=True, group="rail")
    def _gauge(self) -> None:
        states = self.session.rail()
        self.tell(lambda: self.query_one(Rail).show(states))

    def title_line(self) -> Text:
        """What this place is about, in one line."""
        return self.trail()

    def trail(self, *parts: str, begin: str | None = None) -> Text:
        """The review in hand, or another beginning, and the parts of it, joined by arrows."""
        text = Text(no_wrap=True, overflow="ellipsis")
        review = self.session.review
        text.append(begin or (review.name if review else self.session.title), f"bold {self.palette.text}")
        for part in parts:
            text.append(" ▸ ", self.palette.brass)
            text.append(part, self.palette.text)
        return text

    def question_line(self) -> Text:
        """The review in hand and its question."""
        text = self.trail()
        if self.session.review is not None:
            text.append(f"   {self.session.review.question}", self.palette.soft)
        return text

    def tell(self, act: Callable[..., object], *arguments: object, **named: object) -> None:
        """From a worker's thread: do this on the interface's own, unless place or program are gone by then."""

        async def here() -> None:
            if self.is_mounted and self.app.is_running:
                await self.samovar.turn.driven(partial(self._said, doing))

        async def doing() -> None:
            act(*arguments, **named)

        with contextlib.suppress(RuntimeError):
            self.app.call_from_thread(cast(Callable[..., Any], here))

    def colour(self, quantity: str) -> str:
        """A quantity's colour."""
        return self.palette.quantity[quantity]

    def key_lines(self) -> list[tuple[str, str]]:
        """The keys of this place, for the help."""
        return [
            (self.app.get_key_display(one), one.tooltip or one.description) for one in self.offered_keys()
        ]

    def offered_keys(self) -> list[Binding]:
        """The keys of this place that are of use to whoever is here: a guest changes nothing."""
        return [one for one in self.own_keys() if self.check_action(one.action.partition("(")[0], ())]

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """Nothing that writes is offered to whoever may only read."""
        return not (self.session.guest and action in WRITES[self.NAME])

    @classmethod
    def own_keys(cls) -> list[Binding]:
        """The keys of this place and of the parts it is made of."""
        parts = [part for part in cls.__mro__ if issubclass(part, Place)]
        found = [one for part in parts for one in vars(part).get("BINDINGS", ())]
        return [one for one in found if isinstance(one, Binding) and one.description]
