"""Claims of every kind, held against reviews whose truth is known."""

from __future__ import annotations

import unittest
from dataclasses import replace
from typing import Any

from samovar.archive.claim_checks import _CHECKS, check_claim, claim_made
from samovar.archive.records import Claim
from samovar.archive.review_data import ReviewData
from samovar.core.claims.kinds import KINDS
from samovar.core.fit import CLEARANCES
from tests.publish.test_draft import COOLERS, DRIVE, FAILED, MEMORY, SINGLE_BOARD


def claimed(data: ReviewData, kind: str, setup: str, other: str | None = None, **about: Any) -> Claim:
    names = {s.name: s.id for s in data.review.setups}
    return Claim(
        1, 1, kind, names[setup], names[other] if other else None, data.review.loads[0], None, about or None
    )


class ClaimTest(unittest.TestCase):
    def state(self, data: ReviewData, *claim: Any, **about: Any) -> str:
        return check_claim(data, claimed(data, *claim, **about)).state

    def test_every_kind_that_can_be_made_can_be_checked(self) -> None:
        self.assertEqual(set(KINDS), set(_CHECKS))

    def test_ahead_and_level_in_any_figure(self) -> None:
        self.assertEqual(self.state(COOLERS, "ahead", "Tall", "Flat", figure="noise"), "holds")
        self.assertEqual(self.state(COOLERS, "ahead", "Flat", "Tall", figure="noise"), "contradicted")
        self.assertEqual(self.state(COOLERS, "level", "Tall", "Flat", figure="work"), "holds")
        self.assertEqual(self.state(COOLERS, "level", "Tall", "Flat", figure="rise"), "contradicted")
        self.assertEqual(
            self.state(DRIVE, "ahead", "Slab", "Without", figure="steady:work:storage write"), "holds"
        )
        self.assertEqual(
            self.state(DRIVE, "level", "Slab", "Fin", figure="steady:temperature:storage"), "weak"
        )
        self.assertEqual(self.state(COOLERS, "ahead", "Flat", "Tall", figure="price"), "holds")

    def test_one_pass_of_each_holds_nothing(self) -> None:
        figure = "rise:temperature:memory"
        self.assertEqual(self.state(MEMORY, "ahead", "Quill wing", "Bare", figure=figure), "weak")

    def test_a_value_holds_while_it_reads_so(self) -> None:
        self.assertEqual(
            self.state(COOLERS, "reads", "Tall", figure="rise", read=48.1, half_width=0.6), "holds"
        )
        self.assertEqual(
            self.state(COOLERS, "reads", "Tall", figure="rise", read=51.0, half_width=0.6), "contradicted"
        )
        self.assertEqual(self.state(COOLERS, "reads", "Tall", figure="peak", read=70.0), "open")
        # What is at least 71 is no claim of 71.
        self.assertEqual(
            self.state(FAILED, "reads", "Wren", figure="rise", read=71.0, half_width=0.5), "contradicted"
        )

    def test_demands_are_met_by_the_whole_interval(self) -> None:
        self.assertEqual(self.state(COOLERS, "meets", "Tall", line="noise at most 28 dBA"), "holds")
        self.assertEqual(self.state(COOLERS, "meets", "Tall", line="noise at most 25 dBA"), "weak")
        self.assertEqual(self.state(COOLERS, "meets", "Boxed", line="noise at most 28 dBA"), "contradicted")
        self.assertEqual(self.state(COOLERS, "meets", "Flat", line="price at most 50 EUR"), "holds")
        self.assertEqual(self.state(SINGLE_BOARD, "meets", "Open", line="noise at most 30 dBA"), "open")

    def test_what_a_claim_is_about_may_be_gone(self) -> None:
        self.assertEqual(self.state(COOLERS, "rated", "Tall", product="Gone", rating="noise"), "open")
        self.assertEqual(self.state(COOLERS, "meets", "Tall", line="nothing anyone asks"), "open")
        gone = replace(claimed(COOLERS, "cooler", "Tall", "Flat"), other_id=99)
        self.assertEqual(check_claim(COOLERS, gone).state, "open")

    def test_a_product_fits_by_its_dimensions(self) -> None:
        self.assertTrue(any(f.key == "panel_m" for f in CLEARANCES))
        setups = [
            replace(s, products=tuple(replace(p, specification={"height_m": 0.15}) for p in s.products),
                    rig=replace(s.rig, details={"panel_m": room}) if s.rig else None)
            for s, room in zip(COOLERS.review.setups, (0.16, 0.16, 0.14), strict=True)
        ]  # fmt: skip
        data = replace(COOLERS, review=replace(COOLERS.review, setups=tuple(setups)))
        found = check_claim(data, claimed(data, "fits", "Flat", product="Flat", rig="Bench"))
        self.assertEqual(found.state, "contradicted")
        self.assertIn("10 mm", found.sentence)
        self.assertNotEqual(self.state(data, "fits", "Tall", product="Tall", rig="Bench"), "contradicted")

    def test_a_claim_is_put_as_it_was_made(self) -> None:
        made = claim_made(
            COOLERS, claimed(COOLERS, "level", "Tall", "Flat", figure="work", label="work done")
        )
        self.assertEqual(made, "Tall and Flat are practically the same in work done, under worst case.")
        self.assertEqual(
            claim_made(COOLERS, claimed(COOLERS, "fits", "Tall", product="Tall", rig="Bench")),
            "Tall fits Bench.",
        )


if __name__ == "__main__":
    unittest.main()
