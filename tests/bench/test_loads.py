"""The processor loads of this machine: real workers, honest counts, nothing left behind."""

from __future__ import annotations

import os
import time
import unittest

import psutil

from samovar.bench.loads.catalogue import KINDS
from samovar.bench.loads.processor import ProcessorLoad, default_threads
from samovar.bench.loads.protocol import LoadError


class ProcessorLoadTest(unittest.TestCase):
    def test_each_load_does_work_and_ends(self) -> None:
        for name in (n for n, kind in KINDS.items() if kind.kernel):
            with self.subTest(load=name):
                load = ProcessorLoad(name, threads=1)
                load.start()
                try:
                    workers = list(load._workers)
                    deadline = time.monotonic() + 10.0
                    while load.work_done()[0] <= 0 and time.monotonic() < deadline:
                        time.sleep(0.05)
                    first = load.work_done()[0]
                    time.sleep(1.0)
                    self.assertGreater(load.work_done()[0], first)
                finally:
                    began = time.monotonic()
                    load.stop()
                self.assertLess(time.monotonic() - began, 2.0)
                self.assertFalse(any(psutil.pid_exists(w.pid) for w in workers))

    def test_a_full_load_uses_a_core(self) -> None:
        load = ProcessorLoad("worst case", threads=1)
        load.start()
        try:
            worker = psutil.Process(load._workers[0].pid)
            while load.work_done()[0] <= 0:
                time.sleep(0.05)
            before, began = worker.cpu_times(), time.monotonic()
            time.sleep(1.5)
            after = worker.cpu_times()
            share = (after.user + after.system - before.user - before.system) / (time.monotonic() - began)
        finally:
            load.stop()
        self.assertGreater(share, 0.4)

    def test_what_this_machine_cannot_carry_is_refused_with_the_figure(self) -> None:
        usable = default_threads("worst case")
        with self.assertRaisesRegex(LoadError, f"this machine has {usable}"):
            ProcessorLoad("worst case", threads=usable + 1)
        with self.assertRaisesRegex(LoadError, "no load 'volcano'"):
            ProcessorLoad("volcano")

    def test_stopping_twice_is_no_harm(self) -> None:
        load = ProcessorLoad("everyday", threads=1)
        load.stop()
        load.start()
        load.stop()
        load.stop()
        self.assertEqual(load.name, "everyday")
        self.assertTrue(os.getpid())


if __name__ == "__main__":
    unittest.main()
