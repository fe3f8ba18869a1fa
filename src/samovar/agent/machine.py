"""Another machine as one that can be measured and loaded: its sensors, its loads and its guard stand at the far end."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from samovar.agent.link import Link, LinkCut, LinkError
from samovar.agent.wire import Message, floats
from samovar.bench.clock import Clock
from samovar.bench.guard import Guard
from samovar.bench.loads.catalogue import OwnLoad, work_of
from samovar.bench.loads.combined import HandLoad, refuse_without_leave
from samovar.bench.loads.protocol import Load, LoadEnd, LoadError
from samovar.bench.machine import SLOW, DieWatch
from samovar.core.quantity import Channel
from samovar.sources.protocol import Gone, Probed, Source

NAN = float("nan")
SAMPLE_WITHIN_S = 0.2
"""A tick waits no longer for a sample from there; one that comes later goes to the sample of its moment."""
NEVER_SILENT_S = 3600.0
"""The sensors there are watched from there: here a silence may be the wire's."""
PUT_ON_WITHIN_S = 10.0


class FarSource:
    """One source of the machine there."""

    def __init__(self, machine: FarMachine, which: int, name: str, channels: Sequence[Channel]) -> None:
        self._machine = machine
        self._which = which
        self.name = name
        self._channels = tuple(channels)
        self._places = list(range(len(self._channels)))
        self._lock = threading.Lock()
        self._asked = 0
        self._cuts = machine.link.cuts
        self._now: list[float] | None = None
        self._came = threading.Event()
        self._belated: list[tuple[float, list[float]]] = []

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What it measures."""
        return self._channels

    def sample(self) -> list[float]:
        """What the sensors there say now; NaN where that does not come in time. Raises Gone: the link is cut, which the
        first source says for all."""
        with self._lock:
            self._asked += 1
            self._now = None
            self._came.clear()
            number = self._asked
        try:
            self._machine.link.tell({"do": "read", "which": self._which, "id": number})
        except LinkError as problem:
            if self._which > 0:
                return [NAN] * len(self._channels)
            self._cuts = self._machine.link.cuts
            raise Gone(str(problem)) from None
        if self._which == 0 and self._cuts != self._machine.link.cuts:
            # Cut and mended between two ticks: what was on there is on no more.
            self._cuts = self._machine.link.cuts
            raise Gone(f"the link to {self._machine.link.where} was gone")
        self._came.wait(SAMPLE_WITHIN_S)
        with self._lock:
            found, self._now = self._now, None
        return found if found is not None else [NAN] * len(self._channels)

    def belated(self) -> list[tuple[float, list[float]]]:
        """What came too late for its own tick, with the moment it was sampled at, by the clock here."""
        with self._lock:
            found, self._belated = self._belated, []
        return found

    def took(self, message: Message) -> None:
        """A sample from there."""
        said = floats(list(message["values"]))
        values = [said[k] if 0 <= k < len(said) else NAN for k in self._places]
        with self._lock:
            if message.get("id") == self._asked and self._now is None and not self._came.is_set():
                self._now = values
                self._came.set()
            else:
                self._belated.append((self._machine.link.ours(float(message["at"])), values))

    def found_again(self, channels: Sequence[Channel]) -> None:
        """The agent has been begun anew: the same sensors may stand in another order."""
        where = {channel.id or channel.name: k for k, channel in enumerate(channels)}
        self._places = [where.get(c.id or c.name, -1) for c in self._channels]

    def close(self) -> None:
        """Have its sensors closed."""
        self._machine.shut()


class FarLoad:
    """A load on the machine there."""

    by_hand = False

    def __init__(
        self, machine: FarMachine, name: str, threads: int | None, own: Mapping[str, OwnLoad]
    ) -> None:
        self.work = work_of(name, own)
        self._told: list[str] = []
        self._machine = machine
        self._name = name
        self._threads = threads
        self._own = own
        self._end: LoadEnd | None = None

    @property
    def name(self) -> str:
        """Its name."""
        return self._name

    def start(self) -> None:
        """Put it on, there. Raises LoadError."""
        self._end = None
        self._machine.work = ()
        cuts, was_cut = self._machine.link.cuts, False
        try:
            told = self._machine.link.ask(
                "load",
                PUT_ON_WITHIN_S,
                load=self._name,
                threads=self._threads,
                own={name: asdict(one) for name, one in self._own.items()},
                guard=_described(self._machine.guard),
            )
        except LinkCut:
            # Whether it came on is not known; it ends there by itself.
            told, was_cut = (), True
        except LinkError as problem:
            raise LoadError(f"{self._name}: {problem}") from None
        self._told = [f"{self._machine.link.where}: {words}" for words in told or ()]
        self._machine.load = self
        if was_cut or self._machine.link.cuts != cuts:
            self._machine.cut()

    def stop(self) -> None:
        """Take it off, there. A machine that is gone takes it off by itself."""
        self._machine.load = None
        if not self._machine.link.is_up:
            return
        try:
            self._machine.link.ask("off")
        except LinkCut:
            return
        except LinkError as problem:
            if self._machine.link.is_up:
                raise LoadError(f"{self._name}: {problem}") from None

    def work_done(self) -> tuple[float, ...]:
        """Units of work, as of the last sample."""
        done = self._machine.work
        return done if len(done) == len(self.work) else (NAN,) * len(self.work)

    def told(self) -> list[str]:
        """What was said there of its work."""
        return list(self._told)

    def ended(self) -> LoadEnd | None:
        """How it ended there."""
        return self._end

    def over(self, end: LoadEnd) -> None:
        """It has ended there."""
        self._end = self._end or end


def _described(guard: Guard | None) -> Message | None:
    if guard is None:
        return None
    return {
        "stop_above_c": guard.stop_above_c, "silent_s": guard.silent_s, "limits": guard.limits,
        "rise_k_per_s": guard.rise_k_per_s,
    }  # fmt: skip


class FarMachine:
    """The machine that a command reaches an agent on.

    Args:
        command, lost_after_s: see `Link`.

    Raises:
        Unreachable: there is no agent there.
    """

    def __init__(self, command: str, lost_after_s: float | None = None) -> None:
        self.link = Link(command, self._take, lost_after_s)
        self.link.on_cut, self.link.on_return = self.cut, self._open_again
        self.guard: Guard | None = None
        self.load: FarLoad | None = None
        self.work: tuple[float, ...] = ()
        self._sources: list[FarSource] = []
        self._opened: Message | None = None

    @property
    def clock(self) -> Clock:
        """The clock here: what is sampled there is put on it."""
        return self.link.clock

    def fit(self, setup: str, products: Sequence[str] = (), changes: Mapping[str, Any] | None = None) -> bool:
        """Coolers are swapped by hand."""
        return False

    def set_fans(self, share: float) -> bool:
        """Fans are left to the machine's owner."""
        return False

    def companions(self) -> list[Source]:
        """The agent's own share is among the channels there."""
        return []

    def known_facts(self) -> dict[str, Any]:
        """What the machine there tells of itself."""
        return dict(self.link.hello.get("facts") or {})

    def loads(self) -> dict[str, str]:
        """The loads that can be put on there."""
        return {str(k): str(v) for k, v in dict(self.link.hello.get("loads") or {}).items()}

    def missing(self) -> dict[str, str]:
        """The loads that cannot, and why."""
        return {str(k): str(v) for k, v in dict(self.link.hello.get("missing") or {}).items()}

    @property
    def state(self) -> str:
        """Which machine it is and how it answers, in words."""
        link = self.link
        if not link.is_up:
            return f"{link.where} does not answer: it is tried again"
        if link.offset.lag_s is None or link.offset.error_s is None:
            return f"{link.where} answers"
        return (
            f"{link.where} answers within {1e3 * link.offset.lag_s:.0f} ms, "
            f"its clock is known within {max(1.0, 1e3 * link.offset.error_s):.0f} ms"
        )

    def probe(self) -> list[Probed]:
        """What can be measured there now. Raises LinkError."""
        return [
            Probed(Channel(**one["channel"]), one["value"], str(one["status"]), one["reason"])
            for one in self.link.ask("probe")
        ]

    def open_sources(
        self, roles: Mapping[str, str] | None = None, split: bool = False
    ) -> tuple[list[Source], DieWatch | None]:
        """Its sensors; the guard stands there."""
        self._opened = {"roles": dict(roles or {}), "split": split}
        try:
            found = self.link.ask("open", **self._opened)
        except LinkError as problem:
            raise LoadError(f"{self.link.where}: its sensors cannot be opened: {problem}") from None
        names = [f"sensors of {self.link.where}", f"agent on {self.link.where}", SLOW]
        self._sources = [
            FarSource(self, k, name, [Channel(**one) for one in channels])
            for k, (name, channels) in enumerate(zip(names, found, strict=False))
        ]
        return list(self._sources), None

    def cut(self) -> None:
        """The agent ends its load, and whatever answers next knows nothing of it."""
        load, self.load = self.load, None
        if load is not None:
            load.over(LoadEnd(0, 0.0, how=f"counts as ended: the link to {self.link.where} is gone"))

    def _open_again(self) -> None:
        """The agent has come back, and knows nothing of what was asked of the one before it."""
        if self._opened is None:
            return

        def again() -> None:
            with contextlib.suppress(LinkError):
                found = self.link.ask("open", **(self._opened or {}))
                for source, channels in zip(self._sources, found, strict=False):
                    source.found_again([Channel(**one) for one in channels])

        threading.Thread(target=again, name="open-again", daemon=True).start()

    def shut(self) -> None:
        """Have the sensors there closed."""
        if self._opened is not None:
            self._opened = None
            with contextlib.suppress(LinkError):
                self.link.tell({"do": "shut", "id": 0})

    def guarded_by(self, guard: Guard | None) -> Guard | None:
        """The guard that counts stands there; here the samples are looked at as well."""
        self.guard = guard
        return None if guard is None else Guard(guard.stop_above_c, NEVER_SILENT_S, guard.limits)

    def make_load(
        self, name: str, threads: int | None = None, own: Mapping[str, OwnLoad] | None = None
    ) -> Load:
        """A load there. Raises LoadError: it has none of this name, or cannot carry it."""
        missing = self.missing()
        if name in missing:
            raise LoadError(f"{name}: {missing[name]}")
        own = own or {}
        if name in self.loads():
            return FarLoad(self, name, threads, {})
        if name not in own:
            raise LoadError(f"no load {name!r}; there are {', '.join([*self.loads(), *own])}")
        refuse_without_leave(own[name], own)
        return HandLoad(name) if own[name].kind == "by hand" else FarLoad(self, name, threads, own)

    def lost(self) -> str | None:
        """Why it cannot be measured any more."""
        return f"{self.link.where} could not be reached any more" if self.link.lost else None

    def _take(self, message: Message) -> None:
        if "sample" in message:
            work = message.get("work")
            if isinstance(work, list) and int(message["sample"]) == 0:
                self.work = tuple(floats(work))
            which = int(message["sample"])
            if which < len(self._sources):
                self._sources[which].took(message)
        elif self.load is not None and "ended" in message:
            self.load.over(LoadEnd(**message["ended"]))
        elif self.load is not None and "tripped" in message:
            self.load.over(LoadEnd(0, 0.0, how="was stopped by its guard", tripped=str(message["tripped"])))

    def close(self) -> None:
        """Take leave of the agent."""
        self.link.close()
