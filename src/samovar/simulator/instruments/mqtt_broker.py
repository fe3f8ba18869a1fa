"""A broker that speaks MQTT 3.1.1, with probes that publish through it: as much of the standard (OASIS, 2014) as a
subscriber of plain topics meets."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Callable

from samovar.simulator.instruments.server import StandIn, exactly

CONNECT, CONNACK, PUBLISH, SUBSCRIBE, SUBACK, PINGREQ, PINGRESP, DISCONNECT = 1, 2, 3, 8, 9, 12, 13, 14
ACCEPTED, BAD_LOGIN = 0, 4
_USER, _PASSWORD = 0x80, 0x40
EVERYTHING = "#"
"""The one pattern of topics that is understood: all of them."""


class MqttBroker(StandIn):
    """A broker; what is published is handed on to whoever has asked for its topic.

    Args:
        login: user and password that are let in; None lets everyone in.
        probe: a topic and what gives its payload, published every `every_s` seconds.
    """

    scheme = "mqtt"

    def __init__(
        self,
        login: tuple[str, str] | None = None,
        probe: tuple[str, Callable[[], str]] | None = None,
        every_s: float = 1.0,
        port: int = 0,
    ) -> None:
        self._login = login
        self._lock = threading.Lock()
        self._asked: dict[str, set[socket.socket]] = {}
        super().__init__(port)
        if probe is not None:
            threading.Thread(target=self._publish_on, args=(*probe, every_s), daemon=True).start()

    def _publish_on(self, topic: str, payload: Callable[[], str], every_s: float) -> None:
        while not self.ended.wait(every_s):
            self.wait_while_hanging()
            self.publish(topic, payload())

    def publish(self, topic: str, payload: str) -> None:
        """Hand a payload on to all who have asked for its topic."""
        name = topic.encode()
        packet = _packet(PUBLISH, len(name).to_bytes(2, "big") + name + payload.encode())
        with self._lock:
            for connection in {*self._asked.get(topic, ()), *self._asked.get(EVERYTHING, ())}:
                try:
                    connection.sendall(packet)
                except OSError:
                    for others in self._asked.values():
                        others.discard(connection)

    def serve(self, connection: socket.socket) -> None:
        """One who is connected, until they take leave."""
        try:
            while True:
                kind, body = _received(connection)
                self.wait_while_hanging()
                if kind == CONNECT:
                    code = ACCEPTED if self._login in (None, _login_in(body)) else BAD_LOGIN
                    connection.sendall(_packet(CONNACK, bytes([0, code])))
                    if code != ACCEPTED:
                        return
                elif kind == SUBSCRIBE:
                    topics = _topics_in(body[2:])
                    with self._lock:
                        for topic in topics:
                            self._asked.setdefault(topic, set()).add(connection)
                        connection.sendall(_packet(SUBACK, body[:2] + bytes(len(topics))))
                elif kind == PINGREQ:
                    connection.sendall(_packet(PINGRESP, b""))
                elif kind == DISCONNECT:
                    return
        finally:
            with self._lock, contextlib.suppress(RuntimeError):
                for others in self._asked.values():
                    others.discard(connection)


def _packet(kind: int, body: bytes) -> bytes:
    length, digits = len(body), b""
    while True:
        length, digit = divmod(length, 128)
        digits += bytes([digit | (0x80 if length else 0)])
        if not length:
            return bytes([kind << 4]) + digits + body


def _received(connection: socket.socket) -> tuple[int, bytes]:
    kind = exactly(connection, 1)[0] >> 4
    length, place = 0, 1
    while True:
        digit = exactly(connection, 1)[0]
        length += (digit & 0x7F) * place
        place *= 128
        if not digit & 0x80:
            return kind, exactly(connection, length)


def _strings(body: bytes) -> list[bytes]:
    found = []
    while len(body) >= 2:
        length = int.from_bytes(body[:2], "big")
        found.append(body[2 : 2 + length])
        body = body[2 + length :]
    return found


def _login_in(body: bytes) -> tuple[str, str] | None:
    """User and password of one who connects: after the protocol's name, its level, flags and keep alive."""
    start = 2 + int.from_bytes(body[:2], "big")
    flags = body[start + 1]
    strings = [one.decode("utf-8", "replace") for one in _strings(body[start + 4 :])]
    if not flags & _USER or not flags & _PASSWORD or len(strings) < 3:
        return None
    return strings[-2], strings[-1]


def _topics_in(body: bytes) -> list[str]:
    found = []
    while len(body) > 2:
        length = int.from_bytes(body[:2], "big")
        found.append(body[2 : 2 + length].decode("utf-8", "replace"))
        # After each topic stands the quality of service that is wished for.
        body = body[3 + length :]
    return found
