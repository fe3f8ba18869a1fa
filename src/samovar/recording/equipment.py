"""What runs of a rig are measured with: the machine, this one or one that a command reaches, and the instruments beside it."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from samovar.agent.link import LinkError, Unreachable
from samovar.agent.machine import FarMachine
from samovar.bench.loads.protocol import LoadError
from samovar.bench.machine import Machine
from samovar.core.instrument import Instrument
from samovar.core.quantity import Channel
from samovar.core.rig import INSTRUMENTS_FILE, REACHED_BY, Rig
from samovar.exchange.instrument_file import read_instruments
from samovar.exchange.problems import InputError
from samovar.recording.instruments import look_at, open_instruments
from samovar.sources.protocol import Probed, Source

LOOK_S = 4.0
"""So long an instrument may take to say something while a person looks on."""


class Equipment:
    """The machines and instruments that the rigs of an archive name.

    Args:
        here: the machine that a rig is measured on which names no other.
        beside: instruments that stand beside rigs without being named in a file, by the rig's name.
    """

    def __init__(self, here: Machine, beside: Mapping[str, Sequence[Instrument]] | None = None) -> None:
        self.here = here
        self._beside = dict(beside or {})
        self._far: dict[str, FarMachine] = {}
        self._lock = threading.Lock()

    def machine(self, rig: Rig | None) -> Machine:
        """The machine that a rig is. A command that reaches it is run once, and kept. Raises LoadError: it cannot be
        reached."""
        command = reached_by(rig)
        if not command:
            return self.here
        with self._lock:
            known = self._far.get(command)
            if known is not None and not known.link.lost:
                return known
            if known is not None:
                known.close()
            try:
                self._far[command] = FarMachine(command)
            except Unreachable as problem:
                self._far.pop(command, None)
                raise LoadError(str(problem)) from None
            return self._far[command]

    def instruments(self, rig: Rig | None) -> tuple[Instrument, ...]:
        """The instruments beside it. Raises LoadError: its file cannot be read."""
        given = self._beside.get(rig.name, ()) if rig is not None else ()
        return (*given, *self.kept(rig))

    def kept(self, rig: Rig | None) -> tuple[Instrument, ...]:
        """Those in the file that the rig names. Raises LoadError: it cannot be read."""
        path = rig.details.get(INSTRUMENTS_FILE) if rig is not None else None
        if not path:
            return ()
        try:
            return read_instruments(Path(str(path)).expanduser())
        except InputError as problem:
            raise LoadError(str(problem)) from None

    def open_beside(self, rig: Rig | None) -> list[Source]:
        """The instruments beside it as sources; the caller closes them. Raises LoadError."""
        return [*open_instruments(self.instruments(rig), self.machine(rig).clock)]

    def probe(self, rig: Rig | None) -> list[Probed]:
        """What can be measured of it now; what cannot be reached is a channel that cannot be read, with the reason."""
        found: list[Probed] = []
        parts: tuple[Callable[[], list[Probed]], ...] = (
            lambda: self.machine(rig).probe(),
            # They are beside this program, whether or not the machine can be reached.
            lambda: look_at(self.instruments(rig), self.here.clock, LOOK_S),
        )
        for part in parts:
            try:
                found += part()
            except (LoadError, LinkError) as problem:
                name = rig.name if rig is not None else "machine"
                found.append(
                    Probed(Channel(name, "load", "%", id=f"{name}:"), None, "unreadable", str(problem))
                )
        return found

    def state(self, rig: Rig | None) -> str:
        """Which machine it is and how it answers, in words; empty for this one."""
        command = reached_by(rig)
        if not command:
            return ""
        known = self._far.get(command)
        return known.state if known is not None else f"reached by {command}: not reached yet"

    def close(self) -> None:
        """Take leave of all machines: each agent ends its load, then itself."""
        with self._lock:
            for one in self._far.values():
                one.close()
            self._far.clear()


def reached_by(rig: Rig | None) -> str:
    """The command that reaches a rig's machine; empty where it is the one that Samovar runs on."""
    return str(rig.details.get(REACHED_BY) or "") if rig is not None else ""
