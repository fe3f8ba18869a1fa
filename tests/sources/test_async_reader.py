"""Sources that are slow, raise or hang: read as late as they answer, told why not, and back when they are."""

from __future__ import annotations

import itertools
import math
import re
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path

from samovar.bench.clock import MonotonicClock
from samovar.bench.recorder import Recorder
from samovar.core.quantity import Channel
from samovar.sources.async_reader import AsyncReader
from tests.bench.test_recorder import FakeSource, Memory
from tests.recordings import DIE, POWER

ATTEMPTS = 6


class SlowSourceTest(unittest.TestCase):
    def record(self, made: Callable[[], FakeSource], for_s: float, rate_hz: float) -> Memory:
        """What is recorded of a source beside one that always answers. Where that one did not, or a beat came late, the machine itself
        stood still, which tells nothing of the other: then once more."""
        for _ in range(ATTEMPTS):
            sink = Memory()
            plain = FakeSource(DIE, lambda t: 40.0, "plain")
            Recorder([plain, made()], MonotonicClock(), sink, rate_hz=rate_hz, for_s=for_s).run()
            beats = [after - before for before, after in itertools.pairwise(sink.times)]
            if all(row[0] == 40.0 for row in sink.rows) and max(beats) < 1.5 / rate_hz:
                return sink
        self.fail("a source that always answers has gaps, or beats come late")

    def test_late_answers_are_kept_with_their_moment(self) -> None:
        # As latencies of 0.3 s and 0.6 s are at 1 Hz, five times as fast.
        for latency_s in (0.06, 0.12):
            with self.subTest(latency_s=latency_s):

                def slow(latency_s: float = latency_s) -> FakeSource:
                    began = time.monotonic()

                    def late(t: float) -> float:
                        time.sleep(latency_s)
                        return time.monotonic() - began

                    return FakeSource(POWER, late, "late")

                sink = self.record(slow, 2.0, 5.0)
                offset = min(
                    row[1] - at
                    for at, row in zip(sink.times, sink.rows, strict=True)
                    if math.isfinite(row[1])
                )
                known = [
                    (at, row[1])
                    for at, row in zip(sink.times, sink.rows, strict=True)
                    if math.isfinite(row[1])
                ]
                self.assertGreaterEqual(len(known), 8)
                # Each stands at the sample nearest to when it was taken: never more than half a beat away.
                self.assertTrue(all(abs(value - at - offset) < 0.21 for at, value in known), known)

    def test_what_raises_is_a_gap_with_its_reason_and_comes_back(self) -> None:
        def fail(t: float) -> float:
            if 0.3 < t < 0.8:
                raise OSError("the line was pulled")
            return 231.0

        sink = self.record(lambda: FakeSource(POWER, fail, "wall meter"), 1.5, 10.0)
        values = [row[1] for row in sink.rows]
        self.assertEqual((values[0], values[-1]), (231.0, 231.0))
        self.assertGreater(sum(math.isnan(v) for v in values), 2)
        self.assertEqual(
            [m.text for m in sink.marks],
            ["wall meter: no value (OSError: the line was pulled)", "wall meter: answers again"],
        )

    def test_a_wrong_number_of_values_is_none(self) -> None:
        class Odd(FakeSource):
            def sample(self) -> list[float]:
                return [1.0, 2.0]

        sink = self.record(lambda: Odd(POWER, lambda t: 1.0, "odd"), 0.5, 10.0)
        self.assertTrue(all(math.isnan(row[1]) for row in sink.rows))
        self.assertIn("for 1 channels", sink.marks[0].text)

    def test_what_hangs_is_left_behind_and_comes_back(self) -> None:
        free = threading.Event()
        answers = iter(range(100))

        def hang() -> int:
            free.wait(10.0)
            return next(answers)

        reader = AsyncReader(hang)
        self.addCleanup(reader.close)
        self.assertTrue(reader.ask())
        began = time.monotonic()
        self.assertIsNone(reader.take(0.05))
        self.assertFalse(reader.ask())
        self.assertLess(time.monotonic() - began, 1.0)
        self.assertGreater(reader.silent_s, 0.0)
        free.set()
        answer = reader.take(5.0)
        assert answer is not None
        self.assertEqual(answer.said, 0)
        self.assertIsNone(reader.take())
        reader.ask()
        answer = reader.take(5.0)
        assert answer is not None
        self.assertEqual(answer.said, 1)


class DocumentedTest(unittest.TestCase):
    def test_the_example_in_contributing_works_as_it_stands(self) -> None:
        text = (Path(__file__).parents[2] / "CONTRIBUTING.md").read_text(encoding="utf-8")
        code = re.search(r"## How to add a source.*?```python\n(.*?)```", text, re.S)
        assert code is not None
        names: dict[str, object] = {}
        exec(compile(code[1], "CONTRIBUTING.md", "exec"), names)

        class Line:
            """A serial line that takes 0.3 s for its answer, and once gives none."""

            said = iter(["230.5", "", *["231.0"] * 100])

            def readline(self) -> str:
                time.sleep(0.3)
                return next(self.said)

            def close(self) -> None:
                pass

        sink = Memory()
        meter = names["WallMeter"](Line())  # type: ignore[operator]
        Recorder([meter], MonotonicClock(), sink, rate_hz=1.0, for_s=5.0).run()
        self.assertEqual(meter.channels, (Channel("Wall power", "power", "W", "wall", "case", "meter:wall"),))
        values = [row[0] for row in sink.rows]
        self.assertEqual(values[0], 230.5)
        self.assertTrue(math.isnan(values[1]))
        self.assertEqual(values[2:5], [231.0] * 3)


if __name__ == "__main__":
    unittest.main()
