"""This end of the wire: the command that reaches the agent is run, kept alive and begun again where it ends; the agent's
clock is held against ours; what it says goes to whoever waits for it.

The offset of the clocks is told by beats that come back (as in RFC 5905, section 8): of those of the last half minute the
one that was on its way for the shortest time, half of which the offset can be wrong by. Their drift is followed with them.
"""

from __future__ import annotations

import contextlib
import os
import shlex
import signal
import subprocess
import threading
import time
from collections import deque
from collections.abc import Callable
from typing import Any

from samovar.agent.wire import (
    BEAT_EVERY_S,
    LINE_MOST,
    SILENT_S,
    VERSION,
    Message,
    decoded,
    encoded,
    version_of,
)
from samovar.bench.clock import MonotonicClock
from samovar.core.shown_text import visible

HELLO_WITHIN_S = 20.0
"""So long a connection may take to come about: a login over a slow network."""
AGAIN_EVERY_S = 2.0
LOST_AFTER_S = 60.0
"""A machine that cannot be reached for so long is given up."""
ANSWER_WITHIN_S = 15.0
BEATS_HELD = 60
SAID_MOST = 300


class Unreachable(Exception):
    """There is no agent at the other end of the command; the text says what there is instead, and what to do."""


class LinkError(Exception):
    """The agent cannot do what it was asked for, or is gone; the text says which."""


class LinkCut(LinkError):
    """The wire was cut on the way: what was asked may have been done or not."""


class ClockOffset:
    """How much the clock there is ahead of ours, seconds, and what that may be wrong by."""

    def __init__(self) -> None:
        self._beats: deque[tuple[float, float]] = deque(maxlen=BEATS_HELD)

    def heard(self, sent_s: float, came_s: float, there_s: float) -> None:
        """A beat that was sent and came back at these moments of ours, and was answered at that one of theirs."""
        self._beats.append((came_s - sent_s, there_s - 0.5 * (sent_s + came_s)))

    @property
    def offset_s(self) -> float:
        """Theirs less ours; 0 before anything is known."""
        return min(tuple(self._beats))[1] if self._beats else 0.0

    @property
    def error_s(self) -> float | None:
        """At most; None before anything is known."""
        return 0.5 * min(tuple(self._beats))[0] if self._beats else None

    @property
    def lag_s(self) -> float | None:
        """How long the last beat was on its way, there and back."""
        return self._beats[-1][0] if self._beats else None

    def forget(self) -> None:
        """Another agent, another clock."""
        self._beats.clear()


