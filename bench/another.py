"""What a machine under test spends on being measured from elsewhere, and how long its load outlives the wire."""

from __future__ import annotations

import signal
import statistics
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import psutil

from bench.table import Row
from bench.tree import wide_tree

TRIES = 5


def measure() -> Iterator[Row]:
    """The agent's share and memory, from its one file; a cut wire; the offset of the clocks."""
    share, memory, error_ms = _agent()
    yield Row("agent, 64 channels at 1 Hz: share of a core", share, 0.3, "%")
    yield Row("the same, memory", memory, 30.0, "MB")
    yield Row("what the clock of the other machine may be wrong by", error_ms, None, "ms")
    yield Row("from a cut wire to the load there stopped, longest of five", _cut(), 3.0, "s")


def _agent() -> tuple[float, float, float]:
    from tests.agent.oldest import oldest_python

    from samovar.agent.machine import FarMachine
    from samovar.agent.pack import write_agent

    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        wide_tree(root)
        write_agent(root / "agent.pyz")
        machine = FarMachine(f"{oldest_python()} -I -S {root / 'agent.pyz'} --sysroot {folder}")
        try:
            sources, _ = machine.open_sources()
            process = machine.link._process
            assert process is not None
            agent = psutil.Process(process.pid)
            shares = []
            for _ in range(3):
                before, began = agent.cpu_times(), time.monotonic()
                for _ in range(8):
                    for source in sources:
                        source.sample()
                    time.sleep(1.0)
                after = agent.cpu_times()
                used = after.user + after.system - before.user - before.system
                shares.append(100.0 * used / (time.monotonic() - began))
            return (
                statistics.median(shares),
                agent.memory_info().rss / 1e6,
                1e3 * (machine.link.offset.error_s or 0.0),
            )
        finally:
            machine.close()


def _cut() -> float:
    """The agent's process held still, so that only what lives by its heartbeat can end the load."""
    from samovar.agent.machine import FarMachine

    took = []
    for _ in range(TRIES):
        with tempfile.TemporaryDirectory() as folder:
            wide_tree(Path(folder))
            machine = FarMachine(f"{sys.executable} -m samovar agent --sysroot {folder}")
            machine.open_sources()
            machine.make_load("compression", 1).start()
            process = machine.link._process
            assert process is not None
            agent = psutil.Process(process.pid)
            workers = agent.children(recursive=True)
            agent.send_signal(signal.SIGSTOP)
            began = time.monotonic()
            while any(p.is_running() and p.status() != psutil.STATUS_ZOMBIE for p in workers):
                time.sleep(0.01)
            took.append(time.monotonic() - began)
            agent.send_signal(signal.SIGCONT)
            machine.close()
    return max(took)
