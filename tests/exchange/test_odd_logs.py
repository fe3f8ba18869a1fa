"""Logs that leave something open: what is taken for granted, what is left out, what is refused."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from samovar.exchange.logs import Log, read_log
from samovar.exchange.problems import InputError
from samovar.exchange.titles import understand


def rows(form: str, count: int = 20) -> str:
    return "".join(form.format(k=k, die=40 + k) + "\n" for k in range(count))


class OddLogsTest(unittest.TestCase):
    def read(self, text: str) -> Log:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "log.csv"
            path.write_text(text, encoding="utf-8")
            return read_log(path)

    def channels(self, text: str) -> list[tuple[str, str, str]]:
        return [(c.name, c.quantity, c.role) for c in self.read(text).recording.channels]

    def test_words_between_the_numbers_do_no_harm(self) -> None:
        log = self.read(
            "Time,State,Fan mode,User,Note,CPU Temp (°C),Power (W)\n" + rows("{k},run,auto,ann,none,{die},25")
        )
        self.assertEqual([c.name for c in log.recording.channels], ["CPU Temp", "Power"])
        self.assertIn("column 'Fan mode': no numbers in it, left out", log.warnings)

    def test_words_in_titles_count_and_not_letters(self) -> None:
        for title in (
            "InfantMortality",
            "Profanity",
            "Fantasy points",
            "Download",
            "Horsepower",
            "Template",
            "Soundtrack's",
        ):
            self.assertIsNone(understand(title), title)
        for title, quantity in (
            ("CPUFan", "fan"), ("casefan1", "fan"), ("cpupower", "power"), ("CoreClock", "clock"), ("gpuclk", "clock"),
            ("CPULoad", "load"), ("cputemp", "temperature"), ("Lüfter 1", "fan"),
        ):  # fmt: skip
            found = understand(title)
            self.assertEqual(found and found.channel.quantity, quantity, title)

    def test_the_only_one_of_its_kind_is_the_chip_s_and_that_is_said(self) -> None:
        log = self.read("t,Temp,Clock,Power\n" + rows("{k},{die},3000,50"))
        roles = {c.name: (c.role, c.domain) for c in log.recording.channels}
        self.assertEqual(
            roles, {"Temp": ("die", "cpu"), "Clock": ("core", "cpu"), "Power": ("package", "cpu")}
        )
        self.assertEqual(len([w for w in log.warnings if "the only" in w]), 2)
        # A meter's log has no chip in it: its power stays what it is.
        self.assertEqual(self.channels("t,Power (W)\n" + rows("{k},50")), [("Power", "power", "other")])

    def test_titles_of_many_makers(self) -> None:
        titles = {
            "CPU (Tctl/Tdie) [°C]": ("CPU (Tctl/Tdie)", "temperature", "die"),
            "CPU Core #1 (°C)": ("CPU Core #1", "temperature", "core"),
            "Core 0 Clock (perf #1) [MHz]": ("Core 0 Clock (perf #1)", "clock", "core"),
            "CPU_PKG_POWER_W": ("CPU_PKG_POWER", "power", "package"),
            "cpu.package.power_mw": ("cpu.package.power", "power", "package"),
            "GPU Hot Spot Temperature [°C]": ("GPU Hot Spot Temperature", "temperature", "hotspot"),
            "Noise, dB(A)": ("Noise", "noise", "other"),
            "Relative humidity [%]": ("Relative humidity", "humidity", "other"),
            "Thermal Throttling [Yes/No]": ("Thermal Throttling", "flag", "core"),
            "CPU-Temperatur [°C]": ("CPU-Temperatur", "temperature", "die"),
            "Lüfter 1 [U/min]": ("Lüfter 1", "fan", "other"),
            "Drive Temperature (°C)": ("Drive Temperature", "temperature", "storage"),
        }
        head = "Time (s);" + ";".join(titles)
        found = self.channels(head + "\n" + rows("{k}" + ";{die}" * len(titles)))
        self.assertEqual(found, list(titles.values()))

    def test_what_is_none_of_ours_is_left_out_and_named(self) -> None:
        log = self.read(
            "Time (s),CPU die (°C),Frame time (ms),Memory used (MB),Energy (J)\n" + rows("{k},{die},16,900,5")
        )
        self.assertEqual([c.name for c in log.recording.channels], ["CPU die"])
        self.assertEqual(len(log.warnings), 3)
        self.assertTrue(all("left out" in w for w in log.warnings))

    def test_a_log_of_one_or_two_rows_is_a_log(self) -> None:
        for count in (1, 2):
            log = self.read("Time (s),CPU die (°C)\n" + rows("{k},{die}", count))
            self.assertEqual(len(log.recording.time_s), count)

    def test_without_titles_only_a_map_can_tell(self) -> None:
        with self.assertRaisesRegex(InputError, "--map"):
            self.read(rows("{k},{die},3000"))


if __name__ == "__main__":
    unittest.main()
