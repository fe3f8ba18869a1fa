"""A two-hour recording of 64 channels at 30 times life's speed, held against the simulator's tree one for one."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from bench.table import Row
from samovar.archive import Archive
from samovar.bench.course_spec import CourseSpec
from samovar.core.recording import Recording
from samovar.recording.live import LiveRun
from samovar.simulator.harbour import HALDEN_8, SETUPS
from samovar.simulator.machine import SimulatedMachine

CORES = 52
SCALES = {"temp": 1000.0, "fan": 1.0, "in": 1000.0, "scaling_cur_freq": 1000.0}


class Witness:
    """Reads the tree's files by itself at every sample, by paths of its own."""

    def __init__(self, root: Path) -> None:
        hwmon = sorted(root.glob("sys/class/hwmon/hwmon*/*_input"))
        clocks = sorted(root.glob("sys/devices/system/cpu/cpu*/cpufreq/scaling_cur_freq"))
        zones = sorted(root.glob("sys/class/thermal/thermal_zone*/temp"))
        self.paths = [*hwmon, *zones, *clocks]
        self.rows: list[list[float]] = []

    def look(self, at_s: float, values: Sequence[float]) -> None:
        """One look, at the moment of a sample."""
        self.rows.append([self._value(p) for p in self.paths])

    @staticmethod
    def _value(path: Path) -> float:
        return int(path.read_text()) / SCALES[re.sub(r"\d+_input$", "", path.name)]


def recorded(duration_s: float, speed: float) -> tuple[Recording, str, int]:
    """Record for so long at such a speed; the answer is the sealed run, its state, and how many of its values
    differ from what the witness saw."""
    chip = replace(HALDEN_8, cores=CORES, name="Halden 52")
    setup = replace(SETUPS["Osprey 161"], chip=chip)
    with tempfile.TemporaryDirectory() as folder, Archive(Path(folder) / "a.sqlite") as archive:
        SETUPS["Osprey 161, 52 cores"] = setup
        machine = SimulatedMachine("Osprey 161, 52 cores", speed=speed)
        try:
            witness = Witness(machine.sysroot)
            spec = CourseSpec(
                "worst case",
                idle_least_s=60.0,
                idle_most_s=60.0,
                load_s=duration_s - 120.0,
                cool_down_most_s=60.0,
            )
            live = LiveRun(archive, machine, spec, on_sample=witness.look)
            outcome = live.run()
            recording = archive.runs.recording(live.number)
        finally:
            machine.close()
            del SETUPS["Osprey 161, 52 cores"]
    seen = {tuple(column) for column in np.array(witness.rows).T}
    plain = [
        k
        for k, c in enumerate(recording.channels)
        if c.quantity in ("temperature", "fan", "voltage", "clock")
    ]
    same = sum(tuple(recording.values[k]) in seen for k in plain)
    return recording, outcome.state, len(plain) - same


def measure() -> Iterator[Row]:
    """Two hours, in four minutes."""
    recording, state, differing = recorded(7200.0, 30.0)
    yield Row(
        f"2 h at 30 x, {len(recording.channels)} channels: samples", float(len(recording.time_s)), None, ""
    )
    yield Row("the same: channels that differ from the simulator's tree", float(differing), 0.0, "")
    yield Row(
        "the same: seconds without a sample",
        float(sum(g.end_s - g.start_s for g in recording.gaps())),
        0.0,
        "s",
    )
    yield Row("the same: not sealed", float(state != "sealed"), 0.0, "")
