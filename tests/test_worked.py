"""Six reviews as practitioners make them, from text to table: logs brought in, readings entered afterwards, and what
`read --json`, the Grid and the page then show."""

from __future__ import annotations

import json
import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

from samovar.archive import Archive
from samovar.archive.review_data import load_review
from samovar.publish.review import publish_review
from tests.test_cli import call
from tests.worked import ALL_S, LOAD_S, REVIEWS, STAND_AT_S, WorkedReview, loaded, warmed, write_logs

Row = dict[str, Any]


class WorkedTest(unittest.TestCase):
    folder: Path
    archive: Path
    runs: dict[tuple[str, str], str]
    readings: dict[str, Row]

    @classmethod
    def setUpClass(cls) -> None:
        holder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(holder.cleanup)
        cls.folder, cls.archive, cls.runs = Path(holder.name), Path(holder.name) / "a.sqlite", {}
        cls.readings = {}
        with Archive(cls.archive) as archive:
            for review in REVIEWS:
                key = archive.reviews.add_review(
                    review.name, "Which?", [review.load], figure=review.figure, passes_wanted=1
                )
                for k, setup in enumerate(dict.fromkeys(run.setup for run in review.runs)):
                    archive.reviews.add_setup(key, setup, None, reference=k == 0)
        for review in REVIEWS:
            for run, path in zip(review.runs, write_logs(review, cls.folder), strict=True):
                done = call(
                    "bring", path, "--archive", cls.archive, "--review", review.name, "--setup", run.setup, "--json"
                )  # fmt: skip
                assert done.returncode == 0, done.stderr
                name = json.loads(done.stdout)["run"]
                entered = call("enter", name, *run.lines, "--archive", cls.archive, "--json")
                assert entered.returncode == 0, entered.stderr
                cls.runs[review.name, run.setup] = name

    def read(self, review: str, setup: str) -> Row:
        name = self.runs[review, setup]
        if name not in self.readings:
            done = call("read", name, "--archive", self.archive, "--json")
            self.assertEqual(done.returncode, 0, done.stderr)
            self.readings[name] = json.loads(done.stdout)
        return self.readings[name]

    def result(
        self, review: str, setup: str, statistic: str, quantity: str, part: str | None, **more: Any
    ) -> Row:
        wanted = {"statistic": statistic, "quantity": quantity, "part": part, **more}
        rows = [
            r for r in self.read(review, setup)["results"] if all(r.get(k) == v for k, v in wanted.items())
        ]
        self.assertTrue(rows, wanted)
        return rows[0]

    def test_memory_without_any_die_is_still_a_run_with_results(self) -> None:
        bare = self.result("Memory coolers", "Bare", "rise", "temperature", "memory")
        self.assertAlmostEqual(bare["value"], 39.0, delta=0.3)
        self.assertEqual(self.result("Memory coolers", "Bare", "score", "score", None)["value"], 8120.0)
        noise = self.result("Memory coolers", "Quill wing", "level", "noise", None)
        self.assertEqual(
            (noise["bound"], noise["source"], round(noise["value"], 1)), ("at most", "by hand", 32.4)
        )
        self.assertEqual(self.read("Memory coolers", "Bare")["judgement"], None)

    def test_a_drive_has_its_temperature_and_what_it_wrote_sustained_and_hot(self) -> None:
        without = ("Drive heatsinks", "Without")
        self.assertAlmostEqual(
            self.result(*without, "steady", "temperature", "storage")["value"], 84.0, delta=0.3
        )
        # The room was read by hand, after the log: it gives the rise.
        self.assertAlmostEqual(
            self.result(*without, "rise", "temperature", "storage")["value"], 84.0 - 22.2, delta=0.4
        )
        for setup, sustained in (("Without", 900.0), ("Slab heatsink", 3200.0)):
            steady = self.result("Drive heatsinks", setup, "steady", "work", "storage", direction="write")
            self.assertAlmostEqual(steady["value"], sustained, delta=6.0)
            self.assertEqual(steady["unit"], "MB/s")
            hot = self.result("Drive heatsinks", setup, "hot", "work", "storage", direction="write")
            self.assertAlmostEqual(hot["value"], sustained, delta=60.0)
        total = self.result(*without, "total", "work", "storage", direction="write")
        self.assertEqual(total["unit"], "MB")
        self.assertGreater(total["value"], 900.0 * LOAD_S)
        hand = self.result(*without, "mean", "work", "storage", source="by hand")
        self.assertEqual((hand["value"], hand["direction"]), (1400.0, "write"))

    def test_a_stand_put_under_a_laptop_in_mid_run(self) -> None:
        stand = ("Laptop stand", "Desk, then stand")
        self.assertAlmostEqual(
            self.result(*stand, "peak", "temperature", "hotspot")["value"], 96.0, delta=0.3
        )
        self.assertAlmostEqual(
            self.result(*stand, "steady", "temperature", "hotspot")["value"], 68.0, delta=0.3
        )
        from samovar.core.effect import effects

        with Archive(self.archive) as archive:
            run = archive.runs.run(self.runs[stand])
            assert run is not None
            recording = archive.runs.recording(run.number)
        found = effects(recording, STAND_AT_S, STAND_AT_S + 600.0)
        hotspot = next(e for e in found if e.channel.role == "hotspot")
        self.assertAlmostEqual(hotspot.difference.value, -28.0, delta=0.3)
        self.assertAlmostEqual(hotspot.ninety_s or 0.0, 94.0, delta=4.0)

    def test_a_board_measured_in_three_ways(self) -> None:
        plain = ("Board with a duct", "Plain")
        vrm = self.result(*plain, "steady", "temperature", "vrm")
        die = self.result(*plain, "steady", "temperature", "die")
        self.assertAlmostEqual(vrm["value"], 88.0, delta=0.4)
        # The regulators warm for four minutes a time constant, the die for half a minute: each has its own window.
        self.assertGreater(vrm["window"][0], die["window"][0] + 600.0)
        back = self.result(*plain, "at", "temperature", "vrm back")
        heatsink = self.result(*plain, "at", "temperature", "vrm heatsink")
        self.assertEqual((round(back["value"], 1), round(heatsink["value"], 1)), (93.0, 85.5))
        self.assertEqual(back["at_s"], 26 * 60 - self.read(*plain)["phases"][1]["start_s"])

    def test_two_fan_speeds_in_one_log_are_a_curve(self) -> None:
        steps = self.read("One cooler, two speeds", "Osprey 161")["steps"]
        self.assertEqual([re.sub(r"\d+", "N", s["name"]) for s in steps], ["fan N rpm", "fan N rpm"])
        for step, rise, noise in zip(steps, (52.0, 40.0), (23.0, 33.5), strict=True):
            rows = {(r["statistic"], r["quantity"], r["part"]): r["value"] for r in step["results"]}
            self.assertAlmostEqual(rows["rise", "temperature", "die"], rise, delta=0.3)
            self.assertAlmostEqual(rows["level", "noise", None], noise, delta=0.1)

    def test_a_single_board_computers_own_log(self) -> None:
        found = self.read("Single-board cases", "Open")
        self.assertEqual(found["judgement"], "throttles")
        self.assertEqual(self.result("Single-board cases", "Open", "time", "time", None)["value"], 1066.0)
        droop = self.result("Single-board cases", "Open", "droop", "voltage", None)
        self.assertAlmostEqual(droop["value"], 0.060, delta=0.003)
        self.assertFalse([r for r in found["results"] if r["quantity"] == "noise"])

    def test_every_grid_and_every_page_shows_what_the_review_is_about(self) -> None:
        with Archive(self.archive) as archive:
            for worked in REVIEWS:
                with self.subTest(review=worked.name):
                    self._shown(archive, worked)

    def _shown(self, archive: Archive, worked: WorkedReview) -> None:
        review = archive.reviews.review(worked.name)
        assert review is not None
        data = load_review(archive, review)
        folder = self.folder / worked.name
        publish_review(archive, review, folder)
        page = re.sub(r"<svg.*?</svg>", "", (folder / "index.html").read_text(encoding="utf-8"), flags=re.S)
        for setup in review.setups:
            value = data.subject.of(data.cell(setup, worked.load).results[0])
            assert value is not None, setup.name
            if setup.name in worked.answers:
                self.assertAlmostEqual(value.value, worked.answers[setup.name], delta=0.4)
            self.assertIn(data.subject.text(value), page)
        self.assertIn(f'<th scope="row">{data.subject.label}, {data.subject.unit}</th>', page)
        self.assertNotIn("othing measured yet", page)
        self.assertNotIn("othing is measured yet", page)


