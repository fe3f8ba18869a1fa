"""Instruments in a recording: their channels beside the machine's, a log followed while it grows, the call that says so."""

from __future__ import annotations

import json
import math
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path

import numpy as np

from samovar.archive import Archive
from samovar.archive.check import check
from samovar.bench.clock import MonotonicClock
from samovar.bench.course_spec import CourseSpec
from samovar.bench.machine import ThisMachine
from samovar.core.instrument import instruments_of
from samovar.recording.following import FollowSource
from samovar.recording.instruments import open_instruments
from samovar.recording.late_titles import seen_of
from samovar.recording.live import LiveRun
from samovar.simulator.instruments.modbus_logger import ModbusLogger, word
from samovar.simulator.instruments.scpi_meter import ScpiMeter


class Log:
    """A log that another program writes."""

    def __init__(self, path: Path) -> None:
        self.path = path

    def put(self, text: str, mode: str = "a") -> None:
        with self.path.open(mode, encoding="utf-8") as file:
            file.write(text)


class FollowTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.log = Log(self.folder / "their log.csv")

    def follow(self, **more: object) -> FollowSource:
        address = f"follow://{self.log.path}".replace(" ", "%20")
        body = {"instrument": [{"name": "log", "address": address, "stale_after": 2.0, **more}]}
        source = FollowSource(instruments_of(body)[0], MonotonicClock())
        self.addCleanup(source.close)
        return source

    def until(self, true: Callable[[], bool], seconds: float = 4.0) -> None:
        until = time.monotonic() + seconds
        while not true():
            self.assertLess(time.monotonic(), until)
            time.sleep(0.02)

    def test_whole_rows_count_and_only_while_they_are_fresh(self) -> None:
        self.log.put("Board log of a stranger\nTime;CPU die (°C);Pump (rpm)\n0,0;41,5;2100\n", "w")
        source = self.follow()
        self.assertEqual([c.id for c in source.channels], ["log:CPU die", "log:Pump"])
        self.assertEqual(
            [(c.quantity, c.role) for c in source.channels], [("temperature", "die"), ("fan", "other")]
        )
        self.log.put("1,0;42,5;2110\n2,0;9")
        self.until(lambda: source.sample() == [42.5, 2110.0])
        time.sleep(0.6)
        self.assertEqual(source.sample(), [42.5, 2110.0])
        self.log.put("3,25;2120\n")
        self.until(lambda: source.sample() == [93.25, 2120.0])
        self.until(lambda: all(math.isnan(v) for v in source.sample()))
        self.assertEqual([p.status for p in source.probed()], ["unreadable"] * 2)

    def test_begun_anew_cut_short_or_gone_it_is_followed_on(self) -> None:
        head = "Time (s),CPU die (°C),Pump (rpm)\n"
        self.log.put(head + "0,40,2000\n", "w")
        source = self.follow()
        self.log.path.rename(self.folder / "older.csv")
        self.log.put(head + "0,50,2050\n", "w")
        self.until(lambda: source.sample() == [50.0, 2050.0])
        self.log.put(head, "w")
        self.log.put("0,60,2060\n")
        self.until(lambda: source.sample() == [60.0, 2060.0])
        self.log.path.unlink()
        self.until(lambda: math.isnan(source.sample()[0]))
        # Its columns may stand in another order by then.
        self.log.put("Time (s),Pump (rpm),CPU die (°C)\n0,2070,70\n", "w")
        self.until(lambda: source.sample() == [70.0, 2070.0])

    def test_titles_that_come_late_are_waited_for_and_old_rows_are_no_news(self) -> None:
        self.log.put("", "w")
        threading.Timer(0.8, lambda: self.log.put("Time (s),CPU die (°C)\n")).start()
        source = self.follow()
        self.assertEqual([c.name for c in source.channels], ["CPU die"])
        self.assertTrue(math.isnan(source.sample()[0]))
        self.log.put("0,45.5\n")
        self.until(lambda: source.sample() == [45.5])

    def test_a_log_that_is_not_there_is_one_channel_that_cannot_be_read(self) -> None:
        (found,) = self.follow().probed()
        self.assertEqual((found.status, found.value), ("unreadable", None))
        self.assertIn("no such file", found.reason or "")


class CallTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def call(self, *arguments: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "samovar", *arguments],
            capture_output=True,
            text=True,
            cwd=self.folder,
            check=False,
        )

    def described(self, meter: str, logger: str) -> Path:
        path = self.folder / "bench.toml"
        path.write_text(
            f'[[instrument]]\nname = "wall meter"\naddress = "{meter}"\n[[instrument.channel]]\nname = "Wall power"\n'
            'quantity = "power"\nunit = "W"\nrole = "wall"\nask = "MEAS:POW?"\n'
            f'[[instrument]]\nname = "thermocouples"\naddress = "{logger}?device=1"\n[[instrument.channel]]\n'
            'name = "Regulator back"\nquantity = "temperature"\nunit = "°C"\nrole = "vrm"\nregister = "input:0"\n'
            'type = "int16"\nscale = 0.1\n',
            encoding="utf-8",
        )
        return path

    def test_a_run_has_their_channels_and_a_gap_while_one_hangs(self) -> None:
        asked, hangs_after = 0, math.inf

        def power() -> str:
            nonlocal asked
            asked += 1
            if asked >= hangs_after:
                meter.hangs.set()
            return "104.5"

        with (
            ScpiMeter({"MEAS:POW?": power}) as meter,
            ModbusLogger(lambda _f: {0: word(41.3)}) as logger,
        ):
            path = self.described(meter.address, logger.address)
            said = json.loads(self.call("sources", "--with", str(path), "--json").stdout)["channels"]
            mine = {one["id"]: one for one in said if one["id"].startswith(("wall meter", "thermocouples"))}
            self.assertEqual(
                mine["wall meter:Wall power"],
                {
                    "id": "wall meter:Wall power", "label": "Wall power", "quantity": "power", "unit": "W",
                    "role": "wall", "value": 104.5, "status": "ok", "reason": None,
                },
            )  # fmt: skip
            self.assertEqual(mine["thermocouples:Regulator back"]["value"], 41.3)
            hangs_after = asked + 5
            to = self.folder / "run.csv"
            done = self.call(
                "record", "--with", str(path), "--for", "9", "--archive", "a.sqlite", "--to", str(to)
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            titles, *rows = [line.split(",") for line in to.read_text(encoding="utf-8").splitlines()]
            wall, back = titles.index("Wall power (W)"), titles.index("Regulator back (°C)")
            self.assertEqual({row[wall] for row in rows}, {"104.5", ""})
            self.assertEqual(rows[-1][wall], "")
            self.assertEqual({row[back] for row in rows[1:]}, {"41.3"})

    def test_rows_that_come_in_handfuls_are_each_put_at_their_moment(self) -> None:
        log = Log(self.folder / "handfuls.csv")
        log.put("Time (s),SSD (°C)\n0,40\n", "w")
        path = self.folder / "handfuls.toml"
        path.write_text(f'[[instrument]]\nname = "log"\naddress = "follow://{log.path}"\n', encoding="utf-8")

        def write() -> None:
            begun = time.monotonic()
            log.put("20,60\n")
            # A row each half a second, kept back for three seconds.
            for k in range(1, 31):
                if k % 6 == 0:
                    time.sleep(max(0.0, begun + 0.5 * k - time.monotonic()))
                    log.put("".join(f"{20 + 0.5 * j},{60 + j}\n" for j in range(k - 5, k + 1)))

        threading.Timer(3.0, write).start()
        done = self.call("record", "--with", str(path), "--for", "17", "--rate", "4", "--archive", "a.sqlite")
        self.assertEqual(done.returncode, 0, done.stderr)
        with Archive(self.folder / "a.sqlite") as archive:
            recording = archive.runs.recording(1)
        told = recording.values[next(k for k, c in enumerate(recording.channels) if c.id == "log:SSD")]
        first_s = np.array([recording.time_s[told == 60.0 + k][0] for k in range(1, 12)])
        self.assertLess(np.abs(np.diff(first_s) - 0.5).max(), 0.3)

    def test_titles_that_come_in_mid_run_are_channels_of_it_all_the_same(self) -> None:
        log = Log(self.folder / "late.csv")
        log.put("", "w")
        path = self.folder / "late.toml"
        path.write_text(f'[[instrument]]\nname = "log"\naddress = "follow://{log.path}"\n', encoding="utf-8")

        def write() -> None:
            log.put("Time (s),SSD (°C),Pump (rpm)\n")
            for k in range(12):
                time.sleep(1.0)
                log.put(f"{k},{40 + k},2100\n")

        threading.Timer(6.0, write).start()
        done = self.call("record", "--with", str(path), "--for", "12", "--archive", "a.sqlite")
        self.assertEqual(done.returncode, 0, done.stderr)
        with Archive(self.folder / "a.sqlite") as archive:
            recording = archive.runs.recording(1)
            channel = next(k for k, c in enumerate(recording.channels) if c.id == "log:SSD")
            known = recording.values[channel][np.isfinite(recording.values[channel])]
            self.assertGreater(len(known), 5)
            self.assertEqual(list(known), sorted(known))
            self.assertTrue(np.isnan(recording.values[channel][0]))
            self.assertEqual(check(archive).damaged, ())

    def test_titles_that_come_in_mid_run_are_seen_while_it_goes_on(self) -> None:
        log = Log(self.folder / "late.csv")
        log.put("", "w")
        described = instruments_of({"instrument": [{"name": "log", "address": f"follow://{log.path}"}]})
        machine = ThisMachine(self.folder)
        beside = open_instruments(described, machine.clock)
        with Archive(self.folder / "b.sqlite") as archive:
            live = LiveRun(archive, machine, CourseSpec("none"), for_s=30.0, beside=beside)
            before = len(seen_of(live)[0])
            live.start()
            time.sleep(1.5)
            self.assertEqual(len(seen_of(live)[0]), before)
            log.put("Time (s),CPU die (°C)\n0,61\n")
            end = time.monotonic() + 12.0
            row = 1
            while len(seen_of(live)[0]) == before and time.monotonic() < end:
                time.sleep(0.6)
                log.put(f"{row},{61 + row}\n")
                row += 1
            time.sleep(1.5)
            channels, time_s, values = seen_of(live)
            live.stop()
            live.wait(20)
        self.assertEqual(channels[-1].id, "log:CPU die")
        self.assertEqual(values.shape, (len(channels), len(time_s)))
        self.assertTrue(np.isfinite(values[-1]).any())
        self.assertTrue(np.isnan(values[-1][0]))

    def test_what_is_wrong_in_the_file_is_one_line_with_its_place(self) -> None:
        path = self.described("telnet://127.0.0.1:1", "modbus+tcp://127.0.0.1:1")
        for call in (["sources"], ["record", "--archive", "a.sqlite"]):
            done = self.call(*call, "--with", str(path))
            self.assertEqual((done.returncode, done.stdout), (2, ""))
            self.assertEqual(done.stderr.count("\n"), 1)
            self.assertIn(
                f"samovar: {path}: instrument 1.address: the scheme 'telnet' is not known", done.stderr
            )


if __name__ == "__main__":
    unittest.main()
