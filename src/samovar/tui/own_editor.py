"""A text in the reviewer's own editor, while the application stands aside."""

from __future__ import annotations

import os
import shlex
import subprocess
import tempfile
from pathlib import Path

from textual.app import App, SuspendNotSupported


def edited(app: App[None], text: str) -> tuple[str, str]:
    """What $VISUAL or $EDITOR leaves of a text; and why it is as it was, where there is none or it cannot be had."""
    command = shlex.split(os.environ.get("VISUAL") or os.environ.get("EDITOR") or "")
    if not command:
        return text, "No $EDITOR is set; t writes here."
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "article.md"
        path.write_text(text, encoding="utf-8")
        try:
            with app.suspend():
                subprocess.run([*command, str(path)], check=False)
            return path.read_text(encoding="utf-8", errors="replace"), ""
        except (OSError, SuspendNotSupported) as problem:
            return text, f"{command[0]}: {problem}"
