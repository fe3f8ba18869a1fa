"""Asking the archive without holding up the screen.

A database may take its time: a large archive, a server behind a slow network. The interface's own thread must not wait
for it, or nothing is drawn and no key is answered. What the places do is written as it is read, one line after the
other; each call to the archive in it is done *aside*, in a worker's thread, and the line after it goes on when the
answer is there. Meanwhile the interface lives.

Three things make that work. `aside` hands work to a thread and leaves the present greenlet until it is done. `driven`
runs a handler in such greenlets, one stretch after the other, and lets only one handler at a time be between two of its
own awaits: so that no other changes what it is looking at. `ArchiveAside` is the archive as the places see it: whatever
is called of it is done aside.

The same way of waiting is what SQLAlchemy's asyncio layer is built on; see the documentation of the package greenlet.
"""

from __future__ import annotations

import asyncio
import contextvars
from collections import deque
from collections.abc import Callable, Coroutine, Generator
from concurrent.futures import ThreadPoolExecutor
from functools import partial, wraps
from typing import Any, ParamSpec, TypeVar

from greenlet import getcurrent, greenlet

P = ParamSpec("P")
T = TypeVar("T")

Handler = Callable[[], Coroutine[Any, Any, T]]
"""What makes a handler that can be run once."""
THREADS = 4
"""Work done aside at the same time: one for what is asked in turn, and some for what goes on beside it."""
_POOL = ThreadPoolExecutor(THREADS, thread_name_prefix="aside")


class _Stretch(greenlet):
    """A stretch of a handler, from one of its own awaits to the next. When it waits, it leaves to its parent."""


def waits_aside() -> bool:
    """Whether work can be done aside here: within a driven handler, on the interface's own thread."""
    return isinstance(getcurrent(), _Stretch)


def aside(work: Callable[P, T], *args: P.args, **named: P.kwargs) -> T:
    """Do work in another thread, and answer with what it returned; the interface goes on meanwhile. Where there is
    nothing to hold up, in a worker's thread or a test, it is simply done."""
    here = getcurrent()
    if not isinstance(here, _Stretch):
        return work(*args, **named)
    done: T = here.parent.switch(partial(work, *args, **named))
    return done


class Turn:
    """Whose turn it is: one handler at a time is between two of its own awaits, in the order in which they came.
    `on_wait` is told when something is waited for, and when nothing is any more."""

    def __init__(self, on_wait: Callable[[bool], None] = lambda waiting: None) -> None:
        self.taken = False
        self.waiting = on_wait
        self._queue: deque[asyncio.Future[None]] = deque()

    def begin(self, handler: Handler[T]) -> Handler[T] | None:
        """Run a handler as far as it comes without waiting; what is left of it is to be awaited, None where it is done.
        Most keys need nothing of the archive: what they do is done when the next one comes."""
        driven = _Driven(self, handler)
        if waits_aside() or self.taken or not driven.begin():
            return partial(_awaited, driven)
        return None

    async def driven(self, handler: Handler[T]) -> T:
        """Run a handler to its end; what it does aside is waited for without holding up anything else."""
        if waits_aside():
            # Called from a driven handler: it is that one's turn.
            return await handler()
        answer: T = await _Driven(self, handler)
        return answer

    def take(self) -> Generator[Any, Any, None]:
        """Wait until it is one's turn."""
        while self.taken:
            until = asyncio.get_running_loop().create_future()
            self._queue.append(until)
            try:
                yield from until.__await__()
            except BaseException:
                if not self.taken:
                    self._wake()
                raise
        self.taken = True

    def leave(self) -> None:
        """Let the next one have its turn."""
        self.taken = False
        self._wake()

    def _wake(self) -> None:
        while self._queue:
            until = self._queue.popleft()
            if not until.done():
                until.set_result(None)
                return


async def _awaited(driven: _Driven) -> Any:
    return await driven


class _Driven:
    """A handler on its way; awaiting it runs it to its end."""

    def __init__(self, turn: Turn, handler: Handler[Any]) -> None:
        self._turn = turn
        self._make = handler
        self._handler: Coroutine[Any, Any, Any] | None = None
        self._stretch: _Stretch | None = None
        self._answer: Any = None
        self._context: contextvars.Context | None = None

    def begin(self) -> bool:
        """Its first stretch, as far as it comes without waiting; True where that was all of it. It must be its turn."""
        self._turn.taken = True
        try:
            self._leap(None, None)
        except BaseException:
            self._turn.leave()
            raise
        if self._wants_aside:
            # It goes on in the task that awaits it; until then nobody else has the turn.
            return False
        self._turn.leave()
        return bool(self._answer[0])

    def __await__(self) -> Generator[Any, Any, Any]:
        value: object = None
        error: BaseException | None = None
        begun = self._stretch is not None
        while True:
            if not begun:
                yield from self._turn.take()
                yield from self._in_turn(value, error)
            elif self._wants_aside:
                yield from self._in_turn(None, None, begun=True)
            begun = False
            ended, got = self._answer
            if ended:
                return got
            try:
                value, error = (yield got), None
            except BaseException as problem:
                value, error = None, problem

    def _in_turn(
        self, value: object, error: BaseException | None, begun: bool = False
    ) -> Generator[Any, Any, None]:
        """The handler's next stretch, or the rest of the one it is in, with all that it does aside."""
        try:
            if not begun:
                self._leap(value, error)
            while self._wants_aside:
                assert self._stretch is not None
                self._turn.waiting(True)
                try:
                    work = asyncio.get_running_loop().run_in_executor(_POOL, self._answer)
                    done = yield from work.__await__()
                except BaseException as problem:
                    self._stretch.parent = getcurrent()
                    self._answer = self._stretch.throw(problem)
                else:
                    self._stretch.parent = getcurrent()
                    self._answer = self._stretch.switch(done)
                finally:
                    self._turn.waiting(False)
        finally:
            self._turn.leave()

    @property
    def _wants_aside(self) -> bool:
        return self._stretch is not None and not self._stretch.dead

    def _leap(self, value: object, error: BaseException | None) -> None:
        self._stretch = _Stretch(self._go_on)
        # Without it, what the interface keeps for a handler would not be there in its stretches.
        self._context = self._context or contextvars.copy_context()
        self._stretch.gr_context = self._context
        self._answer = self._stretch.switch(value, error)

    def _go_on(self, value: object, error: BaseException | None) -> tuple[bool, Any]:
        # Made when its turn has come: one that is cancelled before was never begun.
        self._handler = self._handler or self._make()
        try:
            awaited = self._handler.throw(error) if error is not None else self._handler.send(value)
        except StopIteration as end:
            return True, end.value
        return False, awaited


class ArchiveAside:
    """Something of the archive as the places see it: whatever is called of it is done aside; the stores it holds are
    seen in the same way."""

    def __init__(self, behind: Any) -> None:
        self._behind = behind

    def __getattr__(self, name: str) -> Any:
        found = getattr(self._behind, name)
        if callable(found) and not isinstance(found, type):
            return _done_aside(found)
        return ArchiveAside(found) if _is_store(found) else found


def _is_store(thing: object) -> bool:
    """Whether it is one of the archive's stores, and no value that one of them gave."""
    return type(thing).__module__.startswith("samovar.archive.") and hasattr(thing, "_engine")


def _done_aside(call: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(call)
    def done(*args: Any, **named: Any) -> Any:
        return aside(call, *args, **named)

    return done


def behind(archive: Any) -> Any:
    """The archive itself, for work that is done aside as a whole: its calls need not be, one by one."""
    return archive._behind if isinstance(archive, ArchiveAside) else archive
