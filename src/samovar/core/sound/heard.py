"""What a recording says, as the command line promises it: levels, bands, tones, swing, speed, and what it sounds like."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from samovar.core.contract import plain
from samovar.core.recording import Array
from samovar.core.sound.bands import third_octaves
from samovar.core.sound.calibration import Scale
from samovar.core.sound.kept import KeptSound
from samovar.core.sound.levels import SoundLevel, corrected
from samovar.core.sound.listening import Listening, over_full_scale
from samovar.core.sound.own_bands import OwnBand, own_bands, own_level
from samovar.core.sound.side_by_side import STEADY_DB
from samovar.core.sound.tones import Tone, tones_of
from samovar.core.sound.turning import Turning, turning_of
from samovar.core.sound.weighting import a_response

HUM_HZ, WHINE_HZ = 200.0, 1000.0
"""A tone under the first hums, over the second it whines."""
LOW_HZ, BRIGHT_HZ = 250.0, 2500.0
"""Where the middle of a sound's power lies, A-weighted by its bands: under the first it rumbles, over the second it hisses."""
NAMED_TONES = 2


@dataclass(frozen=True)
class Heard:
    """One recording with all that was given beside it.

    Attributes:
        listening: it.
        scale: what makes pascals of it; None where nothing does.
        background: the room's own, recorded with the same gain; None where nobody did.
        distance_m: from where it was recorded; None where nobody said.
        blades: of the fan; None where nobody said.
        clip: a piece of it that may be kept, samples 1 at full scale, shape (n,); None where none may.
    """

    listening: Listening
    scale: Scale | None = None
    background: Listening | None = None
    distance_m: float | None = None
    blades: int | None = None
    clip: Array | None = None

    @property
    def warnings(self) -> list[str]:
        """What has to be said of it."""
        said = list(self.listening.warnings)
        if self.background is not None:
            said += [f"background: {words}" for words in self.background.warnings]
        return said

    def level_dba(self, over_full_scale_db: float | None) -> float | None:
        """A level over full scale as one over 20 µPa; None where that is not known."""
        if over_full_scale_db is None or self.scale is None:
            return None
        return over_full_scale_db + self.scale.raise_db

    @property
    def level(self) -> SoundLevel | None:
        """The level where it was recorded, without the background, where that was recorded too; None where it is not known."""
        return self.level_at(1.0, 1.0)

    def level_at(self, read_at_m: float, wanted_m: float) -> SoundLevel | None:
        """The same at another distance, m, than the one it was recorded at."""
        laeq = self.level_dba(self.listening.level_db)
        if laeq is None or self.scale is None:
            return None
        return corrected(
            laeq, self.scale.half_width_db, self.background_dba, read_at_m, wanted_m,
            own_half_width_db=self.listening.own_half_width_db,
            background_half_width_db=self.background.own_half_width_db if self.background is not None else 0.0,
        )  # fmt: skip

    @property
    def background_dba(self) -> float | None:
        """The background's level; None where there is none, or it is not known."""
        return None if self.background is None else self.level_dba(self.background.level_db)

    @property
    def at_1_m(self) -> float | None:
        """The level at 1 m by the free field's law; None without a distance."""
        level = self.level
        if level is None or self.distance_m is None:
            return None
        return corrected(level.value, 0.0, None, self.distance_m, 1.0).value

    @cached_property
    def tones(self) -> list[Tone]:
        """Its tones."""
        return [] if self.listening.is_silent else tones_of(self.listening.spectrum)

    @cached_property
    def turning(self) -> Turning | None:
        """The fan's speed; None where its blades are not known, or leave no series."""
        if self.blades is None or self.listening.is_silent:
            return None
        return turning_of(self.listening.spectrum, self.blades)

    @cached_property
    def bands_db(self) -> list[tuple[float, float | None]] | None:
        """The level in every third octave, unweighted, over 20 µPa; None where that is not known."""
        return self._bands_of(self.listening)

    @cached_property
    def own_bands(self) -> tuple[OwnBand, ...]:
        """What is its own in every band; empty where the room was not listened to, or the levels are not known."""
        behind = self._bands_of(self.background) if self.background is not None else None
        return own_bands(_known(self.bands_db), _known(behind)) if behind else ()

    def _bands_of(self, listening: Listening) -> list[tuple[float, float | None]] | None:
        if self.scale is None or listening.is_silent:
            return None
        return [
            (hz, over_full_scale(square) + self.scale.raise_db if square > 0.0 else None)
            for hz, square in third_octaves(listening.spectrum, listening.rate_hz)
        ]


