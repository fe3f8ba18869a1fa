"""The course: steps of load and fans, loads started by hand, rules as people type them."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from samovar.bench.course import Course
from samovar.bench.course_spec import (
    CourseSpec,
    CourseStep,
    DueReading,
    read_course,
    read_due,
    read_limits,
    read_step,
    spec_of,
    step_words,
)
from samovar.core.units import Unreadable


def walk(course: Course, seconds: float, die: Any = lambda t: 40.0) -> list[tuple[float, str, int]]:
    """Every change of step, told a sample a second."""
    found, last = [], (course.step, course.index)
    for t in np.arange(0.0, seconds, 1.0):
        step = course.advance(float(t), float(die(t)))
        if (step, course.index) != last:
            last = (step, course.index)
            found.append((float(t), step, course.index))
        if step == "done":
            break
    return found


class CourseTest(unittest.TestCase):
    def test_steps_follow_each_other(self) -> None:
        steps = (CourseStep(fan_share=0.4, load_s=30.0), CourseStep("heavy work", load_s=20.0))
        spec = CourseSpec(
            "worst case", idle_least_s=5.0, idle_most_s=10.0, cool_down_most_s=10.0, steps=steps
        )
        course = Course(spec)
        self.assertEqual(
            walk(course, 200.0),
            [(10.0, "load", 0), (40.0, "load", 1), (60.0, "cool-down", 1), (70.0, "done", 1)],
        )
        self.assertEqual([name for name, _ in course.steps], ["idle", "load", "load", "cool-down", "done"])
        self.assertEqual(spec.longest_s, 70.0)

    def test_a_load_started_by_hand_waits_for_the_hand(self) -> None:
        course = Course(
            CourseSpec("console", idle_least_s=5.0, idle_most_s=10.0, load_s=20.0, cool_down_most_s=0.0),
            by_hand=True,
        )
        self.assertEqual(walk(course, 60.0), [])
        self.assertTrue(course.waiting)
        course.release()
        self.assertEqual(course.advance(61.0, 40.0), "load")
        self.assertFalse(course.waiting)
        course.load_ended()
        self.assertEqual(course.advance(62.0, 40.0), "done")

    def test_a_settled_load_waits_for_the_reading_that_is_due_but_not_for_ever(self) -> None:
        def end(attended: bool, taken_at: float | None) -> float:
            course = Course(
                CourseSpec("worst case", idle_most_s=0.0, cool_down_most_s=0.0), attended=attended
            )
            for t in range(2000):
                if taken_at is not None and t >= taken_at:
                    course.reading_taken("noise")
                if course.advance(float(t), 60.0 + 0.01 * (t % 2)) == "done":
                    return float(t)
            raise AssertionError("it never ended")

        alone = end(False, None)
        self.assertEqual(end(True, 0.0), alone)
        self.assertEqual(end(True, alone + 20.0), alone + 20.0)
        self.assertEqual(end(True, None), alone + 90.0)

    def test_until_steady_within_a_width_takes_longer(self) -> None:
        noise = np.random.default_rng(1).normal(0.0, 0.5, 4000)

        def die(t: float) -> float:
            return 80.0 - 40.0 * np.exp(-t / 60.0) + noise[int(t)]

        ends = []
        for within in (None, 0.04):
            spec = CourseSpec("worst case", idle_most_s=0.0, cool_down_most_s=0.0, within_k=within)
            ends.append(walk(Course(spec), 1900.0, die)[-1][0])
        self.assertLess(ends[0], ends[1])

    def test_steps_and_readings_as_people_type_them(self) -> None:
        self.assertEqual(read_step("fans 40 %"), CourseStep("", 0.4))
        self.assertEqual(read_step("heavy work fans 60 % for 10 min"), CourseStep("heavy work", 0.6, 600.0))
        self.assertEqual(read_step("memory at most 12:00"), CourseStep("memory", None, None, 720.0))
        self.assertEqual(read_due("Noise"), DueReading("noise"))
        self.assertEqual(read_due("surface at the end"), DueReading("surface", "at the end"))
        self.assertEqual(read_due("wall power at 10:00"), DueReading("wall power", "at", 600.0))
        for wrong in ("", "fans 400 %"):
            with self.subTest(wrong=wrong), self.assertRaises(Unreadable):
                read_step(wrong)
        self.assertEqual(read_limits(["vrm 100", "Zone acpitz 62,5"]), {"vrm": 100.0, "Zone acpitz": 62.5})
        for wrong in ("100", "vrm", "vrm 1000"):
            with self.subTest(wrong=wrong), self.assertRaises(Unreadable):
                read_limits([wrong])
        body = read_course({"limits": ["vrm 100"], "rise_k_per_s": 3.0})
        self.assertEqual((spec_of("x", body).limits, spec_of("x", body).rise_k_per_s), (("vrm 100",), 3.0))
        with self.assertRaisesRegex(Unreadable, "noise when settled"):
            read_due("smell")

    @given(
        st.sampled_from(["", "heavy work", "kernel build"]), st.none() | st.integers(0, 100),
        st.none() | st.integers(1, 7200), st.booleans(),
    )  # fmt: skip
    def test_every_step_is_typed_back_as_it_was(
        self, load: str, fan: int | None, seconds: int | None, fixed: bool
    ) -> None:
        share = None if fan is None else fan / 100.0
        time_s = None if seconds is None else float(seconds)
        step = CourseStep(load, share, time_s if fixed else None, None if fixed else time_s)
        if step != CourseStep():
            self.assertEqual(read_step(step_words(step)), step)

    def test_a_kept_course_makes_the_cells_spec(self) -> None:
        body = read_course(
            {"load_s": 600.0, "steps": ["fans 40 %"], "readings": ["score"], "calm_k_per_min": None}
        )
        self.assertEqual(body, {"load_s": 600.0, "steps": ["fans 40 %"], "readings": ["score when settled"]})
        self.assertEqual(read_course(body), body)
        spec = spec_of("worst case", body, limit_c=95.0)
        self.assertEqual(
            (spec.stop_above_c, spec.steps, spec.readings),
            (105.0, (CourseStep("", 0.4),), (DueReading("score"),)),
        )
        self.assertEqual(spec_of("x", {}).stop_above_c, 105.0)
        self.assertEqual(spec_of("x", {"stop_above_c": 90.0}, 95.0).stop_above_c, 90.0)
        with self.assertRaisesRegex(Unreadable, "longer than"):
            read_course({"idle_least_s": 900.0})


if __name__ == "__main__":
    unittest.main()
