"""The machine that is plugged in against the rig it is recorded for."""

from __future__ import annotations

import unittest
from typing import Any, ClassVar

from samovar.core.same_machine import unlike_machine


class SameMachineTest(unittest.TestCase):
    RIG: ClassVar[dict[str, Any]] = {
        "cpu.name": "Halden 8",
        "cpu.cores": 8,
        "cpu.temperature_limit_c": 95.0,
        "board": "Ridge M4",
    }

    def test_more_words_and_half_degrees_are_no_other_machine(self) -> None:
        here = {
            "cpu.name": "Made  HALDEN 8 processor",
            "cpu.cores": 8,
            "cpu.temperature_limit_c": 95.5,
            "board": "Ridge M4",
        }
        self.assertEqual(unlike_machine(here, self.RIG), [])
        self.assertEqual(unlike_machine({}, self.RIG), [])
        self.assertEqual(unlike_machine(here, {}), [])

    def test_another_machine_is_told_by_what_differs(self) -> None:
        here = {
            "cpu.name": "Pebble K4",
            "cpu.cores": 4,
            "cpu.temperature_limit_c": 90.0,
            "board": "Pebble K4",
        }
        self.assertEqual(
            unlike_machine(here, self.RIG),
            [
                "processor Pebble K4, not Halden 8", "cores 4, not 8", "temperature limit 90 °C, not 95 °C",
                "board Pebble K4, not Ridge M4",
            ],
        )  # fmt: skip


if __name__ == "__main__":
    unittest.main()
