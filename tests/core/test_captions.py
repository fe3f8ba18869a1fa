"""Captions: in the film's time, readable, and well-formed WebVTT whatever people wrote."""

from __future__ import annotations

import re
import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.captions import LEAST_S, Cue, cues_of, vtt_text
from samovar.core.marks import Mark
from samovar.core.reading import read
from samovar.core.recording import Recording
from tests.recordings import FACTS, simple_run

TIMED = re.compile(r"(\d\d):(\d\d):(\d\d)\.(\d{3}) --> (\d\d):(\d\d):(\d\d)\.(\d{3})")


class CaptionTest(unittest.TestCase):
    def test_phases_what_held_and_marks_stand_in_the_films_time(self) -> None:
        whole = simple_run()
        recording = Recording(
            whole.channels, whole.time_s, whole.values, (Mark(0.5 * whole.duration_s, "panel off"),)
        )
        cues = cues_of(recording, read(recording, FACTS), (0.0, recording.duration_s), 10.0)
        mark = next(c for c in cues if c.text == "panel off")
        self.assertAlmostEqual(mark.start_s, 5.0, delta=0.01)
        self.assertTrue(any(c.text.startswith("held by power") for c in cues))
        self.assertIn("load", [c.text for c in cues])
        self.assertTrue(all(c.end_s - c.start_s >= LEAST_S - 1e-9 and c.start_s <= 10.0 for c in cues))
        self.assertEqual([c.start_s for c in cues], sorted(c.start_s for c in cues))

    @given(st.lists(st.tuples(st.floats(0, 9000), st.floats(0.001, 500), st.text(min_size=1))))
    def test_whatever_is_written_is_well_formed(self, told: list[tuple[float, float, str]]) -> None:
        from samovar.core.shown_text import one_line

        text = vtt_text([Cue(start, start + length, one_line(words)) for start, length, words in told])
        self.assertTrue(text.startswith("WEBVTT\n"))
        lines = [line for line in text.split("\n") if "-->" in line]
        self.assertEqual(len(lines), len(told))
        self.assertTrue(all(TIMED.fullmatch(line) for line in lines))


if __name__ == "__main__":
    unittest.main()
