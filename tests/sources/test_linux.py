"""The Linux source on trees shaped like the kernel's: names that last, units, wraps, refusals."""

from __future__ import annotations

import math
import os
import shutil
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest.mock import patch

from samovar.core.quantity import Channel
from samovar.simulator.harbour import LOADS, SETUPS
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.tree import ENERGY_RANGE_UJ, KernelTree
from samovar.sources.linux import LinuxSource, discover
from samovar.sources.linux.files import RateReader
from samovar.sources.linux.lane import Lane
from samovar.sources.protocol import Probed


class Tree:
    """A tree written by hand."""

    def __init__(self, root: Path) -> None:
        self.root = root

    def put(self, path: str, text: str | int) -> Path:
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(f"{text}\n")
        return target

    def chip(self, number: int, device: str, name: str, **attributes: str | int) -> None:
        home = f"sys/devices/{device}/hwmon/hwmon{number}"
        self.put(f"{home}/name", name)
        for attribute, value in attributes.items():
            self.put(f"{home}/{attribute}", value)
        link = self.root / f"sys/class/hwmon/hwmon{number}"
        link.parent.mkdir(parents=True, exist_ok=True)
        link.symlink_to(self.root / home)
        (self.root / home / "device").symlink_to(self.root / f"sys/devices/{device}")

    def found(self) -> dict[str, Probed]:
        return {p.channel.id: p for p in discover(self.root, settle_s=0.0)}


class FakeReader:
    """A reader that answers with its number; while `hanging` is set it does not answer."""

    def __init__(self, number: int, hanging: threading.Event | None = None) -> None:
        self.channel = Channel(f"t{number}", "temperature", "°C", id=f"t{number}")
        self._number, self._hanging = number, hanging

    def value(self) -> float:
        while self._hanging is not None and self._hanging.is_set():
            time.sleep(0.01)
        return float(self._number)

    def implausible(self, value: float) -> str | None:
        return None

    def close(self) -> None:
        pass


class LinuxTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.tree = Tree(Path(folder.name))

    def test_units_and_roles(self) -> None:
        self.tree.chip(
            0, "0000:00:18.3", "halden", temp1_input=41250, temp1_label="Tdie", in0_input=1104, in0_label="Vcore",
            fan1_input=1004, fan1_label="CPU fan", curr1_input=7500, power1_average=88_500_000, power1_label="Package",
            humidity1_input=41000,
        )  # fmt: skip
        found = self.tree.found()
        expected = {
            "temp1": ("temperature", "°C", "die", 41.25), "in0": ("voltage", "V", "other", 1.104),
            "fan1": ("fan", "rpm", "other", 1004.0), "curr1": ("current", "A", "other", 7.5),
            "power1": ("power", "W", "package", 88.5), "humidity1": ("humidity", "%", "other", 41.0),
        }  # fmt: skip
        for sensor, (quantity, unit, role, value) in expected.items():
            with self.subTest(sensor=sensor):
                p = found[f"hwmon:halden:0000:00:18.3:{sensor}"]
                self.assertEqual((p.channel.quantity, p.channel.unit, p.channel.role), (quantity, unit, role))
                self.assertAlmostEqual(p.value or 0, value)
                self.assertEqual(p.status, "ok")

    def test_names_last_when_numbers_change(self) -> None:
        with tempfile.TemporaryDirectory() as other:
            again = Tree(Path(other))
            for tree, numbers in ((self.tree, (0, 1)), (again, (5, 2))):
                tree.chip(numbers[0], "a:1", "spd", temp1_input=30000)
                tree.chip(numbers[1], "a:2", "spd", temp1_input=31000)
            self.assertEqual(set(self.tree.found()), set(again.found()))
            self.assertEqual(len(self.tree.found()), 2)

    def test_what_cannot_be_is_shown_but_not_used(self) -> None:
        self.tree.chip(
            0, "x", "io", temp1_input=-128000, fan1_input=0, fan2_input=0, pwm2=0, temp2_input=45000
        )
        found = self.tree.found()
        self.assertEqual(found["hwmon:io:x:temp1"].status, "implausible")
        self.assertEqual(found["hwmon:io:x:fan1"].status, "implausible")
        self.assertEqual(found["hwmon:io:x:fan2"].status, "ok")
        source = LinuxSource(self.tree.root)
        self.addCleanup(source.close)
        self.assertEqual({c.id for c in source.channels}, {"hwmon:io:x:fan2", "hwmon:io:x:temp2"})

    def test_a_refusal_is_named_and_costs_nothing_else(self) -> None:
        self.tree.chip(0, "x", "io", temp1_input=45000, temp3_input="rubbish")
        (self.tree.root / "sys/devices/x/hwmon/hwmon0/temp2_input").mkdir()
        found = self.tree.found()
        self.assertEqual(found["hwmon:io:x:temp2"].status, "unreadable")
        self.assertIn("directory", found["hwmon:io:x:temp2"].reason or "")
        self.assertEqual(found["hwmon:io:x:temp3"].status, "unreadable")
        self.assertEqual(found["hwmon:io:x:temp1"].value, 45.0)

    def test_a_sensor_that_fails_later_is_a_gap_and_comes_back(self) -> None:
        self.tree.chip(0, "x", "io", temp1_input=45000, temp2_input=50000)
        source = LinuxSource(self.tree.root)
        self.addCleanup(source.close)
        path = self.tree.root / "sys/devices/x/hwmon/hwmon0/temp1_input"
        path.write_text("")
        values = source.sample()
        self.assertTrue(math.isnan(values[0]))
        self.assertEqual(values[1], 50.0)
        path.write_text("46000\n")
        self.assertEqual(source.sample()[0], 46.0)

    def test_a_file_that_never_answers_is_named_at_once(self) -> None:
        self.tree.chip(0, "x", "io", temp1_input=45000)
        os.mkfifo(self.tree.root / "sys/devices/x/hwmon/hwmon0/temp4_input")
        os.mkfifo(self.tree.root / "sys/devices/x/hwmon/hwmon0/temp1_label")
        began = time.monotonic()
        found = self.tree.found()
        self.assertLess(time.monotonic() - began, 0.8)
        self.assertEqual(found["hwmon:io:x:temp1"].value, 45.0)
        self.assertEqual(found["hwmon:io:x:temp4"].status, "unreadable")
        self.assertIn("never answer", found["hwmon:io:x:temp4"].reason or "")

    def test_a_device_that_hangs_costs_the_others_nothing(self) -> None:
        hanging = threading.Event()
        readers = [FakeReader(k, hanging if k == 1 else None) for k in range(4)]
        lane = Lane(readers, 0.1)
        self.addCleanup(lane.close)
        self.assertEqual(lane.read(), [0.0, 1.0, 2.0, 3.0])
        hanging.set()
        self.assertEqual(lane.read(), [0.0, None, 2.0, 3.0])
        began = time.monotonic()
        for _ in range(5):
            self.assertEqual(lane.read(), [0.0, None, 2.0, 3.0])
        self.assertLess(time.monotonic() - began, 0.1)
        hanging.clear()
        deadline = time.monotonic() + 5.0
        # It speaks again, first on a thread of its own, then among the others, without a gap.
        while lane._alone and time.monotonic() < deadline:
            lane.read()
            time.sleep(0.02)
        self.assertEqual([lane.read() for _ in range(3)], [[0.0, 1.0, 2.0, 3.0]] * 3)

    def test_a_hanging_device_is_said_when_sensors_are_looked_for(self) -> None:
        hanging = threading.Event()
        hanging.set()
        self.addCleanup(hanging.clear)
        readers = [FakeReader(0), FakeReader(1, hanging), FakeReader(2)]
        with patch("samovar.sources.linux.machine._readers", return_value=readers):
            found = discover(self.tree.root, settle_s=0.0)
        self.assertEqual([p.status for p in found], ["ok", "unreadable", "ok"])
        self.assertIn("hangs", found[1].reason or "")

    def test_a_device_that_comes_back_under_another_number_is_found_again(self) -> None:
        self.tree.chip(0, "0000:01:00.0", "nvme", temp1_input=33000)
        self.tree.chip(1, "0000:02:00.0", "spd", temp1_input=44000)
        now = [0.0]
        source = LinuxSource(self.tree.root, lambda: now[0])
        self.addCleanup(source.close)
        names = [c.id.split(":")[1] for c in source.channels]
        # The kernel answers no more for a device that is gone, though its files are still open here.
        (self.tree.root / "sys/devices/0000:01:00.0/hwmon/hwmon0/temp1_input").write_text("")
        shutil.rmtree(self.tree.root / "sys/devices/0000:01:00.0")
        (self.tree.root / "sys/class/hwmon/hwmon0").unlink()
        for _ in range(4):
            now[0] += 1.0
            self.assertTrue(math.isnan(dict(zip(names, source.sample(), strict=True))["nvme"]))
        self.tree.chip(7, "0000:01:00.0", "nvme", temp1_input=35000)
        for _ in range(8):
            now[0] += 1.0
            values = dict(zip(names, source.sample(), strict=True))
        self.assertEqual(values, {"nvme": 35.0, "spd": 44.0})

    def test_zones_that_hwmon_shows_already_are_not_shown_twice(self) -> None:
        self.tree.put("sys/devices/virtual/thermal/thermal_zone0/type", "acpitz")
        self.tree.put("sys/devices/virtual/thermal/thermal_zone0/temp", 27800)
        zones = self.tree.root / "sys/class/thermal"
        zones.mkdir(parents=True)
        (zones / "thermal_zone0").symlink_to(self.tree.root / "sys/devices/virtual/thermal/thermal_zone0")
        self.assertEqual(set(self.tree.found()), {"thermal:acpitz"})
        self.tree.chip(0, "virtual/thermal/thermal_zone0", "acpitz", temp1_input=27800)
        self.assertEqual([p.channel.id.split(":")[0] for p in self.tree.found().values()], ["hwmon"])

    def test_an_energy_counter_wraps(self) -> None:
        from samovar.core.quantity import Channel

        now = [0.0]
        path = self.tree.put("energy_uj", ENERGY_RANGE_UJ - 10_000_000)
        reader = RateReader(Channel("P", "power", "W"), path, 1e6, ENERGY_RANGE_UJ, lambda: now[0])
        self.assertTrue(math.isnan(reader.value()))
        now[0] = 1.0
        path.write_text("84999999\n")
        self.assertAlmostEqual(reader.value(), 95.0, places=4)
        reader.close()

    def test_a_device_that_vanishes_or_is_none_ends_nothing(self) -> None:
        self.tree.chip(0, "0000:03:00.0", "whole", temp1_input=40000)
        chips = self.tree.root / "sys/class/hwmon"
        (chips / "hwmon7").symlink_to(self.tree.root / "gone")
        (chips / "hwmon8").write_text("no folder")
        (self.tree.root / "sys/class/power_supply").write_text("no folder")
        self.assertEqual([p.channel.name for p in discover(self.tree.root, 0.0)], ["whole temp1"])

    def test_two_zones_of_one_type_keep_their_names_when_they_swap_numbers(self) -> None:
        def laid_out(root: Path, order: tuple[int, int], how: str) -> dict[str, float | None]:
            tree = Tree(root)
            for number, which in enumerate(order):
                home = f"sys/class/thermal/thermal_zone{number}"
                tree.put(f"{home}/type", "acpitz")
                tree.put(f"{home}/temp", 30000 + 10000 * which)
                if how == "device":
                    tree.put(f"sys/devices/LNXTHERM:0{which}/path", f"\\_TZ_.TZ0{which}")
                    (root / home / "device").symlink_to(root / f"sys/devices/LNXTHERM:0{which}")
                else:
                    tree.put(f"{home}/trip_point_0_temp", 95000 + which)
            return {p.channel.id: p.value for p in discover(root, 0.0)}

        for how in ("device", "trips"):
            with (
                self.subTest(how=how),
                tempfile.TemporaryDirectory() as one,
                tempfile.TemporaryDirectory() as two,
            ):
                first, second = laid_out(Path(one), (0, 1), how), laid_out(Path(two), (1, 0), how)
                self.assertEqual(len(first), 2)
                self.assertEqual(first, second)

    def test_a_label_with_a_line_break_is_one_line(self) -> None:
        self.tree.chip(0, "0000:03:00.0", "odd", temp1_input=40000, temp1_label="VRM\nMOS\x1b[31m")
        (found,) = self.tree.found().values()
        self.assertEqual(found.channel.name, "VRM MOS\\x1b[31m")

    def test_disks_and_zones_keep_their_names_when_renumbered(self) -> None:
        def laid_out(root: Path, disk: str, zone: int) -> set[str]:
            tree = Tree(root)
            tree.chip(3 + zone, f"pci0000:00/0000:01:00.0/nvme/{disk}", "nvme", temp1_input=33000)
            tree.put(f"sys/devices/virtual/thermal/thermal_zone{zone}/type", "soc")
            tree.chip(zone, f"virtual/thermal/thermal_zone{zone}", "soc", temp1_input=40000)
            return set(tree.found())

        with tempfile.TemporaryDirectory() as other:
            first = laid_out(self.tree.root, "nvme0", 0)
            self.assertEqual(first, laid_out(Path(other), "nvme2", 4))
        self.assertEqual(first, {"hwmon:nvme:0000:01:00.0:temp1", "hwmon:soc:zone-soc:temp1"})

    def test_two_chips_of_one_driver_on_one_device_are_two(self) -> None:
        self.tree.chip(0, "0000:03:00.0", "gx", temp1_input=40000)
        home = self.tree.root / "sys/devices/0000:03:00.0/hwmon/hwmon7"
        self.tree.put("sys/devices/0000:03:00.0/hwmon/hwmon7/name", "gx")
        self.tree.put("sys/devices/0000:03:00.0/hwmon/hwmon7/temp1_input", 50000)
        (home / "device").symlink_to(self.tree.root / "sys/devices/0000:03:00.0")
        (self.tree.root / "sys/class/hwmon/hwmon7").symlink_to(home)
        self.assertEqual(sorted(p.value or 0 for p in self.tree.found().values()), [40.0, 50.0])

    def test_a_sensor_its_chip_reports_broken_is_not_used(self) -> None:
        self.tree.chip(
            0,
            "x",
            "io",
            temp1_input=45000,
            temp1_fault=1,
            temp2_input=46000,
            temp2_fault=0,
            fan1_input=900,
            fan1_fault=1,
        )
        found = self.tree.found()
        self.assertEqual(
            {i.rsplit(":")[-1]: p.status for i, p in found.items()},
            {"temp1": "implausible", "temp2": "ok", "fan1": "implausible"},
        )
        self.assertIn("reports a fault", found["hwmon:io:x:temp1"].reason or "")

    def test_graphics_clocks_and_critical_alarms(self) -> None:
        self.tree.chip(
            0, "0000:03:00.0", "amdgpu", freq1_input=2_410_000_000, freq1_label="sclk", freq2_input=1_000_000_000,
            freq2_label="mclk", temp1_input=50000, temp1_label="edge", temp1_crit_alarm=1,
        )  # fmt: skip
        found = {i.rsplit(":")[-1]: p for i, p in self.tree.found().items()}
        self.assertEqual(
            (found["freq1"].value, found["freq1"].channel.role, found["freq1"].channel.domain),
            (2410.0, "gpu", "gpu"),
        )
        self.assertEqual(found["freq2"].channel.role, "memory")
        self.assertEqual(
            (found["temp1_crit_alarm"].value, found["temp1_crit_alarm"].channel.quantity), (1.0, "flag")
        )

    def test_unlike_cores_are_told_apart_and_favoured_ones_are_not(self) -> None:
        for core, top in enumerate((4_900_000, 5_100_000, 3_600_000, 3_600_000)):
            self.tree.put(f"sys/devices/system/cpu/cpu{core}/cpufreq/cpuinfo_max_freq", top)
            self.tree.put(f"sys/devices/system/cpu/cpu{core}/cpufreq/scaling_cur_freq", 2_000_000)
        names = [p.channel.name for p in self.tree.found().values()]
        self.assertEqual(
            names, ["Fast core 0 clock", "Fast core 1 clock", "Slow core 2 clock", "Slow core 3 clock"]
        )
        self.tree.put("sys/devices/system/cpu/cpu2/cpufreq/cpuinfo_max_freq", 4_900_000)
        self.tree.put("sys/devices/system/cpu/cpu3/cpufreq/cpuinfo_max_freq", 4_900_000)
        self.assertEqual(
            {p.channel.name for p in self.tree.found().values()}, {f"Core {k} clock" for k in range(4)}
        )

    def test_batteries_and_supplies(self) -> None:
        home = "sys/class/power_supply"
        for path, text in (
            ("BAT0/type", "Battery"), ("BAT0/current_now", -1_500_000), ("BAT0/voltage_now", 12_000_000),
            ("BAT1/type", "Battery"), ("BAT1/power_now", 7_250_000), ("mouse/type", "Battery"), ("mouse/scope", "Device"),
            ("mouse/power_now", 1), ("AC/type", "Mains"), ("AC/online", 1), ("odd/type", "Battery"),
        ):  # fmt: skip
            self.tree.put(f"{home}/{path}", text)
        found = {i: p.value for i, p in self.tree.found().items()}
        self.assertEqual(
            found, {"supply:AC:online": 1.0, "supply:BAT0:power": 18.0, "supply:BAT1:power": 7.25}
        )

    def test_converters_are_scaled_as_the_kernel_says(self) -> None:
        """Numbers as in ABI/testing/sysfs-bus-iio: (raw + offset) * scale, in thousandths."""
        tree = self.tree
        home = "sys/devices/platform/spi0/spi0.1/iio:device3"
        for name, text in {
            "name": "tcamp", "in_temp_raw": "664", "in_temp_scale": "62.5", "in_temp_ambient_raw": "2304",
            "in_temp_ambient_scale": "10.0", "in_temp_ambient_offset": "-4",
        }.items():  # fmt: skip
            tree.put(f"{home}/{name}", text)
        adc = "sys/devices/platform/i2c-1/1-0048/iio:device0"
        for name, text in {
            "name": "adc16", "in_voltage0_raw": "-160", "in_voltage1_raw": "8000", "in_voltage_scale": "0.125000000",
            "in_voltage1_label": "Rail 12 V", "in_current2_raw": "300", "in_current2_scale": "2",
            "in_humidityrelative_input": "41250", "in_power3_raw": "x",
        }.items():  # fmt: skip
            tree.put(f"{adc}/{name}", text)
        folder = tree.root / "sys/bus/iio/devices"
        folder.mkdir(parents=True)
        for device in (home, adc):
            (folder / device.rpartition("/")[2]).symlink_to(tree.root / device)
        found = tree.found()
        told = {
            key: (p.value, p.channel.unit, p.channel.name) for key, p in found.items() if p.status == "ok"
        }
        self.assertEqual(
            told,
            {
                "iio:tcamp:spi0.1:in_temp": (41.5, "°C", "tcamp temp"),
                "iio:tcamp:spi0.1:in_temp_ambient": (23.0, "°C", "tcamp temp ambient"),
                "iio:adc16:1-0048:in_voltage0": (-0.02, "V", "adc16 voltage0"),
                "iio:adc16:1-0048:in_voltage1": (1.0, "V", "Rail 12 V"),
                "iio:adc16:1-0048:in_current2": (0.6, "A", "adc16 current2"),
                "iio:adc16:1-0048:in_humidityrelative": (41.25, "%", "adc16 humidityrelative"),
            },
        )
        self.assertEqual(found["iio:adc16:1-0048:in_power3"].status, "unreadable")

    def test_graphics_chips_and_devices_with_clocks_of_their_own(self) -> None:
        tree = self.tree
        tree.put("sys/devices/pci0000:00/0000:03:00.0/gpu_busy_percent", "87")
        tree.put("sys/devices/pci0000:00/0000:03:00.0/drm/card1/dev", "226:1")
        card = tree.root / "sys/devices/pci0000:00/0000:03:00.0/drm/card1"
        (card / "device").symlink_to(tree.root / "sys/devices/pci0000:00/0000:03:00.0")
        tree.put("sys/devices/pci0000:00/0000:03:00.0/drm/card1/gt_act_freq_mhz", "1350")
        folder = tree.root / "sys/class/drm"
        folder.mkdir(parents=True)
        (folder / "card1").symlink_to(card)
        (folder / "card1-HDMI-A-1").mkdir()
        tree.put("sys/class/devfreq/fb000000.gpu/cur_freq", "800000000")
        tree.put("sys/class/devfreq/dmc/cur_freq", "1560000000")
        told = {key: (p.value, p.channel.quantity, p.channel.role) for key, p in tree.found().items()}
        self.assertEqual(
            told,
            {
                "drm:0000:03:00.0:gpu_busy_percent": (87.0, "load", "gpu"),
                "drm:0000:03:00.0:gt_act_freq_mhz": (1350.0, "clock", "gpu"),
                "devfreq:fb000000.gpu": (800.0, "clock", "gpu"),
                "devfreq:dmc": (1560.0, "clock", "memory"),
            },
        )

    def test_a_port_says_what_flows_through_it(self) -> None:
        for name, text in {
            "type": "USB",
            "online": "1",
            "voltage_now": "20000000",
            "current_now": "1250000",
        }.items():
            self.tree.put(f"sys/class/power_supply/ucsi-port-1/{name}", text)
        found = self.tree.found()
        self.assertEqual(found["supply:ucsi-port-1:power"].value, 25.0)
        self.assertEqual(found["supply:ucsi-port-1:online"].value, 1.0)

    def test_nothing_there_is_nothing_found(self) -> None:
        self.assertEqual(self.tree.found(), {})


class SimulatedTreeTest(unittest.TestCase):
    def test_the_tree_reads_back_as_the_rig_is(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            rig = SimulatedRig(SETUPS["Osprey 161"])
            tree = KernelTree(Path(folder), rig, seed=2)
            source = LinuxSource(Path(folder), lambda: rig.time_s)
            rig.start(LOADS["worst case"])
            for moment in range(1, 400):
                rig.advance_to(float(moment))
                tree.write()
                values = dict(zip((c.name for c in source.channels), source.sample(), strict=True))
            self.assertAlmostEqual(values["Tdie"], rig.die_c, delta=0.8)
            self.assertAlmostEqual(values["Package power"], rig.power_w, delta=0.3)
            self.assertAlmostEqual(values["Core 3 clock"], 1000 * rig.clock_ghz, delta=30)
            self.assertAlmostEqual(values["CPU fan"], rig.rpm, delta=20)
            self.assertAlmostEqual(values["Utilisation"], 100.0, delta=1.5)
            source.close()
            tree.close()


if __name__ == "__main__":
    unittest.main()
