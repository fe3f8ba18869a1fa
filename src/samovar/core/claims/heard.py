"""Claims about what was heard: that no tone stands out, and that a machine is no louder than its room."""

from __future__ import annotations

from collections.abc import Sequence

from samovar.core.claims.judged import Checked
from samovar.core.results.figure import RunResult
from samovar.core.sound.side_by_side import NO_LOUDER_DB, tones_of_one

UNSURE_DB = 1.0
"""A ratio this near to its criterion may be on either side of it the next time."""


def check_no_tone(name: str, results: Sequence[RunResult], load: str, runs: tuple[str, ...]) -> Checked:
    """That no tone stands out of a setup, by the criterion of ECMA-418-1, in all passes that were listened to."""
    heard = [(r.run, r.sound) for r in results if r.sound is not None]
    if not heard:
        return Checked(
            "open",
            f"{name}, {load}: nobody listened to it yet; type a recording, or put up a microphone.",
            runs,
        )
    told = tuple(f"{run}: {tones_of_one(sound)}" for run, sound in heard)
    bad = [sound for _, sound in heard if sound.prominent]
    if len(bad) == len(heard):
        hz, ratio = max(bad[0].prominent, key=lambda tone: tone[1])
        words = f"A tone at {hz:.0f} Hz stands out of {name} under {load}, {ratio:.0f} dB over the noise around it."
        return Checked("contradicted", words, (*runs, *told))
    nearest = max((ratio - _criterion(hz) for _, s in heard for hz, ratio, _ in s.tones), default=-99.0)
    sentence = f"No tone stands out of {name} under {load}, in {len(heard) - len(bad)} of {len(heard)} passes listened to."
    return Checked("weak" if bad or nearest > -UNSURE_DB else "holds", sentence, (*runs, *told))


def _criterion(hz: float) -> float:
    # Imported with the first claim of its kind: what finds tones takes a heavy package.
    from samovar.core.sound.tones import criterion_db

    return criterion_db(hz)


def check_like_the_room(name: str, results: Sequence[RunResult], load: str, runs: tuple[str, ...]) -> Checked:
    """That a machine is no louder than the room it stands in: together they are less than 3 dB over the room alone."""
    heard = [(r.run, over) for r in results if (over := _over_the_room(r)) is not None]
    if not heard:
        return Checked("open", f"{name}, {load}: the room was not listened to without it.", runs)
    told = tuple(f"{run}: with it {over:.1f} dB over the room alone" for run, over in heard)
    most = max(over for _, over in heard)
    state = (
        "holds"
        if most <= NO_LOUDER_DB - UNSURE_DB
        else "weak"
        if most <= NO_LOUDER_DB + UNSURE_DB
        else "contradicted"
    )
    words = (
        "is no louder than the room it stands in"
        if most <= NO_LOUDER_DB
        else "is louder than the room it stands in"
    )
    sentence = f"{name} {words} under {load}: with it the level is {most:.1f} dB over the room's."
    return Checked(state, sentence, (*runs, *told))


def _over_the_room(result: RunResult) -> float | None:
    """By how much machine and room are over the room alone, A-weighted, dB; None where it was not listened to."""
    sound = result.sound
    return None if sound is None else sound.over_background_db
