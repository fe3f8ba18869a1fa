"""What is kept of a sound that was listened to, beside its level: enough to draw it and to speak of its tones, years later."""

from __future__ import annotations

import json
import math
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import Any

from samovar.core.sound.a_curve import a_weighted_energy
from samovar.core.sound.own_bands import OwnBand, own_bands

BANDS_MOST, TONES_MOST = 40, 50
LONGEST_TEXT = 20_000
"""What is longer was not written here."""


@dataclass(frozen=True, slots=True)
class KeptSound:
    """One sound.

    Attributes:
        seconds: how long it was listened to.
        bands: third octaves, unweighted, as listened to: nominal frequency and level, dB.
        background: the room's own, likewise; empty where nobody listened to it.
        tones: frequency, ratio to the noise around, dB, and whether it is prominent.
        swing_db, period_s: the deviation of F, and the period of a regular swing.
        la10, la90: levels exceeded for so much of the time, dBA.
        full_scale_db: the level of a full-scale sine in its clip; None where no clip is kept.
        clip: names its clip among what the archive keeps; empty where there is none.
        said: what was noticed in it that does not belong to a fan.
    """

    seconds: float
    bands: tuple[tuple[float, float], ...] = ()
    background: tuple[tuple[float, float], ...] = ()
    tones: tuple[tuple[float, float, bool], ...] = ()
    swing_db: float | None = None
    period_s: float | None = None
    la10: float | None = None
    la90: float | None = None
    full_scale_db: float | None = None
    clip: str = ""
    said: tuple[str, ...] = ()

    @property
    def over_background_db(self) -> float | None:
        """By how much it is over the room alone, A-weighted, dB; None where that was not listened to."""
        if not self.bands or not self.background:
            return None
        own, behind = _a_weighted_sum(self.bands), _a_weighted_sum(self.background)
        return 10.0 * math.log10(own / behind) if own > 0.0 and behind > 0.0 else None

    @property
    def own_bands(self) -> tuple[OwnBand, ...]:
        """What is its own in every band; empty where nobody listened to the room."""
        return own_bands(self.bands, self.background) if self.background else ()

    @property
    def prominent(self) -> tuple[tuple[float, float], ...]:
        """The tones that stand out: frequency and ratio."""
        return tuple((hz, ratio) for hz, ratio, stands in self.tones if stands)

    def text(self) -> str:
        """As it is kept."""
        return json.dumps(asdict(self), separators=(",", ":"))


@lru_cache(maxsize=512)
def sound_in(text: str | None) -> KeptSound | None:
    """What `KeptSound.text` wrote; None for nothing, or for what it did not write."""
    if not text or len(text) > LONGEST_TEXT:
        return None
    try:
        body = json.loads(text)
        return KeptSound(
            _number(body["seconds"]),
            tuple((_number(hz), _number(db)) for hz, db in body["bands"][:BANDS_MOST]),
            tuple((_number(hz), _number(db)) for hz, db in body["background"][:BANDS_MOST]),
            tuple((_number(hz), _number(db), bool(s)) for hz, db, s in body["tones"][:TONES_MOST]),
            _maybe(body["swing_db"]),
            _maybe(body["period_s"]),
            _maybe(body["la10"]),
            _maybe(body["la90"]),
            _maybe(body["full_scale_db"]),
            str(body["clip"]),
            tuple(map(str, body["said"])),
        )
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError):
        return None


def _a_weighted_sum(bands: tuple[tuple[float, float], ...]) -> float:
    return sum(a_weighted_energy(hz, db) for hz, db in bands)


def _number(value: Any) -> float:
    found = float(value)
    if not math.isfinite(found):
        raise ValueError(value)
    return found


def _maybe(value: Any) -> float | None:
    return None if value is None else _number(value)
