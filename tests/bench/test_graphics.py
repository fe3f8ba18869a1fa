"""Graphics loads, on whatever chip there is; in CI one of software."""

from __future__ import annotations

import os
import time
import unittest
from unittest.mock import patch

import psutil

from samovar.bench.loads.catalogue import KINDS, OwnLoad
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.graphics import CHOSEN, KERNELS, NoChip, _device
from samovar.bench.loads.processor import ProcessorLoad
from samovar.bench.loads.protocol import Load, LoadError


def _why_not() -> str:
    try:
        _device()
    except NoChip as problem:
        return str(problem)
    return ""


WHY_NOT = _why_not()
WORKS_WITHIN_S = 60.0
"""A driver of software builds its programs first."""


@unittest.skipIf(WHY_NOT, WHY_NOT)
class GraphicsTest(unittest.TestCase):
    def until_works(self, load: Load) -> None:
        began = time.monotonic()
        while not load.work_done()[0] > 0.0:
            self.assertIsNone(load.ended())
            self.assertLess(time.monotonic() - began, WORKS_WITHIN_S)
            time.sleep(0.05)

    def test_each_counts_what_the_chip_has_done_and_ends_at_once(self) -> None:
        self.assertEqual(set(KERNELS), {name for name, kind in KINDS.items() if kind.graphics})
        for name in KERNELS:
            with self.subTest(name):
                load = ProcessorLoad(name)
                load.start()
                workers = psutil.Process().children()
                try:
                    self.until_works(load)
                    before, began = load.work_done()[0], time.monotonic()
                    time.sleep(0.6)
                    self.assertGreater(load.work_done()[0], before)
                finally:
                    began = time.monotonic()
                    load.stop()
                self.assertLess(time.monotonic() - began, 1.0)
                self.assertFalse(any(p.is_running() for p in workers))

    def test_with_a_processor_load_at_once(self) -> None:
        both = OwnLoad("both at once", "several", parts=("compression", "graphics arithmetic"))
        load = make_load("both at once", None, {"both at once": both})
        load.start()
        try:
            self.until_works(load)
        finally:
            load.stop()

    def test_a_chip_that_is_not_there_and_memory_that_is_not_there_are_refused(self) -> None:
        with (
            patch.dict(os.environ, {CHOSEN: "no such chip"}),
            self.assertRaisesRegex(LoadError, "no graphics chip is called 'no such chip'"),
        ):
            ProcessorLoad("graphics memory").start()
        load = ProcessorLoad("graphics memory")
        huge = KINDS["graphics memory"].__class__(
            **{**KINDS["graphics memory"].__dict__, "memory_bytes": 1 << 45}
        )
        with patch.object(load, "_kind", huge), self.assertRaisesRegex(LoadError, "cannot be used"):
            load.start()


if __name__ == "__main__":
    unittest.main()
