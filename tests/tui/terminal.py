"""The real program in a real terminal: a tmux session that tests type into and read from."""

from __future__ import annotations

import os
import re
import subprocess
import time
import uuid
from pathlib import Path


class Terminal:
    """A tmux session of its own that runs the program."""

    def __init__(self, *command: str, size: tuple[int, int] = (160, 50), folder: Path) -> None:
        self._tmux = ["tmux", "-L", f"samovar-{uuid.uuid4().hex[:8]}", "-f", os.devnull]
        environment = {
            **os.environ,
            "LC_ALL": "C.UTF-8",
            "COLORTERM": "truecolor",
            "XDG_STATE_HOME": str(folder),
            "XDG_CONFIG_HOME": str(folder),
        }
        environment.pop("TMUX", None)
        ending = "; echo ended with $?; sleep 60"
        inner = " ".join(f"'{part}'" for part in command) + ending
        self._run(
            "new-session", "-d", "-x", str(size[0]), "-y", str(size[1]), "-c", str(folder), "sh", "-c", inner,
            environment=environment,
        )  # fmt: skip

    def _run(self, *arguments: str, environment: dict[str, str] | None = None) -> str:
        done = subprocess.run(
            [*self._tmux, *arguments], capture_output=True, text=True, env=environment, check=False
        )
        return done.stdout

    def keys(self, *keys: str) -> None:
        """Send keys, in tmux's names."""
        for key in keys:
            self._run("send-keys", key)
            # An escape and a letter that are read in one go are one other key: a busy machine needs a moment.
            time.sleep(1.2 if key == "Escape" else 0.12)

    def type(self, text: str) -> None:
        """Type text as it is."""
        self._run("send-keys", "-l", text)

    def screen(self) -> str:
        """What stands on the screen."""
        return self._run("capture-pane", "-p")

    def coloured(self) -> str:
        """The same with what sets its colours."""
        return self._run("capture-pane", "-e", "-p")

    def until(self, words: str, seconds: float = 60.0) -> str:
        """Wait until the screen matches a pattern; the answer is the screen."""
        deadline = time.monotonic() + seconds
        while True:
            screen = self.screen()
            if re.search(words, screen):
                return screen
            if time.monotonic() > deadline:
                raise AssertionError(f"{words!r} never came; the screen was:\n{screen}")
            time.sleep(0.1)

    def close(self) -> None:
        """End whatever still runs."""
        self._run("kill-server")
