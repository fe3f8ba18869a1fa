"""The instruments around the voice booth's rig, none of them there: a wall meter, a thermocouple logger, a room probe, a
microphone."""

from __future__ import annotations

import json
import random
from collections.abc import Callable

from samovar.core.instrument import Instrument, instruments_of
from samovar.simulator.instruments.microphone import SimulatedMicrophone
from samovar.simulator.instruments.modbus_logger import ModbusLogger, word
from samovar.simulator.instruments.mqtt_broker import MqttBroker
from samovar.simulator.instruments.scpi_meter import ScpiMeter
from samovar.simulator.rig import SimulatedRig

RIG = "Halden 8 in Larch C2"
SUPPLY_W, SUPPLY_EFFICIENCY = 6.0, 0.88
"""What the rig's power supply takes for itself, and the share of the rest that it hands on."""
TOPIC = "booth/room"
PUBLISHED_EVERY_S = 0.5
HUMIDITY = 41.0
PACE = {"every": 2.0, "stale_after": 30.0}
"""By the rig's clock, which runs many times as fast as the meters can be asked."""


class BoothInstruments:
    """They measure the simulated rig, and each speaks its own protocol on the loopback.

    Args:
        rig: gives the rig as it is now.
    """

    def __init__(self, rig: Callable[[], SimulatedRig]) -> None:
        self._rig = rig
        self._chance = random.Random(28)
        self._meter = ScpiMeter(
            {"MEAS:POW?": self._wall, "MEAS:VOLT?": lambda: f"{230.0 + self._noise(0.2):.2f}"}
        )
        self._logger = ModbusLogger(lambda _function: self._thermocouples())
        self._microphone = SimulatedMicrophone(rig)
        self._broker = MqttBroker(probe=(TOPIC, self._room), every_s=PUBLISHED_EVERY_S)

    def _noise(self, spread: float) -> float:
        return self._chance.gauss(0.0, spread)

    def _wall(self) -> str:
        rig = self._rig()
        drawn_w = rig.power_w + rig.gpu_power_w + rig.setup.board_w + SUPPLY_W
        return f"{drawn_w / SUPPLY_EFFICIENCY + self._noise(0.15):.4E}"

    def _thermocouples(self) -> dict[int, int]:
        rig = self._rig()
        inside = (rig.vrm_c - 3.0, 0.5 * (rig.case_c + rig.room_c) + 1.5)
        return {k: word(value + self._noise(0.05)) for k, value in enumerate(inside)}

    def _room(self) -> str:
        room_c = self._rig().room_c + 0.4 + self._noise(0.03)
        return json.dumps({"air": {"temperature": f"{room_c:.2f}", "humidity": HUMIDITY}})

    @property
    def instruments(self) -> tuple[Instrument, ...]:
        """How they are reached and read, as a file would say."""
        thermocouple = {
            "quantity": "temperature",
            "unit": "°C",
            "role": "surface",
            "type": "int16",
            "scale": 0.1,
        }
        return instruments_of(
            {
                "instrument": [
                    {
                        "name": "wall meter",
                        **PACE,
                        "address": self._meter.address,
                        "channel": [
                            {"name": "Wall power", "quantity": "power", "unit": "W", "role": "wall", "ask": "MEAS:POW?"},
                            {"name": "Mains", "quantity": "voltage", "unit": "V", "ask": "MEAS:VOLT?"},
                        ],
                    },
                    {
                        "name": "thermocouples",
                        **PACE,
                        "address": f"{self._logger.address}?device=1",
                        "channel": [
                            {"name": "VRM back", "register": "input:0", **thermocouple},
                            {"name": "Case top", "register": "input:1", **thermocouple},
                        ],
                    },
                    {
                        "name": "room probe",
                        **PACE,
                        "address": self._broker.address,
                        "channel": [
                            {
                                "name": "Room corner", "quantity": "temperature", "unit": "°C", "topic": TOPIC,
                                "field": "air.temperature",
                            },
                            {"name": "Room humidity", "quantity": "humidity", "topic": TOPIC, "field": "air.humidity"},
                        ],
                    },
                    {
                        "name": "microphone", "stale_after": 120.0,
                        "address": f"{self._microphone.address}&keep=1",
                    },
                ]
            }
        )  # fmt: skip

    def close(self) -> None:
        """End them."""
        for one in (self._meter, self._logger, self._broker, self._microphone):
            one.close()
