"""Processes and what they started: found, paused, ended for good, however they tried to get away.

What a command started may have left its group, its session and its parent (`setsid`, a double fork). A subreaper
inherits what its descendants leave behind (prctl(2), PR_SET_CHILD_SUBREAPER), so that all of it stays below; and
what lost its keeper is still told by a word in its environment. Standard library alone: keepers start fast.
"""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import time
from collections.abc import Callable, Iterable
from pathlib import Path

PROC = Path("/proc")
PR_SET_PDEATHSIG, PR_SET_CHILD_SUBREAPER = 1, 36
LOAD_WORD = "SAMOVAR_LOAD"
"""The environment's word by which a load's processes are known; its value is the load's own."""
END_PATIENCE_S = 2.0
"""A process that is told to end is gone within milliseconds, or waits for a device."""
ROUND_S = 0.02


def _prctl(option: int, value: int) -> None:
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None, use_errno=True).prctl(option, value, 0, 0, 0)


def become_subreaper() -> None:
    """Inherit what descendants leave behind; nothing happens where the system knows no such thing."""
    _prctl(PR_SET_CHILD_SUBREAPER, 1)


def end_with_parent(number: int = signal.SIGKILL) -> None:
    """Be sent this signal when the parent dies."""
    _prctl(PR_SET_PDEATHSIG, number)


def _parents() -> dict[int, int]:
    """Every process that is no zombie, and its parent."""
    found = {}
    for home in PROC.iterdir():
        if home.name.isdigit():
            with contextlib.suppress(OSError, ValueError, IndexError):
                # The command's name stands in brackets and may hold anything, brackets too.
                fields = (home / "stat").read_bytes().rpartition(b")")[2].split()
                if fields[0] not in (b"Z", b"X"):
                    found[int(home.name)] = int(fields[1])
    return found


def descendants(of: int) -> list[int]:
    """All living processes below one."""
    parents = _parents()
    found: list[int] = []
    front = {of}
    while front:
        front = {pid for pid, parent in parents.items() if parent in front}
        found += front
    return found


def marked(word: str) -> list[int]:
    """All living processes whose environment has this word of a load."""
    wanted = f"{LOAD_WORD}={word}".encode()
    found = []
    for pid in _parents():
        with contextlib.suppress(OSError):
            if wanted in (PROC / str(pid) / "environ").read_bytes().split(b"\0"):
                found.append(pid)
    return found


def signal_all(pids: Iterable[int], number: int) -> None:
    """Send a signal to each; those that are gone or not ours are passed over."""
    for pid in pids:
        with contextlib.suppress(OSError):
            os.kill(pid, number)


def reap(pid: int = -1) -> dict[int, int]:
    """Children that have ended, and their statuses as of waitpid."""
    found = {}
    with contextlib.suppress(ChildProcessError):
        while True:
            gone, status = os.waitpid(pid, os.WNOHANG)
            if gone == 0:
                break
            found[gone] = status
            if pid != -1:
                break
    return found


def end_all(find: Callable[[], list[int]], patience_s: float = END_PATIENCE_S) -> list[int]:
    """Kill what is found until nothing is; the answer is what could not be ended."""
    deadline = time.monotonic() + patience_s
    while True:
        left = find()
        if not left:
            return []
        # Stopped first: what forks as fast as it is killed would get away.
        signal_all(left, signal.SIGSTOP)
        signal_all(left, signal.SIGKILL)
        for pid in left:
            reap(pid)
        if time.monotonic() > deadline:
            return find()
        time.sleep(ROUND_S)


def named(pid: int) -> str:
    """A process as people know it: `make (4711)`."""
    try:
        return f"{(PROC / str(pid) / 'comm').read_text('utf-8', 'replace').strip()} ({pid})"
    except OSError:
        return f"process {pid}"
