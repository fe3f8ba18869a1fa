"""What both ends of the wire know: one JSON object a line, how often each says that it lives, which versions understand
each other. docs/another-machine.md describes the lines."""

from __future__ import annotations

import json
import math
from typing import Any

NAME = "samovar-agent"
VERSION = (1, 0)
"""Another major version is another language; a minor one adds what the other end may pass over."""
BEAT_EVERY_S = 0.5
SILENT_S = 2.5
"""When nothing came for so long the other end is gone. With a beat before that and the end of the load after it, no load
outlives a cut wire by 3 s."""
LINE_MOST = 4 << 20

Message = dict[str, Any]


def encoded(message: Message) -> bytes:
    """A message as a line; what is no number is null."""
    return json.dumps(_plain(message), ensure_ascii=False, allow_nan=False).encode("utf-8") + b"\n"


def _plain(value: Any) -> Any:
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if isinstance(value, dict):
        return {str(k): _plain(v) for k, v in value.items()}
    return [_plain(v) for v in value] if isinstance(value, (list, tuple)) else value


def decoded(line: bytes) -> Message:
    """A line as a message. Raises ValueError: it is none."""
    found = json.loads(line.decode("utf-8"))
    if not isinstance(found, dict):
        raise ValueError("a line is no message")
    return found


def floats(values: list[Any]) -> list[float]:
    """Numbers as they are computed with: NaN where there is none."""
    return [float(v) if isinstance(v, (int, float)) and not isinstance(v, bool) else math.nan for v in values]


def version_of(hello: Message) -> tuple[int, int]:
    """The version that the first line names. Raises ValueError: it is no such line."""
    major, _, minor = str(hello.get(NAME, "")).partition(".")
    if not (major.isdigit() and minor.isdigit()):
        raise ValueError("the first line names no version")
    return int(major), int(minor)
