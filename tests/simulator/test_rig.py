"""The simulated rig: its physics against closed forms, its firmware against its own limits."""

from __future__ import annotations

import unittest
from dataclasses import replace

from samovar.simulator.chip import clock_for, voltage
from samovar.simulator.harbour import HALDEN_8, LOADS, SETUPS
from samovar.simulator.rig import DIE_TO_SPREADER, SimulatedRig
from samovar.simulator.spec import LoadSpec


class RigTest(unittest.TestCase):
    def test_steady_heat_flow_follows_ohms_law_of_heat(self) -> None:
        setup = SETUPS["Osprey 161"]
        rig = SimulatedRig(setup)
        rig.start(LOADS["worst case"])
        rig.advance_to(10_000.0)
        power = rig.power_w
        expected = power * (DIE_TO_SPREADER + setup.cooler.paste_k_per_w + setup.cooler.resistance(rig.rpm))
        self.assertAlmostEqual(rig.die_c - rig.case_c, expected, delta=0.05)

    def test_energy_is_what_power_adds_up_to(self) -> None:
        rig = SimulatedRig(SETUPS["Osprey 161"])
        rig.start(LOADS["worst case"])
        rig.advance_to(3000.0)
        before = rig.energy_j
        rig.advance_to(3100.0)
        self.assertAlmostEqual((rig.energy_j - before) / 100.0, 95.0, delta=0.05)

    def test_burst_then_sustained(self) -> None:
        rig = SimulatedRig(SETUPS["Osprey 161"])
        rig.advance_to(300.0)
        rig.start(LOADS["worst case"])
        rig.advance_to(315.0)
        self.assertGreater(rig.power_w, 120.0)
        rig.advance_to(420.0)
        self.assertAlmostEqual(rig.power_w, 95.0, delta=0.5)

    def test_the_die_stays_at_its_limit(self) -> None:
        rig = SimulatedRig(SETUPS["Plain 65"])
        rig.start(LOADS["worst case"])
        rig.advance_to(1500.0)
        self.assertAlmostEqual(rig.die_c, HALDEN_8.limit_c - 0.4, delta=0.2)
        rig.truth()
        rig.advance_to(1510.0)
        self.assertEqual(rig.truth().binding, "thermal")

    def test_soft_policy_and_shared_budget_bind_where_they_are_set(self) -> None:
        chip = replace(HALDEN_8, soft_limit_c=70.0)
        rig = SimulatedRig(replace(SETUPS["Tern 47"], chip=chip))
        rig.start(LOADS["worst case"])
        rig.advance_to(1200.0)
        rig.truth()
        rig.advance_to(1210.0)
        self.assertEqual(rig.truth().binding, "firmware")
        chip = replace(HALDEN_8, shared_budget_w=80.0)
        rig = SimulatedRig(replace(SETUPS["Fjord 280"], chip=chip))
        rig.start(LoadSpec("game", 1.0, 20.0, gpu_w=35.0, gpu_from_s=200.0))
        rig.advance_to(400.0)
        rig.truth()
        rig.advance_to(410.0)
        self.assertEqual(rig.truth().binding, "shared")
        self.assertAlmostEqual(rig.power_w, 45.0, delta=1.0)

    def test_a_large_fan_stands_still_when_cool(self) -> None:
        rig = SimulatedRig(SETUPS["Loam P"])
        rig.advance_to(300.0)
        self.assertLess(rig.rpm, 50.0)
        quiet = rig.noise_dba()
        rig.start(LOADS["worst case"])
        rig.advance_to(1500.0)
        self.assertGreater(rig.rpm, 400.0)
        self.assertGreater(rig.noise_dba(), quiet)

    def test_the_clock_of_a_power_is_the_power_of_a_clock(self) -> None:
        for ghz in (0.8, 2.345, 3.4, 4.9):
            self.assertAlmostEqual(clock_for(voltage(ghz) ** 2 * ghz), ghz, places=3)

    def test_the_same_rig_lives_the_same_life(self) -> None:
        lives = []
        for _ in range(2):
            rig = SimulatedRig(SETUPS["Tern 47"])
            rig.start(LOADS["heavy work"])
            rig.advance_to(100.0)
            rig.advance_to(777.0)
            lives.append((rig.die_c, rig.energy_j, rig.work_units))
        self.assertEqual(lives[0], lives[1])


if __name__ == "__main__":
    unittest.main()
