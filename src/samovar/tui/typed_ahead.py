"""Keys typed faster than the interface answers: each waits until what the one before it began has come about.

A key may open a sheet, which takes a moment to stand; what was typed for it meanwhile must not reach the place below,
where a digit goes to another place. Keys are held until the sheet stands ready, and then reach it; where it never
comes they reach nothing.
"""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Awaitable, Callable
from typing import TYPE_CHECKING

from textual.events import Key
from textual.message_pump import MessagePump
from textual.screen import ModalScreen, Screen
from textual.worker import WorkerState

from samovar.tui.asking import is_quiet

if TYPE_CHECKING:
    from samovar.tui.app import SamovarApp

LOOK_EVERY_S = 0.01
PATIENCE_S = 2.0
"""A sheet that has not come by then does not come."""


class TypedAhead:
    """The keys that wait, in the order in which they were typed.

    Args:
        app: the application.
        send: gives a key to the application as if it had just been typed.
    """

    def __init__(self, app: SamovarApp, send: Callable[[Key], Awaitable[None]]) -> None:
        self._app = app
        self._send = send
        self._held: deque[Key] = deque()
        self._since = 0.0
        self._draining = False
        self._at: MessagePump | None = None

    async def take(self, key: Key) -> None:
        """Hand a key on, now or once the application is ready for it."""
        if not self._draining and self._ready():
            await self._hand_on(key)
            return
        self._held.append(key)
        if not self._draining:
            self._draining = True
            self._since = time.monotonic()
            self._app.set_timer(LOOK_EVERY_S, self._drain)

    def _drain(self) -> None:
        # Behind all that waits in the application's queue by now: what an action that has just ended asked for, the
        # focus say, comes first.
        self._app.call_later(self._hand_on_held)

    async def _hand_on_held(self) -> None:
        if self._held and self._ready():
            await self._hand_on(self._held.popleft())
            self._since = time.monotonic()
        if self._app.turn.taken:
            # The archive is being asked: however long that takes, what was typed is still meant.
            self._since = time.monotonic()
        if self._held and time.monotonic() - self._since > PATIENCE_S:
            # What they were meant for never came.
            self._held.clear()
            self._at = None
        self._draining = bool(self._held)
        if self._held:
            self._app.set_timer(LOOK_EVERY_S, self._drain)

    async def _hand_on(self, key: Key) -> None:
        target: MessagePump = self._app.focused or self._app.screen
        await self._send(key)
        self._digest(target)

    def _digest(self, node: MessagePump | None) -> None:
        """A key bubbles from node to node: it is done with once every queue on its way was worked off."""
        self._at = node if node is not None and _works(node) else None
        if self._at is not None:
            self._at.call_later(self._digest, self._at._parent)

    def _ready(self) -> bool:
        """Whether a key that is handed on now reaches what it was typed for."""
        if self._at is not None and _works(self._at):
            return False
        screen = self._app.screen
        if isinstance(screen, ModalScreen):
            return _stands(screen)
        # An action that works on, and no sheet: either one is about to open, or it soon is done.
        return not any(
            w.state in (WorkerState.PENDING, WorkerState.RUNNING)
            and not w._thread_worker
            and not is_quiet(w.group)
            for w in self._app.workers
        )


def _works(node: MessagePump) -> bool:
    """Whether a node still works off its queue: a sheet that was closed does not."""
    return node.is_running and not node._closing and not node._closed


def _stands(sheet: Screen[object]) -> bool:
    """Whether a sheet is laid out and has its focus."""
    return sheet.is_mounted and (sheet.focused is not None or not sheet.focus_chain)
