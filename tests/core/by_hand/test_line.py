"""Lines as people type them: what each becomes, and what is refused."""

from __future__ import annotations

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from samovar.core.by_hand.line import Circumstances, read_line, read_value
from samovar.core.by_hand.reading import KINDS, HandReading
from samovar.core.measured import AT_LEAST, AT_MOST
from samovar.core.rig import Rig
from samovar.core.units import Unreadable

OVER = Circumstances(room_c=22.5, duration_s=1500.0)
BOOTH = Rig(1, "r", details={"meter_class": "class 2", "meter_distance_m": 0.5, "background_dba": 17.0})


def read(line: str, there: Circumstances = OVER) -> HandReading:
    return read_line(line, there)


class LineTest(unittest.TestCase):
    def becomes(self, line: str, value: float, unit: str, bound: str | None = None) -> HandReading:
        found = read(line)
        assert found.value is not None
        self.assertAlmostEqual(found.value, value, places=2, msg=line)
        self.assertEqual((found.unit, found.bound), (unit, bound), line)
        return found

    def test_the_worked_example(self) -> None:
        # 34.5 dBA is 4.5 over the background: at most itself less 1.3; 3 ft to 1 m takes 0.78 dB off; a phone's 5 dB
        # and half of the range joined.
        found = self.becomes("noise 33 to 36 dBA at 3 ft, phone, background 30", 32.42, "dBA", AT_MOST)
        self.assertAlmostEqual(found.half_width or 0.0, 5.2, delta=0.05)
        self.assertEqual((found.instrument, found.background), ("phone", 30.0))
        self.assertAlmostEqual(found.distance_m or 0.0, 0.9144)

    def test_values_in_the_ways_people_write_them(self) -> None:
        for line, value, unit, bound in (
            ("noise 27,4 dB(A)", 27.4, "dBA", None),
            ("noise < 34", 34.0, "dBA", AT_MOST),
            ("noise at least 40 dB", 40.0, "dBA", AT_LEAST),
            ("noise not above background 30", 30.0, "dBA", AT_MOST),
            ("noise inaudible, background 21", 21.0, "dBA", AT_MOST),
            ("noise below background 24 dBA at 1 m", 24.0, "dBA", AT_MOST),
            ("noise 33–36 dB(A) @ 1m", 34.5, "dBA", None),
            ("noise 33 to 36 dBA at 3 ft phone background 30", 32.42, "dBA", AT_MOST),
            ("score 61 frames per second", 61.0, "fps", None),
            ("time 17:46 min", 1066.0, "s", None),
            ("score 5012 points", 5012.0, "points", None),
            ("score 61.2 fps", 61.2, "fps", None),
            ("time 17:46", 1066.0, "s", None),
            ("time 1:02:03", 3723.0, "s", None),
            ("time 17 min 46 s", 1066.0, "s", None),
            ("room 72 °F", 22.22, "°C", None),
            ("surface 86 °F on vrm", 30.0, "°C", None),
            ("wall power 0.131 kW", 131.0, "W", None),
            ("voltage 1182 mV on core", 1.182, "V", None),
            ("storage read 3400 MB/s", 3400.0, "MB/s", None),
            ("storage write 2.1 GB/s", 2100.0, "MB/s", None),
            ("fan no fan", 0.0, "rpm", None),
            ("other 231 V", 231.0, "V", None),
        ):
            with self.subTest(line=line):
                self.becomes(line, value, unit, bound)

    def test_what_stands_beside_a_value_in_any_order(self) -> None:
        found = read("surface 86 °C on vrm back, e 0.95, at 12:30")
        self.assertEqual((found.part, found.emissivity, found.at_s), ("vrm back", 0.95, 750.0))
        turned = read("surface 86 °C, at 12:30, e 0.95 on vrm back")
        self.assertEqual((turned.value, turned.part, turned.at_s), (found.value, found.part, found.at_s))
        self.assertEqual(read("contact 58.2 on regulator heatsink, K1").part, "vrm heatsink")
        heard = read("noise 30 at 50 cm, hum and whine, sounds like a kettle")
        self.assertEqual(heard.character, "hum, whine, a kettle")
        self.assertAlmostEqual(heard.value or 0.0, 30.0 - 6.02, places=2)
        self.assertEqual(read("wall power 131 W, with Moor wall meter").instrument, "Moor wall meter")

    def test_the_rig_stands_in_for_what_a_line_leaves_out(self) -> None:
        there = Circumstances(BOOTH, compared_at_m=1.0)
        found = read("noise 30", there)
        # 17 dBA taken off, then from half a metre to one.
        self.assertAlmostEqual(found.value or 0.0, 10 * math.log10(10**3 - 10**1.7) - 6.0206, places=3)
        self.assertEqual(read("noise 30 at 1 m, background 20", there).distance_m, 1.0)
        self.assertEqual(read("noise not above background", there).bound, AT_MOST)
        self.assertAlmostEqual(
            read("noise 30", Circumstances(BOOTH, compared_at_m=0.5)).value or 0.0, 29.776, places=2
        )

    def test_a_typed_width_is_the_readers_but_makes_no_instrument_better(self) -> None:
        self.assertEqual(read("noise 27.4 ± 0.8").half_width, 0.8)
        self.assertEqual(read("noise 27.4 ± 0.8, class 2").half_width, 1.4)
        self.assertEqual(read("wall power 131 W ± 2 %").half_width, 2.62)
        self.assertAlmostEqual(
            read("contact 33 to 36, Pt B").half_width or 0.0, math.hypot(1.5, 0.5456), places=2
        )

    def test_spot_readings_are_put_right(self) -> None:
        bare = read("surface 28.1 °C on bare metal")
        self.assertGreater(bare.value or 0.0, 60.0)
        self.assertGreater(bare.half_width or 0.0, 15.0)
        self.assertIn("showed 28.1 °C", bare.words)
        matched = read("surface 61.3, e 0.6, set to 0.6", Circumstances())
        self.assertAlmostEqual(matched.value or 0.0, 61.3)
        self.assertEqual(read("surface 58.2 probe K1").kind, "contact")

    def test_no_fan_has_no_level_unless_a_background_bounds_it(self) -> None:
        self.assertEqual((read("noise no fan").value, read("noise no fan").result()), (None, None))
        bounded = read("noise no fan, background 24")
        self.assertEqual((bounded.value, bounded.bound, bounded.character), (24.0, AT_MOST, "no fan"))

    def test_ago_is_told_from_now(self) -> None:
        self.assertEqual(read("noise 27.4, 2 min ago", Circumstances(now_s=600.0)).at_s, 480.0)
        self.assertEqual(read("score 8120", Circumstances(now_s=600.0)).at_s, 600.0)

    def test_what_cannot_be_read_is_refused_with_an_example(self) -> None:
        for line, words in (
            ("27.4", "begins with its kind"), ("noise", "nothing is written"), ("noise loud", "no reading"),
            ("noise 33 to 36 apples", "'apples' is not understood"), ("noise 36 to 33", "downwards"),
            ("noise 300", "beyond what can be"), ("surface 900", "beyond what can be"), ("noise 30, phone, phone", "said already"),
            ("score 12,345", "may be 12345 or 12.345"), ("room 75", "beyond what can be"), ("time long", "no reading"),
            ("noise 30, 5 min ago", "the run is over"), ("noise 30, at 99:00", "lasts 25.0 min"),
            ("noise 30 at 5 km", "not understood"), ("noise not above background", "over which background"),
            ("surface 61, e 1.2", "not understood|emissivity"), ("surface vrm 61 on memory", "write one of them"),
            ("wall power 12 rpm", "not understood"), ("score 0x10", "not understood"), ("time 17:99", "not understood|no reading"),
        ):  # fmt: skip
            with self.subTest(line=line), self.assertRaisesRegex(Unreadable, words):
                read(line)
        with self.assertRaisesRegex(Unreadable, "room is not known"):
            read("surface 61 bare metal", Circumstances())

    @given(st.sampled_from(sorted(KINDS)), st.text(max_size=40))
    def test_whatever_is_typed_is_read_or_refused(self, kind: str, text: str) -> None:
        try:
            found = read_value(kind, text, OVER)
        except Unreadable as refusal:
            self.assertNotIn("\n", str(refusal))
            return
        self.assertTrue(found.value is None or math.isfinite(found.value))

    @given(st.floats(15, 80), st.floats(0.1, 5.0))
    def test_a_range_joins_half_of_itself_to_the_meters_own(self, level: float, half: float) -> None:
        low, high = round(level - half, 2), round(level + half, 2)
        found = read(f"noise {low} to {high} dBA, class 2")
        self.assertAlmostEqual(found.half_width or 0.0, math.hypot(1.4, (high - low) / 2), places=9)


if __name__ == "__main__":
    unittest.main()
