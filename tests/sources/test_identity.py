"""What a machine tells of itself, from kernel-shaped files; and roles confirmed for a rig."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from samovar.core.rig import RIG_FIELDS, split_values
from samovar.simulator.machine import SimulatedMachine
from samovar.sources.linux import LinuxSource
from samovar.sources.linux.identity import known_facts
from samovar.sources.roles import with_roles


def put(root: Path, files: dict[str, str]) -> None:
    for name, text in files.items():
        target = root / name
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(text + "\n")


class IdentityTest(unittest.TestCase):
    def test_the_demos_rig_tells_its_data_sheet(self) -> None:
        machine = SimulatedMachine("Loam P")
        self.addCleanup(machine.close)
        found = machine.known_facts()
        self.assertTrue(set(found) <= {f.key for f in RIG_FIELDS})
        cpu = split_values(found)[0].cpu
        self.assertEqual(
            (cpu.name, cpu.cores, cpu.temperature_limit_c, cpu.base_clock_mhz, cpu.boost_clock_mhz, cpu.sustained_power_w, cpu.burst_power_w, cpu.burst_time_s),
            ("Halden 8", 8, 95.0, 3400.0, 4900.0, 95.0, 142.0, 28.0),
        )  # fmt: skip
        self.assertEqual(
            (found["board"], found["storage"], found["system"]),
            ("Ridge M4", "Silt S1 1TB", "Bench Linux 4, Linux 6.9.4"),
        )

    def test_a_kernel_that_says_nothing_or_nonsense(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            self.assertEqual(known_facts(root), {})
            put(
                root,
                {
                    "sys/class/dmi/id/board_name": "To be filled by O.E.M.",
                    "sys/devices/system/cpu/cpufreq/policy0/cpuinfo_max_freq": "banana",
                    "sys/class/hwmon/hwmon0/name": "halden", "sys/class/hwmon/hwmon0/temp1_input": "40000",
                    "sys/class/hwmon/hwmon0/temp1_label": "Tctl", "sys/class/hwmon/hwmon0/temp1_crit": "0",
                    "proc/cpuinfo": "processor : 0\nModel : Small board 3\n", "proc/meminfo": "MemTotal: x kB",
                },
            )  # fmt: skip
            self.assertEqual(known_facts(root), {"cpu.name": "Small board 3"})

    def test_unlike_groups_of_cores_and_threads_of_one_core(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            root = Path(folder)
            files = {}
            for cpu, (core, top) in enumerate(((0, 5200000), (0, 5200000), (1, 3900000), (2, 3900000))):
                files[f"sys/devices/system/cpu/cpu{cpu}/topology/core_id"] = str(core)
                files[f"sys/devices/system/cpu/cpufreq/policy{cpu}/cpuinfo_max_freq"] = str(top)
            put(root, files)
            found = known_facts(root)
            self.assertEqual((found["cpu.cores"], found["cpu.boost_clock_mhz"]), (3, 5200.0))

    def test_confirmed_roles_go_before_proposed_ones(self) -> None:
        machine = SimulatedMachine("Loam P")
        self.addCleanup(machine.close)
        plain = LinuxSource(machine.sysroot)
        self.addCleanup(plain.close)
        aux = next(c for c in plain.channels if c.name == "Zone acpitz")
        self.assertEqual(aux.role, "other")
        source = with_roles(plain, {aux.id: "surface", "gone": "die", plain.channels[0].id: "nonsense"})
        changed = {c.id: c for c in source.channels}
        self.assertEqual((changed[aux.id].role, changed[aux.id].domain), ("surface", "board"))
        self.assertEqual(changed[plain.channels[0].id], plain.channels[0])
        self.assertEqual(len(source.sample()), len(plain.channels))
        self.assertIs(with_roles(plain, None), plain)


if __name__ == "__main__":
    unittest.main()
