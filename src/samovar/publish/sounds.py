"""What a review's setups sound like, as its readers get it: a table, and short pieces at one common gain, to be listened to."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from samovar.archive.archive import Archive
from samovar.archive.deciding import hardest_load
from samovar.archive.review_data import ReviewData
from samovar.core.entered import free_stem
from samovar.core.results.figure import RunResult, figure_of
from samovar.core.sound.clip import Clip, Mixed, at_one_gain
from samovar.core.sound.kept import KeptSound
from samovar.core.sound.side_by_side import swing_in_words, tones_of_one
from samovar.exchange.problems import InputError
from samovar.exchange.sound_file import flac_of, sound_of_flac
from samovar.publish.article import Grid, SoundPiece, Sounds

FOLDER = "sounds"
BITS = 16
SET_BY = (
    "All pieces have one common gain: what was louder sounds louder. Play the tone first, and set the volume so that it is "
    "about as loud as {level:.0f} dBA are, a little louder than the loudest piece; then leave it."
)


def sounds_of(archive: Archive, data: ReviewData, place: Callable[[str, str], Path]) -> Sounds | None:
    """The sounds of a review, under the hardest load that was listened to; `place` gives where a piece goes, of a folder and
    a name. None where nobody listened to anything."""
    main = hardest_load(data)
    for load in sorted(data.review.loads, key=lambda one: one != main):
        heard = _heard(data, load)
        if heard:
            return _sounds(archive, load, heard, place)
    return None


def _heard(data: ReviewData, load: str) -> list[tuple[str, RunResult, KeptSound]]:
    """The last run of each setup that was listened to, one with a piece of its sound before others."""
    found = []
    for setup in data.review.setups:
        runs = [r for r in data.cell(setup, load).results if r.finished and r.sound is not None]
        runs.sort(key=lambda r: bool(r.sound and r.sound.clip))
        if runs and runs[-1].sound is not None:
            found.append((setup.name, runs[-1], runs[-1].sound))
    return found


def _sounds(
    archive: Archive,
    load: str,
    heard: list[tuple[str, RunResult, KeptSound]],
    place: Callable[[str, str], Path],
) -> Sounds:
    noise = figure_of("noise")
    rows = []
    for name, run, sound in heard:
        level = noise.of(run)
        rows.append(
            (
                name,
                noise.text(level) if level is not None else "not known",
                tones_of_one(sound),
                swing_in_words(sound),
                run.run,
            )
        )
    grid = Grid(("setup", "level", "tones", "over time", "run"), tuple(rows))
    mixed = _mixed(archive, heard)
    if mixed is None:
        return Sounds(load, grid)
    taken: set[str] = set()
    pieces = tuple(
        SoundPiece(name, _named(place, free_stem(name, taken, "sound")), flac_of(samples, rate, BITS))
        for name, (samples, rate) in mixed.pieces.items()
    )
    tone = SoundPiece(
        "tone", _named(place, free_stem("tone", taken, "tone")), flac_of(mixed.tone, mixed.tone_rate_hz, BITS)
    )
    return Sounds(load, grid, pieces, tone, SET_BY.format(level=mixed.tone_dba))


def _mixed(archive: Archive, heard: list[tuple[str, RunResult, KeptSound]]) -> Mixed | None:
    kept = archive.clips.of(sound.clip for _, _, sound in heard if sound.clip)
    clips: dict[str, Clip] = {}
    for name, _, sound in heard:
        if sound.clip in kept:
            try:
                samples, rate = sound_of_flac(kept[sound.clip])
            except InputError:
                continue
            clips[name] = Clip(samples, rate, sound.full_scale_db)
    return at_one_gain(clips)


def _named(place: Callable[[str, str], Path], stem: str) -> str:
    return f"{FOLDER}/{place(FOLDER, f'{stem}.flac').name}"
