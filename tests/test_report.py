"""Readings, runs and sources as people read them."""

from __future__ import annotations

import unittest

from samovar.core.quantity import Channel, value_text
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.report import headline, reading_text, runs_text, sources_text, table
from samovar.sources.protocol import Probed
from tests.recordings import DIE, FACTS, simple_run


class ReportTest(unittest.TestCase):
    def test_a_note_an_expert_would_write(self) -> None:
        text = reading_text(
            read(simple_run(), FACTS, ["line 7: 3 fields instead of 9, skipped"]), "bench.csv"
        )
        self.assertTrue(text.startswith("bench.csv: budget: a power budget set the pace"))
        for words in (
            "Phases: idle 0:00–2:00, load 2:00–22:00, cool-down", "by power", "12", "Resistance: 0.50",
            "Rise over the room of 22.5 °C: 47.5 ±0.3 K", "Heading for 70.0", "Note: line 7",
        ):  # fmt: skip
            self.assertIn(words, text)
        self.assertNotIn("nan", text)
        self.assertNotIn("None", text)

    def test_what_is_not_known_is_said(self) -> None:
        whole = simple_run(60)
        text = reading_text(read(Recording(whole.channels[:1], whole.time_s, whole.values[:1])), "x")
        self.assertIn("the room was not measured", text)
        self.assertEqual(
            headline(read(Recording((DIE,), whole.time_s[:0], whole.values[:1, :0]))),
            "No load in this recording.",
        )

    def test_values_have_the_digits_of_their_sensor(self) -> None:
        self.assertEqual(value_text(41.254, "°C"), "41.3 °C")
        self.assertEqual(value_text(3801.7, "MHz"), "3802 MHz")
        self.assertEqual(value_text(1.1042, "V"), "1.104 V")
        self.assertEqual(value_text(229.8512, "V"), "229.85 V")
        self.assertEqual(value_text(0.0, "V"), "0.000 V")
        self.assertEqual(value_text(None, "W"), "not known")

    def test_no_sensors_no_dead_end(self) -> None:
        self.assertIn("samovar demo", sources_text([]))
        found = [Probed(Channel("Tdie", "temperature", "°C", "die", "cpu", "x"), 41.0, "ok")]
        self.assertNotIn("samovar demo", sources_text(found))
        self.assertIn("41.0 °C", sources_text(found))

    def test_tables_are_aligned(self) -> None:
        lines = table([["a", "bb"], ["ccc", "d"]], right=(1,)).splitlines()
        self.assertEqual(lines, ["a    bb", "ccc   d"])
        self.assertIn("No runs yet", runs_text([], (), {}))


if __name__ == "__main__":
    unittest.main()
