"""INSTRUMENTS.toml: the instruments beside the machine, read with every key checked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from samovar.core.entered import plain
from samovar.core.instrument import Instrument, instruments_of
from samovar.core.units import Unreadable
from samovar.exchange.problems import InputError
from samovar.exchange.toml_text import read_toml
from samovar.exchange.whole_file import whole_file


def read_instruments(path: Path) -> tuple[Instrument, ...]:
    """The instruments that a file describes; a map that one names lies beside it.

    Raises:
        InputError: no file, no TOML, or something in it is wrong; with its place and what to do.
    """
    body = read_toml(path)
    try:
        found = instruments_of(body)
    except Unreadable as problem:
        raise InputError(f"{path}: {problem}") from None
    out = []
    for one in found:
        if one.map is not None:
            beside = path.parent / one.map
            if not beside.is_file():
                raise InputError(f"{path}: instrument ({one.name}): map: there is no file {beside}; name one")
            one = replace(one, map=str(beside))
        out.append(one)
    return tuple(out)


def write_instruments(path: Path, instruments: Sequence[Instrument]) -> None:
    """Write the file; nobody else may read it, for an address may hold a password.

    Raises:
        InputError: the place cannot be written.
    """
    import tomli_w

    described = [plain(one) for one in instruments]
    with whole_file(path) as part:
        part.chmod(0o600)
        part.write_text(tomli_w.dumps({"instrument": described}), encoding="utf-8")
