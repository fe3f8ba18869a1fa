"""Logs: what is understood, what is refused in one line, and that ours come back as they were."""

from __future__ import annotations

import json
import random
import tempfile
import unittest
import warnings
from pathlib import Path

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from samovar.core.contract import as_contract
from samovar.core.facts import Facts, RoomFacts
from samovar.core.reading import read
from samovar.exchange.export import export_recording, facts_beside
from samovar.exchange.logs import read_log
from samovar.exchange.problems import InputError
from samovar.exchange.titles import understand
from samovar.exchange.toml_files import RunNotes, facts_text, read_facts, read_map
from tests.recordings import FACTS, simple_run


class FolderTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, text: str) -> Path:
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return path


class TitlesTest(unittest.TestCase):
    def test_quantity_role_and_unit(self) -> None:
        cases = {
            "CPU die (°C)": ("CPU die", "temperature", "die", "cpu"),
            "CPU package power (W)": ("CPU package power", "power", "package", "cpu"),
            "Core 3 clock [MHz]": ("Core 3 clock", "clock", "core", "cpu"),
            "GPU hotspot (°C)": ("GPU hotspot", "temperature", "hotspot", "gpu"),
            "VRM (°C)": ("VRM", "temperature", "vrm", "board"),
            "CPU fan (rpm)": ("CPU fan", "fan", "other", "cpu"),
            "Rear fan (RPM)": ("Rear fan", "fan", "case-fan", "case"),
            "Utilisation (%)": ("Utilisation", "load", "package", "cpu"),
            "Room (°C)": ("Room", "temperature", "inlet", "case"),
            "Work (1/s)": ("Work", "work", "other", "cpu"),
        }
        for title, (name, quantity, role, domain) in cases.items():
            with self.subTest(title=title):
                column = understand(title)
                assert column is not None
                c = column.channel
                self.assertEqual((c.name, c.quantity, c.role, c.domain), (name, quantity, role, domain))

    def test_other_units_become_ours(self) -> None:
        for title, raw, value in (
            ("die (°F)", 203.0, 95.0),
            ("die (K)", 300.0, 26.85),
            ("Core (GHz)", 4.2, 4200.0),
            ("P (mW)", 95000.0, 95.0),
        ):
            column = understand(title)
            assert column is not None
            self.assertAlmostEqual(raw * column.factor + column.offset, value, places=6)

    def test_what_says_nothing_is_not_guessed(self) -> None:
        self.assertIsNone(understand("T3"))
        self.assertIsNone(understand("Frobs (frob)"))


class LogTest(FolderTest):
    PLAIN = "Time (s),CPU die (°C),Core 0 (MHz)\n0,40,800\n1,41,4000\n2,,4000\n3,43,N/A\n"

    def test_a_plain_log(self) -> None:
        log = read_log(self.file("a.csv", self.PLAIN))
        self.assertEqual([c.name for c in log.recording.channels], ["CPU die", "Core 0"])
        np.testing.assert_array_equal(log.recording.values[0], [40.0, 41.0, np.nan, 43.0])
        self.assertEqual(log.warnings, [])

    def test_lines_that_do_not_fit_are_named(self) -> None:
        log = read_log(self.file("a.csv", self.PLAIN + "4,44\n5,45,4000\n"))
        self.assertEqual(log.warnings, ["line 6: 2 fields instead of 3, skipped"])
        self.assertEqual(len(log.recording.time_s), 5)

    def test_a_short_and_a_long_row_are_not_taken_for_two_good_ones(self) -> None:
        log = read_log(self.file("a.csv", "Time (s),CPU die (°C),P (W)\n0,40,10\n1,41\n2,42,10,7\n3,43,10\n"))
        self.assertEqual(
            log.warnings, ["line 3: 2 fields instead of 3, skipped", "line 4: 4 fields instead of 3, skipped"]
        )
        np.testing.assert_array_equal(log.recording.values[0], [40.0, 43.0])

    def test_blank_lines_comments_and_quotes(self) -> None:
        text = '# made by hand\n"Time (s)","CPU die, left (°C)"\n0,40\n\n# pause\n1,"41"\r\n2,42'
        log = read_log(self.file("a.csv", text))
        self.assertEqual([c.name for c in log.recording.channels], ["CPU die, left"])
        np.testing.assert_array_equal(log.recording.values[0], [40.0, 41.0, 42.0])
        self.assertEqual(log.warnings, [])

    def test_other_separators_and_order(self) -> None:
        log = read_log(self.file("a.csv", "Time (ms);CPU die (°C)\n2000;42\n0;40\n1000;41\n1000;99\n"))
        np.testing.assert_array_equal(log.recording.time_s, [0.0, 1.0, 2.0])
        np.testing.assert_array_equal(log.recording.values[0], [40.0, 41.0, 42.0])
        self.assertEqual(len(log.warnings), 2)

    def test_a_map_settles_what_is_open(self) -> None:
        path = self.file("a.csv", "Elapsed,T3\n0,60\n1,61\n")
        with self.assertRaises(InputError):
            read_log(path)
        found = read_map(
            self.file(
                "map.toml",
                'time = "Elapsed"\n[channels."T3"]\nquantity = "temperature"\nunit = "°C"\nrole = "vrm"\n',
            )
        )
        log = read_log(path, found)
        self.assertEqual([(c.name, c.role) for c in log.recording.channels], [("T3", "vrm")])

    def test_what_is_no_log_is_one_line(self) -> None:
        cases = {
            "empty.csv": "", "words.txt": "the quick brown fox\njumps\n", "titles.csv": "a,b,c\n",
            "nonsense.csv": "a,b,c\n1,2,3\n", "no-times.csv": "Time (s),CPU die (°C)\nx,y\nz,w\n",
        }  # fmt: skip
        for name, text in cases.items():
            with self.subTest(file=name):
                path = self.file(name, text)
                with self.assertRaises(InputError) as caught:
                    read_log(path)
                self.assertIn(name, str(caught.exception))
                self.assertNotIn("\n", str(caught.exception))
        (self.folder / "binary.csv").write_bytes(bytes(range(256)) * 20)
        with self.assertRaisesRegex(InputError, "no text"):
            read_log(self.folder / "binary.csv")
        with self.assertRaisesRegex(InputError, "no Parquet"):
            read_log(self.file("a.parquet", "no"))

    @settings(max_examples=120, deadline=None)
    @example(":,°C\n")
    @given(
        st.text(max_size=400)
        | st.lists(
            st.lists(
                st.sampled_from(
                    ["1", "2.5", "", "nan", "inf", "x", '"', "Time (s)", "CPU die (°C)", "-9e99"]
                ),
                max_size=6,
            ).map(",".join),
            max_size=12,
        ).map("\n".join)
    )
    def test_no_text_gives_anything_but_a_reading_or_one_line(self, text: str) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text(text, encoding="utf-8", errors="replace")
            try:
                log = read_log(path)
            except InputError as problem:
                self.assertNotIn("\n", str(problem).replace(str(path), ""))
                return
            json.dumps(as_contract(read(log.recording, FACTS), log.recording), allow_nan=False)

    def test_damaged_logs_are_read_or_refused(self) -> None:
        rows = "".join(f"{k},{40 + k},{4000 - k},95\n" for k in range(30))
        whole = ("Time (s),CPU die (°C),Core 0 (MHz),P (W)\n" + rows).encode()
        chance = random.Random(1)
        path = self.folder / "damaged.csv"
        for _ in range(500):
            damaged = bytearray(whole)
            for _ in range(chance.randint(1, 8)):
                at, kind = chance.randrange(len(damaged)), chance.random()
                if kind < 0.4:
                    damaged[at] = chance.randrange(256)
                elif kind < 0.6:
                    del damaged[at : at + chance.randint(1, 40)]
                elif kind < 0.8:
                    damaged[at:at] = bytes(chance.choice(b'",;\n\r\t #') for _ in range(chance.randint(1, 5)))
                else:
                    damaged[at:at] = damaged[chance.randrange(len(damaged)) :][: chance.randint(1, 60)]
                damaged = damaged or bytearray(b"x")
            path.write_bytes(bytes(damaged))
            try:
                log = read_log(path)
            except InputError as problem:
                self.assertNotIn("\n", str(problem))
                continue
            with warnings.catch_warnings():
                warnings.simplefilter("error", RuntimeWarning)
                json.dumps(as_contract(read(log.recording), log.recording), allow_nan=False)


