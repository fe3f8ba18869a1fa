"""Readings by hand, corrected: worked examples of the standards, and what the laws demand."""

from __future__ import annotations

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.sound.levels import at_distance, background_correction, corrected, joined_levels
from samovar.core.surface import contact_half_width, spot


class SoundTest(unittest.TestCase):
    def test_background_as_in_the_standard(self) -> None:
        # ISO 3744: 1.3 dB at 6 dB, 0.5 at 10, nothing beyond 15; never more than at 6.
        for above, off in (
            (6.0, 1.3),
            (7.0, 0.97),
            (10.0, 0.46),
            (15.0, 0.14),
            (15.1, 0.0),
            (3.0, 1.3),
            (0.0, 1.3),
        ):
            self.assertAlmostEqual(background_correction(above), off, delta=0.005)

    def test_near_the_background_a_level_is_an_upper_bound(self) -> None:
        found = corrected(21.5, 1.4, background_db=17.0)
        self.assertAlmostEqual(found.value, 20.2)
        self.assertTrue(found.upper_bound)
        self.assertIn("only 4.5 dB above", found.words)
        clear = corrected(27.0, 1.4, background_db=17.0)
        self.assertAlmostEqual(clear.value, 26.54, delta=0.01)
        self.assertFalse(clear.upper_bound)
        self.assertEqual(corrected(40.0, 1.4, background_db=17.0).words, "")

    def test_what_one_meter_is_off_by_stays_as_it_is(self) -> None:
        # A meter that reads 1 dB too much reads level and background so: what is left is 1 dB too much.
        truth = joined_levels([26.0, 20.0])
        shifted = corrected(truth + 1.0, 1.4, background_db=21.0)
        self.assertAlmostEqual(shifted.value, 27.0, places=6)
        self.assertAlmostEqual(shifted.half_width, 1.4)
        # What each reading scattered by is its own, and is stretched by the law's slope.
        own = corrected(truth, 0.0, background_db=20.0, own_half_width_db=0.5, background_half_width_db=0.5)
        share = 10.0 ** (-0.1 * (truth - 20.0))
        self.assertAlmostEqual(own.half_width, math.hypot(0.5 / (1 - share), 0.5 * share / (1 - share)))

    def test_distance_and_energies(self) -> None:
        self.assertAlmostEqual(at_distance(40.0, 0.5, 1.0), 40.0 - 6.0206, places=4)
        self.assertAlmostEqual(joined_levels([30.0, 30.0]), 33.0103, places=4)
        self.assertAlmostEqual(joined_levels([30.0, 20.0]), 30.4139, places=4)
        found = corrected(36.0, 1.4, read_at_m=0.5)
        self.assertTrue(found.converted)
        self.assertAlmostEqual(found.value, 29.98, delta=0.01)
        self.assertAlmostEqual(found.half_width, math.hypot(1.4, 0.25 * 6.0206), places=3)
        with self.assertRaises(ValueError):
            at_distance(30.0, 0.0, 1.0)
        with self.assertRaises(ValueError):
            joined_levels([])

    @given(st.floats(15, 80), st.floats(6.01, 40))
    def test_taking_the_background_off_and_adding_it_again_gives_what_was_read(
        self, background: float, above: float
    ) -> None:
        level = background + above
        found = corrected(level, 1.0, background_db=background)
        again = joined_levels([found.value, background])
        self.assertAlmostEqual(again, level, delta=0.15 if above >= 15 else 1e-6)


class SurfaceTest(unittest.TestCase):
    def test_bare_metal_looks_cold(self) -> None:
        # A heatsink at 80 °C, emissivity 0.1, in a room of 22 °C, seen by a thermometer set to 0.95.
        true, room = 80.0 + 273.15, 22.0 + 273.15
        arrived = 0.1 * true**4 + 0.9 * room**4
        shown = ((arrived - 0.05 * room**4) / 0.95) ** 0.25 - 273.15
        self.assertLess(shown, 30.0)
        found = spot(shown, 0.1, 22.0, emissivity_half_width=0.07)
        self.assertAlmostEqual(found.value, 80.0, places=6)
        self.assertGreater(found.half_width, 15.0)

    def test_a_matching_emissivity_changes_nothing(self) -> None:
        found = spot(61.3, 0.95, 22.0)
        self.assertAlmostEqual(found.value, 61.3, places=6)
        self.assertAlmostEqual(found.half_width, 2.0, delta=0.01)

    @given(st.floats(0, 150), st.floats(0.05, 1.0), st.floats(10, 40), st.floats(0.5, 1.0))
    def test_what_arrives_is_what_the_law_says(
        self, true_c: float, emissivity: float, room_c: float, set_to: float
    ) -> None:
        arrived = emissivity * (true_c + 273.15) ** 4 + (1 - emissivity) * (room_c + 273.15) ** 4
        rest = arrived - (1 - set_to) * (room_c + 273.15) ** 4
        shown = (rest / set_to) ** 0.25 - 273.15
        self.assertAlmostEqual(spot(shown, emissivity, room_c, set_to).value, true_c, delta=1e-5)

    def test_what_cannot_be_is_refused(self) -> None:
        for emissivity in (0.0, 1.2):
            with self.assertRaises(ValueError):
                spot(50.0, emissivity, 22.0)
        with self.assertRaisesRegex(ValueError, "no surface"):
            spot(-100.0, 0.05, 60.0)

    def test_tolerances_of_probes(self) -> None:
        # IEC 60584-1: type K, class 1: 1.5 K, from 375 °C on 0.4 %. IEC 60751: class B at 100 °C: 0.8 K.
        self.assertAlmostEqual(contact_half_width("K", 1, 80.0), 2 * 1.5 / math.sqrt(3))
        self.assertAlmostEqual(contact_half_width("K", 1, 500.0), 2 * 2.0 / math.sqrt(3))
        self.assertAlmostEqual(contact_half_width("Pt", "B", 100.0), 2 * 0.8 / math.sqrt(3))
        with self.assertRaises(KeyError):
            contact_half_width("X", 1, 20.0)


if __name__ == "__main__":
    unittest.main()
