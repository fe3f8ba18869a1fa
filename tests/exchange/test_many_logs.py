"""One run written in the ways of many makers: whatever the way, the same recording comes out of it."""

from __future__ import annotations

import datetime as dt
import random
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path

import numpy as np

from samovar.exchange.logs import Log, read_log
from samovar.exchange.problems import InputError

ROWS = 240
START = dt.datetime(2026, 3, 4, 18, 20, 11)
LATE = dt.datetime(2026, 3, 4, 23, 58, 0)
HEAD = "Time (s),CPU die (°C),Core clock (MHz),Package power (W),CPU utilisation (%)"
PLAIN = ("CPU die", "Core clock", "Package power", "CPU utilisation")
UNITS = ("°C", "MHz", "W", "%")
Row = tuple[float, float, int, float, int]


def _run() -> list[Row]:
    rng = np.random.default_rng(1)
    rows: list[Row] = []
    for k in range(ROWS):
        busy = 60 <= k < 180
        die = 70 - 40 * np.exp(-(k - 60) / 40) if busy else 35.0
        clock = (4600 if k < 88 else 4000) if busy else 800
        power = (140.0 if k < 88 else 95.0) if busy else 10.0
        rows.append(
            (
                float(k),
                round(float(die + rng.normal(0, 0.2)), 1),
                clock + int(rng.integers(-5, 6)),
                round(power + float(rng.normal(0, 0.2)), 2),
                100 if busy else 1,
            )
        )
    return rows


RUN = _run()


def cells(row: Row) -> list[str]:
    return [f"{row[0]:g}", f"{row[1]:g}", str(row[2]), f"{row[3]:g}", str(row[4])]


def comma(row: Row) -> list[str]:
    return [c.replace(".", ",") for c in cells(row)]


def text(head: str, fields: Callable[[Row], list[str]] = cells, separator: str = ",") -> str:
    return head + "\n" + "".join(separator.join(fields(r)) + "\n" for r in RUN)


def timed(title: str, form: Callable[[float], str]) -> str:
    return text(HEAD.replace("Time (s)", title), lambda r: [form(r[0]), *cells(r)[1:]])


def at(seconds: float, start: dt.datetime = START) -> dt.datetime:
    return start + dt.timedelta(seconds=seconds)


def semicolons(head: str) -> str:
    return head.replace(",", ";")


def one_a_value() -> str:
    rows = (f"{r[0]:g},{n},{v},{u}" for r in RUN for n, v, u in zip(PLAIN, r[1:], UNITS, strict=True))
    return "time,sensor,value,unit\n" + "\n".join(rows) + "\n"


def one_a_value_in_turn() -> str:
    rows = (
        f"{at(r[0] + 0.01 * k).isoformat()};{n} ({u});{str(v).replace('.', ',')}"
        for r in RUN
        for k, (n, v, u) in enumerate(zip(PLAIN, r[1:], UNITS, strict=True))
    )
    return "Timestamp;Name;Value\n" + "\n".join(rows) + "\n"


def shuffled() -> str:
    rows = RUN[:]
    random.Random(1).shuffle(rows)
    return HEAD + "\n" + "".join(",".join(cells(r)) + "\n" for r in rows)


