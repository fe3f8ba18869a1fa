"""The oldest Python at hand that the agent has to run on."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path


def oldest_python() -> str:
    """Python 3.9 where there is one that starts, else the one that runs this."""
    found = [
        shutil.which("python3.9"),
        *map(str, sorted(Path.home().glob(".pyenv/versions/3.9*/bin/python"))),
    ]
    for python in found:
        if python and subprocess.run([python, "-c", ""], capture_output=True, check=False).returncode == 0:
            return python
    return sys.executable