class JoinTest(unittest.TestCase):
    def test_a_meters_log_gives_noise_wall_power_and_the_room(self) -> None:
        """The meter was started 57 s before the machine's own log, and knows nothing of it."""
        with tempfile.TemporaryDirectory() as folder:
            place = Path(folder)
            machine, meter = place / "machine.csv", place / "meter.csv"
            rows = [(k, warmed(k, 30.0, 70.0, 60.0), 99 if loaded(k) else 2) for k in range(ALL_S)]
            machine.write_text(
                "Time (s),CPU die (°C),CPU usage (%)\n" + "".join(f"{k},{c:.1f},{u}\n" for k, c, u in rows),
                encoding="utf-8",
            )
            seen = [
                (k, 33.2 if loaded(k - 57) else 21.0, 142.0 if loaded(k - 57) else 35.0) for k in range(ALL_S)
            ]
            meter.write_text(
                "Elapsed (s),Sound Level (dBA),Wall Power (W),Room Temperature (°C)\n"
                + "".join(f"{k},{level},{watts},22.4\n" for k, level, watts in seen),
                encoding="utf-8",
            )
            at = ("--archive", place / "a.sqlite", "--json")
            first = json.loads(call("bring", machine, *at).stdout)["run"]
            joined = json.loads(call("bring", meter, "--join", first, *at).stdout)
            self.assertAlmostEqual(joined["offset_s"], -57.0, delta=2.0)
            rows_of = json.loads(call("read", joined["run"], *at).stdout)["results"]
            found = {(r["part"], r["quantity"], r["statistic"]): r for r in rows_of}
            self.assertAlmostEqual(found[None, "noise", "level"]["value"], 33.2, delta=0.05)
            self.assertAlmostEqual(found["wall", "power", "steady"]["value"], 142.0, delta=0.05)
            self.assertAlmostEqual(found["die", "temperature", "rise"]["value"], 47.6, delta=0.2)


