"""The data package of a publication: valid by the open standard, and enough to find its figures again."""

from __future__ import annotations

import csv
import json
import math
import subprocess
import sys
import tempfile
import unittest
from collections import defaultdict
from pathlib import Path
from typing import Any

from samovar.archive import Archive
from samovar.archive.editions import AUTHOR, LICENCE
from samovar.archive.review_data import load_review
from samovar.archive.rig_comparison import compare_on
from samovar.core.results.figure import figure_of
from samovar.exchange.problems import InputError
from samovar.publish.again import write_edition
from samovar.publish.review import STAGES, publish_review
from tests.demo_archive import demo_archive
from tests.publish.recomputed import lost_half_widths


def rows_of(path: Path) -> list[dict[str, str]]:
    with path.open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


class PackageTest(unittest.TestCase):
    folder: Path
    target: Path
    archive: Archive

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.target = cls.folder / "relay"
        cls.archive = Archive(demo_archive(cls.folder))
        cls.addClassCleanup(cls.archive.close)
        cls.archive.editions.set_imprint(AUTHOR, "Harbour FM workshop")
        cls.archive.editions.set_imprint(LICENCE, "CC-BY-4.0")
        cls.review = cls.archive.reviews.reviews()[2]
        publish_review(cls.archive, cls.review, cls.target, day="2026-03-20")

    def test_it_is_valid_by_the_standard(self) -> None:
        try:
            from frictionless import Package
        except ImportError as problem:
            raise unittest.SkipTest("frictionless is not here") from problem
        descriptor = json.loads((self.target / "datapackage.json").read_text(encoding="utf-8"))
        self.assertEqual(descriptor["licenses"][0]["name"], "CC-BY-4.0")
        self.assertEqual(descriptor["contributors"][0]["title"], "Harbour FM workshop")
        report = Package(str(self.target / "datapackage.json")).validate()
        self.assertTrue(report.valid, report.flatten(["name", "type", "message"])[:5])
        listed = {r["path"] for r in descriptor["resources"]}
        self.assertEqual(listed, {p.relative_to(self.target).as_posix() for p in self.target.rglob("*.csv")})

    def test_steady_values_are_the_means_of_the_samples_over_their_windows(self) -> None:
        samples: dict[str, list[dict[str, str]]] = {}
        found = 0
        for row in rows_of(self.target / "results.csv"):
            if row["statistic"] != "steady" or not row["channel"] or not row["window_start_s"] or row["step"]:
                continue
            data = samples.setdefault(row["run"], rows_of(self.target / "data" / f"{row['run']}.csv"))
            title = f"{row['channel']} ({row['unit']})"
            begin, end = float(row["window_start_s"]), float(row["window_end_s"])
            inside = [float(d[title]) for d in data if begin <= float(d["Time (s)"]) <= end and d[title]]
            width = float(row["half_width_95"] or 0.0)
            self.assertLess(abs(sum(inside) / len(inside) - float(row["value"])), width + 1e-6, row)
            found += 1
        self.assertGreater(found, 8)

    def test_what_a_ladder_shows_is_found_again_from_the_tables_alone(self) -> None:
        values: dict[str, list[float]] = defaultdict(list)
        for row in rows_of(self.target / "results.csv"):
            if (row["statistic"], row["part"], row["load"]) == ("at", "vrm back", "worst case"):
                values[row["setup"]].append(float(row["value"]))
        figure = figure_of("at:temperature:vrm back")
        ladder = compare_on(load_review(self.archive, self.review), "worst case", figure).ladder
        shown = {r.name: r.figure for r in ladder.own if r.figure.bound is None}
        self.assertTrue(shown)
        for name, figure in shown.items():
            self.assertTrue(
                math.isclose(sum(values[name]) / len(values[name]), figure.value, abs_tol=0.05), name
            )

    def test_every_half_width_on_the_page_is_found_again_from_the_tables(self) -> None:
        self.assertEqual(lost_half_widths(self.target), [])

    def test_readings_stand_with_spot_instrument_and_moment(self) -> None:
        found = rows_of(self.target / "readings.csv")
        self.assertEqual({r["place"] for r in found}, {"vrm", "vrm back", "vrm coils"})
        self.assertTrue(all(r["half_width_95"] and r["at_s"] and r["instrument"] for r in found))

    def test_the_script_that_comes_with_it_runs(self) -> None:
        done = subprocess.run(
            [sys.executable, str(self.target / "recompute.py")], capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 0, done.stderr[-500:])
        worst = float(done.stdout.partition("the furthest is ")[2].split()[0])
        self.assertLess(worst, 1.0)


class EditionTest(unittest.TestCase):
    def test_an_edition_is_a_new_one_only_where_it_says_something_else(self) -> None:
        with tempfile.TemporaryDirectory() as folder, Archive(demo_archive(Path(folder))) as archive:
            review = archive.reviews.reviews()[2]
            target = Path(folder) / "published"

            steps: list[int] = []

            def publish(day: str) -> Any:
                steps.clear()
                now = archive.reviews.reviews()[2]
                publish_review(archive, now, target, lambda done, total: steps.append(total), day=day)
                return archive.editions.of(review.id)

            self.assertEqual([e.number for e in publish("2026-03-20")], [1])
            drawn = steps[0] - STAGES
            first = {
                p.relative_to(target): p.read_bytes()
                for p in target.rglob("*")
                if not p.name.startswith(".") and p.is_file()
            }
            self.assertEqual([(e.number, e.day) for e in publish("2026-03-21")], [(1, "2026-03-20")])
            # Nothing has changed: no figure is drawn again.
            self.assertGreater(drawn, 5)
            self.assertEqual(steps[0], STAGES)
            from dataclasses import replace

            archive.reviews.save_review(
                replace(
                    review, verdict="The duct is worth **its fan**: {at:temperature:vrm | With duct | worst case}.",
                    conclusion=("pick: With duct", "not for: silent rooms"),
                )
            )  # fmt: skip
            self.assertEqual([e.number for e in publish("2026-03-22")], [1, 2])
            page = (target / "index.html").read_text(encoding="utf-8")
            self.assertIn("Edition 2, 2026-03-22", page)
            self.assertIn("paragraphs: 3 new or reworded", page)
            self.assertRegex(page, r"worth <strong>its fan</strong>: \d+ ±\d °C\.")
            self.assertIn("<dt>Not for whom</dt><dd>silent rooms</dd>", page)
            # The first one is written again as it was, to the last byte.
            again = Path(folder) / "again"
            write_edition(archive, review, 1, again)
            self.assertEqual(
                {
                    p.relative_to(again)
                    for p in again.rglob("*")
                    if not p.name.startswith(".") and p.is_file()
                },
                set(first),
            )
            unlike = [str(name) for name, body in first.items() if (again / name).read_bytes() != body]
            self.assertEqual(unlike, [])
            with self.assertRaisesRegex(InputError, "edition 9 is not kept"):
                write_edition(archive, review, 9, again)


if __name__ == "__main__":
    unittest.main()
