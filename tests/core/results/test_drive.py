"""Where a drive gives way: to heat, and not where its fast part is full, or where it pauses."""

from __future__ import annotations

import unittest

import numpy as np

from samovar.core.quantity import Channel
from samovar.core.recording import Recording
from samovar.core.results.drive import gave_way
from samovar.core.results.result import Result
from samovar.core.results.series import series_of
from samovar.simulator.machine import SimulatedMachine

RATE = Channel("Drive write", "work", "MB/s", "storage", "storage")
HEAT = Channel("Drive", "temperature", "°C", "storage", "storage")


def told(rate: np.ndarray, heat: np.ndarray) -> Result | None:
    time_s = np.arange(len(rate), dtype=float)
    recording = Recording((RATE, HEAT), time_s, np.array([rate, np.round(heat)]))
    rows = [
        series_of(channel, row, False)
        for channel, row in zip(recording.channels, recording.values, strict=True)
    ]
    return gave_way(recording, rows[0], rows[1], (0.0, time_s[-1]))


class GaveWayTest(unittest.TestCase):
    t = np.arange(600.0)

    def test_a_rate_that_sinks_at_a_heat_that_stays(self) -> None:
        heat = np.minimum(78.0, 40.0 + 45.0 * (1.0 - np.exp(-self.t / 80.0)))
        rate = np.where(heat >= 77.9, 1500.0, 2600.0) + np.random.default_rng(1).normal(0, 40, 600)
        found = told(rate, heat)
        assert found is not None and found.at_s is not None
        self.assertAlmostEqual(found.value, 78.0, delta=1.0)
        self.assertAlmostEqual(found.at_s, self.t[heat >= 77.9][0], delta=3.0)

    def test_one_whose_fast_part_is_full_cools_and_has_not_given_way(self) -> None:
        heat = np.where(self.t < 200, 40.0 + 0.15 * self.t, 45.0 + 25.0 * np.exp(-(self.t - 200) / 60.0))
        self.assertIsNone(told(np.where(self.t < 200, 2600.0, 600.0), heat))

    def test_a_pause_is_none_and_neither_is_a_cool_drive(self) -> None:
        warm = 40.0 + 30.0 * (1.0 - np.exp(-self.t / 80.0))
        self.assertIsNone(told(np.where((self.t > 300) & (self.t < 306), 100.0, 2600.0), warm))
        self.assertIsNone(told(np.where(self.t < 300, 2600.0, 1300.0), np.full(600, 45.0)))

    def test_the_simulators_drive_gives_way_at_its_limit(self) -> None:
        machine = SimulatedMachine("Closed", 34.0, 5, speed=None)
        self.addCleanup(machine.close)
        load = machine.make_load("storage write")
        load.start()
        rates, heats, last = [], [], 0.0
        began = machine.clock.now()
        for k in range(1, 400):
            machine.clock.wait_until(began + k)
            (done,) = load.work_done()
            rates.append(done - last)
            heats.append(machine.rig.drive.celsius(machine.rig.case_c))
            last = done
        found = told(np.array(rates), np.array(heats))
        assert found is not None
        self.assertAlmostEqual(found.value, machine.rig.setup.drive.limit_c, delta=3.0)


if __name__ == "__main__":
    unittest.main()
