"""Logs as strangers hand them in: harmful ones are refused in one line, odd ones read for what they say."""

from __future__ import annotations

import math
import os
import tempfile
import time
import unittest
from pathlib import Path

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.exchange.export import export_recording
from samovar.exchange.logs import Log, read_log
from samovar.exchange.plain_file import mapped
from samovar.exchange.problems import InputError
from samovar.exchange.titles import armed, defused

ROWS = "".join(f"{k},{50 + k % 7},{3000 + k}\n" for k in range(60))
TITLES = "Time (s),CPU die (°C),Clock (MHz)\n"


class Strange(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def read(self, content: str | bytes) -> Log:
        path = self.folder / "log.csv"
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return read_log(path)

    def said(self, log: Log) -> list[tuple[str, str, str, float]]:
        """Name, quantity and role of each channel, and its mean."""
        recording = log.recording
        return [
            (c.name, c.quantity, c.role, round(float(np.nanmean(row)), 1))
            for c, row in zip(recording.channels, recording.values, strict=True)
        ]


class RefusedTest(Strange):
    def test_what_would_take_the_machine_is_one_line(self) -> None:
        tiny = TITLES + "".join(f"{k * 1e-12},{50 + k % 7},3000\n" for k in range(60))
        ages = TITLES + ROWS + "1e12,50,3000\n"
        for content, words in (
            (tiny, "closer than any logger's"), (ages, "years; leave out the row"), (":,°C\n", "titles but no rows"),
            (":,°C", "titles but no rows"), ("1," * 5_000_000, "empty"), (b"\x89PNG\r\n\x1a\n" + bytes(range(1, 32)) * 60, "no text"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputError, words):
                self.read(content)

    def test_a_device_is_no_log(self) -> None:
        for place in ("/dev/zero", "/dev/null"):
            for ending in ("", ".parquet"):
                link = self.folder / f"x{ending}"
                link.unlink(missing_ok=True)
                link.symlink_to(place)
                with self.assertRaisesRegex(InputError, "no file|a device|no Parquet"):
                    read_log(link)

    def test_parquet_is_looked_at_before_it_is_read(self) -> None:
        import polars

        path = self.folder / "x.parquet"
        polars.DataFrame({"CPU die (°C)": np.zeros(60_000_000, dtype=np.int8)}).write_parquet(path)
        with self.assertRaisesRegex(InputError, "60000000 rows of 1 columns are no log"):
            read_log(path)
        polars.DataFrame(
            {"Time (s)": [0.0, 1.0, 2.0], "CPU die (°C)": [50, 51, 52], "Blob": [b"\0"] * 3}
        ).write_parquet(path)
        log = read_log(path)
        self.assertEqual(self.said(log), [("CPU die", "temperature", "die", 51.0)])
        self.assertIn("'Blob'", log.warnings[0])
        polars.DataFrame({"a": [[1]], "b": [{"c": 1}]}).write_parquet(path)
        with self.assertRaises(InputError):
            read_log(path)

    def test_a_log_that_somebody_writes_to_is_never_mapped(self) -> None:
        path = self.folder / "log.csv"
        path.write_text(TITLES + ROWS)
        with path.open("a"), mapped(path) as view:
            self.assertIsNone(view)
        with mapped(path) as view:
            if view is None:
                self.skipTest("no leases on this file system")
            # Whoever wants to cut it short has to wait until nobody looks any more.
            with self.assertRaises(BlockingIOError):
                os.open(path, os.O_WRONLY | os.O_TRUNC | os.O_NONBLOCK)
            self.assertEqual(view[:4], b"Time")
        os.close(os.open(path, os.O_WRONLY | os.O_TRUNC | os.O_NONBLOCK))

    def test_one_endless_line_costs_itself(self) -> None:
        began = time.monotonic()
        for filling in ("x", "1,", '"', "a=1 "):
            more = "".join(f"{k},{50 + k % 7},{3000 + k}\n" for k in range(60, 90))
            log = self.read(TITLES + ROWS + filling * (30_000_000 // len(filling)) + "\n" + more)
            self.assertEqual(len(log.recording.time_s), 90)
            self.assertIn("line 62: ", log.warnings[0])
        self.assertLess(time.monotonic() - began, 20.0)

    def test_a_block_of_nothing_costs_its_rows(self) -> None:
        later = "".join(f"{k},{50 + k % 7},{3000 + k}\n" for k in range(200, 260))
        for nothing in (b"\0" * 4096, b"\0" * 7):
            log = self.read((TITLES + ROWS + "60,50,30").encode() + nothing + b"00\n" + later.encode())
            self.assertEqual(len(log.recording.time_s), 120)
            self.assertIn("line 62: ", log.warnings[0])
            self.assertGreater(float(log.recording.values[1].min()), 2999.0)


class ReadTest(Strange):
    def test_titles_with_commas_in_quotes_and_a_unit_behind_one(self) -> None:
        log = self.read('"Time, s","CPU, die, °C","Clock, all cores, MHz"\n' + ROWS)
        self.assertEqual([c.name for c in log.recording.channels], ["CPU, die", "Clock, all cores"])
        self.assertEqual([c.quantity for c in log.recording.channels], ["temperature", "clock"])

    def test_degree_signs_that_went_wrong_lose_no_channel(self) -> None:
        for sign in (
            "?C",
            "┬░C",
            "øC",
            "&deg;C",
            "\\xb0C",
            "oC",
            "ﾂｰC",
            "'C",
            "*C",
            "^C",
            "degrees C",
            "Celcius",
            "Â°C",
        ):
            with self.subTest(sign=sign):
                log = self.read(f"Time (s),CPU die ({sign}),Clock (MHz)\n" + ROWS)
                self.assertEqual(self.said(log)[0], ("CPU die", "temperature", "die", 52.9))
        log = self.read(b"Time (s),CPU die (\xf8F),Clock (MHz)\n" + ROWS.encode())
        self.assertEqual(self.said(log)[0], ("CPU die", "temperature", "die", 11.6))

    def test_columns_of_yes_and_no_are_flags_whatever_their_titles_speak_of(self) -> None:
        rows = "".join(
            f"{k},50,{'Yes' if k % 9 == 0 else 'No'},{'on' if k % 2 else 'off'},no\n" for k in range(60)
        )
        log = self.read("Time (s),CPU (°C),Package power limit exceeded,Fan fault,Power good\n" + rows)
        kinds = [(c.quantity, c.role) for c in log.recording.channels]
        # Only the first says something of the processor.
        self.assertEqual(
            kinds, [("temperature", "die"), ("flag", "package"), ("flag", "other"), ("flag", "other")]
        )

    def test_row_numbers_beside_an_interval_that_is_stated(self) -> None:
        for above, title, seconds in (
            ("Logger 3\nInterval: 2 s\n", "Sample", 2.0), ("# sampling period 500 ms\n", "#", 0.5),
            ("Rate = 4 Hz\n", "Index", 0.25), ("Log interval (s): 2\n", "No.", 2.0), ("Nothing said\n", "Row", 1.0),
            ("Time between samples: 0.5 seconds\n", "No.", 0.5), ("1 reading every 5 seconds\n", "No.", 5.0),
            ("Scan rate 00:00:02\n", "Scan", 2.0), ("Interval (hh:mm:ss);00:01:00\n", "Row", 60.0),
            ("10 samples per second\n", "No.", 0.1), ("one row a minute\n", "No.", 60.0), ("Logged at 4 Hz\n", "No.", 0.25),
            ("Begun at 10:20:30, every day at 18:20:00\n", "No.", 1.0),
        ):  # fmt: skip
            with self.subTest(above=above):
                log = self.read(
                    f"{above}{title},CPU (°C),Clock (MHz)\n"
                    + ROWS.replace("\n20,", "\n25,", 1).replace("\n25,", "\n20,", 1)
                )
                self.assertAlmostEqual(log.recording.duration_s, 59 * seconds)
                self.assertEqual(len(log.recording.channels), 2)
        gap = "".join(f"{k},50,3000\n" for k in [*range(10), *range(30, 40)])
        log = self.read("Interval: 2 s\nSample,CPU (°C),Clock (MHz)\n" + gap)
        self.assertEqual(log.recording.duration_s, 78.0)

    def test_values_that_name_themselves(self) -> None:
        lines = "".join(
            f"2026-03-02 10:00:{k:02d} temp=51.6'C frequency(48)=1500398464 volt=0.8500V\n" for k in range(50)
        )
        self.assertEqual(
            self.said(self.read(lines)),
            [
                ("temp", "temperature", "die", 51.6),
                ("frequency", "clock", "core", 1500.4),
                ("volt", "voltage", "other", 0.8),
            ],
        )

    def test_bare_numbers_as_a_kernel_writes_them(self) -> None:
        for temperature, clock in ((51600, 1500000), (51600, 1500398464), (51600, 600000000), (51.6, 1500)):
            rows = "".join(f"{k},{temperature},{clock}\n" for k in range(60))
            found = self.said(self.read("time,cpu_temp,cpu_freq\n" + rows))
            self.assertEqual(found[0][3], 51.6)
            self.assertIn(found[1][3], (1500.0, 1500.4, 600.0))

    def test_titles_that_are_formulas_go_out_defused_and_come_back_the_same(self) -> None:
        names = ["=HYPERLINK(x)", "@SUM(A1)", "+cmd|calc", "-2+3", "+12V", "'=x", "plain"]
        for name in names:
            self.assertEqual(armed(defused(name)), name)
        channels = tuple(Channel(n, "temperature", "°C") for n in names)
        recording = Recording(channels, np.arange(5.0), np.full((len(names), 5), 40.0))
        for ending in (".csv", ".parquet"):
            path = self.folder / f"out{ending}"
            export_recording(recording, path)
            self.assertEqual([c.name for c in read_log(path).recording.channels], names)
        titles = (self.folder / "out.csv").read_text(encoding="utf-8").splitlines()[0]
        self.assertNotRegex(titles, r"(^|,)\"?[=@]")

    def test_a_title_cannot_reach_the_terminal(self) -> None:
        log = self.read("Time (s),CPU \x1b]0;x\x07 die (°C),Fan\u202e (rpm)\n" + ROWS)
        self.assertTrue(all(c.name.isprintable() for c in log.recording.channels))
        self.assertFalse(any(math.isnan(v) for v in log.recording.values[0]))


if __name__ == "__main__":
    unittest.main()
