"""Which process records a run, so that others can tell whether it still lives."""

from __future__ import annotations

import os
import socket
from typing import Any


def this_process() -> dict[str, Any]:
    """This process, as it is kept with a run that it records."""
    import psutil

    return {"host": socket.gethostname(), "pid": os.getpid(), "born": psutil.Process().create_time()}


def owner_lives(owner: dict[str, Any] | None) -> bool:
    """Whether a recording's process still runs; on another host, that cannot be denied."""
    if not isinstance(owner, dict) or not owner:
        return False
    if owner.get("host") != socket.gethostname():
        return True
    import psutil

    try:
        return abs(psutil.Process(int(owner["pid"])).create_time() - float(owner["born"])) < 1.0
    except (psutil.Error, KeyError, ValueError, TypeError):
        return False
