"""SCPI: a line asked, a line answered, over a network or a serial port.

An answer that comes too late must not be taken for that of the next question. On a network the connection is given up
with the question; on a serial port the instrument is asked who it is, and what it says before that is passed over.
"""

from __future__ import annotations

import contextlib
import select
import socket
import time
from typing import Protocol

from samovar.core.instrument import Instrument
from samovar.sources.instruments.said import Nothing, Silent, Tell, number_of

PATIENCE_S = 2.0
"""An instrument that integrates over many periods of the mains answers within this."""
WHO = "*IDN?"
LONGEST_ANSWER = 4096
SILENT_AGAIN_S = 10.0
"""One question of several that is not answered is asked again so often, so that it does not hold up the others."""


class _Port(Protocol):
    def send(self, data: bytes) -> None: ...
    def receive(self, patience_s: float) -> bytes: ...
    def close(self) -> None: ...


class _Network:
    def __init__(self, host: str, port: int) -> None:
        self._socket = socket.create_connection((host, port), PATIENCE_S)
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

    def send(self, data: bytes) -> None:
        self._socket.settimeout(PATIENCE_S)
        self._socket.sendall(data)

    def receive(self, patience_s: float) -> bytes:
        if not select.select([self._socket], [], [], max(0.0, patience_s))[0]:
            return b""
        data = self._socket.recv(4096)
        if not data:
            raise Silent("it closed the connection")
        return data

    def close(self) -> None:
        self._socket.close()


class _Serial:
    def __init__(self, device: str, baud: int) -> None:
        import serial

        self._port = serial.Serial(device, baud, timeout=0, write_timeout=PATIENCE_S)

    def send(self, data: bytes) -> None:
        self._port.write(data)

    def receive(self, patience_s: float) -> bytes:
        self._port.timeout = max(0.0, patience_s)
        first = self._port.read(1)
        return bytes(first + self._port.read(self._port.in_waiting)) if first else b""

    def close(self) -> None:
        self._port.close()


class ScpiWire:
    """A connection to an instrument that speaks SCPI.

    Args:
        instrument: where it is, and what it is asked.
        unanswered: how often in a row each question was not answered, by its place; kept beyond this connection.

    Raises:
        Silent, OSError: it cannot be reached.
    """

    def __init__(self, instrument: Instrument, unanswered: dict[int, int]) -> None:
        self._asks = [one.ask or "" for one in instrument.channel]
        self._unanswered = unanswered
        self._again_at: dict[int, float] = {}
        self._serial = instrument.parts.scheme.endswith("serial")
        self._instrument = instrument
        self._held = b""
        self._who: str | None = None
        self._port: _Port = self._open()
        if self._serial:
            self._who = self.ask(WHO)

    def _open(self) -> _Port:
        parts = self._instrument.parts
        if self._serial:
            return _Serial(parts.path, int(self._instrument.options.get("baud", 9600)))
        return _Network(parts.hostname or "", parts.port or self._instrument.protocol.port or 0)

    def read(self, tell: Tell) -> None:
        """Every question in its turn, those first that are answered."""
        answered = False
        for index in sorted(range(len(self._asks)), key=lambda k: self._unanswered.get(k, 0)):
            if self._again_at.get(index, 0.0) > time.monotonic():
                continue
            answer = self.ask(self._asks[index])
            if answer is not None:
                self._unanswered[index], answered = 0, True
                tell(index, number_of(answer))
                continue
            self._unanswered[index] = times = self._unanswered.get(index, 0) + 1
            if not answered:
                raise Silent(f"no answer in {PATIENCE_S:g} s")
            # It answers others: it may have come back just now, or does not know this question.
            if times > 1:
                self._again_at[index] = time.monotonic() + SILENT_AGAIN_S
                tell(index, Nothing(f"it does not answer {self._asks[index]}"))
            self.start_anew()

    def identity(self) -> str:
        """What it says it is."""
        return self.ask(WHO) or ""

    def ask(self, line: str, patience_s: float = PATIENCE_S) -> str | None:
        """What is answered; None where nothing is in time: then it has to be started anew before it is asked again."""
        self._pass_over()
        self._port.send(line.encode("ascii", "replace") + b"\n")
        return self._line(time.monotonic() + patience_s)

    def _line(self, until: float) -> str | None:
        while b"\n" not in self._held:
            data = self._port.receive(until - time.monotonic())
            if not data:
                return None
            self._held += data
            if len(self._held) > LONGEST_ANSWER:
                raise Silent("its answer has no end")
        line, _, self._held = self._held.partition(b"\n")
        return line.decode("utf-8", "replace").strip("\r")

    def _pass_over(self) -> None:
        """What came without being asked for."""
        while self._port.receive(0.0):
            pass
        self._held = b""

    def start_anew(self) -> None:
        """In step again after a question without an answer."""
        if not self._serial:
            self._port.close()
            self._held = b""
            self._port = self._open()
            return
        until = time.monotonic() + PATIENCE_S
        self._port.send(WHO.encode() + b"\n")
        while (line := self._line(until)) is not None:
            if self._who is None or line == self._who:
                return
        raise Silent(f"no answer in {PATIENCE_S:g} s")

    def close(self) -> None:
        """Close the connection."""
        with contextlib.suppress(OSError):
            self._port.close()
