"""The surcharge for tones, by the annex's own steps."""

from __future__ import annotations

import unittest

from samovar.core.by_hand.reading import HandReading, results_by_hand
from samovar.core.results.figure import Figure, figures_in
from samovar.core.sound.kept import KeptSound
from samovar.core.sound.surcharge import audibility_db, surcharge_db


class SurchargeTest(unittest.TestCase):
    def test_it_grows_from_nothing_at_4_db_of_audibility_to_6_at_10(self) -> None:
        def for_audibility(wanted: float) -> float:
            return surcharge_db([(502.0, wanted - audibility_db(502.0, 0.0))])

        self.assertEqual(for_audibility(3.9), 0.0)
        self.assertAlmostEqual(for_audibility(7.0), 3.0)
        self.assertAlmostEqual(for_audibility(10.0), 6.0)
        self.assertEqual(for_audibility(30.0), 6.0)
        self.assertEqual(surcharge_db([]), 0.0)

    def test_the_most_audible_tone_counts_alone(self) -> None:
        self.assertEqual(
            surcharge_db([(120.0, 1.0), (1240.0, 9.0), (400.0, 2.0)]), surcharge_db([(1240.0, 9.0)])
        )

    def test_a_level_that_was_listened_to_has_a_rated_one_beside_it(self) -> None:
        sound = KeptSound(20.0, tones=((1240.0, 6.0, False),))
        heard = HandReading(None, "noise", 27.0, 1.1, "dBA", heard=sound.text())
        results = results_by_hand([heard, HandReading(None, "noise", 30.0, 1.5, "dBA")])
        rated = Figure("rated", "noise").among(results)
        assert rated is not None
        self.assertAlmostEqual(rated.value, 27.0 + audibility_db(1240.0, 6.0) - 4.0)
        self.assertIn("rated:noise", [f.key for f in figures_in(results)])
        self.assertEqual(Figure("rated", "noise").label, "tone-rated noise")
