"""A simulated rig on the bench: its tree read by the ordinary source, its clock able to run fast."""

from __future__ import annotations

import shutil
import tempfile
import threading
import time
from pathlib import Path

from samovar.bench.clock import wall_time
from samovar.bench.loads.protocol import Load, LoadError
from samovar.bench.machine import DieWatch, die_watcher
from samovar.simulator.harbour import HALDEN_8, LOADS, setup_in_room
from samovar.simulator.rig import SimulatedRig
from samovar.simulator.spec import LoadSpec
from samovar.simulator.tree import KernelTree
from samovar.sources.linux import LinuxSource, discover
from samovar.sources.protocol import Probed, Source

_DESCRIPTION = {
    "worst case": "dense vector arithmetic from cache, 8 threads",
    "heavy work": "long transforms in cache, 8 threads",
    "everyday": "short bursts on two threads",
}


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
    """A load on the simulated rig."""

    def __init__(self, rig: SimulatedRig, spec: LoadSpec) -> None:
        self._rig = rig
        self._spec = spec
        self._before = 0.0

    @property
    def name(self) -> str:
        """The load's name."""
        return self._spec.name

    def start(self) -> None:
        """Put it on."""
        self._before = self._rig.work_units
        self._rig.start(self._spec)

    def stop(self) -> None:
        """Take it off."""
        self._rig.stop()

    def work_done(self) -> float:
        """Units done since it was put on."""
        return self._rig.work_units - self._before


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
        self.fit(setup)

    def fit(self, setup: str) -> bool:
        """Fit another setup: a rig that has been on and idle for long. False: no such setup here."""
        try:
            fitted = setup_in_room(setup, self._room_c)
        except KeyError:
            return False
        with self._hands:
            self._seed += 1
            if self._tree is not None:
                self._tree.close()
            self.rig = SimulatedRig(fitted)
            self.rig.advance_to(400.0)
            self._tree = KernelTree(self._home, self.rig, self._seed)
            self.clock = RigClock(self.rig, self._tree, self._speed)
        return True

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

    def open_source(self) -> tuple[Source, DieWatch | None]:
        """Its sensors through the ordinary Linux source."""
        with self._hands:
            self.clock.restart()
            return LinuxSource(self._home, self.clock.now), die_watcher(self._home, self.clock)

    def loads(self) -> dict[str, str]:
        """The loads it carries."""
        return dict(_DESCRIPTION)

    def make_load(self, name: str, threads: int | None = None) -> Load:
        """A load on the rig. Raises LoadError."""
        if name not in LOADS:
            raise LoadError(f"no load {name!r}; there are {', '.join(LOADS)}")
        if threads is not None and not 1 <= threads <= HALDEN_8.cores:
            raise LoadError(f"{threads} threads asked for, the rig has {HALDEN_8.cores}")
        from dataclasses import replace

        spec = LOADS[name] if threads is None else replace(LOADS[name], threads=threads)
        return SimulatedLoad(self.rig, spec)

    def close(self) -> None:
        """Remove its folder."""
        if self._tree is not None:
            self._tree.close()
            self._tree = None
        shutil.rmtree(self._home, ignore_errors=True)
