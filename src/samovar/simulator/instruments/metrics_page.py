"""A program that shows its metrics over HTTP."""

from __future__ import annotations

import socket
from collections.abc import Callable

from samovar.simulator.instruments.server import StandIn

OPENMETRICS = "application/openmetrics-text; version=1.0.0; charset=utf-8"


class MetricsPage(StandIn):
    """Answers every request with its page.

    Args:
        page: gives the text as it is now.
        kind: what the text is said to be.
    """

    scheme = "openmetrics+http"

    def __init__(self, page: Callable[[], str], kind: str = OPENMETRICS, port: int = 0) -> None:
        self._page = page
        self._kind = kind
        super().__init__(port)

    def serve(self, connection: socket.socket) -> None:
        """Requests on a connection that stays."""
        held = b""
        while data := connection.recv(4096):
            held += data
            while b"\r\n\r\n" in held:
                _, _, held = held.partition(b"\r\n\r\n")
                self.wait_while_hanging()
                body = self._page().encode()
                head = f"HTTP/1.1 200 OK\r\nContent-Type: {self._kind}\r\nContent-Length: {len(body)}\r\n\r\n"
                connection.sendall(head.encode() + body)
