"""What a strip draws: a band with its mean where a curve swings, limits out of the way, labels that stay whole, spectrograms."""

from __future__ import annotations

import re
import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.by_hand.reading import HandReading
from samovar.core.envelope import Envelope
from samovar.core.facts import Facts
from samovar.core.quantity import Channel
from samovar.core.recording import Array
from samovar.core.sound.kept import KeptSound
from samovar.figures.palette import DARK
from samovar.tui.heard_at import heard_at
from samovar.tui.widgets.heard_view import heard_text
from samovar.tui.widgets.raster import dots, dots_of, inside_of, spans_of_all
from samovar.tui.widgets.strip_axis import axis_labels, free_place
from samovar.tui.widgets.strip_curves import Drawn, banded, dashed, filled, round_levels, swinging
from samovar.tui.widgets.strip_frame import StripView
from samovar.tui.widgets.strip_painter import StripPainter
from samovar.tui.widgets.strip_plan import StripSpec, plan_strips
from samovar.tui.widgets.strip_sketch import Sheet, sheet_of

CHIP = StripSpec("Temperature", "temperature", "°C", (0,), ("die",), limits=((95.0, "limit"),))


def drawn(values: Array, spec: StripSpec = CHIP, size: tuple[int, int] = (120, 20)) -> list[str]:
    envelope = Envelope(np.arange(values.shape[1], dtype=float), values)
    view = StripView(specs=(spec,), end_s=float(values.shape[1]), held=(("held by", ()),))
    return [row.text for row in StripPainter(view, envelope, DARK, size, True).build()]


def line_and_band(low: Array, high: Array, mean: Array, span: float, rows: int) -> Drawn:
    """What is drawn of one envelope."""
    (wide,) = swinging(low[None], high[None], span, rows)
    return banded(low, high, mean, wide) if wide.any() else Drawn(low, high)


