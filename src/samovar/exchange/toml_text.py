"""A TOML file as it is read, before anything is known of its keys."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

from samovar.exchange.plain_file import read_plain
from samovar.exchange.problems import InputError

MOST_BYTES = 16 << 20
"""The whole shelf of a reviewer of ten years has a tenth of that."""


def read_toml(path: Path) -> dict[str, Any]:
    """The file's content. Raises InputError: no such file, a device, or no TOML."""
    try:
        return tomllib.loads(read_plain(path, MOST_BYTES).decode("utf-8"))
    except RecursionError as problem:
        raise InputError(f"{path}: nested too deeply; correct the TOML there") from problem
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as problem:
        raise InputError(f"{path}: {problem}; correct the TOML there") from problem
