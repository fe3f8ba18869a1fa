"""A look at an instrument: who it is, what can be read of it, and what that may be."""

from __future__ import annotations

import time
import unittest

from samovar.simulator.instruments.metrics_page import MetricsPage
from samovar.simulator.instruments.modbus_logger import INPUT, NO_PROBE, ModbusLogger, word
from samovar.simulator.instruments.mqtt_broker import MqttBroker
from samovar.simulator.instruments.scpi_meter import ScpiMeter
from samovar.sources.instruments.look import look
from samovar.sources.instruments.said import Silent


class LookTest(unittest.TestCase):
    def test_a_meter_is_asked_what_meters_are_asked(self) -> None:
        answers = {
            "MEAS:POW?": lambda: "104.5",
            "MEAS:VOLT?": lambda: "9.91E37",
            "READ?": lambda: '-113,"Undefined header"',
        }
        with ScpiMeter(answers, "HARBOUR,METER,1,2") as meter:
            found = look(meter.address)
        self.assertEqual(found.identity, "HARBOUR,METER,1,2")
        self.assertEqual(
            [(one.keys, one.quantity, one.unit, one.role) for one in found.seen],
            [
                ({"ask": "MEAS:POW?"}, "power", "W", "wall"),
                ({"ask": "MEAS:VOLT?"}, "voltage", "V", "other"),
            ],
        )
        self.assertEqual(found.seen[0].says, "104.5")
        self.assertIn("no measurement", found.seen[1].says)

    def test_registers_that_are_there_are_shown(self) -> None:
        def registers(function: int) -> dict[int, int]:
            return {0: word(41.3), 3: NO_PROBE} if function == INPUT else {}

        with ModbusLogger(registers) as logger:
            found = look(f"{logger.address}?device=2")
        self.assertEqual([one.keys["register"] for one in found.seen], ["input:0", "input:3"])
        self.assertEqual(found.seen[0].says, "413, or 41.3 in tenths")

    def test_topics_and_series_are_named_with_their_values(self) -> None:
        payload = '{"air": {"temperature": "22.4", "humidity": 41, "ok": true}, "list": [1.5, null]}'
        with MqttBroker(probe=("bench/room", lambda: payload), every_s=0.3) as broker:
            found = look(broker.address)
        self.assertEqual(
            {(one.keys["field"], one.says, one.quantity) for one in found.seen},
            {
                ("air.temperature", "22.4", "temperature"),
                ("air.humidity", "41", "humidity"),
                ("list.0", "1.5", "temperature"),
            },
        )
        page = 'node_fan_rpm{chip="a"} 812\npackage_joules_total 5e3\n'
        with MetricsPage(lambda: page, "text/plain") as shown:
            seen = look(f"{shown.address}/metrics").seen
        self.assertEqual(
            [(one.keys["metric"], one.says, one.quantity) for one in seen],
            [('node_fan_rpm{chip="a"}', "812", "fan"), ("package_joules_total", "5000", "power")],
        )

    def test_where_nothing_is_it_says_so_soon(self) -> None:
        for address in ("scpi+tcp://127.0.0.1:1", "modbus+tcp://127.0.0.1:1", "mqtt://127.0.0.1:1"):
            began = time.monotonic()
            with self.assertRaises((Silent, OSError)):
                look(address)
            self.assertLess(time.monotonic() - began, 5.0)
        with self.assertRaisesRegex(ValueError, "the scheme 'ftp' is not known"):
            look("ftp://127.0.0.1")


if __name__ == "__main__":
    unittest.main()
