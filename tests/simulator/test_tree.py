"""The kernel-shaped tree: links, units, noise from a seed, and a machine that moves by its clock."""

from __future__ import annotations

import tempfile
import threading
import time
import unittest
from pathlib import Path

from samovar.bench.loads.protocol import LoadError
from samovar.simulator.harbour import LOADS, SETUPS
from samovar.simulator.machine import SimulatedMachine
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.tree import ENERGY_RANGE_UJ, KernelTree


class TreeTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.root = Path(folder.name)

    def tree(self, seed: int = 1, name: str = "a") -> tuple[SimulatedRig, KernelTree, Path]:
        rig = SimulatedRig(SETUPS["Osprey 161"])
        root = self.root / name
        root.mkdir()
        tree = KernelTree(root, rig, seed)
        self.addCleanup(tree.close)
        return rig, tree, root

    def test_it_is_laid_out_as_the_kernel_does(self) -> None:
        _, _, root = self.tree()
        chip = root / "sys/class/hwmon/hwmon1"
        self.assertTrue(chip.is_symlink())
        self.assertEqual((chip / "device").resolve().name, "0000:00:18.3")
        self.assertEqual((chip / "name").read_text(), "halden\n")
        self.assertEqual((chip / "temp1_crit").read_text(), "95000\n")
        zone = root / "sys/class/powercap/halden-power:0"
        self.assertEqual((zone / "constraint_0_power_limit_uw").read_text(), "95000000\n")
        self.assertEqual((root / "proc/stat").read_text().split()[0], "cpu")

    def test_values_are_quantised_whole_numbers(self) -> None:
        rig, tree, root = self.tree()
        rig.start(LOADS["worst case"])
        for moment in range(1, 60):
            rig.advance_to(float(moment))
            tree.write()
            milli = int((root / "sys/class/hwmon/hwmon1/temp1_input").read_text())
            self.assertEqual(milli % 125, 0)
            self.assertAlmostEqual(milli / 1000.0, rig.die_c, delta=1.0)

    def test_a_shorter_text_leaves_nothing_of_the_longer_one(self) -> None:
        rig, tree, root = self.tree()
        path = root / "sys/class/hwmon/hwmon2/fan1_input"
        rig.rpm = 1200.0
        tree.write()
        rig.rpm = 800.0
        tree.write()
        self.assertLess(int(path.read_text()), 900)
        self.assertEqual(path.read_text().count("\n"), 1)

    def test_the_counter_stays_in_its_range_and_counts_joules(self) -> None:
        rig, tree, root = self.tree()
        path = root / "sys/class/powercap/halden-power:0/energy_uj"
        before = int(path.read_text())
        used = rig.energy_j
        rig.start(LOADS["heavy work"])
        rig.advance_to(30.0)
        tree.write()
        grown = (int(path.read_text()) - before) % ENERGY_RANGE_UJ
        self.assertAlmostEqual(grown / 1e6, rig.energy_j - used, places=3)

    def test_the_same_seed_makes_the_same_noise(self) -> None:
        texts = []
        for name, seed in (("x", 5), ("y", 5), ("z", 6)):
            rig, tree, root = self.tree(seed, name)
            rig.advance_to(10.0)
            tree.write()
            texts.append((root / "sys/class/hwmon/hwmon1/in0_input").read_text())
        self.assertEqual(texts[0], texts[1])

    def test_graphics_show_only_where_a_budget_is_shared(self) -> None:
        from dataclasses import replace

        setup = SETUPS["Osprey 161"]
        shared = replace(setup, chip=replace(setup.chip, shared_budget_w=80.0))
        root = self.root / "g"
        root.mkdir()
        tree = KernelTree(root, SimulatedRig(shared), 1)
        self.addCleanup(tree.close)
        self.assertEqual((root / "sys/class/powercap/halden-power:0:0/name").read_text(), "uncore\n")
        self.assertFalse((self.tree(name="h")[2] / "sys/class/powercap/halden-power:0:0").exists())


class MachineTest(unittest.TestCase):
    def test_its_clock_keeps_the_pace_asked_for(self) -> None:
        machine = SimulatedMachine("Osprey 161", speed=50.0)
        self.addCleanup(machine.close)
        machine.clock.restart()
        began, start = time.monotonic(), machine.clock.now()
        machine.clock.wait_until(start + 20.0)
        self.assertAlmostEqual(time.monotonic() - began, 0.4, delta=0.15)
        self.assertAlmostEqual(machine.clock.now() - start, 20.0, delta=0.06)

    def test_a_wait_can_be_cut_short(self) -> None:
        machine = SimulatedMachine("Osprey 161", speed=1.0)
        self.addCleanup(machine.close)
        machine.clock.restart()
        wake = threading.Event()
        threading.Timer(0.2, wake.set).start()
        began = time.monotonic()
        machine.clock.wait_until(machine.clock.now() + 30.0, wake)
        self.assertLess(time.monotonic() - began, 1.0)

    def test_fitting_and_loads(self) -> None:
        machine = SimulatedMachine("Osprey 161", speed=None)
        self.assertTrue(machine.fit("Tern 47"))
        self.assertFalse(machine.fit("Something else"))
        self.assertEqual(machine.rig.setup.name, "Tern 47")
        rig = machine.rig
        self.assertTrue(machine.fit("Tern 47"))
        self.assertIs(machine.rig, rig, "what is fitted already stays as it is, were it in mid-run")
        machine.set_fans(0.5)
        self.assertTrue(machine.fit("Mine", ["Tern 47"], {"fan_rpm": 900.0}))
        self.assertEqual(machine.rig.setup.fan.target(80.0), 900.0)
        with self.assertRaisesRegex(LoadError, "the rig has 8"):
            machine.make_load("worst case", 9)
        load = machine.make_load("heavy work", 4)
        load.start()
        machine.clock.wait_until(machine.clock.now() + 5.0)
        self.assertGreater(load.work_done()[0], 0.0)
        load.stop()
        home = machine.sysroot
        machine.close()
        self.assertFalse(home.exists())


if __name__ == "__main__":
    unittest.main()
