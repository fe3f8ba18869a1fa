"""What a reviewer settled about a log's columns: as MAP.toml, and remembered for the next log with the same titles."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from samovar.exchange.whole_file import write_whole

NONE = "none"
"""The quantity of a column that is to be left out."""
UNIT_CHOICES: dict[str, tuple[str, ...]] = {
    "temperature": ("°C", "°F", "K"),
    "clock": ("MHz", "GHz", "kHz", "Hz"),
    "power": ("W", "mW", "kW", "µW"),
    "voltage": ("V", "mV"),
    "current": ("A", "mA"),
}
"""The units a quantity may be written in, where there are several."""


def key_of_titles(titles: Sequence[str]) -> str:
    """What a log with these titles is remembered by."""
    return "log map " + hashlib.sha256("\n".join(titles).encode()).hexdigest()[:24]


def map_text(column_map: dict[str, Any]) -> str:
    """A map as MAP.toml."""
    import tomli_w

    document: dict[str, Any] = {}
    if column_map.get("time"):
        document["time"] = column_map["time"]
    channels = {
        title: {k: v for k, v in entry.items() if v is not None}
        for title, entry in column_map.get("channels", {}).items()
    }
    if channels:
        document["channels"] = channels
    return tomli_w.dumps(document)


def write_map(column_map: dict[str, Any], path: Path) -> None:
    """Write a map. Raises InputError: the file cannot be written."""
    write_whole(path, map_text(column_map))
