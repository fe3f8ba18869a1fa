"""A run that listens: what its course asks for is taken by the microphone, undisturbed, over the room's own sound."""

from __future__ import annotations

import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from samovar.archive import Archive
from samovar.bench.course_spec import CourseSpec, read_due
from samovar.core.instrument import instruments_of
from samovar.demo.plan import FACTS
from samovar.recording.ear import HeardNow, background_by, ears_of, sound_wanted_s
from samovar.recording.instruments import open_instruments
from samovar.recording.live import LiveRun
from samovar.simulator.instruments.microphone import SimulatedMicrophone
from samovar.simulator.machine import SimulatedMachine
from samovar.sources.microphone.source import Microphone

COURSE = CourseSpec(
    "worst case", idle_least_s=20.0, idle_most_s=30.0, load_s=400.0, cool_down_most_s=0.0,
    readings=(read_due("noise at 2:00"),),
)  # fmt: skip


class EarTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        self.archive = self.enterContext(Archive(Path(folder) / "a.sqlite"))
        self.machine = SimulatedMachine("Fjord 280", speed=30.0)
        self.machine.fit("Fjord 280", changes={"fan_rpm": 1000.0})
        self.addCleanup(self.machine.close)
        self.stream = SimulatedMicrophone(lambda: self.machine.rig)
        self.addCleanup(self.stream.close)

    def test_the_course_s_reading_is_heard_and_kept_with_what_it_sounds_like(self) -> None:
        said: list[HeardNow] = []
        described = instruments_of(
            {"instrument": [{"name": "mic", "address": f"{self.stream.address}&keep=1", "stale_after": 60.0}]}
        )
        beside = open_instruments(described, self.machine.clock)
        live = LiveRun(self.archive, self.machine, COURSE, facts=FACTS, beside=beside)
        (ear,) = ears_of(live, beside, told=said.append)
        ear.background = self.room()
        live.start()
        self.assertTrue(live.wait(60))
        self.assertEqual(len(said), 1, said)
        (hand,) = [h for h in self.archive.runs.hands.of(live.number) if h.kind == "noise"]
        assert hand.value is not None and hand.half_width is not None and hand.sound is not None
        # What the simulator's rig makes at the end, by the law it follows: nothing here was told to the microphone.
        self.assertAlmostEqual(hand.value, self.machine.rig.noise_dba(), delta=hand.half_width)
        self.assertIn("1240", hand.character)
        self.assertTrue(hand.sound.background)
        self.assertIn(hand.sound.clip, self.archive.clips.of([hand.sound.clip]))
        words = [m.text for m in live.marks()]
        self.assertTrue(any(w.startswith("listening for") for w in words), words)
        recording = self.archive.runs.recording(live.number)
        level = recording.values[[c.name for c in recording.channels].index("mic level")]
        self.assertGreater(np.isfinite(level).mean(), 0.8)

    def room(self) -> object:
        """The room alone: a rig whose time stands still is off."""
        (described,) = instruments_of({"instrument": [{"name": "mic", "address": self.stream.address}]})
        microphone = Microphone(described, self.machine.clock)
        wanted_s = sound_wanted_s(30.0)
        end = time.monotonic() + 15.0
        while microphone.heard_s < wanted_s + 2.5 and time.monotonic() < end:
            time.sleep(0.1)
        found, words = background_by(microphone, wanted_s)
        microphone.close()
        self.assertIn("dBA", words)
        return found
