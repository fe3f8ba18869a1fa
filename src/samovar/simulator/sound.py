"""What the made-up rigs sound like: broadband that grows with the fifth power of the speed, the blades' passages and their
beating, a pump's whine, the room around, and somebody who says a word now and then.

Sources: the fifth-power law of fans' sound (50 lg of the speed: F. P. Bleier, "Fan Handbook", 1998, on similarity), which the rig's
level follows; the passages of a fan's blades at blades times turns a second, with harmonics.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

import numpy as np

from samovar.core.recording import Array
from samovar.core.sound.weighting import a_response
from samovar.simulator.spec import SimulatedSetup

RATE_HZ = 48_000
REFERENCE_PA = 20e-6
LOOP_S = 8.0
"""Noise comes round again after so long: nobody hears that in a rush."""
ROOM_DBA, OWN_DBA = 16.0, 10.0
"""The booth itself, and what a good microphone hears in silence."""
CASE_BLADES, CASE_TONAL = 9, 0.01
HARMONICS = 4
SPEECH_EVERY_S, SPEECH_S, SPEECH_DBA = 75.0, 0.7, 48.0
STANDS_BELOW_RPM = 50.0


@dataclass(frozen=True, slots=True)
class Timbre:
    """How a cooler sounds.

    Attributes:
        blades: of each of its fans.
        fans: how many turn; two are never quite as fast as each other, and beat.
        tonal: the share of their A-weighted energy that is in the passages.
        whine_hz, whine: of a pump that one signal drives with the fans: its tone, and its share of the energy.
        hunts_s, hunts: the period in which a fan's controller goes to and fro, and by which share of its speed.
    """

    blades: int = 7
    fans: int = 1
    tonal: float = 0.06
    whine_hz: float = 0.0
    whine: float = 0.0
    hunts_s: float = 0.0
    hunts: float = 0.0


TIMBRES = {
    "Plain 65": Timbre(7, 1, 0.30),
    "Tern 47": Timbre(11, 1, 0.10),
    "Osprey 161": Timbre(9, 2, 0.05),
    "Fjord 280": Timbre(7, 2, 0.08, 1240.0, 0.6),
    "Loam P": Timbre(5, 1, 0.03),
}
"""The sound of each cooler of the booth's review; others sound like any fan."""
_APART = 0.013
"""Of two fans on one signal the second turns so much faster, as a share."""


class Sounding(Protocol):
    """What of a rig sounds: how it is set up, and how fast its fan turns."""

    @property
    def setup(self) -> SimulatedSetup: ...

    @property
    def rpm(self) -> float: ...


@dataclass(frozen=True)
class Moment:
    """A rig as it was at a moment."""

    setup: SimulatedSetup
    rpm: float


