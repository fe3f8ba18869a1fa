"""The application: a switchboard between the places. What the places do stands in their own files."""

from __future__ import annotations

import asyncio
import contextlib
import os
import signal
import threading
from collections.abc import Callable, Iterable, Mapping
from functools import partial
from importlib import import_module
from typing import Any, ClassVar

from sqlalchemy.exc import DBAPIError
from textual import work
from textual.app import SystemCommand
from textual.binding import Binding, BindingType
from textual.dom import DOMNode
from textual.events import Event, Key, Resize
from textual.geometry import Size
from textual.screen import Screen
from textual.widget import MountError

from samovar.archive.database import archive_words, in_words
from samovar.archive.search import Hit
from samovar.bench.course_spec import clock_text
from samovar.settings import DARK, LIGHT
from samovar.tui.aside import Turn, aside, behind
from samovar.tui.asking import SHOWING, Asking
from samovar.tui.screen_styles import StyledApp
from samovar.tui.screens.place import Place
from samovar.tui.session import Session
from samovar.tui.theme import DARK_THEME, LIGHT_THEME
from samovar.tui.typed_ahead import TypedAhead
from samovar.tui.widgets.rail import PLACES, Rail

LEAST_COLUMNS, LEAST_ROWS = 100, 30
GRACE_S = 8.0
LOOK_EVERY_S = 2.0
"""What another bench recorded, or another window changed, is seen so soon."""
COPY_AFTER_S = 60.0
"""The day's copy waits until whoever came in has found what he wanted."""
WAIT_SAID_S = 0.2
"""What takes no longer than this is not worth a word."""
SEAL_PATIENCE_S = 5.0
"""So long the end of the program waits for a run to be sealed; what is not by then, the next start finds."""
SUSPEND_PATIENCE_S = 3.0
STAY, GO = "stay", "stop it and leave"
_MODULES = {
    "desk": "DeskPlace", "shelf": "ShelfPlace", "grid": "GridPlace", "bench": "BenchPlace", "trace": "TracePlace",
    "versus": "VersusPlace", "writeup": "WriteUpPlace",
}  # fmt: skip


