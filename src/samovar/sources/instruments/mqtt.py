"""MQTT: what is published under topics, taken as it comes."""

from __future__ import annotations

import contextlib
import logging
import threading
from collections.abc import Callable, Sequence
from typing import Any

from samovar.core.instrument import Instrument
from samovar.sources.instruments.said import Said, Silent, Tell, number_in

PATIENCE_S = 2.0
KEEP_ALIVE_S = 5
"""A broker that does not answer for about this long is given up, and connected to anew."""
PAYLOAD_MOST = 65536


class Connection:
    """A connection to a broker, subscribed to topics; `on_message` is told what is published, as the package does.

    Raises:
        Silent, OSError: it cannot be reached, or lets nobody in.
    """

    def __init__(
        self, instrument: Instrument, topics: Sequence[str], on_message: Callable[..., None]
    ) -> None:
        from paho.mqtt.client import Client
        from paho.mqtt.enums import CallbackAPIVersion

        # What goes wrong is told where it is read, not between the lines of a screen.
        logging.getLogger("paho").setLevel(logging.CRITICAL + 1)
        parts = instrument.parts
        self._topics = list(topics)
        self._ready, self.lost = threading.Event(), threading.Event()
        self._refused = ""
        self._client = Client(CallbackAPIVersion.VERSION2, reconnect_on_failure=False)
        if parts.username is not None:
            self._client.username_pw_set(parts.username, parts.password)
        if parts.scheme == "mqtts":
            self._client.tls_set()
        self._client.connect_timeout = PATIENCE_S
        self._client.on_connect = self._connected
        self._client.on_disconnect = lambda *_said: self.lost.set()
        self._client.on_message = on_message
        self._client.connect(parts.hostname or "", parts.port or instrument.protocol.port or 0, KEEP_ALIVE_S)
        self._client.loop_start()
        if not self._ready.wait(PATIENCE_S) or self._refused:
            self.close()
            raise Silent(self._refused or f"the broker did not answer in {PATIENCE_S:g} s")

    def _connected(self, client: Any, _data: Any, _flags: Any, reason: Any, _properties: Any) -> None:
        if reason.is_failure:
            self._refused = f"the broker refuses: {str(reason).lower()}"
        else:
            client.subscribe([(topic, 0) for topic in self._topics])
        self._ready.set()

    def close(self) -> None:
        """Take leave of the broker."""
        with contextlib.suppress(Exception):
            self._client.disconnect()
            self._client.loop_stop()


class MqttWire:
    """A broker, and what is published there under the topics of the channels. Raises Silent, OSError."""

    def __init__(self, instrument: Instrument) -> None:
        self._channels = instrument.channel
        self._came: dict[int, Said] = {}
        self._lock = threading.Lock()
        topics = sorted({one.topic or "" for one in self._channels})
        self._connection = Connection(instrument, topics, self._message)

    def _message(self, _client: Any, _data: Any, message: Any) -> None:
        payload = bytes(message.payload)[:PAYLOAD_MOST].decode("utf-8", "replace")
        with self._lock:
            for index, one in enumerate(self._channels):
                if one.topic == message.topic:
                    self._came[index] = number_in(payload, one.field)

    def read(self, tell: Tell) -> None:
        """What came since the last time."""
        if self._connection.lost.is_set():
            raise Silent("the broker closed the connection")
        with self._lock:
            came, self._came = self._came, {}
        for index, said in came.items():
            tell(index, said)

    def close(self) -> None:
        """Take leave of the broker."""
        self._connection.close()