class Link:
    """A command that reaches an agent.

    Args:
        command: split into words as a shell would, without a shell.
        on_message: told what comes without having been asked for.
        lost_after_s: a machine that cannot be reached for so long is given up; LOST_AFTER_S where None.

    Raises:
        Unreachable: it cannot be run, what answers is no agent, or another major version.
    """

    def __init__(
        self,
        command: str,
        on_message: Callable[[Message], None] = lambda message: None,
        lost_after_s: float | None = None,
    ) -> None:
        self.command = command
        self._lost_after_s = lost_after_s
        try:
            self._words = shlex.split(command)
        except ValueError as problem:
            raise Unreachable(f"{command!r}: {problem}; write it as you would in a shell") from None
        if not self._words:
            raise Unreachable(
                "the command is empty; write how the agent is reached, such as ssh bench@pebble samovar agent"
            )
        self.clock = MonotonicClock()
        self.offset = ClockOffset()
        self.hello: Message = {}
        self.on_message = on_message
        self.on_cut: Callable[[], None] = lambda: None
        self.on_return: Callable[[], None] = lambda: None
        self.cuts = 0
        self.gone_since: float | None = None
        self._process: subprocess.Popen[bytes] | None = None
        self._heard_s = time.monotonic()
        self._beats: dict[int, float] = {}
        self._waiting: dict[int, tuple[threading.Event, list[Message]]] = {}
        self._number = 0
        self._lock = threading.Lock()
        self._sending = threading.Lock()
        self._closing = threading.Event()
        self._begin()
        threading.Thread(target=self._keep, name="link", daemon=True).start()

    @property
    def is_up(self) -> bool:
        """Whether the agent answers."""
        return self.gone_since is None and self._process is not None

    @property
    def lost(self) -> bool:
        """Whether it has been away for too long."""
        given_s = LOST_AFTER_S if self._lost_after_s is None else self._lost_after_s
        return self.gone_since is not None and time.monotonic() - self.gone_since > given_s

    @property
    def where(self) -> str:
        """The machine as people know it: what the command names, or its first word."""
        named = next((w for w in self._words if "@" in w), None)
        return visible(named.rpartition("@")[2] if named else self._words[0].rpartition("/")[2], 40)

    def ours(self, there_s: float) -> float:
        """A moment of the clock there, by ours."""
        return there_s - self.offset.offset_s

    def ask(self, do: str, patience_s: float = ANSWER_WITHIN_S, **more: Any) -> Any:
        """Have the agent do something, and wait for what it says. Raises LinkError."""
        number, came, answers = self._awaited()
        try:
            self.tell({"do": do, "id": number, **more})
            if not came.wait(patience_s):
                raise LinkError(f"{self.where} does not answer")
        finally:
            with self._lock:
                self._waiting.pop(number, None)
        answer = answers[0]
        if "error" in answer:
            raise (LinkCut if answer.get("cut") else LinkError)(str(answer["error"])[:SAID_MOST])
        return answer.get("said")

    def _awaited(self) -> tuple[int, threading.Event, list[Message]]:
        with self._lock:
            self._number += 1
            came: threading.Event = threading.Event()
            answers: list[Message] = []
            self._waiting[self._number] = (came, answers)
            return self._number, came, answers

    def tell(self, message: Message) -> None:
        """Say something. Raises LinkCut; LinkError: the wire takes nothing."""
        process = self._process
        if process is None or process.stdin is None or self.gone_since is not None:
            raise LinkCut(f"the link to {self.where} is gone")
        try:
            with self._sending:
                # The pipe never blocks: what it does not take within a moment says that the wire is stuck.
                view = memoryview(encoded(message))
                until = time.monotonic() + SILENT_S
                while view:
                    try:
                        view = view[os.write(process.stdin.fileno(), view) :]
                    except BlockingIOError:
                        if time.monotonic() > until:
                            raise LinkError(f"the link to {self.where} takes nothing") from None
                        time.sleep(0.005)
        except (OSError, ValueError):
            raise LinkCut(f"the link to {self.where} is gone") from None

    def _begin(self) -> None:
        """Run the command, and wait for the agent's first line. Raises Unreachable."""
        try:
            process = subprocess.Popen(
                self._words,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                # No question of a password may get between the lines of the screen.
                start_new_session=True,
            )
        except (OSError, ValueError) as problem:
            what = getattr(problem, "strerror", None) or str(problem)
            raise Unreachable(f"{self._words[0]}: {what.lower()}; check the command") from None
        assert process.stdin is not None
        os.set_blocking(process.stdin.fileno(), False)
        said = _Tail(process)
        first: list[bytes] = []
        reading = threading.Thread(target=lambda: first.append(_line(process)), daemon=True)
        reading.start()
        reading.join(HELLO_WITHIN_S)
        try:
            hello = decoded(first[0])
            major, minor = version_of(hello)
        except (IndexError, ValueError):
            ended = process.poll() is not None or (bool(first) and not first[0])
            _end(process)
            raise Unreachable(f"{self._words[0]}: {self._no_agent(said, first, ended)}") from None
        if major != VERSION[0]:
            _end(process)
            older = "on the machine under test" if major < VERSION[0] else "here"
            raise Unreachable(
                f"{self.where}: the agent there speaks version {major}.{minor}, this program {VERSION[0]}.{VERSION[1]}; "
                f"update Samovar {older} (samovar agent --write FILE.pyz makes an agent of this version)"
            )
        self._process, self.hello = process, hello
        self.offset.forget()
        self._heard_s = time.monotonic()
        threading.Thread(target=self._read, args=(process,), name="link-in", daemon=True).start()

    def _no_agent(self, said: _Tail, first: list[bytes], ended: bool) -> str:
        words = said.words()
        if words:
            return f"it says {words!r} and is no agent; check the command"
        if first and first[0]:
            return f"it says {visible(first[0].decode('utf-8', 'replace').strip(), 80)!r} and is no agent; check the command"
        return (
            "it ended without a word; check the command"
            if ended
            else f"no word from an agent in {HELLO_WITHIN_S:.0f} s; check the command"
        )

    def _read(self, process: subprocess.Popen[bytes]) -> None:
        assert process.stdout is not None
        while line := _line(process):
            if process is not self._process:
                return
            self._heard_s = time.monotonic()
            with contextlib.suppress(ValueError, KeyError, TypeError):
                self._take(decoded(line))
        if process is self._process and not self._closing.is_set():
            self._cut()

    def _take(self, message: Message) -> None:
        if "beat" in message:
            sent_s = self._beats.pop(int(message["beat"]), None)
            if sent_s is not None:
                self.offset.heard(sent_s, self.clock.now(), float(message["now"]))
            return
        with self._lock:
            waiting = self._waiting.get(message.get("id") or 0)
        if waiting is not None and "sample" not in message:
            waiting[1].append(message)
            waiting[0].set()
            return
        self.on_message(message)

    def _keep(self) -> None:
        """Beat; and begin again where the agent is gone."""
        beat = 0
        while not self._closing.wait(BEAT_EVERY_S if self.gone_since is None else AGAIN_EVERY_S):
            if self.gone_since is not None:
                if not self.lost:
                    self._return()
                continue
            if time.monotonic() - self._heard_s > SILENT_S:
                self._cut()
                continue
            beat += 1
            self._beats[beat] = self.clock.now()
            self._beats.pop(beat - BEATS_HELD, None)
            try:
                self.tell({"beat": beat})
            except LinkError:
                self._cut()

    def _return(self) -> None:
        with contextlib.suppress(Unreachable):
            self._begin()
            self.gone_since = None
            self.on_return()

    def _cut(self) -> None:
        """The agent is gone: it ends its load by itself, and is begun anew."""
        with self._lock:
            if self.gone_since is not None:
                return
            self.gone_since = time.monotonic()
            self.cuts += 1
            waiting, self._waiting = dict(self._waiting), {}
        self.on_cut()
        for came, answers in waiting.values():
            answers.append({"error": f"the link to {self.where} is gone", "cut": True})
            came.set()
        if self._process is not None:
            _end(self._process)

    def close(self) -> None:
        """Take leave: the agent ends its load, then itself."""
        self._closing.set()
        with contextlib.suppress(LinkError):
            self.tell({"do": "bye"})
        process = self._process
        if process is not None:
            with contextlib.suppress(OSError):
                if process.stdin is not None:
                    process.stdin.close()
            with contextlib.suppress(subprocess.TimeoutExpired):
                process.wait(SILENT_S)
            _end(process)


class _Tail:
    """The last line that the command printed of its own accord: why a login failed, say."""

    def __init__(self, process: subprocess.Popen[bytes]) -> None:
        self._last = b""
        self._thread = threading.Thread(target=self._go_on, args=(process,), daemon=True)
        self._thread.start()

    def _go_on(self, process: subprocess.Popen[bytes]) -> None:
        assert process.stderr is not None
        with contextlib.suppress(OSError, ValueError):
            for line in process.stderr:
                self._last = line.strip() or self._last

    def words(self) -> str:
        self._thread.join(0.2)
        return visible(self._last.decode("utf-8", "replace"), 120)


def _line(process: subprocess.Popen[bytes]) -> bytes:
    assert process.stdout is not None
    try:
        return process.stdout.readline(LINE_MOST)
    except (OSError, ValueError):
        return b""


def _end(process: subprocess.Popen[bytes]) -> None:
    """End the command with all that it started."""
    with contextlib.suppress(OSError):
        os.killpg(process.pid, signal.SIGTERM)
    try:
        process.wait(0.5)
    except subprocess.TimeoutExpired:
        with contextlib.suppress(OSError):
            os.killpg(process.pid, signal.SIGKILL)
        process.wait()
