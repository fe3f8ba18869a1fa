"""Does it fit: hand-drawn cases, what is missing named, and a drawing that says the same."""

from __future__ import annotations

import unittest
from typing import Any

from samovar.core.elevation import elevation
from samovar.core.fit import check_fit, mounts_of, summary, verdict
from samovar.core.product import KINDS, Product

RIG: dict[str, Any] = {
    "panel_m": 0.165, "memory_distance_m": 0.053, "memory_height_m": 0.0405, "above_board_m": 0.172, "storage_height_m": 0.015,
    "radiators": ["320 top 58", "240 front 60"], "fan_mounts": ["120 rear", "140 front"], "socket": "HL8", "board_format": "micro",
}  # fmt: skip
TOWER: dict[str, Any] = {
    "height_m": 0.161, "depth_m": 0.135, "overhang_m": 0.068, "memory_clearance_m": 0.042, "sockets": ["HL8", "HL4"],
}  # fmt: skip


def tower(**changes: Any) -> Product:
    return Product(1, "Tower", "air cooler", {**TOWER, **changes})


def states(product: Product, rig: dict[str, Any]) -> dict[str, tuple[str, float | None]]:
    return {
        i.name: (i.state, None if i.margin_m is None else round(1000 * i.margin_m, 2))
        for i in check_fit(product, rig)
    }


class FitTest(unittest.TestCase):
    def test_drawn_cases_of_a_tower(self) -> None:
        self.assertEqual(
            states(tower(), RIG),
            {"height": ("fits", 4.0), "memory under the edge": ("fits", 1.5), "socket": ("fits", None)},
        )
        self.assertEqual(states(tower(height_m=0.168), RIG)["height"], ("does not fit", -3.0))
        self.assertEqual(states(tower(height_m=0.1645), RIG)["height"], ("touches", 0.5))
        self.assertEqual(states(tower(height_m=0.1655), RIG)["height"], ("touches", -0.5))
        self.assertEqual(
            states(tower(memory_clearance_m=0.036), RIG)["memory under the edge"], ("does not fit", -4.5)
        )
        self.assertEqual(states(tower(overhang_m=0.05), RIG)["memory beside"], ("fits", 3.0))
        self.assertEqual(states(tower(sockets=["HL2"]), RIG)["socket"][0], "does not fit")
        self.assertEqual(summary(check_fit(tower(), RIG)), "fits by 1.5 mm")

    def test_what_is_missing_is_named(self) -> None:
        items = {
            i.name: i
            for i in check_fit(tower(height_m=None), {**RIG, "panel_m": None, "memory_distance_m": None})
        }
        self.assertEqual(items["height"].missing, ("lid to panel", "product's height"))
        self.assertEqual(items["memory beside"].missing, ("processor's centre to memory",))
        self.assertIn("needs the lid to panel", items["height"].words)
        self.assertEqual(verdict(list(items.values())), "not known")

    def test_a_known_collision_outweighs_what_is_not_known(self) -> None:
        self.assertEqual(verdict(check_fit(tower(height_m=0.2), {"panel_m": 0.165})), "does not fit")

    def test_a_radiator_takes_the_mount_with_room(self) -> None:
        loop = {
            "radiator_length_m": 0.28,
            "radiator_thickness_m": 0.03,
            "fan_thickness_m": 0.025,
            "height_m": 0.054,
            "sockets": ["HL8"],
        }
        found = states(Product(1, "Loop", "liquid cooler", loop), RIG)
        self.assertEqual(found["radiator, top"], ("fits", 3.0))
        self.assertEqual(
            states(Product(1, "L", "liquid cooler", {**loop, "radiator_length_m": 0.36}), RIG)["radiator"],
            ("does not fit", -40.0),
        )
        thick = states(Product(1, "L", "liquid cooler", {**loop, "radiator_thickness_m": 0.04}), RIG)
        self.assertEqual(thick["radiator, top"], ("does not fit", -7.0))
        self.assertEqual(states(Product(1, "L", "liquid cooler", {}), {})["radiator"][0], "not known")

    def test_other_kinds(self) -> None:
        self.assertEqual(
            states(Product(1, "S", "storage heatsink", {"height_m": 0.012}), RIG), {"height": ("fits", 3.0)}
        )
        self.assertEqual(
            states(Product(1, "M", "memory cooler", {"height_m": 0.06}), RIG),
            {"height over the memory": ("fits", 71.5)},
        )
        self.assertEqual(states(Product(1, "F", "fan", {"fan_size_m": 0.14}), RIG)["fan mount"][0], "fits")
        self.assertEqual(
            states(Product(1, "F", "fan", {"fan_size_m": 0.092}), RIG)["fan mount"][0], "does not fit"
        )
        self.assertEqual(
            states(Product(1, "C", "case", {"boards": ["mini"]}), RIG)["board"][0], "does not fit"
        )
        self.assertEqual(check_fit(Product(1, "P", "paste"), RIG), [])

    def test_mounts_as_people_write_them(self) -> None:
        self.assertEqual(
            [
                (m.length_m, m.place, m.depth_m)
                for m in mounts_of(["280 top 55", "240mm front", "140", "nonsense", "9 top"])
            ],
            [(0.28, "top", 0.055), (0.24, "front", None), (0.14, "mount", None)],
        )


class ElevationTest(unittest.TestCase):
    def test_the_drawing_is_to_scale_and_carries_every_clearance(self) -> None:
        drawing = elevation(tower(), RIG)
        assert drawing is not None
        body = next(b for b in drawing.boxes if b.name == "Tower")
        self.assertEqual((body.x1, body.x1 - body.x0, body.z0, body.z1), (68.0, 135.0, 42.0, 161.0))
        self.assertEqual(drawing.panel_mm, 165.0)
        words = {d.text: d for d in drawing.dimensions}
        for text in (
            "height 161",
            "gap 4",
            "panel 165",
            "memory 40.5",
            "under the edge 42",
            "to the memory 53",
            "edge 68",
        ):
            self.assertIn(text, words)
        for d in drawing.dimensions:
            number = float(d.text.rsplit(" ", 1)[1])
            self.assertAlmostEqual(abs(d.end - d.start), number, delta=0.05, msg=d.text)
        self.assertEqual((words["gap 4"].state, words["height 161"].state), ("fits", ""))

    def test_what_is_unknown_is_drawn_as_unknown(self) -> None:
        drawing = elevation(Product(1, "Tower", "air cooler", {}), {})
        assert drawing is not None
        self.assertFalse(drawing.panel_known)
        self.assertFalse(any(b.known for b in drawing.boxes if b.part in ("cooler", "memory")))
        self.assertTrue(all(d.text.endswith("?") for d in drawing.dimensions))

    def test_every_kind_draws_or_says_that_it_cannot(self) -> None:
        drawn = [kind for kind in KINDS if elevation(Product(1, "x", kind), RIG) is not None]
        self.assertEqual(
            drawn, ["air cooler", "liquid cooler", "passive heatsink", "memory cooler", "storage heatsink"]
        )


if __name__ == "__main__":
    unittest.main()
