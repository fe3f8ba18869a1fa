"""The agent: on the machine under test, on its standard input and output alone.

It samples when it is asked to, and by itself where it should have been asked and was not; it puts loads on, with a guard of
its own beside them. When nothing comes from the bench for a while it ends its load, then itself, whatever it is doing.
"""

from __future__ import annotations

import contextlib
import os
import queue
import sys
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any, BinaryIO

from samovar.agent.wire import NAME, SILENT_S, VERSION, Message, decoded, encoded
from samovar.bench.clock import MonotonicClock, running_time
from samovar.bench.guard import Guard, GuardThread, Trip
from samovar.bench.loads.catalogue import KINDS, OwnLoad
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.heartbeat import heart
from samovar.bench.loads.protocol import Load, LoadError, Told
from samovar.bench.machine import die_watcher, kernel_sources
from samovar.sources.linux import discover
from samovar.sources.linux.identity import known_facts
from samovar.sources.own_share import OwnShare
from samovar.sources.protocol import Probed, Source

LOOK_EVERY_S = 0.2
LATE = 1.3
"""After so many intervals without being asked a source is sampled all the same."""
SHORTEST_S, LONGEST_S = 0.04, 120.0
"""A bench that asks in another step has asked twice at once, or not at all for a while."""
UNASKED, CLOSED = 0, -1
"""Numbers that no question of the bench has."""
WAITING_MOST = 20_000
"""Lines that wait for a wire that takes none: hours of samples."""
ENDED_WITHIN_S = 2.0
"""A load that takes longer to end is ended by its own heartbeat, once the agent is gone."""


def lacking() -> dict[str, str]:
    """The loads that cannot be put on here, and why."""
    import importlib.util

    wanted = {kind.needs for kind in KINDS.values() if kind.needs}
    missing = {package for package in wanted if importlib.util.find_spec(package) is None}
    return {
        name: f"it needs {kind.needs}, which is not installed there"
        for name, kind in KINDS.items()
        if kind.needs in missing
    }


class _Out:
    """Lines on their way out. Whoever says something never waits for the wire."""

    def __init__(self, writing: BinaryIO, broken: Callable[[], None]) -> None:
        self._writing = writing
        self._broken = broken
        self._lines: queue.Queue[bytes] = queue.Queue(WAITING_MOST)
        threading.Thread(target=self._go_on, name="out", daemon=True).start()

    def say(self, message: Message) -> None:
        with contextlib.suppress(queue.Full):
            self._lines.put_nowait(encoded(message))

    def _go_on(self) -> None:
        try:
            while True:
                self._writing.write(self._lines.get())
                self._writing.flush()
        except (OSError, ValueError):
            self._broken()


class _Sampled:
    """One source, sampled on a thread of its own: when asked, and when that does not come in its time."""

    def __init__(self, which: int, source: Source, say: Callable[[Message], None]) -> None:
        self.source = source
        self._which = which
        self._say = say
        self._asked: queue.Queue[int] = queue.Queue()
        self.work: Callable[[], Sequence[float]] = tuple
        threading.Thread(target=self._go_on, name=f"sample-{which}", daemon=True).start()

    def ask(self, number: int) -> None:
        """Sample now, and answer with this number."""
        self._asked.put(number)

    def close(self) -> None:
        """End it."""
        self._asked.put(CLOSED)

    def _go_on(self) -> None:
        asked_s: float | None = None
        interval_s: float | None = None
        due_s = 0.0
        while True:
            try:
                number = self._asked.get(timeout=max(0.0, due_s - running_time()) if interval_s else None)
            except queue.Empty:
                number = UNASKED
            if number == CLOSED:
                self.source.close()
                return
            now_s = running_time()
            if number != UNASKED:
                # The bench asks in its own step; that is kept up where it falls silent.
                if asked_s is not None and SHORTEST_S < now_s - asked_s < LONGEST_S:
                    interval_s = now_s - asked_s
                asked_s = now_s
            due_s = now_s + (interval_s or 0.0) * (LATE if number != UNASKED else 1.0)
            values = self.source.sample()
            self._say(
                {
                    "sample": self._which,
                    "id": number,
                    "at": now_s,
                    "values": values,
                    "work": list(self.work()),
                }
            )


