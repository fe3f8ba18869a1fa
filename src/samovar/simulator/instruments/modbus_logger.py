"""A thermocouple logger that speaks Modbus over a network."""

from __future__ import annotations

import socket
import struct
from collections.abc import Callable

from samovar.simulator.instruments.server import StandIn, exactly

HOLDING, INPUT = 3, 4
NO_FUNCTION, NO_REGISTER = 1, 2
NO_PROBE = 0x7FFF
"""What a logger says of a thermocouple that is not plugged in."""
_HEAD = struct.Struct(">HHHB")
_ASKED = struct.Struct(">BHH")


class ModbusLogger(StandIn):
    """Answers with its registers.

    Args:
        registers: gives the words of all registers of a function (`INPUT` or `HOLDING`), by address.
    """

    scheme = "modbus+tcp"

    def __init__(self, registers: Callable[[int], dict[int, int]], port: int = 0) -> None:
        self._registers = registers
        super().__init__(port)

    def serve(self, connection: socket.socket) -> None:
        """A question, an answer with its number."""
        while True:
            number, _protocol, length, device = _HEAD.unpack(exactly(connection, _HEAD.size))
            function, address, count = _ASKED.unpack(exactly(connection, length - 1)[: _ASKED.size])
            self.wait_while_hanging()
            body = self._answer(function, address, count)
            connection.sendall(_HEAD.pack(number, 0, len(body) + 1, device) + body)

    def _answer(self, function: int, address: int, count: int) -> bytes:
        if function not in (HOLDING, INPUT):
            return bytes([function | 0x80, NO_FUNCTION])
        words = self._registers(function)
        wanted = range(address, address + count)
        if any(one not in words for one in wanted):
            return bytes([function | 0x80, NO_REGISTER])
        return struct.pack(f">BB{count}H", function, 2 * count, *(words[one] & 0xFFFF for one in wanted))


def word(value: float) -> int:
    """A temperature in tenths of a degree as a signed register."""
    return round(10.0 * value) & 0xFFFF
