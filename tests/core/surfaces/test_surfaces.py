"""Plans and temperature pictures, against faces whose temperatures are known."""

from __future__ import annotations

import random
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.core.by_hand.reading import HandReading
from samovar.core.entered import plain
from samovar.core.measured import Measured
from samovar.core.surface import EMISSIVITY
from samovar.core.surfaces.picture import Picture, check_picture, difference, less, resampled, seen
from samovar.core.surfaces.plan import AREA, PART, SPOT, Item, Plan, plan_of, rectangle, with_item, without
from samovar.core.surfaces.told import as_readings, at_heat, told_of
from samovar.core.surfaces.touch import no_burn_within
from samovar.core.units import Unreadable
from samovar.simulator.plate import Warm, face_c, photographed

BOARD = Plan(
    "board", 170.0, 120.0,
    (
        Item("sockets", PART, 0.0, 0.0, 170.0, 10.0),
        Item("vrm", AREA, 20.0, 30.0, 20.0, 60.0, "anodised metal"),
        Item("vrm back", SPOT, 130.0, 60.0, made_of="black tape"),
    ),
)  # fmt: skip


class PlanTest(unittest.TestCase):
    def test_what_is_kept_is_read_back(self) -> None:
        self.assertEqual(plan_of(plain(BOARD)), BOARD)

    def test_a_spot_is_named_as_readings_name_it(self) -> None:
        drawn = with_item(BOARD, Item("the regulator  coils", SPOT, 44.0, 60.0))
        self.assertIsNotNone(drawn.item("vrm coils"))
        self.assertEqual(without(drawn, drawn.items[-1]), BOARD)

    def test_what_cannot_be_drawn_is_one_line_with_its_place(self) -> None:
        for item, words in (
            (Item("vrm", SPOT, 1.0, 1.0), "of this name already"),
            (Item("far", AREA, 160.0, 100.0, 20.0, 10.0), "outside of the plan's 170 x 120 mm"),
            (Item("none", AREA, 10.0, 10.0), "an area and a part have both"),
            (Item("x", "hole", 1.0, 1.0), "no kind of thing"),
            (Item("x", SPOT, float("nan"), 1.0), "mm"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaises(Unreadable) as caught:
                with_item(BOARD, item)
            self.assertIn(words, str(caught.exception))

    def test_what_is_at_a_place(self) -> None:
        for place, name in (((131.0, 61.0), "vrm back"), ((30.0, 60.0), "vrm"), ((80.0, 5.0), "sockets")):
            found = BOARD.at(*place, 3.0)
            self.assertEqual(found.name if found else None, name)
        self.assertIsNone(BOARD.at(90.0, 100.0, 3.0))
        self.assertEqual(rectangle((40.0, 90.0), (20.0, 30.0)), (20.0, 30.0, 20.0, 60.0))


class PictureTest(unittest.TestCase):
    def test_every_surface_comes_out_as_warm_as_it_is(self) -> None:
        # Seeds and temperatures that nothing was tuned on.
        chance = random.Random(20261128)
        for _ in range(12):
            room, vrm, back = (chance.uniform(*ends) for ends in ((15.0, 35.0), (45.0, 110.0), (40.0, 80.0)))
            warm = [Warm(20.0, 30.0, 20.0, 60.0, vrm), Warm(124.0, 54.0, 12.0, 12.0, back)]
            face = face_c(BOARD, warm, room, 14.0, 1.0)
            for set_to in (0.95, 1.0, 0.9):
                picture = photographed(face, BOARD, room, 60.0, "b.csv", chance.randrange(10**6), set_to)
                for item in BOARD.measured:
                    found = seen(picture, BOARD, item)
                    assert found is not None
                    rows = slice(30, 90) if item.kind == AREA else slice(59, 62)
                    columns = slice(20, 40) if item.kind == AREA else slice(129, 132)
                    part = face[rows, columns]
                    truth = float(part.max()) if item.kind == AREA else float(np.median(part))
                    self.assertLess(abs(found.hottest.value - truth), 1.2, (item.name, set_to))
                    self.assertLess(abs(found.hottest.value - truth), found.hottest.half_width or 0.0)
                    if item.kind == AREA:
                        self.assertAlmostEqual(found.mean.value, float(part.mean()), delta=0.8)
                        self.assertTrue(20.0 <= found.at_mm[0] <= 40.0 and 30.0 <= found.at_mm[1] <= 90.0)

    def test_shining_metal_is_known_less_well_than_tape(self) -> None:
        picture = Picture(np.full((60, 85), 70.0), reflected_c=22.0)
        widths = []
        for made_of in ("black tape", "oxidised metal", "bare metal"):
            found = seen(picture, BOARD, Item("x", SPOT, 50.0, 50.0, made_of=made_of))
            assert found is not None
            widths.append(found.hottest.half_width or 0.0)
        self.assertEqual(widths, sorted(widths))

    def test_where_nothing_was_seen_nothing_is_told(self) -> None:
        celsius = np.full((60, 85), 50.0)
        celsius[:, :30] = np.nan
        self.assertIsNone(seen(Picture(celsius), BOARD, BOARD.measured[0]))
        self.assertIsNotNone(seen(Picture(celsius), BOARD, BOARD.measured[1]))

    def test_what_is_no_picture_is_refused(self) -> None:
        for wrong, words in (
            (np.zeros(5), "rows and columns"), (np.full((4, 4), np.nan), "no temperature"),
            (np.full((4, 4), 30000.0), "check scale and offset"), (np.zeros((3, 5000)), "pixels"),
        ):  # fmt: skip
            with self.assertRaises(ValueError) as caught:
                check_picture(wrong)
            self.assertIn(words, str(caught.exception))

    @given(
        st.integers(2, 40),
        st.integers(2, 40),
        st.integers(1, 60),
        st.integers(1, 60),
        st.floats(-20.0, 120.0),
    )
    def test_another_size_shows_the_same(
        self, rows: int, columns: int, high: int, wide: int, level: float
    ) -> None:
        values = level + np.add.outer(np.linspace(0.0, 9.0, rows), np.linspace(0.0, 5.0, columns))
        found = resampled(values, high, wide)
        self.assertEqual(found.shape, (high, wide))
        self.assertTrue(values.min() - 1e-9 <= found.min() and found.max() <= values.max() + 1e-9)
        np.testing.assert_allclose(resampled(np.full((rows, columns), level), high, wide), level)
        self.assertEqual(difference(values, values).max(), 0.0)


class ToldTest(unittest.TestCase):
    def test_pictures_hands_and_software_stand_beside_each_other(self) -> None:
        picture = Picture(np.full((60, 85), 60.0), reflected_c=22.0, at_s=90.0, name="b.csv")
        hands = [
            HandReading(10.0, "surface", 50.0, 2.0, "°C", place="vrm"),
            HandReading(20.0, "contact", 61.0, 1.5, "°C", place="vrm"),
            HandReading(20.0, "noise", 31.0, 1.0, "dBA", place="vrm"),
        ]
        found = {one.item.name: one for one in told_of(BOARD, picture, hands, None)}
        self.assertEqual(set(found), {"vrm", "vrm back"})
        hand = found["vrm"].hand
        assert hand is not None
        self.assertEqual(hand.kind, "contact")
        readings = as_readings(list(found.values()), picture)
        self.assertEqual(
            [(r.place, r.at_s, r.kind) for r in readings],
            [("vrm", 90.0, "surface"), ("vrm back", 90.0, "surface")],
        )
        alone = {one.item.name: one for one in told_of(BOARD, None, hands, None)}
        self.assertEqual(alone["vrm"].surface, Measured(61.0, 1.5))
        self.assertIsNone(alone["vrm back"].surface)

    def test_the_rise_grows_as_the_heat_does(self) -> None:
        surface, room = Measured(62.0, 2.0), Measured(22.0, 0.4)
        found = at_heat(surface, room, Measured(50.0, 0.5), 100.0)
        assert found is not None
        # 40 K at 50 W are 80 K at 100 W; twice the surface's 2 K, the room's own, 80 K times 1 %.
        self.assertAlmostEqual(found.surface.value, 102.0)
        self.assertAlmostEqual(found.surface.half_width or 0.0, (4.0**2 + 0.4**2 + 0.8**2) ** 0.5)
        self.assertTrue(found.extrapolated)
        near = at_heat(surface, room, Measured(50.0, 0.5), 60.0)
        assert near is not None
        self.assertFalse(near.extrapolated)
        self.assertIsNone(at_heat(surface, room, Measured(0.0, 0.5), 60.0))

    def test_burns_by_the_standards_table(self) -> None:
        for celsius, made_of, words in (
            (42.0, "plastic", "8 h"), (43.5, "plastic", "10 min, 8 h open"), (47.0, "bare metal", "10 min"),
            (50.0, "anodised metal", "1 min"), (52.0, "bare metal", "less than 1 min"), (55.0, "ceramic", "1 min"),
            (58.0, "plastic", "1 min"), (61.5, "plastic", "less than 1 min"),
        ):  # fmt: skip
            self.assertEqual(no_burn_within(Measured(celsius, 0.9), made_of), words, (celsius, made_of))
        self.assertEqual(no_burn_within(Measured(42.0), "board"), "about 8 h")
        for made_of in EMISSIVITY:
            self.assertTrue(no_burn_within(Measured(20.0, 1.0), made_of))

    def test_a_difference_joins_both_widths(self) -> None:
        self.assertEqual(less(Measured(60.0, 3.0), Measured(50.0, 4.0)), Measured(10.0, 5.0))


if __name__ == "__main__":
    unittest.main()
