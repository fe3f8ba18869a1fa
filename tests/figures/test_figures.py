"""Figures: well-formed, their text as text, the palette apart for every eye."""

from __future__ import annotations

import itertools
import math
import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from dataclasses import replace
from pathlib import Path

import numpy as np

from samovar.core.compare.rungs import Difference, Rung
from samovar.core.elevation import elevation
from samovar.core.overlay import Curve, Overlay, overlay
from samovar.core.product import Product
from samovar.core.reading import read
from samovar.core.recording import Mark, Recording
from samovar.core.results.figure import figure_of
from samovar.core.uncertainty import Measured
from samovar.exchange.problems import InputError
from samovar.figures.elevation_chart import elevation_chart
from samovar.figures.ladder_chart import ladder_chart
from samovar.figures.overlay_chart import overlay_chart
from samovar.figures.palette import DARK, HELD_COLOUR, HELD_PATTERN, LIGHT, PAPER, Palette
from samovar.figures.style import HATCH
from samovar.figures.time_chart import time_chart
from samovar.figures.write import write_figure
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


def linear(colour: str) -> np.ndarray:
    """sRGB to linear light (IEC 61966-2-1)."""
    c = np.array([int(colour[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def lab(rgb: np.ndarray) -> np.ndarray:
    """CIE L*a*b* of linear sRGB, D65."""
    xyz = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]) @ rgb
    f = [v ** (1 / 3) if v > 0.008856 else 7.787 * v + 16 / 116 for v in xyz / np.array([0.9505, 1.0, 1.089])]
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


# Full dichromacy as matrices on linear sRGB (Machado, Oliveira & Fernandes 2009, severity 1.0).
EYES = {
    "all cones": np.eye(3),
    "protanopia": np.array([[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]),
    "deuteranopia": np.array([[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]),
    "tritanopia": np.array([[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]),
}  # fmt: skip
MAIN = ("temperature", "clock", "power", "fan", "work")


def contrast(a: str, b: str) -> float:
    """The contrast ratio of WCAG 2."""
    light = sorted((float(np.array([0.2126, 0.7152, 0.0722]) @ linear(c)) for c in (a, b)), reverse=True)
    return (light[0] + 0.05) / (light[1] + 0.05)


class PaletteTest(unittest.TestCase):
    def test_the_main_quantities_stay_apart_for_every_eye(self) -> None:
        for palette in (DARK, LIGHT):
            for eye, matrix in EYES.items():
                seen = {q: lab(np.clip(matrix @ linear(palette.quantity[q]), 0, 1)) for q in MAIN}
                for a, b in itertools.combinations(MAIN, 2):
                    with self.subTest(dark=palette.dark, eye=eye, pair=(a, b)):
                        self.assertGreater(math.dist(seen[a], seen[b]), 10.0)

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
