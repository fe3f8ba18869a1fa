"""A log's bytes as UTF-8 text, whatever they were written in."""

from __future__ import annotations

import mmap
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from samovar.exchange.plain_file import read_plain
from samovar.exchange.problems import InputError

_MARKS = (
    (b"\xef\xbb\xbf", "utf-8"),
    (b"\xff\xfe\x00\x00", "utf-32"),
    (b"\xff\xfe", "utf-16"),
    (b"\xfe\xff", "utf-16"),
)
_LOOK = 4096
MOST_BYTES = 4 << 30
"""Longer logs are no evening's, and would not fit into the memory of most machines."""
MOST_LINE = 1_000_000
"""Characters of a line: a row of ten thousand columns has a tenth of that."""
MOST_NAMED = 20
MOST_ODD_SHARE = 0.02
_NEVER_IN_TEXT = bytes(set(range(1, 32)) - set(b"\t\n\v\f\r\x1a\x1b\x1c\x1d\x1e\x1f"))
_MENDED = (
    # a degree sign written in one encoding and read in another, once or twice
    ("Ã‚Â°", "°"), ("Â°", "°"), ("ï¿½", "°"), ("&deg;", "°"), ("&#176;", "°"), ("\\xb0", "°"), ("\\u00b0", "°"), ("\u2103", "°C"), ("\u2109", "°F"), ("º", "°"), ("˚", "°"),
    ("Â", ""), ("\u00a0", " "), ("\u202f", " "), ("\u00b5", "µ"),
)  # fmt: skip


@dataclass(frozen=True)
class LogText:
    """A log's text as UTF-8 without a byte order mark, and what of it had to be left out."""

    data: bytes
    warnings: tuple[str, ...] = ()


def as_utf8(path: Path) -> LogText:
    """The file's text, whatever it was written in.

    Raises:
        InputError: it cannot be read, is too long, or holds no text.
    """
    data = _decoded(path, read_plain(path, MOST_BYTES))
    if b"\n" not in data:
        data = data.replace(b"\r", b"\n")
    data, warnings = _whole_lines(data)
    return LogText(data, tuple(warnings))


def is_plain_text(view: mmap.mmap) -> bool:
    """Whether a file's bytes are its text as they stand: UTF-8 in the first lines and plain behind them, no mark in front,
    nothing that has to be left out."""
    head = view[:_LOOK]
    if any(head.startswith(mark) for mark, _ in _MARKS) or any(c in head for c in _NEVER_IN_TEXT):
        return False
    lines = view[: view.find(b"\n", min(_LOOK, len(view) - 1)) + 1]
    rest = np.frombuffer(view, np.uint8)[len(lines) :]
    plain = len(rest) == 0 or (int(rest.max()) < 128 and int(rest.min()) > 0)
    del rest
    if not lines or not plain or 0 in lines or next(_endless_lines(view), None) is not None:
        return False
    try:
        lines.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def _decoded(path: Path, data: bytes) -> bytes:
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return data[3:] if encoding == "utf-8" else _clean(data.decode(encoding, errors="replace"))
    head = data[:_LOOK]
    if 0 in head:
        # Every other byte nothing: UTF-16 that does without its mark.
        low, high = head[1::2].count(0), head[0::2].count(0)
        if max(low, high) > 0.4 * len(head) / 2 and min(low, high) <= 0.02 * len(head):
            return _clean(data.decode("utf-16-le" if low > high else "utf-16-be", errors="replace"))
    odd = sum(head.count(c) for c in _NEVER_IN_TEXT)
    if odd > MOST_ODD_SHARE * len(head):
        raise InputError(f"{path}: this is no text; give a log as delimited text or Parquet")
    if not data.isascii():
        # Degree signs stand in the titles: where the rest is plain, only those have to be looked at.
        head = data[: data.find(b"\n", _LOOK) + 1] or data
        rest = np.frombuffer(data, np.uint8)[len(head) :]
        try:
            (head if len(rest) == 0 or int(rest.max()) < 128 else data).decode("utf-8")
        except UnicodeDecodeError:
            try:
                return data.decode("cp1252").encode()
            except UnicodeDecodeError:
                return data.decode("latin-1").encode()
    return data


def _whole_lines(data: bytes) -> tuple[bytes, list[str]]:
    """The text without lines that cannot be rows: those with bytes of nothing in them, as a disk leaves where power
    failed, and those longer than any row. Each leaves an empty line, so that the others keep their numbers."""
    spans = [*_spans_of_nothing(data), *_endless_lines(data)]
    if not spans:
        return data, []
    pieces: list[bytes] = []
    warnings: list[str] = []
    at, line = 0, 1
    for begin, end, words in sorted(spans):
        if begin < at:
            continue
        pieces.append(data[at:begin])
        line += data.count(b"\n", at, begin)
        if len(warnings) < MOST_NAMED:
            warnings.append(f"line {line}: {words}, skipped")
        at = end
    return b"".join([*pieces, data[at:]]), warnings


def _spans_of_nothing(data: bytes) -> Iterator[tuple[int, int, str]]:
    """Lines, from their first byte to their line end, that hold bytes of nothing."""
    at = data.find(b"\0")
    while at >= 0:
        begin = data.rfind(b"\n", 0, at) + 1
        end = data.find(b"\n", at)
        end = len(data) if end < 0 else end
        yield begin, end, f"{data.count(0, begin, end)} bytes of nothing in it"
        at = data.find(b"\0", end)


def _endless_lines(data: bytes | mmap.mmap) -> Iterator[tuple[int, int, str]]:
    """Lines longer than MOST_LINE: looked for in strides, so that a text of usual lines is hardly looked at."""
    at = 0
    while at + MOST_LINE < len(data):
        last = data.rfind(b"\n", at, at + MOST_LINE)
        if last >= 0:
            at = last + 1
            continue
        end = data.find(b"\n", at)
        end = len(data) if end < 0 else end
        if end - at > MOST_LINE:
            yield at, end, f"{end - at} characters long, no row"
        at = end + 1


def _clean(text: str) -> bytes:
    return text.removeprefix("\ufeff").encode("utf-8", errors="replace")


def mended(text: str) -> str:
    """A title or a cell with degree signs that went wrong put right, and spaces that are none made plain."""
    if text.isascii() and "&" not in text and "\\" not in text:
        return text
    for wrong, right in _MENDED:
        text = text.replace(wrong, right)
    # What could not be decoded stands where a degree sign does: before the letter of a scale.
    for scale in "CF":
        text = text.replace(f"\ufffd{scale}", f"°{scale}").replace(f"\ufffd {scale}", f"°{scale}")
    return text
