"""Sensors held against each other: which of them is believed, and why."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.agreement import Agreement, agreements
from samovar.core.by_hand.line import Circumstances, read_line
from samovar.core.measured import Measured
from samovar.core.quantity import Channel
from samovar.core.reading import read
from samovar.core.recording import Recording
from samovar.core.surface import CONTACT, SPOT, Surface
from tests.recordings import FACTS, simple_run


def with_rows(*rows: tuple[Channel, float]) -> Recording:
    """The simple run with further temperatures that stay where they are."""
    run = simple_run()
    noise = np.random.default_rng(3).normal(0, 0.1, (len(rows), len(run.time_s)))
    more = np.array([np.full(len(run.time_s), level) for _, level in rows]).reshape(noise.shape) + noise
    return Recording((*run.channels, *(c for c, _ in rows)), run.time_s, np.vstack([run.values, more]))


VRM = Channel("VRM", "temperature", "°C", "vrm", "board")


class AgreementTest(unittest.TestCase):
    def weighed(self, level: float, *surfaces: Surface) -> list[Agreement]:
        recording = with_rows((VRM, level))
        return agreements(recording, read(recording, FACTS), surfaces)

    def surface(self, value: float, width: float, by: str = CONTACT) -> Surface:
        return Surface("vrm", 900.0, Measured(value, width), by)

    def test_two_that_agree(self) -> None:
        (found,) = self.weighed(61.0, self.surface(60.0, 2.5))
        self.assertTrue(found.agree)
        self.assertEqual(found.believe.name, "VRM")
        self.assertAlmostEqual(found.difference_k.value, 1.0, delta=0.1)

    def test_a_surface_hotter_than_the_sensor_beneath_it(self) -> None:
        (found,) = self.weighed(55.0, self.surface(68.0, 2.5))
        self.assertFalse(found.agree)
        self.assertEqual(found.believe.by, CONTACT)
        self.assertIn("sits elsewhere", found.why)

    def test_a_surface_may_be_cooler_than_what_is_inside(self) -> None:
        (found,) = self.weighed(80.0, self.surface(66.0, 2.0))
        self.assertEqual(found.believe.name, "VRM")
        self.assertIn("14 K cooler", found.why)

    def test_of_two_taken_by_hand_the_surer_one(self) -> None:
        (found,) = self.weighed(55.0, self.surface(70.0, 6.0, SPOT), self.surface(67.0, 2.5))
        self.assertEqual((found.believe.by, found.believe.value.value), (CONTACT, 67.0))

    def test_a_die_with_an_offset_is_told_by_its_cores(self) -> None:
        cores = [(Channel(f"Core {k}", "temperature", "°C", "core", "cpu"), 58.0 + k) for k in range(2)]
        recording = with_rows(*cores)
        (found,) = agreements(recording, read(recording, FACTS))
        self.assertFalse(found.agree)
        self.assertIn("hottest core", found.believe.name)
        self.assertIn("11 K above", found.why)

    def test_one_sensor_alone_has_nothing_to_agree_with(self) -> None:
        self.assertEqual(self.weighed(61.0), [])

    def test_as_typed_on_the_bench(self) -> None:
        there = Circumstances(room_c=22.0)
        surface = read_line("surface vrm 61.3 probe K1, at 15:00", there).surface
        assert surface is not None
        self.assertEqual((surface.part, surface.by, surface.value.value), ("vrm", CONTACT, 61.3))
        self.assertIsNone(read_line("surface 61.3 matt paint", there).surface)
        other = read_line("surface SSD, 55 black tape", there).surface
        assert other is not None
        self.assertEqual((other.part, other.by), ("storage", SPOT))

    def test_two_spots_of_one_part_stay_apart(self) -> None:
        spots = [
            Surface("vrm", 900.0, Measured(v, 2.0), SPOT, f"vrm {s}")
            for s, v in (("back", 70.0), ("heatsink", 55.0))
        ]
        back, heatsink = self.weighed(61.0, *spots)
        self.assertEqual((back.part, back.agree, back.believe.by), ("vrm back", False, SPOT))
        self.assertEqual((heatsink.part, heatsink.believe.name), ("vrm heatsink", "VRM"))

    def test_a_surface_of_the_whole_run_is_held_against_the_steady_value(self) -> None:
        (found,) = self.weighed(61.0, Surface("vrm", None, Measured(60.0, 2.5), CONTACT))
        self.assertTrue(found.agree)


if __name__ == "__main__":
    unittest.main()
