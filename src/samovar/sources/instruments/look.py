"""A look at what is at an address: who it says it is, and everything it can be asked for, with what it says now."""

from __future__ import annotations

import json
import re
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any

from samovar.core.instrument import MODBUS, MQTT, OPENMETRICS, SCPI, Instrument, InstrumentChannel
from samovar.core.quantity import QUANTITIES, UNITS
from samovar.core.shown_text import visible
from samovar.sources.instruments.said import Nothing, Said, is_written_as_number, number_in, number_of

ASKED = {
    "MEAS:POW?": ("power", "wall"), "MEAS:VOLT?": ("voltage", "other"), "MEAS:CURR?": ("current", "other"),
    "MEAS:TEMP?": ("temperature", "other"), "READ?": ("temperature", "other"), "FETC?": ("temperature", "other"),
}  # fmt: skip
"""What meters are usually asked by SCPI, and what it most likely is."""
REGISTERS_LOOKED_AT = 16
MQTT_LISTENS_S = 4.0
SEEN_MOST = 500
_QUIET_S = 0.7
"""A meter that knows a question answers sooner; there are several to try."""


@dataclass(frozen=True)
class Seen:
    """One thing that can be read: the channel's own keys for it, what it says now, and what it may be."""

    keys: dict[str, Any]
    says: str
    quantity: str = "temperature"
    unit: str = ""
    role: str = "other"

    @property
    def name(self) -> str:
        """What it is called at the instrument."""
        return " ".join(
            str(v) for k, v in self.keys.items() if k in ("ask", "register", "topic", "field", "metric")
        )


@dataclass(frozen=True)
class Looked:
    """Who an instrument says it is (empty where it does not), and what can be read of it."""

    identity: str = ""
    seen: list[Seen] = field(default_factory=list)


def look(address: str) -> Looked:
    """What is at an address.

    Raises:
        ValueError: it is no address.
        said.Silent, OSError, ImportError: it cannot be reached.
    """
    from samovar.core.entered import checked
    from samovar.core.units import Unreadable

    try:
        instrument = checked(Instrument, {"name": "it", "address": address})
    except Unreadable as problem:
        raise ValueError(str(problem)) from None
    by_protocol = {SCPI: _scpi, MODBUS: _modbus, MQTT: _mqtt, OPENMETRICS: _openmetrics}
    looking = by_protocol.get(instrument.protocol.name)
    if looking is None:
        raise ValueError("a log is named in the file of instruments; its titles are its channels")
    return looking(instrument)


def _channels(instrument: Instrument, keys: list[dict[str, Any]]) -> Instrument:
    return replace(
        instrument,
        channel=tuple(InstrumentChannel(f"c{k}", "temperature", **one) for k, one in enumerate(keys)),
    )


def _says(said: Said) -> str:
    return visible(said.why, 60) if isinstance(said, Nothing) else f"{said:g}"


def _scpi(instrument: Instrument) -> Looked:
    from samovar.sources.instruments.scpi import ScpiWire

    wire = ScpiWire(instrument, {})
    try:
        identity = visible(wire.identity(), 80)
        seen = []
        for ask, (quantity, role) in ASKED.items():
            answer = wire.ask(ask, _QUIET_S)
            if answer is None:
                wire.start_anew()
            elif is_written_as_number(answer):
                seen.append(Seen({"ask": ask}, _says(number_of(answer)), quantity, UNITS[quantity], role))
        return Looked(identity, seen)
    finally:
        wire.close()


def _modbus(instrument: Instrument) -> Looked:
    from samovar.sources.instruments.modbus import ModbusWire

    keys = [
        {"register": f"{kind}:{k}", "type": "int16"}
        for kind in ("input", "holding")
        for k in range(REGISTERS_LOOKED_AT)
    ]
    wire = ModbusWire(_channels(instrument, keys))
    found: dict[int, Said] = {}
    try:
        wire.read(found.__setitem__)
    finally:
        wire.close()
    seen = []
    for k, said in sorted(found.items()):
        if not isinstance(said, Nothing):
            says = f"{said:g}, or {said / 10:g} in tenths"
            seen.append(Seen({**keys[k], "scale": 0.1}, says, "temperature", "°C"))
        elif said.implausible:
            seen.append(Seen({**keys[k], "scale": 0.1}, _says(said), "temperature", "°C"))
    return Looked("", seen)


def _mqtt(instrument: Instrument) -> Looked:
    """Whatever is published while it listens."""
    from samovar.sources.instruments.mqtt import PAYLOAD_MOST, Connection

    came: dict[str, str] = {}
    lock = threading.Lock()

    def message(_client: Any, _data: Any, said: Any) -> None:
        with lock:
            if len(came) < SEEN_MOST:
                came[said.topic] = bytes(said.payload)[:PAYLOAD_MOST].decode("utf-8", "replace")

    client = Connection(instrument, ["#"], message)
    try:
        time.sleep(MQTT_LISTENS_S)
    finally:
        client.close()
    seen = []
    for topic, payload in sorted(came.items()):
        for path in _paths(payload):
            said = number_in(payload, path)
            if not isinstance(said, Nothing):
                keys = {"topic": topic} | ({"field": path} if path else {})
                seen.append(_guessed(keys, f"{said:g}", f"{topic} {path or ''}"))
    return Looked("", seen[:SEEN_MOST])


def _paths(payload: str) -> Iterator[str | None]:
    """Where in a payload there may be a number."""
    try:
        value = json.loads(payload)
    except (ValueError, RecursionError):
        value = None
    if not isinstance(value, dict | list):
        yield None
        return
    todo: list[tuple[str, Any]] = [("", value)]
    while todo:
        path, one = todo.pop(0)
        if isinstance(one, dict | list):
            inside = one.items() if isinstance(one, dict) else enumerate(one)
            todo += [(f"{path}.{key}".lstrip("."), inner) for key, inner in inside if "." not in str(key)]
        elif path:
            yield path


def _openmetrics(instrument: Instrument) -> Looked:
    from samovar.sources.instruments.openmetrics import OpenMetricsWire, shown

    wire = OpenMetricsWire(instrument)
    try:
        samples = wire.series()
    finally:
        wire.close()
    return Looked(
        "",
        [
            _guessed({"metric": shown(one)}, f"{float(one.value):g}", shown(one))
            for one in samples[:SEEN_MOST]
        ],
    )


def _guessed(keys: dict[str, Any], says: str, words: str) -> Seen:
    """What it may be, by its name."""
    text = re.sub(r"[_/.{}\"=,]+", " ", words).lower()
    for quantity in UNITS:
        known = QUANTITIES[quantity].words
        if quantity != "flag" and known and re.search(known, text):
            return Seen(keys, says, quantity, UNITS[quantity])
    if "joules" in text or "watts" in text:
        return Seen(keys, says, "power", "W")
    return Seen(keys, says, "temperature", UNITS["temperature"])
