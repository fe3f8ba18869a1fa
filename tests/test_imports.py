"""Imports run one way: what each part of the program may use of the others."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "samovar"

ALLOWED: dict[str, set[str]] = {
    "core": set(),
    "sources": {"core"},
    "bench": {"core", "sources"},
    "agent": {"core", "sources", "bench"},
    "archive": {"core", "bench", "sources"},
    "exchange": {"core"},
    "simulator": {"core", "sources", "bench"},
    "figures": {"core", "exchange"},
    "report": {"core", "sources", "bench"},
    "publish": {"core", "bench", "archive", "exchange", "figures", "report"},
    "demo": {
        "core",
        "bench",
        "archive",
        "exchange",
        "recording",
        "simulator",
        "publish",
        "report",
        "hearing",
    },
    "named_setup": {"archive", "exchange"},
    "lookup": {"core", "bench", "archive", "exchange"},
    "comparing": {"core", "archive", "exchange", "report"},
    "hearing": {"core", "exchange"},
    "heard_line": {"core", "exchange", "hearing"},
    "entering": {"core", "bench", "archive", "exchange", "heard_line"},
    "framing": {"core", "bench", "archive", "exchange"},
    "settings": {"exchange"},
    "first_frame": {"settings"},
    "recording": {"agent", "core", "sources", "bench", "archive", "exchange", "hearing"},
    "tui": {
        "core",
        "sources",
        "bench",
        "archive",
        "recording",
        "exchange",
        "figures",
        "publish",
        "report",
        "framing",
        "entering",
        "heard_line",
        "simulator",
        "lookup",
        "settings",
    },
    "cli": {
        "agent",
        "core",
        "sources",
        "bench",
        "archive",
        "exchange",
        "publish",
        "report",
        "demo",
        "comparing",
        "named_setup",
        "entering",
        "hearing",
        "framing",
        "recording",
        "lookup",
        "tui",
    },
}
"""Part to the parts it may import. Nothing but the command line imports the interface."""


def imports_of(path: Path) -> set[str]:
    """The parts of samovar that a file imports, wherever in it the import stands."""
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        names: list[str] = []
        if isinstance(node, ast.ImportFrom) and node.module:
            names = [node.module]
        elif isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        for name in names:
            parts = name.split(".")
            if parts[0] == "samovar" and len(parts) > 1:
                found.add(parts[1])
    return found


def wrong_imports(part: str, files: list[Path]) -> list[str]:
    """Every import that runs the wrong way."""
    allowed = ALLOWED[part] | {part, "__version__"}
    return [f"{p}: {name}" for p in files for name in sorted(imports_of(p) - allowed)]


class ImportsTest(unittest.TestCase):
    def test_imports_run_one_way(self) -> None:
        for part in ALLOWED:
            with self.subTest(part=part):
                folder = SOURCE / part
                files = sorted(folder.rglob("*.py")) if folder.is_dir() else [SOURCE / f"{part}.py"]
                self.assertTrue(files[0].exists())
                self.assertEqual(wrong_imports(part, files), [])

    def test_every_part_has_a_rule(self) -> None:
        parts = {p.name for p in SOURCE.iterdir() if p.is_dir() and p.name != "__pycache__"}
        self.assertEqual(parts - set(ALLOWED), set())

    def test_a_wrong_import_is_found(self) -> None:
        tui = SOURCE / "tui" / "app.py"
        self.assertIn(f"{tui}: tui", wrong_imports("core", [tui]))

    def test_core_uses_no_files_clock_or_network(self) -> None:
        banned = {
            "os",
            "pathlib",
            "time",
            "datetime",
            "socket",
            "threading",
            "subprocess",
            "sqlalchemy",
            "textual",
        }
        for path in sorted((SOURCE / "core").rglob("*.py")):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.Import):
                    names = {a.name.split(".")[0] for a in node.names}
                elif isinstance(node, ast.ImportFrom):
                    names = {(node.module or "").split(".")[0]}
                else:
                    continue
                self.assertFalse(names & banned, f"{path.name} imports {names & banned}")
