"""The command line against its contract: what it prints, its exit status, its one-line errors."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path

from samovar.simulator.harbour import SETUPS
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.tree import KernelTree
from tests.demo_archive import DEMO_RUNS, demo_archive
from tests.forked import call


class CommandLineTest(unittest.TestCase):
    folder: Path
    archive: Path

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.archive = demo_archive(cls.folder)

    def json_of(self, *arguments: str | Path) -> dict:  # type: ignore[type-arg]
        done = call(*arguments, "--json")
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        return json.loads(done.stdout)  # type: ignore[no-any-return]

    def refused(self, *arguments: str | Path, status: int = 2) -> str:
        done = call(*arguments)
        self.assertEqual(done.returncode, status, done.stderr)
        self.assertEqual(done.stdout, "")
        self.assertEqual(done.stderr.count("\n"), 1, done.stderr)
        self.assertTrue(done.stderr.startswith("samovar: "))
        return done.stderr

    def test_sources_of_a_tree(self) -> None:
        with tempfile.TemporaryDirectory() as root:
            KernelTree(Path(root), SimulatedRig(SETUPS["Osprey 161"]), 1).close()
            channels = self.json_of("sources", "--sysroot", root)["channels"]
        by_id = {c["id"]: c for c in channels}
        die = by_id["hwmon:halden:0000:00:18.3:temp1"]
        self.assertEqual((die["label"], die["unit"], die["role"], die["status"]), ("Tdie", "°C", "die", "ok"))
        self.assertEqual(by_id["hwmon:ridgeio:ridgeio.656:temp3"]["status"], "implausible")
        self.assertEqual(by_id["powercap:halden-power:package-0"]["quantity"], "power")

    def test_no_sensors_is_said_with_what_to_do(self) -> None:
        with tempfile.TemporaryDirectory() as root:
            self.assertEqual(self.json_of("sources", "--sysroot", root), {"channels": []})
            done = call("sources", "--sysroot", root)
        self.assertEqual(done.returncode, 0)
        self.assertIn("samovar demo", done.stdout)

    def test_runs_and_read_and_export_agree(self) -> None:
        runs = self.json_of("runs", "--archive", self.archive)["runs"]
        self.assertEqual(len(runs), DEMO_RUNS)
        self.assertEqual(
            set(runs[0]),
            {
                "id",
                "review",
                "setup",
                "load",
                "pass",
                "state",
                "started",
                "duration_s",
                "interval_s",
                "channels",
                "samples",
                "judgement",
            },
        )
        self.assertEqual({r["state"] for r in runs}, {"sealed", "did-not-finish"})
        for name, ending in (("r0001", "csv"), ("r0009", "parquet")):
            out = self.folder / f"{name}.{ending}"
            self.json_of("export", name, "--to", out, "--archive", self.archive)
            from_run = self.json_of("read", name, "--archive", self.archive)
            from_file = self.json_of("read", out)
            self.assertEqual(from_file, from_run)
            self.assertEqual(from_run["judgement"], next(r["judgement"] for r in runs if r["id"] == name))

    def test_read_as_text_is_a_note(self) -> None:
        done = call("read", "r0001", "--archive", self.archive)
        self.assertEqual(done.returncode, 0)
        for words in ("throttles", "Steady from", "by thermal", "Resistance: 0.9", "Rise over the room"):
            self.assertIn(words, done.stdout)

    def test_record_without_load_and_export(self) -> None:
        with tempfile.TemporaryDirectory() as root:
            KernelTree(Path(root), SimulatedRig(SETUPS["Osprey 161"]), 1).close()
            out, archive = self.folder / "out.csv", self.folder / "own.sqlite"
            done = call(
                "record",
                "--sysroot",
                root,
                "--archive",
                archive,
                "--for",
                "2",
                "--rate",
                "5",
                "--to",
                out,
                "--json",
            )
        self.assertEqual(done.returncode, 0, done.stderr)
        first, last = done.stdout.splitlines()
        self.assertEqual(json.loads(first), {"run": "r0001"})
        reading = json.loads(last)
        self.assertAlmostEqual(reading["log"]["rows"], 11, delta=1)
        self.assertTrue(out.read_text().startswith("Time (s),"))
        self.assertEqual(self.json_of("runs", "--archive", archive)["runs"][0]["state"], "sealed")

    def test_bring_keeps_a_log(self) -> None:
        log, archive = self.folder / "meter.csv", self.folder / "brought.sqlite"
        log.write_text("Time (s),Wall (W)\n" + "".join(f"{k},{100 + k}\n" for k in range(20)))
        brought = self.json_of("bring", log, "--archive", archive)
        self.assertEqual((brought["run"], brought["rows"]), ("r0001", 20))
        self.assertEqual(self.json_of("read", "r0001", "--archive", archive)["channels"][0]["role"], "wall")

    def test_every_mistake_is_one_line(self) -> None:
        self.assertIn("no such file", self.refused("read", "nowhere.csv"))
        self.assertIn("no such run", self.refused("read", "r9999", "--archive", self.archive))
        self.assertIn(
            "no such run", self.refused("export", "r9999", "--to", "x.csv", "--archive", self.archive)
        )
        self.assertIn("no such option", self.refused("runs", "--frobnicate"))
        self.assertIn("no such command", self.refused("frobnicate"))
        self.assertIn(
            "no load 'volcano'",
            self.refused("record", "--load", "volcano", "--archive", self.folder / "a.sqlite"),
        )
        self.assertIn("no such folder", self.refused("sources", "--sysroot", "/nowhere/at/all"))
        self.assertIn(
            "no such review", self.refused("publish", "nothing", "--to", "x", "--archive", self.archive)
        )
        self.assertIn("go together", self.refused("record", "--review", "x", "--archive", self.archive))
        self.assertIn("needs a terminal", self.refused("demo", "--archive", self.archive))
        text = self.folder / "list.txt"
        text.write_text("bread\nbutter\n")
        self.assertIn("list.txt:1", self.refused("read", text))
        self.assertIn("no Samovar archive", self.refused("runs", "--archive", text, status=1))

    def test_help_teaches(self) -> None:
        for command in ("demo", "sources", "read", "runs", "export", "bring", "record", "publish"):
            with self.subTest(command=command):
                done = call(command, "--help")
                self.assertEqual(done.returncode, 0)
                self.assertIn("Example: samovar", " ".join(done.stdout.split()))

    def test_version(self) -> None:
        from samovar import __version__

        self.assertEqual(call("--version").stdout.strip(), f"samovar {__version__}")


if __name__ == "__main__":
    unittest.main()
