"""The widgets' own logic: dots, digits, which strips, ranges, bars, claims typed as sentences."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from textual.app import App, ComposeResult

from samovar.core.envelope import Envelope
from samovar.core.facts import Facts
from samovar.core.held.stretches import HeldStretch
from samovar.core.marks import Mark
from samovar.core.phases import Phase
from samovar.core.quantity import Channel
from samovar.figures.palette import DARK
from samovar.tui.channel_view import ChannelView, view_of, with_bands
from samovar.tui.widgets.live_samples import LiveSamples, logging_words
from samovar.tui.widgets.miniature import course_of, miniature
from samovar.tui.widgets.plain import DataTable
from samovar.tui.widgets.raster import dots, large
from samovar.tui.widgets.strip_frame import StripView
from samovar.tui.widgets.strip_painter import StripPainter
from samovar.tui.widgets.strip_plan import StripSpec, nice_range, plan_strips
from tests.recordings import DIE, FACTS, POWER, simple_run


class RasterTest(unittest.TestCase):
    def test_a_level_line_is_one_row_of_dots(self) -> None:
        flat = np.full(20, 0.0)
        bits = dots(flat, flat, 0.0, 1.0, 3)
        self.assertEqual(bits.shape, (3, 10))
        self.assertTrue((bits[:2] == 0).all())
        self.assertTrue((bits[2] == 0x40 + 0x80).all())

    def test_a_spike_of_one_column_reaches_its_height(self) -> None:
        low, high = np.zeros(40), np.zeros(40)
        high[21] = 1.0
        bits = dots(low, high, 0.0, 1.0, 5)
        self.assertTrue((bits[:, 10] > 0).all())
        self.assertTrue((bits[:4, 9] == 0).all())

    def test_steps_hang_together(self) -> None:
        x = np.repeat([0.0, 1.0], 10)
        bits = dots(x, x, 0.0, 1.0, 4)
        columns = np.flatnonzero((bits > 0).all(axis=0))
        self.assertGreaterEqual(len(columns), 1)

    def test_gaps_stay_empty(self) -> None:
        x = np.full(20, 0.5)
        x[8:12] = np.nan
        bits = dots(x, x, 0.0, 1.0, 2)
        self.assertTrue((bits[:, 4:6] == 0).all())

    def test_a_miniatures_tint_ends_where_its_curve_is(self) -> None:
        curve = course_of([None, *np.linspace(0.0, 1.0, 40), None], 20)
        assert curve is not None
        text = miniature(curve, 4, "#ff0000", "#330000", (0.0, 1.0))
        lines = text.plain.splitlines()
        self.assertEqual([len(line) for line in lines], [20] * 4)
        tinted = set()
        for span in text.spans:
            if "#330000" in str(span.style):
                tinted |= {divmod(k, 21) for k in range(span.start, span.end)}
        for column in range(20):
            # The first row from the top that the curve is in.
            curve = next(row for row in range(4) if "\u2800" <= lines[row][column] <= "\u28ff")
            under = {row for row, at in tinted if at == column}
            self.assertLessEqual(set(range(curve + 1, 4)), under | {curve + 1})
            self.assertFalse(under & set(range(curve)), column)

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.floats(-5, 5) | st.just(float("nan")), min_size=4, max_size=60),
        st.integers(1, 12),
        st.integers(1, 3),
    )
    def test_no_data_breaks_the_raster(self, values: list[float], rows: int, thick: int) -> None:
        x = np.array(values[: len(values) // 2 * 2])
        bits = dots(x, x, -1.0, 1.0, rows, thick)
        self.assertEqual(bits.shape, (rows, len(x) // 2))
        self.assertTrue((bits < 256).all())

    def test_large_digits_have_three_even_rows(self) -> None:
        for text in ("78.4", "4012", "-3.1", "0", "–"):
            rows = large(text)
            self.assertEqual(len({len(r) for r in rows}), 1)
        self.assertEqual(len({large(d) for d in "0123456789"}), 10)


class PlanTest(unittest.TestCase):
    def test_the_die_leads_and_limits_are_drawn(self) -> None:
        run = simple_run(100)
        specs = plan_strips(run.channels, run.values, FACTS)
        self.assertEqual([s.quantity for s in specs], ["temperature", "clock", "power", "work"])
        self.assertEqual(specs[0].limits, ((95.0, "limit"),))
        self.assertEqual(run.channels[specs[0].rows[0]].role, "die")
        self.assertIn("load", [s.quantity for s in plan_strips(run.channels, run.values, FACTS, more=True)])

    def test_channels_without_a_value_get_no_line(self) -> None:
        run = simple_run(100)
        values = run.values.copy()
        values[2] = np.nan
        self.assertNotIn("power", [s.quantity for s in plan_strips(run.channels, values, Facts())])

    def test_several_cores_are_a_band_led_by_their_median(self) -> None:
        cores = tuple(Channel(f"Core {k} clock", "clock", "MHz", "core", "cpu") for k in range(4))
        values = np.arange(4.0)[:, None] * 100.0 + np.full((4, 5), 3000.0)
        channels, joined = with_bands(cores, values)
        self.assertEqual(channels[-1].name, "4 cores")
        self.assertTrue((joined[-1] == 3150.0).all())
        spec = plan_strips(channels, joined, Facts())[0]
        self.assertEqual(spec.rows[0], 4)
        self.assertEqual(spec.band, {1, 2, 3, 4})
        apart = plan_strips(channels, joined, Facts(), view=ChannelView(apart=frozenset({"clock"})))[0]
        self.assertEqual((apart.rows, apart.band), ((0, 1, 2, 3), frozenset()))
        hidden = ChannelView(hidden=frozenset({"Core 1 clock", "band:clock"}))
        self.assertEqual(
            plan_strips(channels, joined, Facts(), view=view_of(hidden.to_plain()))[0].rows, (0, 2, 3)
        )
        self.assertEqual(view_of({"hidden": 3}), ChannelView())

    @given(st.floats(-50, 9000), st.floats(0.01, 5000), st.integers(0, 3))
    def test_ranges_hold_the_data_and_end_on_round_numbers(
        self, low: float, span: float, decimals: int
    ) -> None:
        bottom, top = nice_range(low, low + span, decimals)
        self.assertLessEqual(bottom, low + 1e-6 * max(1, abs(low)))
        self.assertGreaterEqual(top, low + span - 1e-6 * max(1, abs(low)))
        self.assertLess(top - bottom, 4.0 * max(span, abs(low + span) * 1.5, 10.0**-decimals * 8))


class LiveSamplesTest(unittest.TestCase):
    def test_grown_it_is_what_it_would_be_made_whole(self) -> None:
        rng = np.random.default_rng(3)
        cores = tuple(Channel(f"Core {k} clock", "clock", "MHz", "core", "cpu") for k in range(4))
        values = rng.normal(4000.0, 5.0, (6, 3000))
        values[0, [0, 1, 700, 701]] = np.nan
        values[1, :1500] = np.nan
        values[2] = np.nan
        channels = (*cores, DIE, POWER)
        time_s = np.arange(3000.0)
        grown = LiveSamples(channels)
        for n in (1, 2, 3, 500, 1400, 1501, 3000, 3000):
            grown.extend(time_s[:n], values[:, :n])
            missing = np.isnan(values[:, 2:n])
            self.assertEqual(grown.gaps, int(missing[~missing.all(axis=1)].any(axis=0).sum()) if n > 2 else 0)
        self.assertEqual(
            logging_words(6, grown), f"6 channels, {grown.gaps} samples with a gap, most in Core 1 clock"
        )
        self.assertEqual(logging_words(6, LiveSamples(channels)), "6 channels, no gaps")
        whole_channels, whole = with_bands(channels, values)
        self.assertEqual(grown.channels, whole_channels)
        np.testing.assert_array_equal(grown.values, whole)
        assert grown.envelope is not None
        expected = Envelope(time_s, whole).columns([0, 6], 0.0, 3000.0, 90)
        for a, b in zip(grown.envelope.columns([0, 6], 0.0, 3000.0, 90), expected, strict=True):
            np.testing.assert_array_equal(a, b)


class PainterTest(unittest.TestCase):
    def draw(self, size: tuple[int, int] = (120, 40), **changes: object) -> list[str]:
        run = simple_run()
        view = StripView(
            specs=tuple(plan_strips(run.channels, run.values, FACTS)), end_s=1520.0, room_c=22.5,
            phases=(Phase("idle", 0, 120), Phase("load", 120, 1320), Phase("cool-down", 1320, 1520)),
            held=(("held by", (HeldStretch("power", "cpu", 148, 1320, 13.0, 12.0, 0.97, "", 4000.0, False),)),),
            marks=(Mark(120.0, "load on"), Mark(700.0, "side panel off")), **changes,  # type: ignore[arg-type]
        )  # fmt: skip
        rows = StripPainter(view, Envelope(run.time_s, run.values), DARK, size, True).build()
        return [row.text for row in rows]

    def test_every_row_fills_the_width(self) -> None:
        for size in ((120, 40), (83, 24), (60, 12)):
            rows = self.draw(size)
            self.assertEqual(len(rows), size[1])
            self.assertEqual({len(r) for r in rows}, {size[0]})

    def test_words_carry_the_meaning(self) -> None:
        drawn = "\n".join(self.draw())
        for words in (
            "Temperature °C",
            "limit 95",
            "base 3400",
            "power −13 %",
            "▴side panel off",
            "load",
            "held by",
        ):
            self.assertIn(words, drawn)

    def test_the_cursor_reads_the_values_there(self) -> None:
        early = "\n".join(self.draw((83, 24), cursor_s=60.0))
        late = "\n".join(self.draw((83, 24), cursor_s=1200.0))
        self.assertIn("+5.", early.replace("+4.9", "+5."))
        self.assertIn("+47.", late)
        self.assertIn(" 20:00 ", late)

    def test_small_heights_leave_strips_out_rather_than_overflow(self) -> None:
        rows = self.draw((83, 14))
        self.assertEqual(len(rows), 14)
        self.assertIn("Temperature", "\n".join(rows))

    def test_nothing_to_show_says_what_to_do(self) -> None:
        rows = StripPainter(StripView(empty="record something"), None, DARK, (80, 20), True).build()
        self.assertIn("record something", "\n".join(r.text for r in rows))

    def test_one_sample_is_enough(self) -> None:
        spec = StripSpec("Temperature", "temperature", "°C", (0,), ("die",))
        for n in (1, 2, 3):
            envelope = Envelope(np.arange(float(n)), np.full((1, n), 40.0))
            rows = StripPainter(
                StripView(specs=(spec,), end_s=60.0, held=(("held by", ()),)), envelope, DARK, (100, 20), True
            ).build()
            self.assertEqual(len(rows), 20)


class TableTest(unittest.IsolatedAsyncioTestCase):
    async def test_a_row_drawn_before_its_column_was_widened_is_drawn_anew(self) -> None:
        class Stage(App[None]):
            def compose(self) -> ComposeResult:
                yield DataTable()

        async with Stage().run_test() as pilot:
            table = pilot.app.query_one(DataTable)
            for _ in range(2):
                table.clear(columns=True)
                table.add_columns("a", "b")
                table.add_row("a long name of a setup", "1")
                self.assertNotIn("setup", table.render_line(1).text)
                await pilot.pause(0.1)
                self.assertIn("a long name of a setup", table.render_line(1).text)


if __name__ == "__main__":
    unittest.main()
