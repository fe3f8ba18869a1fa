"""What places and sheets have in common that ask the archive: they never wait for it on the interface's own thread."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Any

from samovar.archive.database import archive_words
from samovar.tui.aside import Handler, waits_aside

if TYPE_CHECKING:
    from textual.screen import Screen
    from textual.worker import Worker

    from samovar.tui.app import SamovarApp

    _Base = Screen[Any]
else:
    _Base = object

SHOWING = "showing"
"""The group of those workers that bring what is seen up to date."""
KEEPING = "keeping"
"""Of those that keep what is typed while hands go on typing."""
QUIET = (SHOWING, KEEPING)
"""No key waits for these."""


def is_quiet(group: str) -> bool:
    """Whether no key waits for the workers of a group; `showing: what` is one of those that show, and exclusive alone."""
    return group.partition(":")[0] in QUIET


class Asking(_Base):
    """A screen whose actions, workers and whatever it does `soon` may ask the archive: see `aside`."""

    @property
    def _samovar(self) -> SamovarApp:
        from samovar.tui.app import SamovarApp

        assert isinstance(self.app, SamovarApp)
        return self.app

    def soon(
        self, act: Callable[..., object], *args: object, group: str = "soon", exclusive: bool = False
    ) -> None:
        """Do this when it is its turn; what it asks of the archive is done aside. Within something that is done so, at
        once."""
        if waits_aside():
            act(*args)
            return

        async def handler() -> None:
            done = act(*args)
            if inspect.isawaitable(done):
                await done

        self.run_worker(handler, group=group, exclusive=exclusive)

    def begin(self, handler: Handler[Any]) -> None:
        """Do an action: as far as it comes without waiting at once, the rest of it in a worker."""
        left = self._samovar.turn.begin(partial(self._said, handler))
        if left is not None:
            super().run_worker(left, group="actions")

    def run_worker(self, work: Any, *args: Any, **named: Any) -> Worker[Any]:
        """Run a worker; one of the interface's own thread asks the archive aside, and says what is wrong with it."""
        if named.get("thread"):
            return super().run_worker(work, *args, **named)

        async def handler() -> Any:
            made = work if callable(work) else lambda: work
            return await self._samovar.turn.driven(partial(self._said, made))

        return super().run_worker(handler, *args, **named)

    async def _said(self, handler: Handler[Any]) -> Any:
        try:
            return await handler()
        except Exception as problem:
            words = archive_words(problem)
            if words is None:
                raise
            self.notify(words, severity="error", timeout=12)
            return None