SUMMARY = "\nMinimum,35,800,10,1\nMaximum,71,4600,140,100\nAverage,55.1,3000,70,80\nEnd of log\n"
LAYOUTS: dict[str, str] = {
    "plain": text(HEAD),
    "line ends of Windows": text(HEAD).replace("\n", "\r\n"),
    "line ends of old": text(HEAD).replace("\n", "\r"),
    "a degree sign gone wrong": text(HEAD.replace("°", "Â°")),
    "a degree sign lost": text(HEAD.replace("°", "\ufffd")),
    "decimal commas": text(semicolons(HEAD), comma, ";"),
    "decimal commas and tabs": text(HEAD.replace(",", "\t"), comma, "\t"),
    "decimal commas in quotes": text(HEAD, lambda r: [f'"{c}"' for c in comma(r)]),
    "thousands in quotes": text(HEAD, lambda r: [*cells(r)[:2], f'"{r[2]:,}"', *cells(r)[3:]]),
    "thousands with points": text(
        semicolons(HEAD), lambda r: [*comma(r)[:2], f"{r[2]:,}".replace(",", "."), *comma(r)[3:]], ";"
    ),
    "thousands with blanks": text(
        semicolons(HEAD), lambda r: [*cells(r)[:2], f"{r[2]:,}".replace(",", " "), *cells(r)[3:]], ";"
    ),
    "strokes": text(HEAD.replace(",", " | "), separator=" | "),
    "blanks": text(
        "time_s  die_c  clock_mhz  package_power_w  cpu_usage_pct",
        lambda r: [c.rjust(8) for c in cells(r)],
        "  ",
    ),
    "units behind underscores": text(
        "elapsed_s,cpu_die_temp_c,core_clock_mhz,package_power_w,cpu_usage_pct"
    ),
    "units in a line": text("Time," + ",".join(PLAIN) + "\ns," + ",".join(UNITS)),
    "units in a line, bracketed": text("Time," + ",".join(PLAIN) + "\n[s],[°C],[MHz],[W],[%]"),
    "units behind commas": text(
        ",".join(f'"{n}, {u}"' for n, u in zip(("Time", *PLAIN), ("s", *UNITS), strict=True))
    ),
    "units in the cells": text(
        "Time," + ",".join(PLAIN),
        lambda r: [f"{r[0]:g} s", *(f"{v} {u}" for v, u in zip(r[1:], UNITS, strict=True))],
    ),
    "preamble and summary": f"Logger, version 2\nMachine;Halden 8\n\n# comment\n{text(HEAD)}{SUMMARY}",
    "titles again": text(HEAD).replace("\n100,", f"\n{HEAD}\n100,"),
    "a separator too many": text(HEAD + ",", lambda r: [*cells(r), ""]),
    "a separator too many in the rows": text(HEAD, lambda r: [*cells(r), ""]),
    "other units": text(
        HEAD.replace("°C", "°F").replace("MHz", "GHz").replace("(W)", "(mW)"),
        lambda r: [cells(r)[0], f"{r[1] * 1.8 + 32:.2f}", f"{r[2] / 1000}", f"{r[3] * 1000:.0f}", cells(r)[4]],
    ),
    "kelvin and kilohertz": text(
        HEAD.replace("°C", "K").replace("MHz", "kHz"),
        lambda r: [cells(r)[0], f"{r[1] + 273.15:.2f}", f"{r[2] * 1000}", *cells(r)[3:]],
    ),
    "titles behind a comment's sign": text("# " + HEAD),
    "groups over the titles": text(
        ",CPU,CPU,CPU,CPU,GPU\nTime (s),Temperature (°C),Clock (MHz),Power (W),Usage (%),Temperature (°C)",
        lambda r: [*cells(r), "40.5"],
    ),
    "German": text(
        "Zeit;CPU-Temperatur [°C];Kerntakt [MHz];CPU-Leistung [W];CPU-Auslastung [%]", comma, ";"
    ),
    "hundreds of columns": text(
        HEAD + "".join(f",Board {k} (°C)" for k in range(300)),
        lambda r: [*cells(r), *(f"{30 + k / 10:g}" for k in range(300))],
    ),
    "one row a value": one_a_value(),
    "one row a value, in turn": one_a_value_in_turn(),
    "milliseconds": timed("Time (ms)", lambda t: f"{1000 * t:g}"),
    "milliseconds by their steps": timed("Time", lambda t: f"{1000 * t:.0f}"),
    "a clock": timed("Time", lambda t: at(t).strftime("%H:%M:%S")),
    "a clock with fractions": timed("Time", lambda t: at(t).strftime("%H:%M:%S.%f")[:-3]),
    "am and pm": timed("Time", lambda t: at(t).strftime("%I:%M:%S %p")),
    "minutes and seconds": timed("Elapsed", lambda t: f"{int(t) // 60:02d}:{int(t) % 60:02d}"),
    "ISO 8601": timed("Timestamp", lambda t: at(t).isoformat()),
    "ISO 8601 in UTC": timed("Timestamp", lambda t: at(t).isoformat() + "Z"),
    "ISO 8601 with an offset": timed("Timestamp", lambda t: at(t).isoformat() + "+01:00"),
    "day first": timed("Date Time", lambda t: at(t).strftime("%d.%m.%Y %H:%M:%S")),
    "month first": timed("DateTime", lambda t: at(t).strftime("%m/%d/%Y %I:%M:%S %p")),
    "a month's name": timed("Date", lambda t: at(t).strftime("%d %b %Y %H:%M:%S")),
    "two columns": timed("Date,Time", lambda t: at(t).strftime("%d.%m.%Y,%H:%M:%S")),
    "an epoch": timed("timestamp", lambda t: f"{1772648411 + t:.0f}"),
    "an epoch in ms": timed("timestamp", lambda t: f"{(1772648411 + t) * 1000:.0f}"),
    "an epoch in ns": timed("timestamp", lambda t: f"{int(1772648411 + t) * 10**9}"),
    "a spreadsheet's days": timed("Time", lambda t: f"{46085 + (66011 + t) / 86400:.9f}"),
    "past midnight": timed("Time", lambda t: at(t, LATE).strftime("%H:%M:%S")),
    "past midnight, am and pm": timed("Time", lambda t: at(t, LATE).strftime("%I:%M:%S %p")),
    "over midnight with dates": timed("DateTime", lambda t: at(t, LATE).strftime("%d/%m/%Y %H:%M:%S")),
    "set back by an hour": timed("Time", lambda t: at(t - (3600 if t >= 99 else 0)).strftime("%H:%M:%S")),
    "set back, with dates": timed(["When", "Timestamp"][1], lambda t: at(t - (3600 if t >= 99 else 0)).isoformat(" ")),
    "no times": text(HEAD.split(",", 1)[1], lambda r: cells(r)[1:]),
    "out of order": shuffled(),
}  # fmt: skip
ENCODINGS = {
    "a mark of UTF-8": b"\xef\xbb\xbf" + text(HEAD).encode(),
    "UTF-16": text(HEAD).encode("utf-16"),
    "UTF-16 without a mark": text(HEAD).encode("utf-16-le"),
    "UTF-16, the other way round": text(HEAD).encode("utf-16-be"),
    "Latin-1": text(HEAD).encode("latin-1"),
}


class ManyLogsTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "log.csv"

    def read(self, content: str | bytes) -> Log:
        self.path.write_bytes(content.encode() if isinstance(content, str) else content)
        return read_log(self.path)

    def check(self, log: Log) -> None:
        recording = log.recording
        self.assertEqual(len(recording.time_s), ROWS, log.warnings)
        self.assertAlmostEqual(recording.duration_s, ROWS - 1.0, delta=0.1)
        wanted = np.array(RUN).T[1:]
        for quantity, row, off in zip(("temperature", "clock", "power", "load"), wanted, (0.02, 0.6, 0.02, 0.0), strict=True):  # fmt: skip
            index = next(k for k, c in enumerate(recording.channels) if c.quantity == quantity)
            np.testing.assert_allclose(recording.values[index], row, atol=off, err_msg=quantity)
        die = recording.channels[recording.die if recording.die is not None else -1]
        self.assertEqual((die.quantity, die.role), ("temperature", "die"))
        self.assertIsNotNone(recording.package_power)

    def test_layouts_numbers_units_and_times(self) -> None:
        for name, content in LAYOUTS.items():
            with self.subTest(log=name):
                self.check(self.read(content))

    def test_encodings(self) -> None:
        for name, content in ENCODINGS.items():
            with self.subTest(encoding=name):
                self.check(self.read(content))

    def test_what_is_no_value_is_none_and_is_said(self) -> None:
        odd = {7: "N/A", 20: "", 33: "-999", 50: "0", 70: "255", 90: "-128"}
        lines = [",".join([c[0], odd.get(k, c[1]), *c[2:]]) for k, c in enumerate(map(cells, RUN))]
        log = self.read(HEAD + "\n" + "\n".join(lines) + "\n")
        missing = np.flatnonzero(np.isnan(log.recording.values[0])).tolist()
        self.assertEqual(missing, sorted(odd))
        self.assertEqual(len(log.warnings), 1)
        self.assertIn("4 values no temperature sensor gives", log.warnings[0])

    def test_lines_that_cannot_be_used_are_counted_and_named(self) -> None:
        log = self.read(LAYOUTS["preamble and summary"])
        end = 5 + ROWS
        self.assertEqual(
            log.warnings,
            [
                "lines 1 to 2: before the titles, not used",
                f"line {end + 5}: 1 fields instead of 5, skipped",
                *(f"line {end + k}: no time in it, skipped" for k in (2, 3, 4)),
            ],
        )
        again = self.read(LAYOUTS["titles again"]).warnings
        self.assertEqual(again, ["line 102: the titles again, skipped"])
        twice = self.read(text(HEAD) + ",".join(cells(RUN[9])) + "\n").warnings
        self.assertIn(f"1 rows with a time that stands there already, skipped (line {ROWS + 2})", twice)

    def test_rows_that_share_a_second_are_spread_over_it(self) -> None:
        log = self.read(timed("Time", lambda t: at(t // 4).strftime("%H:%M:%S")))
        np.testing.assert_allclose(np.diff(log.recording.time_s), 0.25, atol=1e-6)

    def test_times_passed_as_people_write_them(self) -> None:
        forms = {
            "0m05s": lambda t: f"{int(t) // 60}m{int(t) % 60:02d}s",
            "0 h 0 min 5 s": lambda t: f"0 h {int(t) // 60} min {int(t) % 60} s",
            "0'05\"": lambda t: f"{int(t) // 60}'{int(t) % 60:02d}\"",
            "PT0M5S": lambda t: f"PT{int(t) // 60}M{int(t) % 60}S",
        }
        for name, form in forms.items():
            with self.subTest(times=name):
                self.check(self.read(timed("Elapsed", form)))

    def test_one_column_and_nothing_else(self) -> None:
        log = self.read("CPU Temp (°C)\n" + "".join(f"{r[1]}\n" for r in RUN))
        self.assertEqual(len(log.recording.time_s), ROWS)
        np.testing.assert_allclose(log.recording.values[0], np.array(RUN).T[1], atol=0.02)
        self.assertEqual(log.warnings, ["no column of times: rows are taken as one second apart"])
        with self.assertRaises(InputError):
            self.read("Dear reader\n" + "".join(f"{r[1]}\n" for r in RUN))

    def test_two_of_one_title_are_two_channels_with_the_unit_of_each(self) -> None:
        log = self.read(
            text(
                HEAD.replace(",Core", ",CPU die (°C),Core"),
                lambda r: [cells(r)[0], *cells(r)[1:2] * 2, *cells(r)[2:]],
            )
        )
        self.assertEqual([c.name for c in log.recording.channels[:2]], ["CPU die", "CPU die (2)"])

    def test_parquet_with_datetimes(self) -> None:
        import polars

        columns = dict(zip(HEAD.split(",")[1:], list(zip(*RUN, strict=True))[1:], strict=True))
        path = self.path.with_suffix(".parquet")
        polars.DataFrame({"When (UTC)": [at(r[0]) for r in RUN], **columns}).write_parquet(path)
        self.check(read_log(path))


if __name__ == "__main__":
    unittest.main()
