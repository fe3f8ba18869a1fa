"""A microphone as a source: levels at every sample of the run, third octaves once a second, and the last minute of sound.

It listens on threads of its own, so that no sensor waits for it. The sound itself stays in memory, a minute of it, and is
written nowhere.
"""

from __future__ import annotations

import math
import threading
import time
from collections import deque

import numpy as np

from samovar.core.instrument import Instrument
from samovar.core.quantity import FULL_SCALE, Channel
from samovar.core.recording import Array
from samovar.core.sound.bands import NOMINAL_HZ
from samovar.core.sound.calibration import Scale, as_stated
from samovar.core.sound.meter import LEVELS, SILENCE_DB, Meter, Told, folded, sound_channels
from samovar.sources.instruments.source import AGAIN_S, LOOK_S, TRIES, Time, reason_of
from samovar.sources.microphone.streams import USUAL_HZ, NoSound, Stream, open_stream
from samovar.sources.protocol import Probed

NAN = float("nan")
REMEMBERED_S = 60.0
"""Of the sound itself so much is at hand; what is older is gone."""
PIECES_HELD = 60
"""Where nobody asks for long, what is told is what was heard lately."""
FIRST_WORD_S = 3.0
LIMIT_SHARE = 0.5 * math.sqrt(3.0)
"""A limit is a rectangle: this share of a 95 % interval's half-width (GUM 4.3.7)."""


class Microphone:
    """One microphone.

    Args:
        instrument: its address says where it is, and what full scale is.
        clock: the run's clock.
    """

    def __init__(self, instrument: Instrument, clock: Time) -> None:
        self.name = instrument.name
        self.instrument = instrument
        self._clock = clock
        stated = instrument.options.get("full_scale")
        self.scale: Scale | None = None if stated is None else as_stated(float(stated))
        self.keeps_sound = instrument.options.get("keep", "0") != "0"
        self.trouble = "no sound came yet"
        self.rate_hz: float = USUAL_HZ
        self._lock = threading.Lock()
        self._told: deque[Told] = deque(maxlen=PIECES_HELD)
        self._last: tuple[Told, float] | None = None
        self._bands: Array | None = None
        self._ring = np.zeros(0, np.float32)
        self._written = 0
        self._failed = 0
        self._closing = threading.Event()
        self._ready = threading.Event()
        self._stream: Stream | None = None
        threading.Thread(target=self._serve, name=f"microphone-{self.name}", daemon=True).start()
        # How many bands there are is told by its rate: they are fixed from here on.
        self._ready.wait(FIRST_WORD_S)
        self.bands_hz = Meter(self.rate_hz).bands_hz if self._ready.is_set() else NOMINAL_HZ
        self._channels = self._made()

    def _made(self) -> tuple[Channel, ...]:
        levels = "dBA" if self.scale is not None else FULL_SCALE
        bands = "dB" if self.scale is not None else FULL_SCALE
        # What its class, or its calibration, leaves open counts wherever it is held against another microphone.
        off = f"±{LIMIT_SHARE * self.scale.half_width_db:.2f} dB" if self.scale is not None else ""
        return sound_channels(self.name, self.bands_hz, levels, bands, off)

    @property
    def channels(self) -> tuple[Channel, ...]:
        """The level, F's range, and every third octave."""
        return self._channels

    @property
    def _raise_db(self) -> float:
        return self.scale.raise_db if self.scale is not None else 0.0

    def sample(self) -> list[float]:
        """What was heard since the last call: the equivalent level, F's least and greatest, and the bands; NaN where nothing
        was, or what was is digital silence."""
        with self._lock:
            pieces = list(self._told)
            self._told.clear()
            if not pieces and self._last is not None:
                piece, at_s = self._last
                pieces = [piece] if self._clock.now() - at_s <= self.instrument.stale_after_s else []
        if not pieces:
            return [NAN] * len(self._channels)
        levels, bands = folded(pieces)
        self._bands = self._bands if bands is None else bands
        known = self._bands if self._bands is not None else np.empty(0)
        values = np.full(len(self._channels), NAN)
        values[: len(LEVELS)] = levels
        values[len(LEVELS) :][: len(known)] = known[: len(values) - len(LEVELS)]
        return [NAN if value <= SILENCE_DB else value + self._raise_db for value in values.tolist()]

    def probed(self, patience_s: float = LOOK_S) -> list[Probed]:
        """What it hears now; waits for the first of it, but not longer than this."""
        until = time.monotonic() + patience_s
        while self._last is None and self._failed < TRIES and time.monotonic() < until:
            time.sleep(0.05)
        why = self.trouble or "digital silence: see which input was chosen"
        found = [
            Probed(c, None, "unreadable", why) if math.isnan(v) else Probed(c, v, "ok")
            for c, v in zip(self._channels, self.sample(), strict=True)
        ]
        return found[: len(LEVELS)] if found[0].value is None else found

    def last(self, seconds: float) -> Array | None:
        """The last so many seconds of sound, 1 at full scale, shape (n,); None where there is not that much yet."""
        count = round(seconds * self.rate_hz)
        with self._lock:
            if count > min(self._written, len(self._ring)):
                return None
            places = np.arange(self._written - count, self._written) % len(self._ring)
            return self._ring[places].astype(float)

    @property
    def heard_s(self) -> float:
        """How much sound came so far, seconds."""
        return self._written / self.rate_hz

    def close(self) -> None:
        """Listen no longer."""
        self._closing.set()
        if self._stream is not None:
            self._stream.close()

    def _serve(self) -> None:
        while not self._closing.is_set():
            try:
                self._stream = open_stream(self.instrument)
                self._listen(self._stream)
            except Exception as problem:
                # Whatever a device or a library comes up with, it is a gap in this microphone's channels.
                self._failed += 1
                self.trouble = _reason_of(problem, self.instrument)
            if self._stream is not None:
                self._stream.close()
            self._stream = None
            self._closing.wait(AGAIN_S)

    def _listen(self, stream: Stream) -> None:
        meter = Meter(stream.rate_hz)
        with self._lock:
            if stream.rate_hz != self.rate_hz or not len(self._ring):
                self._ring, self._written = np.zeros(round(REMEMBERED_S * stream.rate_hz), np.float32), 0
            self.rate_hz = stream.rate_hz
        self._ready.set()

        def taken(block: Array) -> None:
            told = meter.hear(block)
            with self._lock:
                places = np.arange(self._written, self._written + len(block)) % len(self._ring)
                self._ring[places] = block
                self._written += len(block)
                for piece in told:
                    self._told.append(piece)
                    self._last = (piece, self._clock.now())
            if told:
                self._failed, self.trouble = 0, ""

        stream.serve(taken, self._closing)


def _reason_of(problem: Exception, instrument: Instrument) -> str:
    if isinstance(problem, NoSound):
        return f"{problem} ({instrument.shown})"
    if isinstance(problem, ImportError):
        return "listening needs PortAudio and a package for it: install libportaudio2 and samovar[sound]"
    return reason_of(problem, instrument)
