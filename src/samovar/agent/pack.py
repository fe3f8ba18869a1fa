"""The agent as one file that any Python 3.9 or newer runs, to be copied to a machine where nothing is installed."""

from __future__ import annotations

import ast
import importlib.util
import zipfile
from pathlib import Path

ROOTS = ("samovar.agent.serve", "samovar.bench.loads.worker", "samovar.bench.loads.keeper")
MAIN = "from samovar.agent.serve import main\n\nmain()\n"
FIRST_LINE = b"#!/usr/bin/env python3\n"
A_DATE = (2020, 1, 1, 0, 0, 0)
"""The same for every file in it: the same program makes the same file."""


def modules() -> dict[str, Path]:
    """All modules of ours that the agent needs, by name, with their files."""
    found: dict[str, Path] = {}
    wanted = list(ROOTS)
    while wanted:
        name = wanted.pop()
        if name in found:
            continue
        spec = importlib.util.find_spec(name)
        if spec is None or spec.origin is None:
            continue
        found[name] = path = Path(spec.origin)
        # A module's package is imported with it.
        wanted += [name.rpartition(".")[0]] if "." in name else []
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("samovar"):
                wanted.append(str(node.module))
                wanted += [
                    f"{node.module}.{one.name}"
                    for one in node.names
                    if importlib.util.find_spec(str(node.module)) and _is_module(f"{node.module}.{one.name}")
                ]
    return found


def _is_module(name: str) -> bool:
    try:
        return importlib.util.find_spec(name) is not None
    except ModuleNotFoundError:
        return False


def write_agent(to: Path) -> int:
    """Write the agent as one file; the answer is its size in bytes. Raises OSError."""
    with to.open("xb") as file:
        file.write(FIRST_LINE)
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, path in sorted(modules().items()):
                parts = name.replace(".", "/")
                inside = f"{parts}/__init__.py" if path.name == "__init__.py" else f"{parts}.py"
                archive.writestr(zipfile.ZipInfo(inside, A_DATE), path.read_text(encoding="utf-8"))
            archive.writestr(zipfile.ZipInfo("__main__.py", A_DATE), MAIN)
    to.chmod(0o755)
    return to.stat().st_size