class Agent:
    """One agent on its wire.

    Args:
        sysroot: the folder that holds sys and proc.
        reading, writing: the wire.
    """

    def __init__(self, sysroot: Path, reading: BinaryIO, writing: BinaryIO) -> None:
        self._sysroot = sysroot
        self._reading = reading
        self._clock = MonotonicClock()
        self._lacking = lacking()
        self._out = _Out(writing, self.end)
        self._heard_s = time.monotonic()
        self._sampled: list[_Sampled] = []
        self._roles: dict[str, str] = {}
        self._load: Load | None = None
        self._guard: GuardThread | None = None
        self._lock = threading.RLock()
        self._ending = False
        self._todo: queue.Queue[Message] = queue.Queue()

    def run(self) -> None:
        """Speak until the bench takes its leave or falls silent; does not return."""
        self._out.say(
            {
                NAME: "{}.{}".format(*VERSION),
                "python": "{}.{}.{}".format(*sys.version_info[:3]),
                "facts": known_facts(self._sysroot),
                "loads": {name: kind.words for name, kind in KINDS.items() if name not in self._lacking},
                "missing": self._lacking,
            }
        )
        threading.Thread(target=self._watch, name="watch", daemon=True).start()
        threading.Thread(target=self._do_all, name="doing", daemon=True).start()
        with heart().vouched(self._is_heard):
            for line in self._reading:
                self._heard_s = time.monotonic()
                try:
                    self._take(decoded(line))
                except ValueError:
                    continue
        self.end()

    def _is_heard(self) -> bool:
        watched = self._guard is None or self._guard.ticking()
        return watched and time.monotonic() - self._heard_s < SILENT_S

    def _take(self, message: Message) -> None:
        if "beat" in message:
            self._out.say({"beat": message["beat"], "now": running_time()})
        elif message.get("do") == "read":
            which = int(message["which"])
            if which < len(self._sampled):
                self._sampled[which].ask(int(message["id"]))
        elif message.get("do") == "bye":
            self.end()
        else:
            self._todo.put(message)

    def _watch(self) -> None:
        """Whether the bench still lives, and how the load does."""
        while True:
            time.sleep(LOOK_EVERY_S)
            if time.monotonic() - self._heard_s > SILENT_S:
                self.end()
            load = self._load
            ended = load.ended() if load is not None else None
            if ended is not None:
                self._off()
                self._out.say({"ended": asdict(ended)})

    def _do_all(self) -> None:
        doings: dict[str, Callable[[Message], Any]] = {
            "probe": lambda _m: [_told(p) for p in discover(self._sysroot)],
            "open": self._open,
            "load": self._on,
            "off": lambda _m: self._off(),
            "shut": lambda _m: self._shut(),
        }
        while True:
            message = self._todo.get()
            doing = doings.get(str(message.get("do")))
            answer: Message = {"id": message.get("id")}
            try:
                if doing is None:
                    raise LoadError(f"the agent knows no {message.get('do')!r}: update it there")
                answer["said"] = doing(message)
            except (LoadError, OSError, ValueError, TypeError, KeyError) as problem:
                answer["error"] = str(problem) or type(problem).__name__
            self._out.say(answer)

    def _open(self, message: Message) -> list[list[Message]]:
        """Open the sensors; the answer is the channels of each source."""
        self._shut()
        self._roles = {str(k): str(v) for k, v in dict(message.get("roles") or {}).items()}
        found = kernel_sources(self._sysroot, running_time, self._roles, bool(message.get("split")))
        sources: list[Source] = [*found[:1], OwnShare(), *found[1:]]
        self._sampled = [_Sampled(k, source, self._out.say) for k, source in enumerate(sources)]
        return [[asdict(channel) for channel in source.channels] for source in sources]

    def _shut(self) -> None:
        """Close the sensors."""
        sampled, self._sampled = self._sampled, []
        for one in sampled:
            one.close()

    def _on(self, message: Message) -> list[str]:
        """Put a load on, with a guard that watches it from here; the answer is what it has to say of its work."""
        own = {str(name): _own_load(body) for name, body in dict(message.get("own") or {}).items()}
        name = str(message["load"])
        if name in self._lacking:
            raise LoadError(f"{name}: {self._lacking[name]}")
        load = make_load(name, message.get("threads"), own)
        wanted = message.get("guard")
        guard = None
        if wanted is not None:
            watch = die_watcher(self._sysroot, self._clock, self._roles)
            if watch is None:
                raise LoadError("nothing there stands for the die: confirm its sensor")
            guard = GuardThread(Guard(**wanted), watch, running_time, self._tripped)
        with self._lock:
            self._off()
            if self._ending:
                return []
            self._guard = guard
            if guard is not None:
                guard.armed.set()
                guard.start()
            load.start()
            self._load = load
            for one in self._sampled:
                one.work = load.work_done
        return load.told() if isinstance(load, Told) else []

    def _tripped(self, trip: Trip) -> None:
        # From the guard's own thread: it must not wait for whoever puts a load on.
        load = self._load
        if load is not None:
            load.stop()
        self._load = None
        self._out.say({"tripped": trip.reason, "at": running_time()})

    def _off(self) -> None:
        with self._lock:
            load, self._load = self._load, None
            guard, self._guard = self._guard, None
            if load is not None:
                load.stop()
            if guard is not None:
                guard.close()

    def end(self) -> None:
        """End the load, then the agent; from any thread."""
        self._ending = True
        ending = threading.Thread(target=self._off, daemon=True)
        ending.start()
        ending.join(ENDED_WITHIN_S)
        os._exit(0)


def _own_load(body: Any) -> OwnLoad:
    # It was checked where it was written.
    fields: dict[str, Any] = {k: tuple(v) if isinstance(v, list) else v for k, v in dict(body).items()}
    return OwnLoad(**fields)


def _told(found: Probed) -> Message:
    return {
        "channel": asdict(found.channel), "value": found.value, "status": found.status, "reason": found.reason
    }  # fmt: skip


def main(arguments: list[str] | None = None) -> None:
    """Run the agent: `[--sysroot DIR]`."""
    given = sys.argv[1:] if arguments is None else arguments
    # `--sysroot=DIR` is the same.
    given = [part for word in given for part in (word.split("=", 1) if word.startswith("--") else [word])]
    root = Path("/")
    if given[:1] == ["--sysroot"] and len(given) == 2:
        root = Path(given[1])
    elif given:
        sys.stderr.write("samovar-agent: it takes --sysroot DIR, or nothing\n")
        sys.exit(2)
    if not root.is_dir():
        sys.stderr.write(
            f"samovar-agent: {root}: there is no such folder; name one that holds sys and proc\n"
        )
        sys.exit(2)
    # What a load's workers import must be found where this was: in the one file, if it is one.
    here = sys.path[0]
    if here and os.path.isfile(here):  # noqa: PTH113
        os.environ["PYTHONPATH"] = os.pathsep.join(
            p for p in (str(Path(here).resolve()), os.environ.get("PYTHONPATH")) if p
        )
    writing = os.fdopen(os.dup(1), "wb")
    # Nothing that anyone prints may get between the lines of the wire.
    os.dup2(2, 1)
    Agent(root, sys.stdin.buffer, writing).run()


if __name__ == "__main__":
    main()
