"""Figures: well-formed, their text as text, the palette apart for every eye."""

from __future__ import annotations

import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from pathlib import Path

import numpy as np

from samovar.core.compare.rungs import Difference, Rung
from samovar.core.elevation import elevation
from samovar.core.marks import Mark
from samovar.core.measured import Measured
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.product import Product
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.results.figure import figure_of
from samovar.exchange.problems import InputError
from samovar.figures.chain_chart import ChainColumn, Link, chain_chart
from samovar.figures.elevation_chart import elevation_chart
from samovar.figures.held_chart import held_chart
from samovar.figures.ladder_chart import ladder_chart
from samovar.figures.overlay_chart import overlay_chart
from samovar.figures.palette import DARK, HELD_COLOUR, HELD_PATTERN, LIGHT, PAPER, Palette
from samovar.figures.style import HATCH
from samovar.figures.time_chart import Extras, HandPoint, time_chart
from samovar.figures.write import write_figure
from tests.figures.eyes import contrast, least_apart
from tests.recordings import FACTS, simple_run


class FigureTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def words_of(self, figure: object, name: str = "figure.svg") -> str:
        """All text of a figure written as SVG."""
        path = write_figure(figure, self.folder / name)  # type: ignore[arg-type]
        root = ElementTree.parse(path).getroot()
        return " | ".join("".join(e.itertext()).strip() for e in root.iter() if e.tag.endswith("}text"))

    def test_the_time_chart_says_what_the_run_was(self) -> None:
        whole = simple_run()
        recording = Recording(whole.channels, whole.time_s, whole.values, (Mark(500.0, "side panel off"),))
        words = self.words_of(time_chart(recording, read(recording, FACTS), FACTS, "Osprey 161, worst case"))
        for expected in (
            "Osprey 161, worst case",
            "limit 95",
            "base 3400",
            "sustained 95",
            "power, −13 % clock",
            "side panel off",
            "load",
            "minutes",
        ):
            self.assertIn(expected, words)

    def test_the_elevation_is_to_scale_and_dimensioned(self) -> None:
        body = {"height_m": 0.161, "depth_m": 0.135, "overhang_m": 0.068, "memory_clearance_m": 0.042}
        drawing = elevation(
            Product(1, "Osprey 161", "air cooler", body), {"panel_m": 0.165, "memory_height_m": 0.0405}
        )
        assert drawing is not None
        figure = elevation_chart(drawing, "Halden 8")
        words = self.words_of(figure)
        for expected in (
            "Osprey 161 on Halden 8",
            "height 161",
            "panel 165",
            "gap 4",
            "to the memory ?",
            "side panel",
        ):
            self.assertIn(expected, words)
        axes = figure.axes[0]
        figure.canvas.draw()
        corner, along, up = axes.transData.transform([(0.0, 0.0), (100.0, 0.0), (0.0, 100.0)])
        self.assertAlmostEqual(along[0] - corner[0], up[1] - corner[1], places=3)

    def test_missing_channels_leave_their_strips_out(self) -> None:
        whole = simple_run()
        bare = Recording(whole.channels[:1], whole.time_s, whole.values[:1])
        words = self.words_of(time_chart(bare, read(bare), FACTS, "bare"))
        self.assertIn("temperature", words)
        self.assertNotIn("MHz", words)

    def test_an_empty_run_is_drawn_empty(self) -> None:
        whole = simple_run()
        empty = Recording(whole.channels, np.empty(0), np.empty((len(whole.channels), 0)))
        self.assertIn("nothing", self.words_of(time_chart(empty, read(empty), FACTS, "nothing")))

    def test_the_ladder_carries_figures_and_notes(self) -> None:
        gap = Difference("Fjord 280", "Plain 65", -27.6, 2.5, 0.001, 1.0, False)
        rungs = [
            Rung("Fjord 280", Measured(44.4, 0.3), 2, gap, None),
            Rung("Loam P", Measured(58.6, 0.3), 1, gap, replace(gap, value=0.2, half_width=0.5)),
            Rung("Plain 65", Measured(72.0, 2.6), 2, None, replace(gap, value=2.0, half_width=3.0)),
        ]
        words = self.words_of(ladder_chart(rungs, figure_of("rise"), "Plain 65", "Rise, worst case"))
        for expected in (
            "44.4 ±0.3 K",
            "58.6 ±0.3 K, one pass, level with above",
            "72 ±3 K",
            "reference",
            "less is better",
        ):
            self.assertIn(expected, words)

    def test_curves_are_aligned_at_load_start_and_named(self) -> None:
        first, second = simple_run(600), simple_run(600, idle_s=200)
        found = overlay([Curve("A", first, read(first, FACTS)), Curve("B", second, read(second, FACTS))])
        late = (found.time_s > 100) & (found.time_s < 500)
        self.assertLess(float(np.nanmax(np.abs(found.values[0, late] - found.values[1, late]))), 1.0)
        words = self.words_of(overlay_chart(found, "Curves"))
        self.assertIn("minutes since the load began", words)
        self.assertTrue({"A", "B"} <= set(words.split(" | ")))

    def test_a_run_without_room_gives_no_curve(self) -> None:
        run = simple_run(300)
        found = overlay([Curve("A", run, read(run))])
        self.assertTrue(np.isnan(found.values).all())
        self.words_of(overlay_chart(found, "none"))
        self.words_of(overlay_chart(Overlay((), np.arange(10.0), np.empty((0, 10))), "none at all"))

    def test_a_board_without_a_fan_has_no_strip_for_one_and_what_hands_read_stands_there(self) -> None:
        whole = simple_run()
        values = whole.values.copy()
        fans = whole.find("fan")
        values[fans] = 0.0
        recording = Recording(whole.channels, whole.time_s, values)
        points = (
            HandPoint("noise", "", 900.0, Measured(24.1, 1.5, "at most")),
            HandPoint("temperature", "vrm back", 900.0, Measured(61.0, 2.0)),
        )
        words = self.words_of(
            time_chart(recording, read(recording, FACTS), FACTS, "Quiet", Extras(by_hand=points), "pass 1")
        )
        self.assertNotIn("rpm", words)
        for expected in ("noise", "at most", "vrm back", "Quiet", "pass 1"):
            self.assertIn(expected, words)

    def test_marks_that_would_lie_over_each_other_are_not_all_written(self) -> None:
        whole = simple_run()
        marks = tuple(Mark(500.0 + 8.0 * k, f"fans at {k} %") for k in range(5))
        recording = Recording(whole.channels, whole.time_s, whole.values, marks)
        words = self.words_of(time_chart(recording, read(recording, FACTS), FACTS, "Many"))
        self.assertIn("fans at 0 %", words)
        self.assertNotIn("fans at 1 %", words)

    def test_what_held_is_told_in_shares_and_a_chain_step_by_step(self) -> None:
        words = self.words_of(
            held_chart(
                (("Plain 65", {"thermal": 60.0, "power": 35.0}), ("Loam P", {})),
                "Heat held Plain 65.",
                "What held",
            )
        )
        for expected in ("thermal 60 %", "power 35 %", "free", "Heat held Plain 65.", "What held"):
            self.assertIn(expected, words)
        links = (
            Link(Measured(45.4, 0.3), Measured(30.9, 0.3), "−14.5 ±0.1 K"),
            Link(Measured(45.4, 0.3), None, ""),
        )
        chain = chain_chart(
            ("Closed → Vent kit", "Closed → 22 W"),
            (ChainColumn(figure_of("rise"), links),),
            "Cooler",
            "chain",
        )
        words = self.words_of(chain)
        for expected in ("Closed → Vent kit", "−14.5 ±0.1 K", "not known", "rise over the room, K"):
            self.assertIn(expected, words)

    def test_the_same_figure_is_the_same_file(self) -> None:
        run = simple_run(300)
        texts = []
        for name in ("a.svg", "b.svg"):
            path = write_figure(time_chart(run, read(run, FACTS), FACTS, "same"), self.folder / name)
            texts.append(path.read_text())
        self.assertEqual(texts[0], texts[1])

    def test_pdf_is_whole_and_bad_places_are_one_line(self) -> None:
        figure = ladder_chart([], figure_of("rise"), None, "empty")
        data = write_figure(figure, self.folder / "a.pdf").read_bytes()
        self.assertTrue(data.startswith(b"%PDF-") and data.rstrip().endswith(b"%%EOF"))
        for path in (self.folder / "a.png", self.folder / "none" / "a.svg"):
            with self.assertRaises(InputError):
                write_figure(figure, path)
        self.assertEqual([p.name for p in self.folder.iterdir()], ["a.pdf"])


