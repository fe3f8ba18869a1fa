"""What is said of a run under way is what is said of it when it is over."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.live_reading import LiveReading
from samovar.core.reading import read
from samovar.core.recording import Recording
from tests.core.settling import on_its_way
from tests.recordings import CLOCK, FACTS, simple_run


def dense(recording: Recording, rate: int) -> Recording:
    """The same run at more samples a second, its clock told core by core."""
    n = len(recording.time_s)
    time_s = np.arange(n * rate) / rate
    values = np.repeat(recording.values, rate, axis=1)
    cores = np.vstack([values[1] - 40.0, values[1] + 40.0])
    channels = [c for c in recording.channels if c is not CLOCK]
    rows = np.delete(values, 1, axis=0)
    return Recording((*channels, CLOCK, CLOCK), time_s, np.vstack([rows, cores]))


class LiveReadingTest(unittest.TestCase):
    def test_once_a_second_it_says_what_the_whole_reading_says(self) -> None:
        run = simple_run()
        live = LiveReading(run.channels, FACTS)
        live.extend(run.time_s, run.values)
        found, whole = live.findings(loaded=False).reading, read(run, FACTS)
        self.assertEqual(
            (found.held, found.judgement, found.phases), (whole.held, whole.judgement, whole.phases)
        )
        self.assertEqual(found.forecast, whole.forecast)

    def test_ten_times_a_second_it_says_the_same_to_the_second(self) -> None:
        run = simple_run(load_s=600)
        whole, fast = read(run, FACTS), dense(run, 10)
        live = LiveReading(fast.channels, FACTS)
        for end in range(0, len(fast.time_s) + 1, 37):
            live.extend(fast.time_s[:end], fast.values[:, :end])
        live.extend(fast.time_s, fast.values)
        found = live.findings(loaded=False).reading
        self.assertEqual([h.by for h in found.held], [h.by for h in whole.held])
        for a, b in zip(found.held, whole.held, strict=True):
            self.assertAlmostEqual(a.start_s, b.start_s, delta=1.0)
            self.assertAlmostEqual(a.end_s, b.end_s, delta=1.5)
        self.assertEqual(len(live.channels), len(fast.channels) - 1)

    def test_it_foresees_anew_after_a_change_of_fan(self) -> None:
        recording, steady_c = on_its_way(4, True, 0.5)
        live = LiveReading(recording.channels, FACTS)
        live.extend(recording.time_s, recording.values)
        forecast = live.findings().reading.forecast
        assert forecast is not None and forecast.half_width is not None
        self.assertLess(abs(forecast.value - steady_c), forecast.half_width)
        self.assertEqual(forecast, read(recording, FACTS).forecast)

    def test_it_tells_how_long_it_will_take_while_it_drifts(self) -> None:
        run = simple_run(load_s=1200)
        end = 120 + 200
        live = LiveReading(run.channels, FACTS)
        live.extend(run.time_s[:end], run.values[:, :end])
        settled_in = live.findings().settled_in_s
        # The slower stage of 90 s and 28 K leaves 0.05 K/min after about 530 s of load.
        assert settled_in is not None
        self.assertTrue(150 < settled_in < 600, settled_in)

    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.integers(1, 400), min_size=1, max_size=12), st.sampled_from([1, 4, 10]))
    def test_pieces_make_the_same_whole(self, pieces: list[int], rate: int) -> None:
        run = dense(simple_run(load_s=60, idle_s=20, cool_s=20), rate)
        at_once, by_pieces = LiveReading(run.channels, FACTS), LiveReading(run.channels, FACTS)
        at_once.extend(run.time_s, run.values)
        end = 0
        for piece in pieces:
            end = min(end + piece, len(run.time_s))
            by_pieces.extend(run.time_s[:end], run.values[:, :end])
        by_pieces.extend(run.time_s, run.values)
        a, b = at_once.recording(), by_pieces.recording()
        # A first sample that comes alone may be kept alone, as it would be of a slow source.
        shift = len(b.time_s) - len(a.time_s)
        self.assertLessEqual(shift, 1)
        if shift == 0:
            np.testing.assert_allclose(a.values, b.values)


if __name__ == "__main__":
    unittest.main()
