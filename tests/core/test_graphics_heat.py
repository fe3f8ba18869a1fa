"""The thermal model of a graphics chip, against one network whose truth is known."""

from __future__ import annotations

import json
import unittest

import numpy as np

from samovar.core.facts import Facts, ProcessorFacts
from samovar.core.graphics_heat import BOTH, OWN, graphics_heat
from samovar.core.phases import Phase
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.reading_plain import from_plain, to_plain
from samovar.core.recording import Array, Recording

PHASES = [Phase("idle", 0.0, 120.0), Phase("load", 120.0, 900.0)]
CHANNELS = (
    Channel("GPU", "temperature", "°C", "gpu", "gpu"), Channel("Graphics power", "power", "W", "gpu", "gpu"),
    Channel("Package power", "power", "W", "package", "cpu"), Channel("Tdie", "temperature", "°C", "die", "cpu"),
)  # fmt: skip


def warmed(heat: Array, resistance: float, tau_s: float, from_c: float = 30.0) -> Array:
    """A first-order way from a heat to a temperature, a sample a second."""
    out, state = np.empty(len(heat)), 0.0
    for k, watts in enumerate(heat - heat[0]):
        state += (watts - state) * (1.0 - np.exp(-1.0 / tau_s))
        out[k] = from_c + resistance * state
    return out


class SharedFromTheFirstSecondTest(unittest.TestCase):
    def test_a_budget_that_the_graphics_eat_of_until_they_slow_down_is_shared_until_then(self) -> None:
        """Both loads begin together: no edge tells, and the processor is at its own budget in the end."""
        time_s = np.arange(900.0)
        on, later = time_s >= 60.0, time_s >= 400.0
        chance = np.random.default_rng(8)
        package = np.where(~on, 4.0, np.where(later, 32.0, 25.0)) + chance.normal(0, 0.1, 900)
        graphics = np.where(~on, 1.0, np.where(later, 27.0, 37.0)) + chance.normal(0, 0.1, 900)
        clock = np.where(~on, 900.0, np.where(later, 2840.0, 2560.0)) + chance.normal(0, 4, 900)
        channels = (
            Channel("Tdie", "temperature", "°C", "die", "cpu"), Channel("Package power", "power", "W", "package", "cpu"),
            Channel("GPU", "power", "W", "gpu", "gpu"), Channel("Core 0", "clock", "MHz", "core", "cpu"),
            Channel("Utilisation", "load", "%", "package", "cpu"),
        )  # fmt: skip
        values = np.array([warmed(package, 1.4, 80.0), package, graphics, clock, np.where(on, 100.0, 1.0)])
        facts = Facts(cpu=ProcessorFacts("x", 6, 98.0, 2200.0, 4600.0, 32.0, 54.0, 28.0))
        held = read(Recording(channels, time_s, values), facts, reference_clock_mhz=4200.0).held
        causes = [
            (h.by, round(h.start_s, -2), round(h.end_s, -2)) for h in held if h.end_s - h.start_s > 30.0
        ]
        self.assertEqual(causes, [("shared", 100.0, 400.0), ("power", 400.0, 900.0)])


class GraphicsHeatTest(unittest.TestCase):
    def run_of(self, own_w: float, package_w: float, of: str, inside: bool = False) -> Recording:
        time_s = np.arange(900.0)
        on = time_s >= 120.0
        own = np.where(on, own_w, 1.0)
        beside = np.where(on, package_w, 5.0) + (own if inside else 0.0)
        heat = own if of == OWN else beside if inside else own + beside
        chance = np.random.default_rng(4)
        gpu = np.round((warmed(heat, 0.8, 90.0) + chance.normal(0, 0.1, 900)) * 8) / 8
        die = warmed(beside, 0.5, 60.0)
        return Recording(CHANNELS, time_s, np.array([gpu, own, beside, die]))

    def test_alone_it_is_its_own_power_that_tells_where_it_is_heading(self) -> None:
        found = graphics_heat(self.run_of(40.0, 8.0, OWN), PHASES, PHASES[1])
        assert found is not None
        self.assertEqual(found.power_of, OWN)
        self.assertAlmostEqual(
            found.heading_c.value, 30.0 + 0.8 * 39.0, delta=found.heading_c.half_width or 0.0
        )
        self.assertAlmostEqual(sum(found.network.resistance_k_per_w), 0.8, delta=0.03)
        self.assertTrue(any(60.0 < tau < 140.0 for tau in found.time_constants_s))

    def test_with_the_processor_in_one_path_both_are_counted_inside_the_package_or_beside_it(self) -> None:
        for inside in (False, True):
            found = graphics_heat(self.run_of(30.0, 45.0, BOTH, inside), PHASES, PHASES[1])
            assert found is not None
            self.assertEqual(found.power_of, BOTH)
            self.assertAlmostEqual(
                found.heading_c.value, 30.0 + 0.8 * 69.0, delta=found.heading_c.half_width or 0.0
            )

    def test_a_chip_that_does_nothing_has_no_model(self) -> None:
        self.assertIsNone(graphics_heat(self.run_of(0.5, 45.0, BOTH), PHASES, PHASES[1]))
        self.assertIsNone(graphics_heat(self.run_of(40.0, 8.0, OWN), PHASES[:1], None))

    def test_it_is_kept_with_the_reading(self) -> None:
        reading = read(self.run_of(40.0, 8.0, OWN))
        self.assertIsNotNone(reading.graphics)
        self.assertEqual(from_plain(json.loads(json.dumps(to_plain(reading)))).graphics, reading.graphics)
