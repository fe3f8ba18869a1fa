"""Figures of what was heard: third octaves over the room, and a run's sound from beginning to end."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.core.sound.kept import KeptSound
from samovar.core.sound.side_by_side import tones_in_words
from samovar.figures.bands_chart import bands_chart
from samovar.figures.sound_chart import has_sound, sound_chart
from samovar.figures.write import write_for_print

HZ = (31.5, 125.0, 500.0, 1250.0, 8000.0)


def sound(level: float, tones: tuple[tuple[float, float, bool], ...] = ()) -> KeptSound:
    bands = tuple((hz, level - k) for k, hz in enumerate(HZ))
    return KeptSound(20.0, bands, tuple((hz, 12.0) for hz in HZ), tones)


class SoundChartsTest(unittest.TestCase):
    def drawn(self, figure: object) -> str:
        with tempfile.TemporaryDirectory() as folder:
            files = write_for_print(figure, Path(folder) / "f")  # type: ignore[arg-type]
            self.assertEqual(len(files), 4)
            return (Path(folder) / "f.svg").read_text(encoding="utf-8")

    def test_setups_stand_over_the_room_with_the_tones_that_stand_out(self) -> None:
        sounds = (("Fjord $280", sound(30.0, ((1240.0, 10.2, True),))), ("Loam P", sound(22.0)))
        words = tones_in_words(sounds)
        self.assertEqual(
            words,
            "Fjord $280 has a tone that stands out at 1240 Hz (10 dB over the noise around it); no tone stands out of Loam P.",
        )
        svg = self.drawn(bands_chart(sounds, words.partition(";")[0], "Third octaves"))
        for text in (
            "Fjord $280",
            "Loam P",
            "the room alone",
            "1240 Hz, 10 dB over its noise",
            "third octaves, Hz",
        ):
            self.assertIn(text, svg)

    def test_a_run_that_was_listened_to_is_drawn_whole_and_another_is_not_asked_for(self) -> None:
        n = 2500
        channels = [
            Channel("mic level", "noise", "dBA", id="mic:level"),
            Channel("mic least F", "fast", "dBA"),
        ]
        channels += [Channel("mic greatest F", "fast", "dBA")]
        channels += [Channel(f"mic {hz:g} Hz", "band", "dB", id=f"mic:{hz:g}") for hz in HZ]
        values = np.full((len(channels), n), 25.0)
        values[:, 400:420] = np.nan
        run = Recording(tuple(channels), np.arange(float(n)), values)
        self.assertTrue(has_sound(run))
        svg = self.drawn(sound_chart(run, "How it sounded"))
        for text in ("level, dBA", "third octaves, Hz", "minutes"):
            self.assertIn(text, svg)
        self.assertFalse(has_sound(Recording(tuple(channels[:1]), np.arange(3.0), np.ones((1, 3)))))
