"""Instruments as files describe them, for tests."""

from __future__ import annotations

from typing import Any

from samovar.core.instrument import Instrument, instruments_of


def described(address: str, *channels: dict[str, Any], **more: Any) -> Instrument:
    """An instrument as a file would describe it."""
    named = [{"name": f"c{k}", "quantity": "temperature", **one} for k, one in enumerate(channels)]
    return instruments_of({"instrument": [{"name": "it", "address": address, "channel": named, **more}]})[0]
