"""Recordings of sound as files: every usual form, what is damaged read as far as it goes, and the call that listens to them."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.archive import Archive
from samovar.core.by_hand.line import Circumstances
from samovar.core.by_hand.reading import results_by_hand
from samovar.exchange.problems import InputError
from samovar.exchange.sound_file import read_sound
from samovar.heard_line import heard_readings, names_recording
from tests.core.sound.made import fan, noise, sine
from tests.recordings import FACTS, simple_run

try:
    import soundfile
except ImportError:
    soundfile = None
RATE = 48_000


@unittest.skipUnless(soundfile, "no soundfile here: install samovar[sound]")
class SoundFileTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def write(self, name: str, samples: np.ndarray, rate: int = RATE, subtype: str | None = None) -> Path:
        path = self.folder / name
        soundfile.write(path, samples, rate, subtype=subtype)
        return path

    def call(self, *arguments: object) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "samovar", "sound", *map(str, arguments)],
            capture_output=True, text=True, check=False, cwd=self.folder,
        )  # fmt: skip

    def test_every_usual_form_is_the_same_sound(self) -> None:
        x = np.stack([noise(2.0, RATE, 0.1, 1), noise(2.0, RATE, 0.1, 2)], axis=1)
        for name, subtype in (
            ("a.wav", "PCM_16"), ("b.wav", "PCM_24"), ("c.wav", "PCM_32"), ("d.wav", "FLOAT"), ("e.wav", "DOUBLE"),
            ("f.flac", "PCM_16"), ("g.flac", "PCM_24"),
        ):  # fmt: skip
            found = read_sound(self.write(name, x, subtype=subtype))
            self.assertEqual((len(found.channels), found.rate_hz, found.warnings), (2, RATE, []), name)
            np.testing.assert_allclose(np.stack(found.channels, axis=1), x, atol=2.0**-15)

    def test_what_was_cut_short_or_holds_no_numbers_is_read_as_far_as_it_goes(self) -> None:
        whole = self.write("whole.wav", noise(4.0, RATE), subtype="PCM_16").read_bytes()
        short = self.folder / "short.wav"
        short.write_bytes(whole[: len(whole) // 2])
        found = read_sound(short)
        self.assertAlmostEqual(len(found.channels[0]) / RATE, 2.0, delta=0.01)
        self.assertIn("ends early", found.warnings[0])
        x = noise(4.0, RATE)
        x[3 * RATE] = np.nan
        found = read_sound(self.write("nan.wav", x, subtype="FLOAT"))
        self.assertEqual(len(found.channels[0]), 3 * RATE)
        self.assertIn("no numbers, the first at 3.00 s", found.warnings[0])
        flac = self.write("whole.flac", noise(4.0, RATE)).read_bytes()
        (self.folder / "short.flac").write_bytes(flac[: len(flac) // 2])
        found = read_sound(self.folder / "short.flac")
        self.assertLess(len(found.channels[0]), 4 * RATE)
        self.assertIn("damaged after", found.warnings[0])

    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_a_damaged_file_is_read_or_refused_and_never_more(self, data: st.DataObject) -> None:
        path = self.folder / f"x.{data.draw(st.sampled_from(['wav', 'flac']))}"
        soundfile.write(path, noise(0.2, 8000), 8000)
        raw = bytearray(path.read_bytes())
        for _ in range(data.draw(st.integers(1, 8))):
            raw[data.draw(st.integers(0, len(raw) - 1))] = data.draw(st.integers(0, 255))
        path.write_bytes(bytes(raw[: data.draw(st.integers(0, len(raw)))]))
        try:
            found = read_sound(path)
        except InputError as problem:
            self.assertIn(str(path), str(problem))
        else:
            self.assertTrue(all(np.isfinite(x).all() and len(x) for x in found.channels))

    def test_the_call_answers_as_promised(self) -> None:
        self.write("fan.wav", fan(12.0, RATE, 1480.0, 7) + sine(12.0, RATE, 3100.0, 0.002), subtype="PCM_24")
        self.write("tone.wav", sine(3.0, RATE, 1000.0, 0.07), subtype="PCM_16")
        self.write("room.flac", noise(8.0, RATE, 0.001, 5))
        given = ["--calibration", "tone.wav", "--background", "room.flac", "--distance", 0.5, "--blades", 7]
        done = self.call("fan.wav", *given, "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        told = json.loads(done.stdout)
        self.assertEqual(
            set(told),
            {"duration_s", "rate_hz", "calibrated", "clipped", "warnings", "level", "relative_dbfs_a", "bands", "tones",
             "fluctuation", "fan", "character"},
        )  # fmt: skip
        level = told["level"]
        self.assertLess(level["corrected"], level["laeq"])
        self.assertAlmostEqual(level["at_1_m"], level["corrected"] - 6.02, delta=0.02)
        self.assertLess(level["la90"], level["la10"])
        self.assertAlmostEqual(told["fan"]["rpm"], 1480.0, delta=5.0)
        self.assertIn(3100, [round(t["hz"]) for t in told["tones"] if t["prominent"]])
        self.assertEqual(len(told["bands"]), 30)
        self.assertIn("whine at 3100 Hz", told["character"])
        plain = self.call("fan.wav", *given)
        self.assertIn("turns at 1480", plain.stdout)
        known = json.loads(self.call("fan.wav", "--known", 33, "--json").stdout)
        self.assertEqual((known["level"]["laeq"], known["level"]["corrected"]), (33.0, None))

    def test_what_was_heard_is_kept_with_a_run_and_compared(self) -> None:
        archive = self.folder / "a.sqlite"
        with Archive(archive) as opened:
            opened.runs.add(simple_run(60), "soak", "2026-03-05T09:00:00Z", facts=FACTS)
        self.write("fan.wav", fan(10.0, RATE, 1480.0, 7), subtype="PCM_24")
        given = ["fan.wav", "--into", "r0001", "--archive", archive]
        self.assertIn("a run takes a level", self.call(*given).stderr)
        done = self.call(*given, "--known", 33, "--distance", 0.5, "--blades", 7, "--json")
        self.assertEqual(done.returncode, 0, done.stderr)
        noise_row, fan_row = json.loads(done.stdout)["entered"]
        self.assertAlmostEqual(noise_row["value"], 33.0 - 6.02, delta=0.02)
        self.assertEqual((fan_row["unit"], round(fan_row["value"] / 20) * 20), ("rpm", 1480))
        with Archive(archive) as opened:
            (level,) = [r for r in results_by_hand(opened.runs.hands.of(1)) if r.statistic == "level"]
            self.assertEqual(
                (level.statistic, level.source, level.common_of), ("level", "by hand", "recording fan.wav")
            )

    def test_a_line_that_names_a_recording_is_read_as_what_it_says(self) -> None:
        self.write("a fan, 1000.wav", fan(6.0, RATE, 1480.0, 7), subtype="PCM_24")
        self.write("room.flac", noise(6.0, RATE, 0.0005, 5))
        there = Circumstances(compared_at_m=1.0)
        path = str(self.folder / "a fan, 1000.wav")
        line = f'noise "{path}", known 33, at 0.5 m, 7 blades, background {self.folder}/room.flac'
        self.assertTrue(
            names_recording(line) and names_recording("fan.flac") and not names_recording("noise 33 at 1 m")
        )
        level, speed = heard_readings(line, there)
        self.assertEqual((level.kind, level.distance_m, level.typed, level.bound), ("noise", 0.5, line, None))
        self.assertAlmostEqual(level.value or 0.0, 33.0 - 6.0, delta=0.2)
        self.assertAlmostEqual(speed.value or 0.0, 1480.0, delta=5.0)
        for wrong in (f'"{path}"', f'"{path}", known 33, loud', "nowhere.wav, known 33"):
            with self.assertRaises(InputError):
                heard_readings(wrong, there)

    def test_what_is_wrong_is_one_line(self) -> None:
        self.write("fan.wav", noise(3.0, RATE))
        self.write("short.wav", noise(0.4, RATE))
        (self.folder / "text.wav").write_text("no sound at all\n")
        for arguments, words in (
            (["nowhere.wav"], "no such file"),
            (["text.wav"], "no recording that can be read"),
            (["short.wav"], "give at least 1 s"),
            (["fan.wav", "--calibration", "fan.wav"], "no calibrator's tone"),
            (["fan.wav", "--calibration", "fan.wav", "--known", "30"], "name one of them"),
            (["fan.wav", "--known", "nan"], "known level"),
            (["fan.wav", "--distance", "0"], "--distance 0"),
            (["fan.wav", "--blades", "0"], "blades"),
        ):
            done = self.call(*arguments)
            self.assertEqual(
                (done.returncode, done.stdout, done.stderr.count("\n")), (2, "", 1), (arguments, done.stderr)
            )
            self.assertIn(words, done.stderr)


if __name__ == "__main__":
    unittest.main()
