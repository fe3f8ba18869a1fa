"""The scale of temperature pictures for every eye, and what stands on a figure of surfaces."""

from __future__ import annotations

import tempfile
import unittest
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import numpy as np

from samovar.core.measured import Measured
from samovar.core.surfaces.plan import AREA, PART, SPOT, Item, Plan
from samovar.figures.heat_scale import STEPS, UNKNOWN, heat_colour, heat_colours, heat_steps, ink_over
from samovar.figures.surface_chart import Face, surface_chart
from samovar.figures.write import write_for_print
from tests.figures.eyes import EYES, contrast, seen

LEAST_STEP = 0.25
"""Of the mean step of lightness: an even scale has none that is much smaller, to any eye."""


class ScaleTest(unittest.TestCase):
    def test_hotter_is_lighter_in_even_steps_for_every_eye(self) -> None:
        colours = ["#" + "".join(f"{p:02x}" for p in c) for c in heat_colours()]
        for eye in EYES:
            # Every eighth: two neighbours may round to one.
            lightness = np.array([seen(colour, eye)[0] for colour in colours[::8]])
            steps = np.diff(lightness)
            self.assertGreater(steps.min(), LEAST_STEP * steps.mean(), eye)

    def test_words_on_it_can_be_read(self) -> None:
        for value in np.linspace(0.0, 1.0, 33):
            colour = heat_colour(float(value), 0.0, 1.0)
            self.assertGreater(contrast(ink_over(colour), colour), 4.0, colour)

    def test_what_lies_outside_takes_its_ends_and_what_is_unknown_none(self) -> None:
        steps = heat_steps(np.array([-5.0, 0.0, 99.9, 100.0, 300.0, np.nan]), 0.0, 100.0)
        self.assertEqual(steps.tolist(), [0, 0, STEPS - 1, STEPS - 1, STEPS - 1, -1])
        self.assertEqual(heat_colour(float("nan"), 0.0, 1.0), UNKNOWN)


class SurfaceChartTest(unittest.TestCase):
    def test_names_and_degrees_stand_on_page_and_column(self) -> None:
        plan = Plan(
            "lid", 200.0, 100.0,
            (Item("keys", PART, 10.0, 10.0, 50.0, 20.0), Item("vrm", AREA, 20.0, 40.0, 30.0, 30.0), Item("edge", SPOT, 180.0, 50.0)),
        )  # fmt: skip
        values = {"vrm": Measured(61.2, 2.0), "edge": Measured(34.0, 2.0)}
        faces = [
            Face("As delivered", plan, np.full((20, 40), 40.0), values),
            Face("With duct", plan, None, {"vrm": Measured(52.0, 2.0)}),
        ]
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        files = write_for_print(surface_chart(faces, "The duct helps.", "Surfaces, lid"), folder / "s", bytes)
        for path in files:
            if path.suffix == ".svg":
                words = " | ".join(
                    "".join(e.itertext()) for e in ElementTree.parse(path).iter() if e.tag.endswith("text")
                )
                for one in (
                    "The duct helps.",
                    "As delivered",
                    "With duct",
                    "vrm 61 ±2 °C",
                    "34 ±2 °C",
                    "keys",
                    "60",
                ):
                    self.assertIn(one, words, path.name)


if __name__ == "__main__":
    unittest.main()
