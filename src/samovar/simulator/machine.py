"""A simulated rig on the bench: its tree read by the ordinary source, its clock able to run fast."""

from __future__ import annotations

import shutil
import tempfile
import threading
import time
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from samovar.bench.clock import wall_time
from samovar.bench.guard import Guard
from samovar.bench.loads.catalogue import KINDS, OwnLoad, refuse_without_leave, work_of
from samovar.bench.loads.command import CommandLoad
from samovar.bench.loads.protocol import WORK, Load, LoadEnd, LoadError
from samovar.bench.machine import DieWatch, die_watcher, kernel_sources
from samovar.core.quantity import Channel
from samovar.simulator.harbour import (
    GRAPHICS_LOADS,
    HALDEN_8,
    LOADS,
    SETUPS,
    changed,
    graphics_load,
    setup_in_room,
)
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.spec import LoadSpec, together
from samovar.simulator.tree import KernelTree
from samovar.sources.linux import discover
from samovar.sources.linux.identity import known_facts
from samovar.sources.protocol import Probed, Source

_BY_HAND = "heavy work"
"""What the rig runs where a person, or a command, is said to load it."""


class RigClock:
    """The rig's own time. Waiting is what moves the rig on; `speed` of its seconds pass in one of
    ours, or as fast as it can where `speed` is None."""

    def __init__(self, rig: SimulatedRig, tree: KernelTree, speed: float | None) -> None:
        self.rig = rig
        self.tree = tree
        self.speed = speed if speed is not None else 1e9
        self._ahead = threading.Lock()
        self._anchor = (time.monotonic(), rig.time_s)

    def now(self) -> float:
        """The rig's time, seconds."""
        return self.rig.time_s

    def wait_until(self, moment: float, wake: threading.Event | None = None) -> None:
        """Let the rig live until a moment, keeping pace with the wall at `speed`."""
        began, rig_began = self._anchor
        due = began + (moment - rig_began) / self.speed
        remaining = due - time.monotonic()
        if remaining > 0:
            if wake is not None and wake.wait(remaining):
                return
            if wake is None:
                time.sleep(remaining)
        elif remaining < -1.0:
            # Fallen behind by more than a second: keep the pace from here, do not race to catch up.
            self._anchor = (time.monotonic(), moment)
        with self._ahead:
            self.rig.advance_to(moment)
            self.tree.write()

    def restart(self) -> None:
        """Take the present moment as the beginning of the pace."""
        self._anchor = (time.monotonic(), self.rig.time_s)

    def started(self) -> str:
        """The wall clock's date and time now."""
        return wall_time()


class SimulatedLoad:
    """A load on the simulated rig; without a `spec` it does nothing, as `idle` does. Where `command` is given,
    that runs on this computer, and the rig is loaded for as long as it takes."""

    def __init__(
        self, rig: SimulatedRig, spec: LoadSpec | None, *, called: str = "", by_hand: bool = False,
        command: Load | None = None, work: tuple[Channel, ...] = (WORK,),
    ) -> None:  # fmt: skip
        self._rig = rig
        self._spec = spec
        self.work = work
        self._before = (0.0,) * len(work)
        self._command = command
        self._name = called or (spec.name if spec else "idle")
        self.by_hand = by_hand

    @property
    def name(self) -> str:
        """The load's name."""
        return self._name

    def start(self) -> None:
        """Put it on."""
        self._before = self._counted()
        if self._command is not None:
            self._command.start()
        if self._spec is not None:
            self._rig.join(self._spec)

    def stop(self) -> None:
        """Take it off."""
        if self._spec is not None:
            self._rig.leave(self._spec)
        if self._command is not None:
            self._command.stop()

    def ended(self) -> LoadEnd | None:
        """How the command ended; no other load ends by itself."""
        return self._command.ended() if self._command is not None else None

    def work_done(self) -> tuple[float, ...]:
        """Units done since it was put on."""
        return tuple(now - before for now, before in zip(self._counted(), self._before, strict=True))

    def _counted(self) -> tuple[float, ...]:
        return tuple(self._rig.work(channel.domain) for channel in self.work)