def kept_of(heard: Heard, clip: str = "") -> KeptSound:
    """What is kept of it beside its level; `clip` names the piece that is kept of the sound itself."""
    listening = heard.listening
    behind = heard._bands_of(heard.background) if heard.background is not None else None
    known = heard.scale is not None and not listening.is_silent
    return KeptSound(
        round(listening.duration_s, 2),
        _rounded(heard.bands_db),
        _rounded(behind),
        tuple((round(t.hz, 1), round(t.ratio_db, 2), t.prominent) for t in heard.tones),
        listening.swing_db,
        listening.period_s,
        heard.level_dba(listening.exceeded_db(0.1)) if known else None,
        heard.level_dba(listening.exceeded_db(0.9)) if known else None,
        heard.scale.raise_db if heard.scale is not None and clip else None,
        clip,
        tuple(heard.warnings),
    )


def _known(bands: list[tuple[float, float | None]] | None) -> list[tuple[float, float]]:
    return [(hz, db) for hz, db in bands or () if db is not None]


def _rounded(bands: list[tuple[float, float | None]] | None) -> tuple[tuple[float, float], ...]:
    return tuple((hz, round(db, 2)) for hz, db in _known(bands))


def character_of(heard: Heard) -> str:
    """What it sounds like, in words: `a steady rush with a whine at 1240 Hz`."""
    listening = heard.listening
    if listening.is_silent:
        return "silence"
    swing = listening.swing_db or 0.0
    if listening.period_s is not None:
        pace = f" that swells every {listening.period_s:.1f} s"
        steady = ""
    else:
        pace, steady = "", "steady " if swing < STEADY_DB else "uneven "
    middle = _middle_hz(listening)
    body = "rumble" if middle < LOW_HZ else "hiss" if middle > BRIGHT_HZ else "rush"
    article = "an" if (steady or body)[0] in "aeiou" else "a"
    named = [t for t in heard.tones if t.prominent][:NAMED_TONES]
    words = [f"a {_kind(t.hz)} at {t.hz:.0f} Hz" for t in named]
    return f"{article} {steady}{body}{pace}" + (f" with {' and '.join(words)}" if words else "")


def _kind(hz: float) -> str:
    return "hum" if hz < HUM_HZ else "whine" if hz >= WHINE_HZ else "tone"


def _middle_hz(listening: Listening) -> float:
    """The frequency that half of the power lies under, as ears weigh it."""
    hz, power = listening.spectrum.hz[1:], listening.spectrum.power[1:]
    heard = np.cumsum(power * np.abs(a_response(hz)) ** 2)
    return float(hz[int(np.searchsorted(heard, 0.5 * heard[-1]))]) if heard[-1] > 0.0 else 0.0


def _own_of(band: OwnBand | None) -> dict[str, Any]:
    """What is told of a band beside its level, where the room was listened to."""
    if band is None:
        return {}
    return {"own": plain(band.db, 2), "bound": "at most" if band.at_most else None}


def as_promised(heard: Heard) -> dict[str, Any]:
    """All of it as scripts get it: plain numbers, null for what is not known."""
    listening, level = heard.listening, heard.level
    laeq = heard.level_dba(listening.level_db)
    behind = heard.background_dba
    known = not listening.is_silent and heard.scale is not None

    def exceeded(share: float) -> float | None:
        return plain(heard.level_dba(listening.exceeded_db(share)), 2) if known else None

    own = level is not None and heard.background is not None and behind is not None
    tones = heard.tones
    turning = heard.turning
    each = {band.hz: band for band in heard.own_bands}
    by_bands = own_level(heard.own_bands)
    return {
        "duration_s": plain(listening.duration_s, 4),
        "rate_hz": round(listening.rate_hz),
        "calibrated": heard.scale is not None,
        "clipped": listening.clipped,
        "warnings": heard.warnings,
        "level": {
            "laeq": plain(laeq, 2),
            "lafmax": plain(heard.level_dba(listening.highest_db), 2) if known else None,
            "la10": exceeded(0.10),
            "la50": exceeded(0.50),
            "la90": exceeded(0.90),
            "background": plain(behind, 2),
            "corrected": plain(level.value, 2) if level is not None and own else None,
            "half_width_95": plain(level.half_width, 2) if level is not None else None,
            "bound": "at most" if level is not None and level.upper_bound else None,
            "at_1_m": plain(heard.at_1_m, 2),
            "by_bands": plain(by_bands.dba, 2) if by_bands is not None else None,
            "by_bands_bound": "at most" if by_bands is not None and by_bands.at_most else None,
        },
        "relative_dbfs_a": plain(listening.level_db, 2),
        "bands": None
        if heard.bands_db is None
        else [{"hz": hz, "db": plain(db, 2), **_own_of(each.get(hz))} for hz, db in heard.bands_db],
        "tones": [
            {"hz": plain(t.hz, 1), "ratio_db": plain(t.ratio_db, 1), "prominent": t.prominent} for t in tones
        ],
        "fluctuation": {"sd_db": plain(listening.swing_db, 2), "period_s": plain(listening.period_s, 2)},
        "fan": None
        if turning is None
        else {
            "rpm": plain(turning.rpm, 1), "half_width_95": plain(turning.half_width, 1), "blades": turning.blades,
        },
        "character": character_of(heard),
    }  # fmt: skip
