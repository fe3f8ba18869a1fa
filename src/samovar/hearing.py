"""Recordings of sound, listened to with what was given beside them, and what they say in words."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path

from samovar.core.by_hand.line import Circumstances
from samovar.core.by_hand.reading import HandReading
from samovar.core.sound.calibration import CALIBRATOR_DB, Scale, by_calibrator, by_known_level
from samovar.core.sound.clip import calmest
from samovar.core.sound.heard import Heard, character_of, kept_of
from samovar.core.sound.listening import Listening, listen
from samovar.core.sound.own_bands import own_level
from samovar.core.sound.turning import check_blades
from samovar.exchange.problems import InputError
from samovar.exchange.sound_file import SoundFile, flac_of, read_sound

NEAREST_M, FURTHEST_M = 0.01, 20.0
RECORDING = "recording"
BAR = 30
"""Letters of the longest band."""
SHOWN_DB = 45.0
"""Bands so far under the loudest are not drawn any more."""


def listened_to(path: Path) -> Listening:
    """A recording, listened to. Raises InputError."""
    return _listened(path, read_sound(path))


def _listened(path: Path, found: SoundFile) -> Listening:
    try:
        return listen(found.channels, found.rate_hz, found.warnings)
    except ValueError as problem:
        raise InputError(f"{path}: {problem}") from None


def heard_in(
    path: Path,
    *,
    calibration: Path | None = None,
    calibrator_db: float = CALIBRATOR_DB,
    known_dba: float | None = None,
    background: Path | None = None,
    distance_m: float | None = None,
    blades: int | None = None,
) -> Heard:
    """A recording with what was given beside it.

    Args:
        path: the recording.
        calibration, calibrator_db: a calibrator's recording with the same gain, and what it sounds at.
        known_dba: or the level that a meter read beside it.
        background: the room alone, with the same gain.
        distance_m: from where it was recorded.
        blades: of the fan.

    Raises:
        InputError: what cannot be read, or does not go together.
    """
    if calibration is not None and known_dba is not None:
        raise InputError(
            "command line: --calibration and --known are two scales for one recording; name one of them"
        )
    if distance_m is not None and not (math.isfinite(distance_m) and NEAREST_M <= distance_m <= FURTHEST_M):
        raise InputError(
            f"--distance {distance_m:g}: from {NEAREST_M:g} to {FURTHEST_M:g} m; choose one between"
        )
    try:
        if blades is not None:
            check_blades(blades)
    except ValueError as problem:
        raise InputError(f"--blades: {problem}") from None
    found = read_sound(path)
    listening = _listened(path, found)
    scale: Scale | None = None
    if calibration is not None:
        tone = read_sound(calibration)
        try:
            scale = by_calibrator(tone.channels, tone.rate_hz, calibrator_db)
        except ValueError as problem:
            raise InputError(f"{calibration}: {problem}") from None
    elif known_dba is not None:
        try:
            scale = by_known_level(listening, known_dba)
        except ValueError as problem:
            raise InputError(f"{path}: {problem}") from None
    behind = listened_to(background) if background is not None else None
    return Heard(listening, scale, behind, distance_m, blades, calmest(found.channels[0], found.rate_hz))


def readings_of(
    heard: Heard,
    name: str,
    there: Circumstances,
    how: str = RECORDING,
    clip: str = "",
) -> list[HandReading]:
    """What a sound gives a run, as readings of it: its level at the distance that the review compares at, and the fan's
    speed where its blades told it.

    Args:
        heard: what was listened to.
        name: what it was heard in, such as a file's name or a microphone's.
        there: what is known of the run.
        how: by what kind of thing.
        clip: names the piece of it that the archive keeps, where it keeps one.

    Raises:
        InputError: how loud it was is not known.
    """
    details = there.rig.details if there.rig else {}
    read_at_m = heard.distance_m or details.get("meter_distance_m") or there.compared_at_m
    level = heard.level_at(read_at_m, there.compared_at_m)
    if level is None:
        raise InputError(
            "a run takes a level: give --calibration with a calibrator's recording, or --known with what a meter showed"
        )
    instrument = name if how in name else f"{how} {name}"
    where = f"heard in {name}" if how == RECORDING else f"heard by the {instrument}"
    found = [
        HandReading(
            None, "noise", level.value, level.half_width, "dBA", instrument, "at most" if level.upper_bound else None,
            distance_m=read_at_m, background=heard.background_dba, character=character_of(heard),
            words="; ".join(w for w in (where, level.words) if w), heard=kept_of(heard, clip).text(),
        )
    ]  # fmt: skip
    turning = heard.turning
    if turning is not None:
        words = f"{where}, by {turning.blades} blades"
        found.append(
            HandReading(None, "fan", turning.rpm, turning.half_width, "rpm", instrument, words=words)
        )
    return found


def kept_clip(heard: Heard, keep: Callable[[bytes], str] | None) -> str:
    """Let a piece of what was heard be kept, as FLAC; the answer names it, empty where there is none to be kept. Raises
    InputError: the package for it is not here."""
    if keep is None or heard.clip is None:
        return ""
    return keep(flac_of(heard.clip, heard.listening.rate_hz))


def sound_text(heard: Heard) -> str:
    """What a recording says, for people to read."""
    listening, level = heard.listening, heard.level
    lines = [
        f"{character_of(heard)}; {listening.duration_s:.1f} s at {listening.rate_hz:g} samples a second."
    ]
    if level is not None:
        bound = "at most " if level.upper_bound else ""
        lines.append(
            f"{bound}{level.value:.1f} ±{level.half_width:.1f} dBA"
            + (f" ({level.words})" if level.words else "")
        )
        by_bands = own_level(heard.own_bands)
        if by_bands is not None:
            lines.append(
                f"with the room taken off band by band: {'at most ' if by_bands.at_most else ''}{by_bands.dba:.1f} dBA"
            )
        lines.append(
            f"F at most {heard.level_dba(listening.highest_db):.1f} dBA; exceeded for 10 % of the time "
            f"{heard.level_dba(listening.exceeded_db(0.1)):.1f}, for 90 % {heard.level_dba(listening.exceeded_db(0.9)):.1f} dBA."
        )
        if heard.at_1_m is not None:
            lines.append(
                f"{heard.at_1_m:.1f} dBA at 1 m, converted from {heard.distance_m:g} m by the free field's law."
            )
    elif listening.level_db is not None:
        lines.append(
            f"{listening.level_db:.1f} dB A-weighted over a full-scale sine. How loud that was nobody knows: give --calibration "
            "with a calibrator's recording, or --known with what a meter showed."
        )
    for tone in heard.tones:
        stands = "prominent" if tone.prominent else "not prominent"
        lines.append(f"tone at {tone.hz:.1f} Hz, {tone.ratio_db:.1f} dB over the noise around it: {stands}")
    turning = heard.turning
    if turning is not None:
        told = ", ".join(map(str, turning.harmonics))
        lines.append(
            f"turns at {turning.rpm:.0f} ±{max(1.0, turning.half_width):.0f} rpm by {turning.blades} blades (passages {told})"
        )
    elif heard.blades is not None:
        lines.append("its blades leave no series: the speed is not known")
    if listening.period_s is not None:
        lines.append(
            f"its level swings by {listening.swing_db:.1f} dB (standard deviation), every {listening.period_s:.1f} s"
        )
    bands = heard.bands_db
    if bands:
        known = [(hz, db) for hz, db in bands if db is not None]
        top = max(db for _, db in known)
        own = {band.hz: band for band in heard.own_bands}
        lines.append("")
        for hz, db in known:
            bar = "━" * max(0, round(BAR * (db - top + SHOWN_DB) / SHOWN_DB))
            its = own.get(hz)
            words = "" if its is None else f"own {'≤' if its.at_most else ' '}{its.db:5.1f}  "
            lines.append(f"{hz:>8g} Hz  {db:5.1f} dB  {words}{bar}".rstrip())
    lines += [f"beware: {words}" for words in heard.warnings]
    return "\n".join(lines)
