"""Which machine a call measures: this one, one below a folder, or another that a command reaches."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from samovar.bench.machine import Machine, ThisMachine
from samovar.exchange.problems import InputError


@contextmanager
def measured(sysroot: Path, on: str | None) -> Iterator[Machine]:
    """The machine, while this holds. Raises InputError: it cannot be reached."""
    if not sysroot.is_dir():
        raise InputError(f"{sysroot}: there is no such folder; name one that holds sys and proc")
    if on is None:
        yield ThisMachine(sysroot)
        return
    if sysroot != Path("/"):
        raise InputError(
            "--sysroot and --on: the folder is there, not here; give it to samovar agent in the command"
        )
    from samovar.agent.link import LinkError, Unreachable
    from samovar.agent.machine import FarMachine

    try:
        machine = FarMachine(on)
    except Unreachable as problem:
        raise InputError(f"--on: {problem}") from None
    try:
        yield machine
    except LinkError as problem:
        raise InputError(f"--on: {problem}; look at the machine, and try again") from None
    finally:
        machine.close()