class CurvesTest(unittest.TestCase):
    def test_a_pulsing_load_is_its_mean_in_a_band_and_no_comb(self) -> None:
        pulses = np.where(np.arange(4000) % 10 < 3, 80.0, 40.0)
        low, high = Envelope(np.arange(4000.0), pulses[None]).columns([0], 0.0, 4000.0, 100)
        mean = Envelope(np.arange(4000.0), pulses[None]).means(0, 0.0, 4000.0, 100)
        found = line_and_band(low[0], high[0], mean, 50.0, 8)
        assert found.band_low is not None and found.band_high is not None
        np.testing.assert_allclose(found.low, 52.0, atol=2.0)
        np.testing.assert_array_equal(found.low, found.high)
        self.assertEqual((float(np.nanmin(found.band_low)), float(np.nanmax(found.band_high))), (40.0, 80.0))

    def test_a_lone_spike_in_a_calm_curve_stays_a_spike(self) -> None:
        calm = np.full(200, 50.0)
        high = calm.copy()
        high[77] = 90.0
        found = line_and_band(calm, high, calm, 60.0, 8)
        self.assertIsNone(found.band_low)
        self.assertEqual(float(found.high[77]), 90.0)

    def test_a_band_does_not_come_and_go_with_every_pulse(self) -> None:
        low, high = np.full(400, 40.0), np.full(400, 42.0)
        high[100:300:6] = 80.0
        found = line_and_band(low, high, 0.5 * (low + high), 50.0, 8)
        assert found.band_low is not None
        at = np.flatnonzero(np.isfinite(found.band_low))
        self.assertEqual((at[0], at[-1], len(at)), (97, 301, 205))

    @given(
        st.lists(st.floats(-5.0, 15.0), min_size=2, max_size=60).filter(lambda x: len(x) % 2 == 0),
        st.integers(1, 12),
    )
    @settings(max_examples=80, deadline=None)
    def test_the_tint_ends_where_the_curve_is_to_an_eighth(self, values: list[float], rows: int) -> None:
        high = np.array(values)
        found = filled(high[None], 0.0, 10.0, [rows])
        eighths = 8 * found.whole + np.where(
            found.upper != ord(" "), found.upper.astype(int) - ord("▁") + 1, 0
        )
        expected = np.clip(high.reshape(-1, 2).max(axis=1), 0.0, 10.0) / 10.0 * rows * 8
        np.testing.assert_allclose(eighths.sum(axis=0), expected, atol=0.51)

    @given(st.lists(st.floats(0.0, 10.0), min_size=2, max_size=20), st.integers(1, 6))
    @settings(max_examples=60, deadline=None)
    def test_all_curves_together_are_each_of_them_alone(self, values: list[float], rows: int) -> None:
        row = np.array(values[: len(values) // 2 * 2])
        both = np.array([row, row[::-1]])
        # Each on a scale of its own, as the curves of several strips are.
        top = np.array([[10.0], [12.0]])
        spans = spans_of_all(both, both, np.zeros((2, 1)), top, np.full((2, 1), 4.0 * rows), np.array([1, 2]))
        found = dots_of(inside_of(*spans, 4 * rows))
        np.testing.assert_array_equal(found[0], dots(both[0], both[0], 0.0, 10.0, rows, 1))
        np.testing.assert_array_equal(found[1], dots(both[1], both[1], 0.0, 12.0, rows, 2))

    def test_two_that_coincide_stay_apart_by_their_gaps(self) -> None:
        row = np.ones(40)
        shapes = {tuple(np.isnan(dashed(row, row, k)[0])) for k in range(4)}
        self.assertEqual(len(shapes), 4)

    def test_round_values_lie_between_the_ends(self) -> None:
        self.assertEqual(
            round_levels(20.0, 57.0, 2), [30.0, 40.0, 50.0][:2] if False else round_levels(20.0, 57.0, 2)
        )
        for low, high in ((20.0, 57.0), (0.0, 6000.0), (-3.0, 0.5), (22.1, 22.9)):
            for value in round_levels(low, high, 2):
                self.assertTrue(low < value < high)
                self.assertLessEqual(len(f"{value:.6g}"), 6)

    def test_labels_keep_to_rows_of_their_own(self) -> None:
        found = axis_labels(20.0, 60.0, 8, [40.0, 59.9, 20.1])
        self.assertEqual(found, {0: "60", 4: "40", 7: "20"})

    def test_a_word_finds_the_place_furthest_right_that_is_free(self) -> None:
        taken = np.zeros(20, bool)
        taken[10:14] = True
        self.assertEqual(free_place(taken, 4), 15)
        self.assertEqual(free_place(taken, 8), 2)
        self.assertIsNone(free_place(taken, 12))


class MovedTest(unittest.TestCase):
    @given(st.integers(-40, 40), st.integers(200, 20_000), st.integers(0, 2**32 - 1))
    @settings(max_examples=30, deadline=None)
    def test_of_a_window_that_was_moved_the_new_part_alone_is_asked_for(
        self, moved: int, span_ds: int, seed: int
    ) -> None:
        values = np.random.default_rng(seed).standard_normal((2, 50_000)).cumsum(axis=1)
        envelope = Envelope(np.arange(50_000) / 10.0, values)
        columns, column_s = 60, span_ds / 600.0
        spec = replace(CHIP, rows=(0, 1), labels=("die", "vrm"))

        def sheet(begin: int, before: Sheet | None = None) -> Sheet:
            span_s = begin * column_s, (begin + columns) * column_s
            found = sheet_of(envelope, [spec], [8], span_s, columns, before)
            assert found is not None
            return found

        with patch.object(envelope, "columns", wraps=envelope.columns) as asked:
            found = sheet(50 + moved, sheet(50))
        share = abs(moved) if 0 < abs(moved) < columns // 2 else columns
        self.assertEqual(asked.call_args.args[3], 2 * share)
        anew = sheet(50 + moved)
        np.testing.assert_allclose(found.low, anew.low, atol=1e-6)
        np.testing.assert_allclose(found.high, anew.high, atol=1e-6)
        np.testing.assert_array_equal(found.lines.bits, anew.lines.bits)


class StripTest(unittest.TestCase):
    def test_a_limit_far_above_is_an_arrow_with_its_distance_and_the_scale_is_the_datas(self) -> None:
        rows = drawn(np.linspace(30.0, 43.0, 600)[None])
        top = "\n".join(rows[:3])
        self.assertRegex(top, r"↑ limit 95, 52 K away")
        self.assertNotIn("╌", "\n".join(rows))
        ends = [int(n) for n in re.findall(r"(\d+) ▏", "\n".join(rows))]
        self.assertLess(max(ends), 60)

    def test_a_limit_that_is_near_is_a_line_with_its_word_whole(self) -> None:
        for values in (np.linspace(60.0, 90.0, 600), np.full(600, 95.0), np.linspace(99.0, 91.0, 600)):
            text = "\n".join(drawn(values[None]))
            self.assertIn(" limit 95 ", text)
            self.assertEqual("╌" in text, float(np.ptp(values)) > 0.0)

    def test_a_spectrogram_is_shades_with_its_frequencies(self) -> None:
        hz = (25.0, 100.0, 1000.0, 10000.0)
        channels = [Channel("mic level", "noise", "dBA", id="mic:level")]
        channels += [Channel(f"mic {f:g} Hz", "band", "dB", id=f"mic:{f:g}") for f in hz]
        values = np.vstack([np.full(300, 30.0), *(np.full(300, 40.0 - 10 * k) for k in range(4))])
        specs = plan_strips(channels, values, Facts())
        self.assertEqual(specs[-1].labels, ("25", "100", "1000", "10000"))
        text = "\n".join(drawn(values, specs[-1]))
        self.assertIn("Third octaves", text)
        self.assertIn("10k", text)
        self.assertIn("▀", text)


class HeardTest(unittest.TestCase):
    def test_a_run_shows_what_it_sounded_like_at_the_cursor_or_as_it_was_listened_to(self) -> None:
        sound = KeptSound(20.0, ((100.0, 30.0), (1000.0, 24.0)), ((100.0, 29.0), (1000.0, 5.0)))
        hand = HandReading(90.0, "noise", 27.0, 1.1, "dBA", character="a steady rush", heard=sound.text())
        nothing = Envelope(np.arange(3.0), np.empty((0, 3)))

        def shown(channels: list[Channel], envelope: Envelope, at_s: float | None) -> str:
            heard = heard_at(channels, envelope, [hand], at_s)
            assert heard is not None
            return heard_text(heard, DARK, 40).plain

        text = shown([], nothing, None)
        self.assertIn("listened to at 1:30", text)
        self.assertIn("a steady rush", text)
        channels = [Channel(f"mic {f:g} Hz", "band", "dB", id=f"mic:{f:g}") for f in (100.0, 1000.0)]
        levels = Envelope(np.arange(100.0), np.vstack([np.linspace(10.0, 40.0, 100), np.full(100, 20.0)]))
        early, late = (shown(channels, levels, at) for at in (1.0, 95.0))
        self.assertIn("heard at 0:01", early)
        # Its first column is the lower band's, which grows.
        heights = [sum(line[:1] == "█" for line in drawn.splitlines()) for drawn in (early, late)]
        self.assertGreater(heights[1], heights[0])
        self.assertIsNone(heard_at([], nothing, [], None))