class SimulatedMachine:
    """The Harbour FM rig with one of its setups fitted, living in a folder of kernel-shaped files."""

    def __init__(self, setup: str, room_c: float = 22.5, seed: int = 1, speed: float | None = 30.0) -> None:
        self._seed = seed
        self._speed = speed
        self._room_c = room_c
        memory = Path("/dev/shm")
        self._home = Path(tempfile.mkdtemp(prefix="samovar-rig-", dir=memory if memory.is_dir() else None))
        self._tree: KernelTree | None = None
        # Fitting and probing come from several threads, recording from one: never two of them at once.
        self._hands = threading.RLock()
        self.rig: SimulatedRig
        self.fit(setup)

    def fit(self, setup: str, products: Sequence[str] = (), changes: Mapping[str, Any] | None = None) -> bool:
        """Fit another setup: a rig that has been on and idle for long; the one that is fitted stays as it is.
        A setup of another name is what its products and changes make of it. False: nothing of it is known here."""
        name = next((n for n in (setup, *products) if n in SETUPS), None)
        if name is None:
            return False
        # The van and the relay site have a climate of their own.
        room = self._room_c if SETUPS[name].chip is HALDEN_8 else SETUPS[name].room_c
        fitted = changed(setup_in_room(name, room), changes or {})
        with self._hands:
            # Fitted already: the bench may ask again while a run goes on, and must find it as it is.
            if self._tree is not None and self.rig.setup == fitted:
                return True
            self._seed += 1
            if self._tree is not None:
                self._tree.close()
            # Another machine may have fewer cores or no graphics side: nothing of the one before stays.
            for part in self._home.iterdir():
                shutil.rmtree(part)
            self.rig = SimulatedRig(fitted)
            self.rig.advance_to(400.0)
            self._tree = KernelTree(self._home, self.rig, self._seed)
            self.clock = RigClock(self.rig, self._tree, self._speed)
        return True

    def set_fans(self, share: float) -> bool:
        """Hold the cooler's fan at a share of its highest speed."""
        with self._hands:
            self.rig.fix_fans(share)
        return True

    def companions(self) -> list[Source]:
        """None: this program does not run on the rig."""
        return []

    def known_facts(self) -> dict[str, Any]:
        """What the rig's own kernel files tell."""
        return known_facts(self._home)

    @property
    def sysroot(self) -> Path:
        """The folder its tree lies in."""
        return self._home

    def probe(self) -> list[Probed]:
        """What can be measured on it now; reading it takes half a second of its time."""
        with self._hands:
            clock = self.clock
            clock.restart()
            return discover(self._home, 0.5, clock.now, lambda s: clock.wait_until(clock.now() + s))

    def open_sources(
        self, roles: Mapping[str, str] | None = None, split: bool = False
    ) -> tuple[list[Source], DieWatch | None]:
        """Its sensors through the ordinary Linux source."""
        with self._hands:
            self.clock.restart()
            sources = kernel_sources(self._home, self.clock.now, roles, split, may_hang=False)
            return sources, die_watcher(self._home, self.clock, roles)

    def guarded_by(self, guard: Guard | None) -> Guard | None:
        """The guard stands here."""
        return guard

    def lost(self) -> str | None:
        """It never is."""
        return None

    def loads(self) -> dict[str, str]:
        """The loads it carries."""
        found = {name: KINDS[name].words for name in (*LOADS, "idle")}
        if self.rig.setup.graphics is not None:
            found.update({name: KINDS[name].words for name in GRAPHICS_LOADS})
        return found

    def make_load(
        self, name: str, threads: int | None = None, own: Mapping[str, OwnLoad] | None = None
    ) -> Load:
        """A load on the rig. Raises LoadError."""
        if name == "idle":
            return SimulatedLoad(self.rig, None)
        cores = self.rig.setup.chip.cores
        if threads is not None and not 1 <= threads <= cores:
            raise LoadError(f"{threads} threads asked for, the rig has {cores}: ask for 1 to {cores}")
        work = work_of(name, own or {})
        if name in self.loads():
            return SimulatedLoad(self.rig, _with_threads(self._spec(name), threads), work=work)
        load = (own or {}).get(name)
        if load is None:
            raise LoadError(f"no load {name!r}; there are {', '.join([*self.loads(), *(own or {})])}")
        refuse_without_leave(load, own or {})
        return self._own(load, threads, own or {}, work)

    def _spec(self, name: str) -> LoadSpec:
        """One of the program's loads as the rig feels it. Raises LoadError: it has no graphics side."""
        if name not in GRAPHICS_LOADS:
            return LOADS[name]
        if self.rig.setup.graphics is None:
            raise LoadError(f"{name}: no graphics chip can be reached on this rig")
        return graphics_load(name, self.rig.setup.graphics)

    def _own(
        self, load: OwnLoad, threads: int | None, own: Mapping[str, OwnLoad], work: tuple[Channel, ...]
    ) -> SimulatedLoad:
        """A load of the reviewer's own, as the rig's chip would feel it."""
        if load.kind == "command":
            command = CommandLoad(load.name, load.command)
            return SimulatedLoad(self.rig, LOADS[_BY_HAND], called=load.name, command=command)
        if load.kind == "by hand":
            return SimulatedLoad(self.rig, LOADS[_BY_HAND], called=load.name, by_hand=True)
        if load.kind == "several":
            parts = [self._spec(own[p].of if p in own else p) for p in load.parts if p != "idle"]
            spec = together(parts, self.rig.setup.chip.cores)
            return SimulatedLoad(self.rig, spec, called=load.name, work=work)
        if load.of == "idle":
            return SimulatedLoad(self.rig, None, called=load.name)
        spec = _with_threads(self._spec(load.of), threads or load.threads)
        if load.duty is not None:
            spec = replace(spec, duty=load.duty)
        return SimulatedLoad(self.rig, spec, called=load.name, work=work)

    def close(self) -> None:
        """Remove its folder."""
        if self._tree is not None:
            self._tree.close()
            self._tree = None
        shutil.rmtree(self._home, ignore_errors=True)


def _with_threads(spec: LoadSpec, threads: int | None) -> LoadSpec:
    return spec if threads is None else replace(spec, threads=threads)
