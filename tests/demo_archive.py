"""One demo archive for all tests that need it, built once for each machine and state of the source."""

from __future__ import annotations

import fcntl
import hashlib
import shutil
import tempfile
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "samovar"


def demo_archive(folder: Path) -> Path:
    """A copy of the demo's archive in a folder, to do with as one likes."""
    from samovar.demo.build import build

    state = hashlib.sha256()
    for path in sorted(SOURCE.rglob("*.py")):
        if path.relative_to(SOURCE).parts[0] not in ("tui", "figures", "publish"):
            state.update(path.read_bytes())
    kept = Path(tempfile.gettempdir()) / f"samovar-test-demo-{state.hexdigest()[:16]}.sqlite"
    with kept.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not kept.exists():
            build(kept)
    target = folder / "demo.sqlite"
    shutil.copy(kept, target)
    return target