MAIN = ("temperature", "clock", "power", "fan", "noise", "work")
LEAST_APART = 0.055
"""Oklab: so far apart two colours are told as two in a thin line."""


class PaletteTest(unittest.TestCase):
    def test_what_is_drawn_together_stays_apart_for_every_eye(self) -> None:
        for palette in (DARK, LIGHT, PAPER):
            for colours in ([palette.quantity[q] for q in MAIN], palette.series):
                distance, *which = least_apart(colours)
                self.assertGreater(distance, LEAST_APART, which)

    def test_curves_of_setups_stand_out_from_their_ground(self) -> None:
        for palette in (DARK, LIGHT, PAPER):
            for colour in palette.series:
                self.assertGreater(contrast(colour, palette.ground), 3.0, colour)

    def test_everything_can_be_read_on_its_ground(self) -> None:
        for palette in (DARK, LIGHT, PAPER):
            for name, colour in {
                **palette.quantity,
                "text": palette.text,
                "brass": palette.brass,
                "soft": palette.soft,
            }.items():
                with self.subTest(dark=palette.dark, colour=name):
                    self.assertGreater(contrast(colour, palette.ground), 4.0)
            self.assertGreater(contrast(palette.on_brass, palette.brass), 4.0)

    def test_each_cause_has_its_own_shape(self) -> None:
        self.assertEqual(len(set(HELD_PATTERN.values())), len(HELD_PATTERN))
        self.assertEqual(len(set(HATCH.values())), len(HATCH))
        self.assertEqual(set(HATCH), set(HELD_PATTERN))
        self.assertEqual(set(HELD_COLOUR), set(HELD_PATTERN))

    def test_blending_ends_where_it_should(self) -> None:
        palette: Palette = DARK
        self.assertEqual(palette.blend("#ffffff", 0.0), palette.ground)
        self.assertEqual(palette.blend("#ffffff", 1.0), "#ffffff")


if __name__ == "__main__":
    unittest.main()
