"""Storage loads: each kind of work on a real file, what is chosen of it, what it leaves behind, and what it refuses."""

from __future__ import annotations

import os
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest.mock import patch

from samovar.bench.loads import storage
from samovar.bench.loads.catalogue import KINDS, OwnLoad, check_own, work_of
from samovar.bench.loads.combined import make_load
from samovar.bench.loads.processor import ProcessorLoad
from samovar.bench.loads.protocol import LoadError

WORKS_WITHIN_S = 30.0
SMALL = {"file": 16 << 20}


class StorageTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = self.enterContext(tempfile.TemporaryDirectory())
        self.enterContext(patch.dict(os.environ, {storage.FOLDER: self.folder}))

    def until(self, true: Callable[[], bool]) -> None:
        until = time.monotonic() + WORKS_WITHIN_S
        while not true():
            self.assertLess(time.monotonic(), until)
            time.sleep(0.02)

    def test_each_kind_does_its_work_and_leaves_nothing(self) -> None:
        for name in storage.KERNELS:
            load = ProcessorLoad(name, 1, options=SMALL)
            load.start()
            try:
                self.until(lambda load=load: load.work_done()[0] > 0.0)  # type: ignore[misc]
                self.assertIsNone(load.ended(), name)
                self.assertEqual(list(Path(self.folder).iterdir()), [], name)
            finally:
                load.stop()
            (channel,) = load.work
            self.assertEqual(
                (channel.role, channel.unit), ("storage", "IOPS" if "random" in name else "MB/s")
            )

    def test_work_is_blocks_and_no_more(self) -> None:
        # Counted here by the system's own account of what this process read, which direct reads enter in full.
        descriptor, direct = storage.open_file()
        os.close(descriptor)
        if not direct or not os.access("/proc/self/io", os.R_OK):
            self.skipTest("no direct reads, or no account of them, here")
        done = storage.random_read(1, block=8192, queue=4, file=16 << 20)
        while next(done) == 0.0:
            pass

        def read_bytes() -> int:
            lines = Path("/proc/self/io").read_text("ascii").splitlines()
            return next(int(line.split()[1]) for line in lines if line.startswith("rchar"))

        before = read_bytes()
        operations = sum(next(done) for _ in range(10))
        # What reading the account itself takes is a few hundred bytes a time.
        self.assertAlmostEqual((read_bytes() - before) / 8192, operations, delta=2.0)

    def test_block_queue_and_file_are_chosen(self) -> None:
        own = OwnLoad("deep", "ours", "storage random write", block_kb=16, queue=64, file_mb=32)
        check_own(own, {})
        self.assertIn("blocks of 16 KB, 64 at once, a file of 32 MB", own.words)
        load = make_load("deep", None, {"deep": own})
        load.start()
        try:
            self.until(lambda: load.work_done()[0] > 0.0)
        finally:
            load.stop()
        for wrong, words in (
            (OwnLoad("x", "ours", "storage read", block_kb=6), "multiple of 4 KB"),
            (OwnLoad("x", "ours", "memory", queue=4), "no blocks, queue or file"),
        ):
            with self.assertRaisesRegex(LoadError, words):
                check_own(wrong, {})

    def test_what_has_no_room_or_no_folder_is_refused(self) -> None:
        load = ProcessorLoad("storage read", 1, options={"file": 1 << 46})
        with self.assertRaisesRegex(LoadError, "ask for a smaller file"):
            load.start()
        with (
            patch.dict(os.environ, {storage.FOLDER: self.folder + "/nowhere"}),
            self.assertRaisesRegex(LoadError, "no such file or directory; name another folder"),
        ):
            ProcessorLoad("storage read", 1).start()

    def test_a_folder_that_keeps_blocks_in_memory_is_told(self) -> None:
        with patch.object(storage, "is_direct", return_value=False):
            load = ProcessorLoad("storage read", 1, options=SMALL)
            load.start()
            load.stop()
        self.assertIn("past the system's memory", load.told()[0])

    def test_several_at_once_count_each_part_of_the_machine(self) -> None:
        own = {
            "all": OwnLoad("all", "several", parts=("worst case", "storage read", "heavy work", "small")),
            "small": OwnLoad("small", "ours", "storage read", file_mb=16),
        }
        self.assertEqual([c.id for c in work_of("all", own)], ["load:work", "load:drive read"])
        self.assertEqual(work_of("all", own), make_load("all", None, own).work)
        for name, kind in KINDS.items():
            self.assertEqual(work_of(name, {}), (kind.work,))


if __name__ == "__main__":
    unittest.main()