class Ear:
    """What a microphone at a distance from a rig hears, block by block.

    Args:
        rig: heard as it is at each block.
        distance_m: how far away, in a room that is taken for the free field.
        seed: of all that is chance.
        speaks: whether somebody says a word now and then.
    """

    def __init__(self, rig: Sounding, distance_m: float = 1.0, seed: int = 1, speaks: bool = False) -> None:
        self.rig = rig
        self._distance_m = distance_m
        self._chance = np.random.default_rng(seed)
        self._at = 0
        self._speaks = speaks
        self._turns = np.zeros(3)
        # Each source is at a place of its own in its loop: what is alike would add as one.
        self._places = self._chance.integers(0, round(LOOP_S * RATE_HZ), 5)

    @property
    def at_s(self) -> float:
        """How much was heard so far, seconds."""
        return self._at / RATE_HZ

    def block(self, count: int, silent: bool = False) -> Array:
        """The next samples, Pa, shape (n,); `silent`: with the machine switched off, the room alone."""
        t = (self._at + np.arange(count)) / RATE_HZ
        heard = _pa(ROOM_DBA) * self._noise(0, "room", count) + _pa(OWN_DBA) * self._noise(1, "own", count)
        if not silent:
            heard += self._machine(t, count) / self._distance_m
        if self._speaks:
            heard += self._speech(t)
        self._at += count
        return heard

    def _noise(self, which: int, kind: str, count: int) -> Array:
        loop = _loop(kind)
        return np.asarray(loop[(self._places[which] + self._at + np.arange(count)) % len(loop)])

    def _machine(self, t: Array, count: int) -> Array:
        setup = self.rig.setup
        timbre = TIMBRES.get(setup.name, Timbre())
        heard = self._fan(0, setup.case.fan_rpm, setup.case.fan_noise_dba, CASE_BLADES, CASE_TONAL, t, count)
        rpm = self.rig.rpm
        if rpm > STANDS_BELOW_RPM:
            if timbre.hunts_s:
                rpm *= 1.0 + timbre.hunts * math.sin(2.0 * math.pi * t[0] / timbre.hunts_s)
            level = setup.fan.noise_dba + 50.0 * math.log10(rpm / setup.fan.noise_rpm)
            each = level - 10.0 * math.log10(timbre.fans) + 10.0 * math.log10(1.0 - timbre.whine)
            for k in range(timbre.fans):
                heard += self._fan(
                    1 + k, rpm * (1.0 + k * _APART), each, timbre.blades, timbre.tonal, t, count
                )
            if timbre.whine:
                gain = abs(a_response(np.array([timbre.whine_hz]))[0])
                size = _pa(level) * math.sqrt(2.0 * timbre.whine) / gain
                heard += size * np.sin(2.0 * np.pi * timbre.whine_hz * t)
        return heard

    def _fan(
        self, which: int, rpm: float, dba: float, blades: int, tonal: float, t: Array, count: int
    ) -> Array:
        """One fan of this A-weighted level, of whose energy a share is tones."""
        energy = _pa(dba) ** 2
        heard = math.sqrt(energy * (1.0 - tonal)) * self._noise(2 + which, "fan", count)
        turns = self._turns[which] + np.arange(1, count + 1) * (rpm / 60.0 / RATE_HZ)
        self._turns[which] = turns[-1] % 1.0
        passages_hz = blades * rpm / 60.0
        each = energy * tonal / sum(2.0**-n for n in range(HARMONICS))
        for n in range(1, HARMONICS + 1):
            gain = abs(a_response(np.array([n * passages_hz]))[0])
            size = math.sqrt(2.0 * each * 2.0 ** (1 - n)) / max(gain, 0.02)
            heard += size * np.sin(2.0 * np.pi * blades * n * turns)
        return heard

    def _speech(self, t: Array) -> Array:
        """A word: a hum with what a mouth makes of it, swelling and gone."""
        into = t % SPEECH_EVERY_S - (SPEECH_EVERY_S - SPEECH_S - 1.0)
        said = (into > 0.0) & (into < SPEECH_S)
        if not said.any():
            return np.zeros(len(t))
        swell = np.where(said, np.sin(np.pi * into / SPEECH_S) ** 2, 0.0)
        voice = sum(
            size * np.sin(2.0 * np.pi * 125.0 * n * into)
            for n, size in ((1, 0.5), (2, 0.7), (4, 1.0), (5, 0.9), (9, 0.5), (18, 0.3))
        )
        return np.asarray(_pa(SPEECH_DBA) * swell * voice)


def heard_of(rig: Sounding, seconds: float, seed: int, silent: bool = False) -> Array:
    """So many seconds of a rig as it is now, 1 m away, Pa, shape (n,) at 48 kHz."""
    return Ear(rig, seed=seed).block(round(seconds * RATE_HZ), silent)


def over_full_scale(pascals: Array, full_scale_db: float) -> Array:
    """Sound, Pa, shape (n,), as a microphone has it whose full-scale sine is at this level, dB: 1 at full scale."""
    return pascals / (REFERENCE_PA * 10.0 ** (0.05 * full_scale_db) * math.sqrt(2.0))


def _pa(dba: float) -> float:
    return REFERENCE_PA * 10.0 ** (0.05 * dba)


@lru_cache(maxsize=3)
def _loop(kind: str) -> Array:
    """Noise of 1 in size, A-weighted, that comes round without a seam, shape (n,): a room's falls by 6 dB an octave from 80 Hz,
    a microphone's own is white, a fan's is broad and falls from 900 Hz on."""
    count = round(LOOP_S * RATE_HZ)
    hz: Array = np.fft.rfftfreq(count, 1.0 / RATE_HZ).astype(float)
    shape = {
        "room": 1.0 / (1.0 + (hz / 80.0) ** 2) ** 0.5,
        "own": np.ones(len(hz)),
        "fan": 1.0 / (1.0 + (hz / 900.0) ** 2) ** 0.9 * (hz / (hz + 40.0)),
    }[kind]
    shape[hz < 10.0] = 0.0
    chance = np.random.default_rng(len(kind))
    phases = np.exp(2j * np.pi * chance.random(len(hz)))
    weighted = float(np.sum((shape[1:] * np.abs(a_response(hz[1:]))) ** 2)) * 2.0 / count**2
    return np.asarray(np.fft.irfft(shape / math.sqrt(weighted) * phases, count))
