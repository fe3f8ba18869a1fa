"""The simulated rig as the Linux kernel would show it: sys and proc files below a folder.

Layout and units follow the kernel's documentation: hwmon/sysfs-interface (milli-degrees, millivolts,
rpm), admin-guide/pm/cpufreq (kHz), power/powercap (microjoules and their range), the x86
thermal_throttle counters, thermal/sysfs-api, and proc/stat (ticks of 1/100 s).
"""

from __future__ import annotations

import os
import random
from pathlib import Path

from samovar.simulator.rig import SimulatedRig

ENERGY_RANGE_UJ = 262_143_328_850
CHIP = "devices/pci0000:00/0000:00:18.3"
BOARD = "devices/platform/ridgeio.656"
STORAGE = "devices/pci0000:00/0000:01:00.0/nvme/nvme0"
GRAPHICS = "sys/devices/virtual/powercap/halden-power/halden-power:0/halden-power:0:0"
PROBE = "devices/usb1/1-4/1-4:1.0"
CARD = "devices/pci0000:00/0000:03:00.0"


class KernelTree:
    """A folder of files that follows a rig; `write` brings it up to date, `close` lets go of it.

    The noise of each sensor comes from `seed`, so the same rig written with the same seed gives the
    same files. Values are written in place, and only where their text changed.
    """

    def __init__(self, root: Path, rig: SimulatedRig, seed: int = 0) -> None:
        self.root = root
        self.rig = rig
        self._random = random.Random(seed)
        self._of_graphics = random.Random(f"graphics {seed}")
        self._files: dict[str, int] = {}
        self._texts: dict[str, str] = {}
        self._energy_offset_uj = int(self._random.random() * 0.9 * ENERGY_RANGE_UJ)
        self._homes = {
            n: f"sys/{d}/hwmon/hwmon{n}"
            for n, d in ((0, STORAGE), (1, CHIP), (2, BOARD), (3, PROBE), (4, CARD))
        }
        cpu = "sys/devices/system/cpu"
        self._core_files = [
            (
                f"{cpu}/cpufreq/policy{n}/scaling_cur_freq",
                f"{cpu}/cpu{n}/thermal_throttle/package_throttle_count",
            )
            for n in range(rig.setup.chip.cores)
        ]
        self._lay_out()
        self.write()

    def close(self) -> None:
        """Close the files; the folder stays."""
        for descriptor in self._files.values():
            os.close(descriptor)
        self._files.clear()

    def _put(self, path: str, text: str) -> None:
        """A file that never changes."""
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text + "\n")

    def _link(self, path: str, to: str) -> None:
        link = self.root / path
        link.parent.mkdir(parents=True, exist_ok=True)
        if not link.is_symlink():
            link.symlink_to(os.path.relpath(self.root / to, link.parent))

    @property
    def _counts_graphics(self) -> bool:
        """Whether the package has a counter of what its graphics side draws: one beside it has a meter of its own."""
        graphics = self.rig.graphics
        return self.rig.setup.chip.shared_budget_w is not None and (graphics is None or graphics.spec.inside)

    def _lay_out(self) -> None:
        chip = self.rig.setup.chip
        chips = {
            0: (STORAGE, "nvme", {"temp1_label": "Composite"}),
            1: (CHIP, "halden", {"temp1_label": "Tdie", "temp1_crit": str(round(chip.limit_c * 1000)), "in0_label": "Vcore"}),
            2: (
                BOARD,
                "ridgeio",
                {
                    "temp2_label": "VRM", "temp3_label": "Aux probe",
                    "fan1_label": "CPU fan", "fan2_label": "Case fan", "fan3_label": "Pump header",
                },
            ),
            3: (PROBE, "airprobe", {"temp1_label": "Room"}),
        }  # fmt: skip
        for number, (device, name, fixed) in chips.items():
            home = f"sys/{device}/hwmon/hwmon{number}"
            self._put(f"{home}/name", name)
            for attribute, text in fixed.items():
                self._put(f"{home}/{attribute}", text)
            self._link(f"sys/class/hwmon/hwmon{number}", home)
            self._link(f"{home}/device", f"sys/{device}")
        self._lay_out_graphics()
        zone = "sys/devices/virtual/thermal/thermal_zone0"
        self._put(f"{zone}/type", "acpitz")
        self._link("sys/class/thermal/thermal_zone0", zone)
        zone_of_power = "sys/devices/virtual/powercap/halden-power/halden-power:0"
        self._put(f"{zone_of_power}/name", "package-0")
        self._put(f"{zone_of_power}/max_energy_range_uj", str(ENERGY_RANGE_UJ))
        for number, (name, watts, seconds) in enumerate(
            (("long_term", chip.sustained_w, chip.burst_s), ("short_term", chip.burst_w, 0.01))
        ):
            self._put(f"{zone_of_power}/constraint_{number}_name", name)
            self._put(f"{zone_of_power}/constraint_{number}_power_limit_uw", str(round(watts * 1e6)))
            self._put(f"{zone_of_power}/constraint_{number}_time_window_us", str(round(seconds * 1e6)))
        self._link("sys/class/powercap/halden-power:0", zone_of_power)
        if self._counts_graphics:
            self._put(f"{GRAPHICS}/name", "uncore")
            self._put(f"{GRAPHICS}/max_energy_range_uj", str(ENERGY_RANGE_UJ))
            self._link("sys/class/powercap/halden-power:0:0", GRAPHICS)
        for core in range(chip.cores):
            policy = f"sys/devices/system/cpu/cpufreq/policy{core}"
            self._put(f"{policy}/cpuinfo_max_freq", str(round(chip.boost_ghz * 1e6)))
            self._put(f"{policy}/base_frequency", str(round(chip.base_ghz * 1e6)))
            self._put(f"{policy}/affected_cpus", str(core))
            self._link(f"sys/devices/system/cpu/cpu{core}/cpufreq", policy)
        vendor, name = chip.board.split(" ", 1)
        self._put("sys/class/dmi/id/board_vendor", vendor)
        self._put("sys/class/dmi/id/board_name", name)
        self._put("sys/class/dmi/id/bios_version", "1.14")
        self._put("sys/devices/system/cpu/cpufreq/policy0/scaling_governor", "performance")
        self._put("sys/block/nvme0n1/device/model", "Silt S1 1TB")
        self._put("proc/meminfo", "MemTotal:       32768000 kB")
        self._put("proc/sys/kernel/osrelease", "6.9.4")
        self._put("etc/os-release", 'PRETTY_NAME="Bench Linux 4"')
        self._put(
            "proc/cpuinfo",
            "".join(f"processor\t: {n}\nmodel name\t: {chip.name}\n\n" for n in range(chip.cores)),
        )

    def _lay_out_graphics(self) -> None:
        graphics = self.rig.graphics
        if graphics is None:
            return
        home = self._homes[4]
        self._put(f"{home}/name", graphics.spec.driver)
        for attribute, text in (
            ("temp1_label", "edge"), ("temp2_label", "junction"), ("temp3_label", "mem"), ("freq1_label", "sclk"),
            ("temp2_crit", str(round(1000 * graphics.spec.limit_c))),
        ):  # fmt: skip
            self._put(f"{home}/{attribute}", text)
        if not graphics.spec.inside:
            self._put(f"{home}/power1_label", "GPU")
        self._link("sys/class/hwmon/hwmon4", home)
        self._link(f"{home}/device", f"sys/{CARD}")
        self._link("sys/class/drm/card0", f"sys/{CARD}/drm/card0")
        self._link(f"sys/{CARD}/drm/card0/device", f"sys/{CARD}")

    def _write_graphics(self) -> None:
        graphics, gauss = self.rig.graphics, self._of_graphics.gauss
        if graphics is None:
            return
        home = self._homes[4]
        for number, celsius in ((1, graphics.die_c), (2, graphics.hotspot_c), (3, graphics.memory_c)):
            self._show(f"{home}/temp{number}_input", 500 * round(2.0 * (celsius + gauss(0, 0.15))))
        self._show(f"{home}/freq1_input", round(1e6 * max(0.0, graphics.clock_mhz + gauss(0, 3))))
        if not graphics.spec.inside:
            self._show(f"{home}/power1_average", round(1e6 * max(0.4, graphics.power_w + gauss(0, 0.15))))
        self._show(f"sys/{CARD}/gpu_busy_percent", round(100.0 * min(1.0, graphics.busy)))

    def write(self) -> None:
        """Bring every file up to the rig's present state."""
        rig, gauss = self.rig, self._random.gauss
        hwmon = self._homes
        self._show(f"{hwmon[1]}/temp1_input", 125 * round((rig.die_c + gauss(0, 0.16)) * 8))
        self._show(f"{hwmon[1]}/in0_input", round(1000 * rig.core_voltage() + gauss(0, 3)))
        self._show(f"{hwmon[2]}/temp2_input", 500 * round((rig.vrm_c + gauss(0, 0.2)) * 2))
        self._show(f"{hwmon[2]}/temp3_input", -128000)
        self._show(f"{hwmon[2]}/fan1_input", self._rpm(rig.rpm, gauss(0, 4)))
        self._show(
            f"{hwmon[2]}/pwm1",
            round(255 * min(1.0, rig.rpm / rig.setup.fan.curve[-1][1])) if rig.rpm > 60 else 0,
        )
        self._show(f"{hwmon[2]}/fan2_input", self._rpm(rig.setup.case.fan_rpm, gauss(0, 3)))
        self._show(f"{hwmon[2]}/fan3_input", 0)
        self._show(f"{hwmon[0]}/temp1_input", 1000 * round(rig.drive.celsius(rig.case_c) + gauss(0, 0.2)))
        self._show(f"{hwmon[3]}/temp1_input", round(62.5 * round((rig.room_c + gauss(0, 0.04)) * 16.0)))
        self._show(
            "sys/devices/virtual/thermal/thermal_zone0/temp",
            100 * round(10 * (rig.case_c + 2.0) + gauss(0, 1)),
        )
        energy = (round(rig.energy_j * 1e6) + self._energy_offset_uj) % ENERGY_RANGE_UJ
        self._show("sys/devices/virtual/powercap/halden-power/halden-power:0/energy_uj", energy)
        throttled = int(rig.throttle_s)
        for clock, counter in self._core_files:
            self._show(clock, round((rig.clock_ghz + gauss(0, 0.006)) * 1e6))
            self._show(counter, throttled)
        if self._counts_graphics:
            graphics = round(rig.gpu_energy_j * 1e6) % ENERGY_RANGE_UJ
            self._show(f"{GRAPHICS}/energy_uj", graphics)
        self._write_graphics()
        self._show("proc/stat", self._stat())

    @staticmethod
    def _rpm(rpm: float, noise: float) -> int:
        return max(0, round(rpm + noise)) if rpm > 60.0 else 0

    def _stat(self) -> str:
        """Ticks of user and idle time, the whole machine first, then each processor."""
        rig = self.rig
        cores = rig.setup.chip.cores
        threads = min(rig.load.threads, cores) if rig.load else 0
        total = round(100 * rig.time_s)
        busy = 100 * rig.busy_core_s + 0.012 * cores * total
        lines = [f"cpu  {round(busy)} 0 0 {round(cores * total - busy)} 0 0 0 0 0 0"]
        for core in range(cores):
            # Which thread sits where does not matter here: the work is shown evenly spread.
            share = busy / cores
            lines.append(f"cpu{core} {round(share)} 0 0 {round(total - share)} 0 0 0 0 0 0")
        lines.append(f"procs_running {threads + 1}")
        return "\n".join(lines)

    def _show(self, path: str, value: int | str) -> None:
        text = f"{value}\n"
        if self._texts.get(path) == text:
            return
        descriptor = self._files.get(path)
        if descriptor is None:
            target = self.root / path
            target.parent.mkdir(parents=True, exist_ok=True)
            descriptor = self._files[path] = os.open(target, os.O_RDWR | os.O_CREAT, 0o644)
        data = text.encode()
        os.pwrite(descriptor, data, 0)
        if len(data) < len(self._texts.get(path, "")) or path not in self._texts:
            os.ftruncate(descriptor, len(data))
        self._texts[path] = text
