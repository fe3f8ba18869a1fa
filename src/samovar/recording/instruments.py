"""The instruments of a recording, opened and looked at together, whatever each of them speaks."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import TYPE_CHECKING, TypeAlias

from samovar.bench.clock import Clock
from samovar.core.instrument import MACHINE, MICROPHONE, Instrument
from samovar.recording.beside_machine import BesideMachine
from samovar.recording.following import FollowSource
from samovar.sources.instruments.source import LOOK_S, InstrumentSource, probe_all
from samovar.sources.protocol import Probed, close_all

if TYPE_CHECKING:
    from samovar.sources.microphone.source import Microphone

Opened: TypeAlias = "InstrumentSource | FollowSource | BesideMachine | Microphone"
AT_ONCE = 32
FIRST_WORD_S = 3.0
"""So long a run waits for its instruments to be connected: what begins without them has a gap at its beginning."""


def open_instruments(instruments: Sequence[Instrument], clock: Clock) -> list[Opened]:
    """Each as a source of its own, once it has said something, or has been waited for; the caller closes them. Raises
    InputError: a map cannot be read."""
    sources = _opened(instruments, clock)
    probe_all(sources, FIRST_WORD_S)
    return sources


def _opened(instruments: Sequence[Instrument], clock: Clock) -> list[Opened]:
    """All at once: a log that has no titles yet is waited for."""
    if not instruments:
        return []
    with ThreadPoolExecutor(AT_ONCE) as pool:
        return list(pool.map(lambda one: open_instrument(one, clock), instruments))


def open_instrument(instrument: Instrument, clock: Clock) -> Opened:
    """One as a source."""
    if instrument.protocol.own_channels:
        return InstrumentSource(instrument, clock)
    if instrument.protocol.name == MACHINE:
        return BesideMachine(instrument, clock)
    if instrument.protocol.name == MICROPHONE:
        # Sound takes packages that nothing else here needs.
        from samovar.sources.microphone.source import Microphone

        return Microphone(instrument, clock)
    return FollowSource(instrument, clock)


def listens(source: object) -> bool:
    """Whether a source is a microphone; asked without importing what listening takes."""
    instrument = getattr(source, "instrument", None)
    return isinstance(instrument, Instrument) and instrument.protocol.name == MICROPHONE


def look_at(instruments: Sequence[Instrument], clock: Clock, patience_s: float = LOOK_S) -> list[Probed]:
    """What all of them say now, in their order, within about the patience."""
    sources = _opened(instruments, clock)
    try:
        return probe_all(sources, patience_s)
    finally:
        close_all(sources)
