"""Runs all tests, slow modules first, on as many processes as there are cores; ends with one line of counts."""

from __future__ import annotations

import io
import os
import sys
import time
import unittest
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

HERE = Path(__file__).parent
SLOW_FIRST = (
    "test_whole_path", "test_demo", "test_new_review", "test_varied", "test_publish", "test_kill", "test_places",
    "tui.test_framing", "test_nothing_blocks", "test_worked", "test_stories", "test_truth", "tui.test_keeping",
    "test_agent", "test_meters", "test_instruments", "test_alerts", "test_bring_log",
)  # fmt: skip
# What looks at real time runs when nothing else does.
ALONE = ("test_loads", "test_recorder", "test_tree", "test_linux")
MOST_AGAIN = 3
LATEST_AGAIN_S = 1700.0
"""So many modules that failed are run once more, if it is no later than that."""


def modules() -> list[str]:
    """Every test module by its dotted name."""
    found = [
        ".".join(p.relative_to(HERE.parent).with_suffix("").parts) for p in sorted(HERE.rglob("test_*.py"))
    ]
    return sorted(
        found,
        key=lambda name: next((k for k, s in enumerate(SLOW_FIRST) if name.endswith(s)), len(SLOW_FIRST)),
    )


def run_module(name: str) -> tuple[str, int, int, int, float, str]:
    """Run one module; its name, passed, failed, skipped, seconds, and what there is to say."""
    began = time.monotonic()
    out = io.StringIO()
    suite = unittest.defaultTestLoader.loadTestsFromName(name)
    result = unittest.TextTestRunner(stream=out, verbosity=0, buffer=True).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    text = out.getvalue() if failed else ""
    # Figures that a module measured are worth reading even where all is well.
    text += "".join(f"  {line}\n" for line in getattr(sys.modules.get(name), "FIGURES", ()))
    text += "".join(f"  skipped: {test.id()}: {reason}\n" for test, reason in result.skipped)
    return name, result.testsRun - failed - skipped, failed, skipped, time.monotonic() - began, text


def main() -> int:
    """Run what is named on the command line, else everything."""
    began = time.monotonic()
    wanted = sys.argv[1:]
    names = [n for n in modules() if not wanted or any(w in n for w in wanted)]
    alone = [n for n in names if n.endswith(ALONE)]
    counts: dict[str, tuple[int, int, int]] = {}
    # One process more than there are cores: many tests wait for a terminal, not for a processor.
    _run_all([n for n in names if n not in alone], (os.cpu_count() or 1) + 1, counts)
    _run_all(alone, 1, counts)
    broken = [name for name, (_, failed, _) in counts.items() if failed]
    if 0 < len(broken) <= MOST_AGAIN and time.monotonic() - began < LATEST_AGAIN_S:
        # What waits for a screen can fail where the machine stood still: alone it must pass.
        print(f"once more, alone: {', '.join(broken)}", flush=True)
        _run_all(broken, 1, counts)
    for name in broken:
        if not counts[name][1]:
            # Luck is no pass: whoever reads the end of the log must see it.
            print(f"FAILED ONCE, passed alone, a fault to mend: {name}")
    passed, failed, skipped = (
        (sum(each) for each in zip(*counts.values(), strict=True)) if counts else (0, 0, 0)
    )
    print(f"{passed} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not passed else 0


def _run_all(names: list[str], workers: int, counts: dict[str, tuple[int, int, int]]) -> None:
    """Run modules on so many processes, say how each went, and keep its passed, failed and skipped."""
    with ProcessPoolExecutor(workers, mp_context=get_context("spawn"), max_tasks_per_child=1) as pool:
        for name, passed, failed, skipped, seconds, text in pool.map(run_module, names):
            ending = f", {failed} FAILED" if failed else ""
            print(f"{name:<44} {passed:>4} passed {seconds:>6.1f} s{ending}", flush=True)
            if text:
                print(text, flush=True)
            counts[name] = passed, failed, skipped
