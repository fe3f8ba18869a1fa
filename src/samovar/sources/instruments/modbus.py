"""Modbus, over a network or a serial line: registers read as numbers.

The numbers of a register that is at the very end of its range are what loggers say of a probe that is not there, of a
broken thermocouple or a cold junction that failed: they are no measurement.
"""

from __future__ import annotations

import contextlib
import logging
import struct
from typing import Any

from samovar.core.instrument import Instrument, InstrumentChannel
from samovar.sources.instruments.said import Nothing, Said, Silent, Tell, finite

PATIENCE_S = 2.0
_FORMATS = {"int16": ">h", "uint16": ">H", "int32": ">i", "uint32": ">I", "float32": ">f"}
_REFUSALS = {
    1: "it cannot read such registers", 2: "it has no such register", 3: "it does not take the question",
    4: "it failed", 6: "it is busy", 10: "there is no way to it", 11: "what it stands for does not answer",
}  # fmt: skip
"""The exceptions of the protocol that a reading can meet."""


class ModbusWire:
    """A connection to a device that speaks Modbus.

    Raises:
        Silent: it cannot be reached.
    """

    def __init__(self, instrument: Instrument) -> None:
        from pymodbus.client import ModbusSerialClient, ModbusTcpClient

        # What is silent is told where it is read, not between the lines of a screen.
        logging.getLogger("pymodbus").setLevel(logging.CRITICAL + 1)
        logging.getLogger("pymodbus.logging").setLevel(logging.CRITICAL + 1)
        parts, options = instrument.parts, instrument.options
        self._channels = instrument.channel
        self._device = int(options.get("device", 1))
        self._client: Any
        if parts.scheme.endswith("serial"):
            self._client = ModbusSerialClient(
                parts.path, baudrate=int(options.get("baud", 19200)), timeout=PATIENCE_S, retries=0
            )
        else:
            port = parts.port or instrument.protocol.port or 0
            self._client = ModbusTcpClient(parts.hostname or "", port=port, timeout=PATIENCE_S, retries=0)
        if not self._client.connect():
            raise Silent("it cannot be reached")

    def read(self, tell: Tell) -> None:
        """Every register in its turn. A device that is silent once is asked no more: its late answer is not the next
        register's."""
        from pymodbus.exceptions import ModbusException

        for index, one in enumerate(self._channels):
            kind, address = one.place
            ask = (
                self._client.read_input_registers if kind == "input" else self._client.read_holding_registers
            )
            try:
                answer = ask(address, count=one.words, device_id=self._device)
            except ModbusException:
                raise Silent(f"no answer in {PATIENCE_S:g} s") from None
            if answer.isError():
                code = getattr(answer, "exception_code", 0)
                tell(index, Nothing(f"{one.register}: {_REFUSALS.get(code, f'it refuses ({code})')}"))
            elif len(answer.registers) != one.words:
                raise Silent("its answer has another length than asked for")
            else:
                tell(index, value_of(one, answer.registers))

    def close(self) -> None:
        """Close the connection."""
        with contextlib.suppress(Exception):
            self._client.close()


def value_of(one: InstrumentChannel, registers: list[int]) -> Said:
    """The number in registers, by a channel's type, order of words and scale."""
    kind = one.type or "int16"
    words = registers if one.word_order != "little" else registers[::-1]
    (raw,) = struct.unpack(_FORMATS[kind], struct.pack(f">{len(words)}H", *words))
    if kind == "float32":
        found = finite(raw)
        return found if isinstance(found, Nothing) else found * (one.scale or 1.0)
    bits = 16 * one.words
    ends = (0, 2**bits - 1) if kind.startswith("u") else (-(2 ** (bits - 1)), 2 ** (bits - 1) - 1)
    # Nothing is a value of counting without a sign.
    if raw == ends[1] or (raw == ends[0] and ends[0] < 0):
        return Nothing("at the end of its range: no probe, a broken one, or over range", True)
    # Nobody scales by more digits than this; what multiplying adds behind them is no reading.
    return round(raw * (one.scale or 1.0), 9)
