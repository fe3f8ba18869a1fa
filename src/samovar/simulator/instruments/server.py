"""What the stand-ins share: listening on the loopback, one thread for each who connects, and ending."""

from __future__ import annotations

import contextlib
import socket
import threading
from types import TracebackType

LOOPBACK = "127.0.0.1"


class StandIn:
    """An instrument that listens on the loopback, on a port of the system's choosing or on `port`.

    A subclass answers in `serve`. While `hangs` is set nothing is answered, as by a device that is stuck.
    """

    scheme = ""

    def __init__(self, port: int = 0) -> None:
        self._socket = socket.create_server((LOOPBACK, port))
        self.port: int = self._socket.getsockname()[1]
        self.hangs = threading.Event()
        self.ended = threading.Event()
        self._open: set[socket.socket] = set()
        threading.Thread(target=self._listen, name=f"stand-in-{self.scheme}", daemon=True).start()

    @property
    def address(self) -> str:
        """Where it is reached."""
        return f"{self.scheme}://{LOOPBACK}:{self.port}"

    def serve(self, connection: socket.socket) -> None:
        """Answer whoever is connected until they leave."""
        raise NotImplementedError

    def wait_while_hanging(self) -> None:
        """Return once it answers again, or is ended."""
        while self.hangs.is_set() and not self.ended.wait(0.02):
            pass

    def _listen(self) -> None:
        while not self.ended.is_set():
            try:
                connection, _ = self._socket.accept()
            except OSError:
                return
            self._open.add(connection)
            threading.Thread(target=self._serve, args=(connection,), daemon=True).start()

    def _serve(self, connection: socket.socket) -> None:
        with contextlib.suppress(OSError, ValueError), connection:
            self.serve(connection)
        self._open.discard(connection)

    def close(self) -> None:
        """End it, as by its plug being pulled."""
        self.ended.set()
        with contextlib.suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._socket.close()
        for connection in list(self._open):
            with contextlib.suppress(OSError):
                connection.shutdown(socket.SHUT_RDWR)
            connection.close()

    def __enter__(self) -> StandIn:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


def exactly(connection: socket.socket, count: int) -> bytes:
    """So many bytes. Raises OSError where the other end leaves before."""
    found = b""
    while len(found) < count:
        part = connection.recv(count - len(found))
        if not part:
            raise OSError("the other end left")
        found += part
    return found