class ExportTest(FolderTest):
    def test_ours_comes_back_and_reads_the_same(self) -> None:
        recording = simple_run()
        recording.values[2, 50:60] = np.nan
        for ending in (".csv", ".parquet"):
            with self.subTest(ending=ending):
                path = self.folder / f"run{ending}"
                export_recording(recording, path, FACTS)
                log = read_log(path)
                np.testing.assert_array_equal(log.recording.values, recording.values)
                self.assertEqual(
                    [c.title for c in log.recording.channels], [c.title for c in recording.channels]
                )
                facts, _ = read_facts(facts_beside(path))
                self.assertEqual(facts, FACTS)
                self.assertEqual(as_contract(read(log.recording, facts)), as_contract(read(recording, FACTS)))

    def test_a_simulated_run_keeps_its_roles(self) -> None:
        from tests.recordings import simulate

        recording = simulate("Osprey 161", "worst case").recording
        path = self.folder / "run.csv"
        export_recording(recording, path, FACTS)
        again = read_log(path).recording
        for before, after in zip(recording.channels, again.channels, strict=True):
            self.assertEqual(
                (after.name, after.quantity, after.role, after.domain),
                (before.name, before.quantity, before.role, before.domain),
            )
        self.assertEqual(as_contract(read(again, FACTS)), as_contract(read(recording, FACTS)))

    def test_bad_places_are_one_line(self) -> None:
        for path in (self.folder / "x.xls", self.folder / "none" / "x.csv"):
            with self.assertRaises(InputError):
                export_recording(simple_run(20), path)


class FactsTest(FolderTest):
    def test_round_trip(self) -> None:
        facts, notes = read_facts(
            self.file("f.toml", facts_text(FACTS, RunNotes(True, (), {"Zone": "surface"})))
        )
        self.assertEqual((facts, notes.stopped_early, notes.roles), (FACTS, True, {"Zone": "surface"}))

    def test_how_surely_the_room_is_known_goes_out_too(self) -> None:
        facts = Facts(room=RoomFacts(None, 0.25))
        self.assertEqual(read_facts(self.file("room.toml", facts_text(facts)))[0], facts)
        self.assertEqual(facts_text(Facts()), "")

    def test_mistakes_are_named(self) -> None:
        for text, words in (
            ("[cpu]\nlimit = 3\n", "cpu.limit"),
            ("[cpu]\ntemperature_limit_c = 950\n", "cpu.temperature_limit_c"),
            ("[cpu\n", "line 1"),
        ):
            with self.assertRaises(InputError) as caught:
                read_facts(self.file("f.toml", text))
            self.assertIn(words, str(caught.exception))


if __name__ == "__main__":
    unittest.main()
