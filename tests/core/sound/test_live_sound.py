"""Sound that is still coming in, what is cut out of it, what is kept of it, and pieces side by side."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.claims.heard import check_like_the_room, check_no_tone
from samovar.core.reading import read
from samovar.core.recording import Array, Recording
from samovar.core.results.figure import RunResult
from samovar.core.sound.a_curve import a_weight_db
from samovar.core.sound.bands import third_octaves
from samovar.core.sound.calibration import as_stated
from samovar.core.sound.clip import Clip, at_one_gain, calmest
from samovar.core.sound.cutting import undisturbed
from samovar.core.sound.heard import Heard, kept_of
from samovar.core.sound.kept import KeptSound, sound_in
from samovar.core.sound.listening import FULL_SCALE_SQUARE, listen
from samovar.core.sound.meter import Meter, energy_mean_db
from samovar.core.sound.weighting import a_weighting_db
from tests.core.sound.made import noise, sine


def told(x: Array, rate: int, block: int) -> tuple[float, Array, Array]:
    """Level over full scale, F at every tenth of a second, and the mean third octaves, as the meter tells them."""
    meter = Meter(rate)
    pieces = [p for k in range(0, len(x), block) for p in meter.hear(x[k : k + block])]
    level = 10.0 * math.log10(float(np.mean([p.mean_square for p in pieces])) / FULL_SCALE_SQUARE)
    bands = np.array([p.bands_db for p in pieces if p.bands_db is not None])
    return level, np.concatenate([p.fast_db for p in pieces]), np.array([energy_mean_db(b) for b in bands.T])


class MeterTest(unittest.TestCase):
    def test_piece_by_piece_it_says_what_a_whole_recording_does_at_every_rate(self) -> None:
        for rate in (8000, 22050, 44100, 48000, 96000, 192000):
            with self.subTest(rate=rate):
                x = noise(12, rate, 0.02, seed=rate) + sine(12, rate, 440.0, 0.03)
                whole = listen([x], rate)
                level, fast, bands = told(x, rate, 1024)
                assert whole.level_db is not None
                self.assertAlmostEqual(level, whole.level_db, delta=0.01)
                self.assertEqual(len(fast), 120)
                self.assertAlmostEqual(
                    float(np.median(fast[10:])), float(np.median(whole.fast_db)), delta=0.1
                )
                expected = [
                    10 * math.log10(q / FULL_SCALE_SQUARE) for _, q in third_octaves(whole.spectrum, rate)
                ]
                # Low bands of noise have few independent values in twelve seconds.
                self.assertLess(float(np.abs(bands - expected)[8:].max()), 0.6)

    @settings(max_examples=12, deadline=None)
    @given(st.lists(st.integers(1, 9000), min_size=1, max_size=6))
    def test_it_does_not_matter_in_which_blocks_sound_comes(self, blocks: list[int]) -> None:
        x = noise(2, 8000, 0.01, seed=5)
        meter, pieces, at, k = Meter(8000), [], 0, 0
        while at < len(x):
            pieces += meter.hear(x[at : at + blocks[k % len(blocks)]])
            at, k = at + blocks[k % len(blocks)], k + 1
        other = Meter(8000).hear(x)
        self.assertEqual([p.mean_square for p in pieces], [p.mean_square for p in other])

    def test_gain_shifts_every_level_by_as_much(self) -> None:
        x = noise(3, 16000, 0.01, seed=6)
        first, second = told(x, 16000, 500), told(0.1 * x, 16000, 500)
        self.assertAlmostEqual(first[0] - second[0], 20.0, delta=1e-6)
        self.assertLess(float(np.abs(first[2] - second[2] - 20.0).max()), 1e-6)


class CuttingTest(unittest.TestCase):
    def test_a_knock_and_a_word_are_left_out_and_the_level_is_the_machines_own(self) -> None:
        x = noise(20, 48000, 0.004, seed=7)
        own = listen([x], 48000).level_db
        x[5 * 48000 : 5 * 48000 + 2000] += noise(2000 / 48000, 48000, 0.4, seed=8)
        x[12 * 48000 : 13 * 48000] += sine(1, 48000, 500.0, 0.1)
        cut = undisturbed(x, 48000)
        left = listen([cut.samples], 48000).level_db
        assert own is not None and left is not None
        self.assertTrue(cut.enough)
        self.assertAlmostEqual(left, own, delta=0.15)
        self.assertEqual([round(a) for a, _ in cut.left_out], [5, 12])
        self.assertIn("4.", cut.words)

    def test_a_fan_that_hunts_and_one_that_speeds_up_keep_all_they_are(self) -> None:
        t = np.arange(20 * 16000) / 16000
        for swell in (1.0 + 0.35 * np.sin(2 * np.pi * t / 2.4), np.where(t > 10, 1.8, 1.0), np.ones(len(t))):
            cut = undisturbed(noise(20, 16000, 0.01, seed=9) * swell, 16000)
            self.assertEqual(cut.left_out, ())

    def test_too_much_of_it_is_no_undisturbed_moment(self) -> None:
        x = noise(10, 16000, 0.003, seed=10)
        for k in range(5):
            x[(2 * k + 1) * 16000 : (2 * k + 1) * 16000 + 8000] += noise(0.5, 16000, 0.2, seed=k)
        self.assertFalse(undisturbed(x, 16000).enough)


class GainTest(unittest.TestCase):
    def test_a_gain_that_sets_itself_shows_after_a_knock_and_a_steady_one_does_not(self) -> None:
        for turned_down_db, expected in ((6.0, True), (3.0, True), (0.0, False)):
            x = noise(12, 48000, 0.004, seed=21)
            x[4 * 48000 : 4 * 48000 + 1500] += noise(1500 / 48000, 48000, 0.3, seed=22)
            t = np.arange(len(x)) / 48000.0 - 4.03
            gain_db = np.where(t > 0, -turned_down_db * np.exp(-np.maximum(t, 0.0) / 2.0), 0.0)
            found = listen([x * 10.0 ** (0.05 * gain_db)], 48000.0)
            self.assertEqual(any("sets its gain" in w for w in found.warnings), expected, turned_down_db)
            self.assertTrue(any("knocks" in w for w in found.warnings))


class KeptTest(unittest.TestCase):
    def test_what_is_kept_comes_back_and_a_strangers_text_is_nothing(self) -> None:
        heard = Heard(listen([noise(4, 48000) + sine(4, 48000, 1240.0, 0.01)], 48000), as_stated(94.0))
        kept = kept_of(heard, "abc")
        self.assertEqual(sound_in(kept.text()), kept)
        self.assertEqual([round(hz, -1) for hz, _ in kept.prominent], [1240])
        self.assertEqual(kept.full_scale_db, 94.0)
        for other in (
            "",
            "{",
            "[]",
            '{"seconds": 1e999}',
            "null",
            "x" * 30_000,
            kept.text().replace("1000.0", "NaN"),
        ):
            self.assertIsNone(sound_in(other))

    def test_the_weighting_of_bands_is_that_of_the_network(self) -> None:
        for hz in (31.5, 250.0, 1000.0, 8000.0):
            self.assertAlmostEqual(a_weight_db(hz), float(a_weighting_db(np.array([hz]))[0]), delta=0.02)


class ClipTest(unittest.TestCase):
    def test_at_one_gain_the_louder_one_is_louder_by_what_it_was(self) -> None:
        quiet = Clip(noise(3, 48000, 0.01, seed=11), 48000.0, 100.0)
        # The same pressure into a microphone of twice the full scale: half the numbers.
        loud = Clip(noise(3, 44100, 0.02, seed=12), 44100.0, 106.0206)
        mixed = at_one_gain({"quiet": quiet, "loud": loud, "unknown": Clip(quiet.samples, 48000.0)})
        assert mixed is not None
        self.assertEqual(set(mixed.pieces), {"quiet", "loud"})
        middle = [x[20000:-20000] for x, _ in (mixed.pieces["quiet"], mixed.pieces["loud"])]
        difference = 20.0 * math.log10(float(middle[1].std() / middle[0].std()))
        self.assertAlmostEqual(difference, 12.04, delta=0.1)
        top = max(float(np.abs(x).max()) for x, _ in (*mixed.pieces.values(), (mixed.tone, 0.0)))
        self.assertAlmostEqual(20.0 * math.log10(top), -3.0, delta=0.1)
        # The tone stands for 6 dB over the loudest: 0.02 of a scale of 106 dB, over a full-scale sine.
        self.assertAlmostEqual(mixed.tone_dba, 106.02 + 20 * math.log10(0.02 * math.sqrt(2)) + 6.0, delta=0.2)
        self.assertEqual(mixed.tone[0], 0.0)

    def test_the_calmest_stretch_has_no_knock(self) -> None:
        x = noise(20, 8000, 0.01, seed=13)
        x[3 * 8000] = x[11 * 8000] = 0.9
        self.assertLess(float(np.abs(calmest(x, 8000.0)).max()), 0.1)

    def test_nothing_known_is_nothing_to_listen_to(self) -> None:
        self.assertIsNone(at_one_gain({"a": Clip(noise(1, 8000), 8000.0)}))
        self.assertIsNone(at_one_gain({"a": Clip(np.zeros(8000), 8000.0, 90.0)}))


class HeardClaimsTest(unittest.TestCase):
    nothing = read(Recording((), np.empty(0), np.empty((0, 0))))

    def run_of(self, name: str, **sound: object) -> RunResult:
        return RunResult(name, self.nothing, sound=KeptSound(20.0, **sound))  # type: ignore[arg-type]

    def test_a_tone_that_stands_out_contradicts_and_one_that_nearly_does_leaves_it_weak(self) -> None:
        def state(*tones: tuple[float, float, bool]) -> str:
            return check_no_tone("Fjord", [self.run_of("r1", tones=tones)], "worst case", ("r1",)).state

        self.assertEqual(state((1240.0, 9.0, True)), "contradicted")
        self.assertEqual(state((1240.0, 7.5, False)), "weak")
        self.assertEqual(state((1240.0, 3.0, False)), "holds")
        self.assertEqual(check_no_tone("Fjord", [], "worst case", ()).state, "open")

    def test_no_louder_than_the_room_is_less_than_three_decibels_with_it(self) -> None:
        def state(over: float) -> str:
            run = self.run_of("r1", bands=((1000.0, 20.0 + over),), background=((1000.0, 20.0),))
            return check_like_the_room("Loam", [run], "everyday", ("r1",)).state

        self.assertEqual([state(0.5), state(3.2), state(6.0)], ["holds", "weak", "contradicted"])
        self.assertEqual(check_like_the_room("Loam", [self.run_of("r1")], "everyday", ()).state, "open")
