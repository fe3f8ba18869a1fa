"""A TOML file as it is read, before anything is known of its keys."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

from samovar.exchange.problems import InputError


def read_toml(path: Path) -> dict[str, Any]:
    """The file's content. Raises InputError: no such file, or no TOML."""
    try:
        return tomllib.loads(path.read_text(encoding="utf-8"))
    except OSError as problem:
        raise InputError(
            f"{path}: {(problem.strerror or 'cannot be read').lower()}; check the name"
        ) from problem
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as problem:
        raise InputError(f"{path}: {problem}; correct the TOML there") from problem
