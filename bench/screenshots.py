"""`make screenshots`: one PNG of each main place, from the demo's data, in a real terminal window.

Needs Debian's xvfb, xterm, tmux, imagemagick and fonts-dejavu-core; says so where one is missing.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
import uuid
from pathlib import Path

NEEDED = {"Xvfb": "xvfb", "xterm": "xterm", "tmux": "tmux", "import": "imagemagick"}
FOLDER = Path(__file__).parent.parent / "docs" / "screenshots"
COLUMNS, ROWS = 160, 47
SHOTS: tuple[tuple[tuple[str, ...], float, str], ...] = (
    # keys, seconds to wait behind them, name (none: no picture)
    ((), 3.0, "desk"),
    (("b", "{log}", "Enter"), 1.5, "bring-in"),
    (("Escape",), 0.5, ""),
    # Down to the Osprey 161: claims, fit, prices, handling; then its drawing, its form, the rigs.
    (("1", *["Down"] * 6), 1.0, "shelf"),
    (("f",), 1.0, "fit"),
    (("Escape", "Enter"), 1.0, "form"),
    (("Escape", "g"), 1.0, "rigs"),
    (("2",), 3.0, "grid"),
    (("Down", "Right", "Right", "Enter"), 1.0, "cell-runs"),
    (("Escape", "5"), 4.0, "versus"),
    (("v",), 3.0, "versus-criteria"),
    (("v",), 3.0, "versus-trade"),
    (("v", "v"), 0.5, ""),
    (("6",), 4.0, "write-up"),
    (("4",), 5.0, "trace"),
    (("o", "w", "Enter", "Down", "Down"), 4.0, "trace-beside"),
    (("w", "/"), 1.0, ""),
    (("r0025",), 2.0, ""),
    (("Enter",), 4.0, ""),
    (("s",), 3.0, "surfaces"),
    (("Escape",), 1.0, ""),
    (("2", "Down", "Down", "r"), 1.5, "bench-ready"),
    (("r",), 26.0, "bench"),
    (("f",), 1.5, "bench-far"),
    (("f", "C-t"), 1.5, "bench-light"),
)


class Window:
    """A terminal window on a screen nobody sees, with a program in it."""

    def __init__(self, command: list[str], folder: str) -> None:
        read_end, write_end = os.pipe()
        self._server = subprocess.Popen(
            ["Xvfb", "-displayfd", str(write_end), "-screen", "0", "1280x800x24"],
            pass_fds=[write_end], stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write_end)
        display = ":" + os.read(read_end, 16).decode().strip()
        self._environment = {**os.environ, "DISPLAY": display, "COLORTERM": "truecolor", "LC_ALL": "C.UTF-8"}
        # Nobody's own settings are in the pictures, and none of the pictures' stay behind.
        self._environment["XDG_CONFIG_HOME"] = folder
        self._environment.pop("TMUX", None)
        self._tmux = ["tmux", "-L", f"shots-{uuid.uuid4().hex[:8]}", "-f", os.devnull]
        options = "set -g status off ; set -sg escape-time 0 ; set -g default-terminal tmux-256color ; set -ga terminal-overrides ,*:Tc ;"
        self._window = subprocess.Popen(
            [
                "xterm", "-u8", "-fa", "DejaVu Sans Mono", "-fs", "10", "-b", "0", "-bw", "0", "+sb",
                "-xrm", "XTerm*directColor: true", "-geometry", f"{COLUMNS}x{ROWS}+0+0", "-e",
                *self._tmux, *options.split(), "new-session", "-x", str(COLUMNS), "-y", str(ROWS), "env", "COLORTERM=truecolor", *command,
            ],
            env=self._environment, stderr=subprocess.DEVNULL,
        )  # fmt: skip

    def tmux(self, *arguments: str) -> str:
        """Ask tmux."""
        return subprocess.run(
            [*self._tmux, *arguments], env=self._environment, capture_output=True, text=True, check=False
        ).stdout

    def until(self, words: str, seconds: float = 30.0) -> None:
        """Wait for words on the screen."""
        deadline = time.monotonic() + seconds
        while words not in self.tmux("capture-pane", "-p"):
            if time.monotonic() > deadline:
                raise SystemExit(f"screenshots: {words!r} never came on the screen")
            time.sleep(0.2)

    def photograph(self, path: Path) -> None:
        """The whole window as PNG."""
        subprocess.run(["import", "-window", "root", str(path)], env=self._environment, check=True)

    def close(self) -> None:
        """End program, window and screen."""
        self.tmux("kill-server")
        self._window.terminate()
        self._server.terminate()
        self._window.wait()
        self._server.wait()


def _log_of_another_maker(folder: Path, archive: str) -> Path:
    """A run of the demo as another program would have written it, one title saying nothing."""
    log = folder / "cabinet.csv"
    command = [sys.executable, "-m", "samovar", "export", "r0004", "--to", str(log), "--archive", archive]
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    text = log.read_text(encoding="utf-8").replace("VRM (°C)", "T3").replace("(MHz)", "[MHz]")
    log.write_text("Protocol 7\n\n" + text, encoding="utf-8")
    return log


def main() -> int:
    """Take all of them."""
    missing = sorted(package for tool, package in NEEDED.items() if not shutil.which(tool))
    if missing:
        print(
            f"screenshots: not installed: {', '.join(missing)}; apt-get install them, then try again",
            file=sys.stderr,
        )
        return 1
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        archive = str(Path(folder) / "demo.sqlite")
        window = Window([sys.executable, "-m", "samovar", "demo", "--archive", archive], folder)
        try:
            window.until("channels usable", 60.0)
            log = _log_of_another_maker(Path(folder), archive)
            for keys, seconds, name in SHOTS:
                for key in keys:
                    window.tmux("send-keys", key.format(log=log))
                    time.sleep(0.6)
                time.sleep(seconds)
                if not name:
                    continue
                window.photograph(FOLDER / f"{name}.png")
                print(FOLDER / f"{name}.png")
        finally:
            window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