class EnterTest(unittest.TestCase):
    def test_all_lines_of_a_call_are_kept_or_none(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            archive, log = Path(folder) / "a.sqlite", Path(folder) / "log.csv"
            log.write_text(
                "Time (s),CPU die (°C)\n" + "".join(f"{k},{50 + k % 3}\n" for k in range(200)),
                encoding="utf-8",
            )
            name = json.loads(call("bring", log, "--archive", archive, "--json").stdout)["run"]
            at = ("--archive", archive)
            wrong = call("enter", name, "noise 27.4 dBA", "noise loud", *at)
            self.assertEqual((wrong.returncode, wrong.stdout), (2, ""))
            self.assertRegex(
                wrong.stderr,
                r"^samovar: noise loud: .*such as noise 33 to 36.*nothing of this call was kept\n$",
            )
            self.assertEqual(
                json.loads(call("enter", name, "--list", *at, "--json").stdout), {"run": name, "entered": []}
            )
            kept = json.loads(call("enter", name, "noise 27.4 dBA", "time 17:46", *at, "--json").stdout)[
                "entered"
            ]
            self.assertEqual(
                [(k["n"], k["quantity"], k["value"], k["unit"]) for k in kept],
                [(1, "noise", 27.4, "dBA"), (2, "time", 1066.0, "s")],
            )
            gone = json.loads(call("enter", name, "--take-back", "1", *at, "--json").stdout)
            self.assertEqual([g["n"] for g in gone["taken_back"]], [1])
            self.assertEqual(
                [k["n"] for k in json.loads(call("enter", name, "--list", *at, "--json").stdout)["entered"]],
                [2],
            )
            self.assertEqual(call("enter", name, "--take-back", "1", *at).returncode, 2)
            self.assertEqual(call("enter", "r0099", "noise 27", *at).returncode, 2)
            refused = call("bring", log, *at, "--enter", "noise loud")
            self.assertEqual(refused.returncode, 2)
            self.assertEqual(len(json.loads(call("runs", *at, "--json").stdout)["runs"]), 1)


if __name__ == "__main__":
    unittest.main()
