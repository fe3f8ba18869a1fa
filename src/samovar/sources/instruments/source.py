"""An instrument as a source: read on a thread of its own, at its own pace, whatever it does.

The recorder never waits for it. What it said last counts until it is stale; then there is a gap, in its own channels
alone. One that is gone is tried again until it is back.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from samovar.core.instrument import MODBUS, MQTT, OPENMETRICS, SCPI, Instrument
from samovar.core.quantity import QUANTITIES, Channel
from samovar.core.shown_text import visible
from samovar.sources.instruments.energy_counter import EnergyCounter
from samovar.sources.instruments.said import Nothing, Said, Silent, Wire
from samovar.sources.protocol import Probed

NAN = float("nan")
AGAIN_S = 0.5
"""One that cannot be reached is tried again after this."""
LOOK_S = 8.0
"""So long an instrument may take to say something when it is looked for: one that publishes says so in its own time."""
REASON_MOST = 120
TRIES = 2
"""One that failed so often is not waited for any longer when it is looked for."""


class Time(Protocol):
    """The clock of the run, as the bench has it: `speed` of its seconds pass in one of ours."""

    speed: float

    def now(self) -> float: ...


def connect(instrument: Instrument, unanswered: dict[int, int]) -> Wire:
    """A connection to an instrument; `unanswered` remembers which questions it did not answer. Raises Silent, OSError,
    ImportError."""
    # Each protocol's package is imported with the first instrument that speaks it.
    name = instrument.protocol.name
    if name == SCPI:
        from samovar.sources.instruments.scpi import ScpiWire

        return ScpiWire(instrument, unanswered)
    if name == MODBUS:
        from samovar.sources.instruments.modbus import ModbusWire

        return ModbusWire(instrument)
    if name == MQTT:
        from samovar.sources.instruments.mqtt import MqttWire

        return MqttWire(instrument)
    assert name == OPENMETRICS
    from samovar.sources.instruments.openmetrics import OpenMetricsWire

    return OpenMetricsWire(instrument)


@dataclass
class _Kept:
    """What a channel said last, and when, by the run's clock."""

    said: Said
    at_s: float


class InstrumentSource:
    """One instrument.

    Args:
        instrument: where it is, and what is read of it.
        clock: the run's clock; a machine that lives faster has its instruments read as often in its own time.
    """

    def __init__(self, instrument: Instrument, clock: Time) -> None:
        self.name = instrument.name
        self.instrument = instrument
        self._clock = clock
        self._unanswered: dict[int, int] = {}
        self._channels = instrument.channels
        self._conversions = [one.conversion for one in instrument.channel]
        self._counters = {k: EnergyCounter() for k, one in enumerate(instrument.channel) if one.counts_energy}
        self._kept: list[_Kept | None] = [None] * len(self._channels)
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._told = threading.Condition(self._lock)
        self._failed = 0
        self.trouble = ""
        threading.Thread(target=self._serve, name=f"instrument-{self.name}", daemon=True).start()

    @property
    def channels(self) -> tuple[Channel, ...]:
        """Its channels, in the order in which they are described."""
        return self._channels

    def sample(self) -> list[float]:
        """What each said last; NaN where that is stale, or no number."""
        now = self._clock.now()
        with self._lock:
            return [self._value(kept, now) for kept in self._kept]

    def _value(self, kept: _Kept | None, now: float) -> float:
        if kept is None or isinstance(kept.said, Nothing) or now - kept.at_s > self.instrument.stale_after_s:
            return NAN
        return kept.said

    def probed(self, patience_s: float = LOOK_S) -> list[Probed]:
        """What each says now; waits until all have said something, but not longer than this."""
        until = time.monotonic() + patience_s
        with self._told:
            while not all(self._kept) and self._failed < TRIES and self._told.wait(until - time.monotonic()):
                pass
            return [self._found(k, patience_s) for k in range(len(self._channels))]

    def _found(self, index: int, patience_s: float) -> Probed:
        channel, kept = self._channels[index], self._kept[index]
        if kept is None:
            waited = f"it said nothing of this in {patience_s:g} s"
            return Probed(channel, None, "unreadable", self.trouble or waited)
        if isinstance(kept.said, Nothing):
            return Probed(
                channel, None, "implausible" if kept.said.implausible else "unreadable", kept.said.why
            )
        return Probed(channel, kept.said, "ok")

    def close(self) -> None:
        """End its thread; the connection is closed by it."""
        self._closing.set()

    def _tell(self, index: int, said: Said) -> None:
        if not isinstance(said, Nothing):
            _, factor, offset = self._conversions[index]
            said = said * factor + offset
            if index in self._counters:
                said = self._counters[index].power(said, self._clock.now())
        if not isinstance(said, Nothing):
            least, most = QUANTITIES[self._channels[index].quantity].plausible
            if not least <= said <= most:
                said = Nothing(f"{said:g} {self._channels[index].unit} is no measurement of this", True)
        with self._told:
            self._kept[index] = _Kept(said, self._clock.now())
            self._told.notify_all()

    def _serve(self) -> None:
        wire: Wire | None = None
        due = time.monotonic()
        while not self._closing.is_set():
            try:
                wire = wire or connect(self.instrument, self._unanswered)
                wire.read(self._tell)
                self._failed, self.trouble = 0, ""
            except Exception as problem:
                # Whatever a device or a library comes up with, it is a gap in this instrument's channels.
                self._fail(problem)
                if wire is not None:
                    wire.close()
                wire = None
                self._closing.wait(AGAIN_S)
                due = time.monotonic()
                continue
            due = max(due + self.instrument.every_s / self._clock.speed, time.monotonic())
            self._closing.wait(max(0.0, due - time.monotonic()))
        if wire is not None:
            wire.close()

    def _fail(self, problem: Exception) -> None:
        with self._told:
            self._failed += 1
            self.trouble = reason_of(problem, self.instrument)
            self._told.notify_all()


def reason_of(problem: Exception, instrument: Instrument) -> str:
    """Why an instrument says nothing, for people to read; never its password."""
    if isinstance(problem, ImportError):
        return f"{instrument.protocol.name} needs a package that is not here: install samovar[instruments]"
    if isinstance(problem, Silent):
        words = str(problem)
    elif isinstance(problem, TimeoutError):
        words = "it cannot be reached: no answer"
    elif isinstance(problem, OSError):
        words = f"it cannot be reached: {(problem.strerror or str(problem)).lower()}"
    else:
        # The words of a package might hold a password.
        words = f"it cannot be read ({type(problem).__name__})"
    return f"{visible(words, REASON_MOST)} ({instrument.shown})"


class Probing(Protocol):
    """What can be looked at: an instrument that is asked, or a log that is followed."""

    def probed(self, patience_s: float) -> list[Probed]:
        """What each of its channels says now, waited for no longer than this."""
        ...


def probe_all(sources: Sequence[Probing], patience_s: float = LOOK_S) -> list[Probed]:
    """What all instruments say now, waited for together."""
    until = time.monotonic() + patience_s
    return [p for source in sources for p in source.probed(max(0.05, until - time.monotonic()))]
