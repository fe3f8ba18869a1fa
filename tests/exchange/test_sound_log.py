"""A recording brought in as a log, and the setup that its name tells."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import numpy as np
import soundfile

from samovar.archive.records import Setup
from samovar.core.sound.listening import listen
from samovar.exchange.logs import read_log
from samovar.exchange.problems import InputError
from samovar.named_setup import rpm_in, setup_by_name
from tests.core.sound.made import noise, sine


class SoundLogTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_its_levels_over_full_scale_are_those_of_the_whole(self) -> None:
        x = noise(6, 44100, 0.02, seed=3) + sine(6, 44100, 1000.0, 0.05)
        for name, subtype in (("a.wav", "PCM_24"), ("b.FLAC", "PCM_16")):
            soundfile.write(
                self.folder / name, x, 44100, subtype=subtype, format=name[-4:].strip(".").upper()
            )
            found = read_log(self.folder / name).recording
            self.assertEqual(found.values.shape, (32, 6))
            level = 10.0 * np.log10(np.mean(10.0 ** (0.1 * found.values[0])))
            self.assertAlmostEqual(float(level), listen([x], 44100.0).level_db or 0.0, delta=0.02)
            self.assertEqual({c.unit for c in found.channels}, {"dBFS"})
            loudest = found.channels[3 + int(np.argmax(found.values[3:, 2]))]
            self.assertEqual(loudest.name, "recording 1000 Hz")

    def test_what_is_too_short_is_one_line(self) -> None:
        soundfile.write(self.folder / "short.wav", noise(0.7, 8000), 8000)
        with self.assertRaisesRegex(InputError, "shorter than a second"):
            read_log(self.folder / "short.wav")


class NamedSetupTest(unittest.TestCase):
    def setUp(self) -> None:
        names = ("Osprey 161", "Osprey 120", "Fjord 280", "Closed", "Closed, 22 W")
        self.setups = [Setup(k, 1, name, False, k, {}) for k, name in enumerate(names)]

    def found(self, name: str) -> str:
        return setup_by_name(Path(name), self.setups).name

    def test_a_name_goes_to_the_setup_it_begins_with(self) -> None:
        self.assertEqual(self.found("osprey161-1000rpm.wav"), "Osprey 161")
        self.assertEqual(self.found("Osprey_120 second try.flac"), "Osprey 120")
        self.assertEqual(self.found("fjord-900rpm.wav"), "Fjord 280")
        self.assertEqual(self.found("closed-22-w.wav"), "Closed, 22 W")
        self.assertEqual(self.found("closed.wav"), "Closed")

    def test_one_that_fits_several_or_none_is_refused_with_them(self) -> None:
        with self.assertRaisesRegex(InputError, "Osprey 161 and Osprey 120"):
            self.found("osprey.wav")
        with self.assertRaisesRegex(InputError, "Fjord 280"):
            self.found("REC0001.WAV")

    def test_a_speed_is_read_off_the_name(self) -> None:
        self.assertEqual(rpm_in(Path("osprey-1000rpm.wav")), 1000.0)
        self.assertIsNone(rpm_in(Path("osprey-161.wav")))
