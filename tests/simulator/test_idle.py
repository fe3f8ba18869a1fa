"""A load that leaves no trace in utilisation: its phases come from the recorder's marks, in an export too."""

from __future__ import annotations

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

from samovar.core.marks import Mark
from samovar.core.phases import marked_load
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.demo.plan import FACTS, PlannedRun
from samovar.demo.record import record
from samovar.exchange.export import export_recording
from samovar.lookup import reading_of
from tests.recordings import simple_run


class IdleTest(unittest.TestCase):
    def test_an_idle_cell_has_a_rise_and_is_clear_and_so_is_its_export(self) -> None:
        course = {"idle_most_s": 90.0, "load_most_s": 600.0, "cool_down_most_s": 30.0}
        run = record(PlannedRun("Osprey 161", "idle", 22.5, 1), FACTS, course).recording
        reading = read(run, FACTS)
        rise = reading.rise()
        assert rise is not None
        self.assertTrue(3.0 < rise.value < 12.0)
        self.assertEqual((reading.judgement, reading.held), ("clear", []))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "idle.csv"
            export_recording(run, path, FACTS)
            again = reading_of(str(path), None, None, None).reading
            zone = next(k for k, c in enumerate(run.channels) if c.name == "Zone acpitz")
            channels = list(run.channels)
            channels[zone] = replace(channels[zone], role="surface")
            export_recording(replace(run, channels=tuple(channels), _cache={}), path, FACTS)
            self.assertEqual(reading_of(str(path), None, None, None).recording.channels[zone].role, "surface")
        self.assertEqual([p.name for p in again.phases], [p.name for p in reading.phases])
        self.assertAlmostEqual((again.rise() or rise).value, rise.value, places=6)

    def test_marks_outside_the_recording_and_none_at_all(self) -> None:
        whole = simple_run(400)

        def marked(*marks: Mark) -> list[str]:
            return [p.name for p in marked_load(Recording(whole.channels, whole.time_s, whole.values, marks))]

        self.assertEqual(marked(), [])
        self.assertEqual(marked(Mark(0.0, "load on: idle")), ["load"])
        self.assertEqual(marked(Mark(50.0, "load on: idle"), Mark(99999.0, "load off")), ["idle", "load"])
        self.assertEqual(
            marked(Mark(50.0, "load on: idle"), Mark(90.0, "load off")), ["idle", "load", "cool-down"]
        )


if __name__ == "__main__":
    unittest.main()
