"""A wall meter that speaks SCPI."""

from __future__ import annotations

import socket
from collections.abc import Callable, Mapping

from samovar.simulator.instruments.server import StandIn

WHO = "*IDN?"


class ScpiMeter(StandIn):
    """Answers questions by a table of them; what it does not know it does not answer, as real meters do.

    Args:
        answers: question to what gives its answer.
        identity: what it says it is.
    """

    scheme = "scpi+tcp"

    def __init__(
        self,
        answers: Mapping[str, Callable[[], str]],
        identity: str = "HARBOUR,WALL METER,0001,1.0",
        port: int = 0,
    ) -> None:
        self._answers = {WHO: lambda: identity, **answers}
        super().__init__(port)

    def serve(self, connection: socket.socket) -> None:
        """A line asked, a line answered."""
        held = b""
        while data := connection.recv(1024):
            held += data
            while b"\n" in held:
                line, _, held = held.partition(b"\n")
                answer = self._answers.get(line.decode("ascii", "replace").strip())
                self.wait_while_hanging()
                if answer is not None:
                    connection.sendall(answer().encode() + b"\n")