class SamovarApp(StyledApp):
    """Seven places around one session."""

    TITLE = "Samovar"
    CSS = """
    Place { background: $background; }
    Place > Horizontal { height: 1fr; }
    #main { width: 1fr; height: 1fr; }
    SearchIcon { display: none; }
    CommandPalette > Vertical, CommandPalette #--results, CommandPalette OptionList:focus { background: $raised; }
    CommandPalette #--input { border: hkey $line; }
    CommandPalette OptionList > .option-list--option-highlighted { background: $primary; color: $on-brass; }
    #title-row { height: 1; }
    #title { width: 1fr; height: 1; padding: 0 1; text-wrap: nowrap; text-overflow: ellipsis; }
    #waiting { width: auto; height: 1; padding: 0 1; color: $soft; display: none; }
    #note { height: auto; max-height: 3; padding: 0 1; color: $soft; }
    Footer { height: 1; }
    .soft { color: $soft; }
    .head { color: $primary; text-style: bold; }
    DataTable, DataTable:focus { background: $background; background-tint: $background 0%; overflow-x: hidden; }
    DataTable > .datatable--even-row, DataTable > .datatable--odd-row { background: $background; }
    DataTable > .datatable--header { background: $background; color: $soft; text-style: none; }
    DataTable > .datatable--cursor { background: $primary; color: $on-brass; text-style: bold; }
    DataTable:blur > .datatable--cursor { background: $raised; color: $foreground; text-style: bold; }
    """
    ENABLE_COMMAND_PALETTE = True
    COMMAND_PALETTE_BINDING = "ctrl+p"
    BINDINGS: ClassVar[list[BindingType]] = [
        *(
            Binding(key, f"go('{place}')", name, show=False, tooltip=f"go to {name}")
            for place, key, name in PLACES
        ),
        Binding("question_mark", "help", "Keys", key_display="?", tooltip="show the keys of this place"),
        Binding("ctrl+t", "theme", "Light or dark", show=False, tooltip="switch between dark and light"),
        Binding("slash", "find", "Find", key_display="/", tooltip="find anything by any word"),
        Binding("ctrl+p", "command_palette", "Commands", show=False, tooltip="find any action by name"),
        Binding(
            "z", "undo", "Undo", show=False, tooltip="undo the last change of what is framed, or of runs"
        ),
        Binding("q", "leave", "Quit", tooltip="leave Samovar; asks first where a run is under way"),
        Binding("ctrl+c", "leave", "Quit", show=False, priority=True, tooltip="leave Samovar"),
    ]

    def __init__(self, session: Session, on_close: Callable[[], None] | None = None) -> None:
        super().__init__()
        self.session = session
        self._on_close = on_close
        self.remember: Callable[[str, str], None] = lambda _key, _word: None
        self.failure: Exception | None = None
        self._places: dict[str, Place] = {}
        self._asking_to_leave = False
        self._typed = TypedAhead(self, super().on_event)
        self._state: tuple[object, ...] | None = None
        self._lost = ""
        self.turn = Turn(self._waits)
        self._waiting = 0
        self.register_theme(DARK_THEME)
        self.register_theme(LIGHT_THEME)
        self.theme = DARK_THEME.name

    async def on_event(self, event: Event) -> None:
        """Keys typed ahead wait for what they were typed for."""
        if isinstance(event, Key) and not event.is_forwarded:
            await self._typed.take(event)
        else:
            await super().on_event(event)

    def _waits(self, is_so: bool) -> None:
        """What is waited for longer than a moment is said."""
        self._waiting += 1 if is_so else -1
        if is_so:
            self.set_timer(WAIT_SAID_S, self._say_waiting)
        elif not self._waiting:
            self._say_waiting()

    def _say_waiting(self) -> None:
        # The sign alone: a class of the place would have the style of everything in it worked out again.
        for place in self._places.values():
            for sign in place.query("#waiting"):
                sign.display = bool(self._waiting)

    async def run_action(
        self,
        action: str | tuple[str, str, tuple[Any, ...]],
        default_namespace: DOMNode | None = None,
        namespaces: Mapping[str, DOMNode] | None = None,
    ) -> bool:
        """An action of a place or a sheet, or of the program, may ask the archive: it is begun here, and goes on while
        other keys are read."""
        acting = partial(super().run_action, action, default_namespace, namespaces)
        screen = default_namespace if isinstance(default_namespace, Asking) else self.screen
        if isinstance(screen, Asking) and default_namespace in (None, self, screen):
            screen.begin(acting)
            return True
        return await acting()

    def on_mount(self) -> None:
        """Begin at the Desk."""
        # A closed terminal and a plain kill end the run in order too.
        loop = asyncio.get_running_loop()
        self._stand_still = signal.getsignal(signal.SIGTSTP)
        for number, act in (
            (signal.SIGHUP, self._hang_up),
            (signal.SIGTERM, self._terminate),
            (signal.SIGTSTP, self._suspend_in_order),
        ):
            with contextlib.suppress(NotImplementedError, ValueError, RuntimeError):
                loop.add_signal_handler(number, act)
        self.action_go("desk")
        self._check_size(self.size)
        self.set_interval(LOOK_EVERY_S, self._look)
        self.set_timer(COPY_AFTER_S, self._copy)

    @work(thread=True, exclusive=True, group=SHOWING)
    def _look(self) -> None:
        """Whether anything has changed, by whomever: another bench records, another window frames."""
        archive = behind(self.session.archive)
        try:
            state = archive.state()
            if self._lost and not archive.read_only:
                for name in archive.runs.hand_on_waiting():
                    self.call_from_thread(self.notify, f"{name} was handed on to {archive.where}.")
        except DBAPIError as problem:
            words = in_words(problem)
            if words != self._lost:
                self._lost = words
                self.call_from_thread(self.notify, f"archive: {words}", severity="error", timeout=10)
            return
        back, self._lost = bool(self._lost), ""
        if back:
            self.call_from_thread(self.notify, "The archive answers again.")
        if self._state is not None and (back or state != self._state):
            self.call_from_thread(self.changed)
        self._state = state

    def changed(self) -> None:
        """Something in the archive is otherwise than it is shown: it is read again, once no sheet is open."""
        if not self.screen_stack:  # The program takes leave.
            return
        place = self.screen
        if not isinstance(place, Place):
            self.set_timer(LOOK_EVERY_S, self.changed)
            return

        def again() -> None:
            self.session.reload()
            place.refresh_all()

        place.soon(again, group=SHOWING)

    def _copy(self) -> None:
        """The day's copy of the archive; not while a run is recorded, which wants the machine for itself."""
        if self.recording:
            self.set_timer(COPY_AFTER_S, self._copy)
            return
        from samovar.tui.keeping import copy_of_today

        self.run_worker(partial(copy_of_today, self.place("desk")), thread=True, group="copy")

    @work
    async def action_find(self) -> None:
        """Find a review, a run, a product or a mark by any word, and go there."""
        from samovar.tui.sheets.find import Find

        hit = await self.push_screen_wait(Find(self.session.archive))
        if hit is not None and isinstance(self.screen, Place):
            self.screen.soon(self._open, hit)

    def _open(self, hit: Hit) -> None:
        if hit.kind in ("run", "mark"):
            self.session.trace_run = hit.key
            self.action_go("trace")
        elif hit.kind == "product":
            shelf = self.place("shelf")
            self.action_go("shelf")
            shelf.soon(shelf.show_product, hit.key)  # type: ignore[attr-defined]
        else:
            self.session.open_review(self.session.archive.reviews.review(hit.key))
            self.action_go("grid")

    def place(self, name: str) -> Place:
        """A place by name, made when it is first wanted, so that the program starts fast."""
        if name not in self._places:
            module = aside(import_module, f"samovar.tui.screens.{name}")
            self._places[name] = getattr(module, _MODULES[name])()
            # Installed, a place keeps its widgets while another is shown.
            self.install_screen(self._places[name], name)
        return self._places[name]

    def action_go(self, name: str) -> None:
        """Go to a place."""
        target = self.place(name)
        if self.screen is target:
            target.refresh_all()
            return
        if isinstance(self.screen, Place):
            self.switch_screen(target)
        else:
            self.push_screen(target)

    def on_rail_chosen(self, message: Rail.Chosen) -> None:
        """A click on the rail."""
        self.action_go(message.place)

    def action_help(self) -> None:
        """Show the keys of this place."""
        from samovar.tui.screens.help import HelpScreen

        if isinstance(self.screen, Place):
            self.push_screen(HelpScreen(self.screen))

    def action_undo(self) -> None:
        """Undo the last change of what is framed."""
        if isinstance(self.screen, Place) and self.screen.NAME in ("desk", "shelf", "grid", "versus"):
            words = self.session.undo()
            self.screen.refresh_all()
            self.screen.notify(f"Undone: {words}." if words else "Nothing to undo.")

    def action_theme(self) -> None:
        """Dark to light and back."""
        light = self.theme == DARK_THEME.name
        self.theme = LIGHT_THEME.name if light else DARK_THEME.name
        self.remember("theme", LIGHT if light else DARK)
        if isinstance(self.screen, Place):
            self.screen.refresh_all()
            self.screen.query_one(Rail).refresh()

    def notify(self, message: str, **named: Any) -> None:
        """A word to the reviewer, as it stands: names hold brackets, and none of them is markup."""
        super().notify(message, **{**named, "markup": False})

    @property
    def recording(self) -> bool:
        """Whether a run is under way."""
        live = self.session.live
        return live is not None and not live.sealed.is_set()

    @work
    async def action_leave(self) -> None:
        """Leave; where a run is under way only after asking. It is stopped, its load first, and sealed."""
        from samovar.tui.sheets.choose import Choose

        # Asked for a second time while the question is open, it is answered.
        if self.recording and not self._asking_to_leave:
            live = self.session.live
            assert live is not None
            elapsed = clock_text(live.recorder.elapsed())
            options = [
                (STAY, "the recording goes on"),
                (GO, "the load goes off, the run is kept as stopped"),
            ]
            question = f"{live.id} is being recorded, {elapsed} so far."
            self._asking_to_leave = True
            try:
                answer = await self.push_screen_wait(Choose(question, options))
            finally:
                self._asking_to_leave = False
            if answer != GO:
                return
        self.run_worker(self._end_in_order, thread=True)

    def _end_in_order(self) -> None:
        live = self.session.live
        if live is not None and self.recording:
            self.call_from_thread(self.notify, f"Sealing {live.id}, then leaving.", timeout=SEAL_PATIENCE_S)
        self._stop_and_seal()
        self.call_from_thread(self.exit)

    def _stop_and_seal(self, reason: str = "stopped by hand") -> None:
        """Stop the run under way, if there is one, and wait for its seal, but not for ever."""
        live = self.session.live
        if live is not None and self.recording:
            live.stop(reason)
            live.wait(SEAL_PATIENCE_S)
            live.give_up.set()

    def _suspend_in_order(self) -> None:
        """Told to stand still: the load goes off first, and the run is sealed."""
        live = self.session.live
        if live is not None and self.recording:
            live.stop("suspended: the load was stopped first")
            live.wait(SUSPEND_PATIENCE_S)
        if callable(self._stand_still):
            self._stand_still(signal.SIGTSTP, None)

    def _handle_exception(self, error: Exception) -> None:
        """A fault of ours ends the interface in order: what is recorded is sealed, then one line says so. An archive that
        does not answer is no such fault."""
        cause = getattr(error, "error", error)
        if isinstance(cause, MountError) and self._exit:
            # While the program ends nothing comes to the screen any more: what was on its way there is let go.
            return
        words = archive_words(cause)
        if words is not None:
            self.notify(words, severity="error", timeout=12)
            return
        if self.is_headless:
            super()._handle_exception(error)
            return
        self.failure = error
        self.exit()

    def _hang_up(self) -> None:
        """The terminal is gone: seal what is recorded and end at once. Taking leave of the screen would
        wait for ever on a terminal that no longer takes what is written to it."""
        self.close()
        os._exit(0)

    def _terminate(self) -> None:
        """Asked to end: in order, but not later than a few seconds from now."""
        last = threading.Timer(GRACE_S, self._hang_up)
        last.daemon = True
        last.start()
        self.exit()

    def close(self) -> None:
        """What has to be done however it ended."""
        self._stop_and_seal()
        self.session.close()
        if self._on_close is not None:
            self._on_close()

    def on_resize(self, event: Resize) -> None:
        """Too small a window says so."""
        self._check_size(event.size)

    def _check_size(self, size: Size) -> None:
        from samovar.tui.screens.small import TooSmall

        small = size.width < LEAST_COLUMNS or size.height < LEAST_ROWS
        shown = isinstance(self.screen, TooSmall)
        if small and not shown:
            self.push_screen(TooSmall())
        elif shown and not small:
            self.pop_screen()

    def get_system_commands(self, screen: Screen[object]) -> Iterable[SystemCommand]:
        """Every action of this place and of the program, for the command palette."""
        from samovar.tui.commands import commands_of

        return commands_of(self, screen)
