"""A wire between a bench and an agent that a test can cut and hold up: copies what comes, both ways.

Run as `python relay.py PID_FILE DOWN_FILE COMMAND...`; where DOWN_FILE is there it reaches nothing.
"""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from pathlib import Path


def copy(reading: int, writing: int) -> None:
    while data := os.read(reading, 65536):
        while data:
            data = data[os.write(writing, data) :]
    os.close(writing)


def main() -> None:
    pid_file, down, *command = sys.argv[1:]
    if Path(down).exists():
        sys.exit("no route")
    agent = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, start_new_session=True)
    assert agent.stdin is not None and agent.stdout is not None
    Path(pid_file).write_text(f"{os.getpid()} {agent.pid}")
    threading.Thread(target=copy, args=(0, agent.stdin.fileno()), daemon=True).start()
    copy(agent.stdout.fileno(), 1)


if __name__ == "__main__":
    main()
