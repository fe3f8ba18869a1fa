"""The code that computes readings against the version that is kept with them: neither changes without the other."""

from __future__ import annotations

import ast
import hashlib
import importlib
import json
import sys
import unittest
from pathlib import Path

from samovar.core.method import METHOD_VERSION

KEPT = Path(__file__).with_name("method.json")
ROOTS = ("samovar.core.reading", "samovar.core.results.compute", "samovar.core.results.steps")
"""What computes a reading, and its results."""
WHAT_TO_DO = (
    "The code that computes readings is another than that of version {version}. If a figure of any run can move by it, "
    "raise METHOD_VERSION in core/method.py, so that stored readings are worked out anew. Then, in either case, keep "
    "what the code comes to now: python -m tests.core.test_method_version"
)


def modules() -> list[Path]:
    """The files of the code that readings come from: the roots and all of the core that they import."""
    wanted, seen = list(ROOTS), set()
    while wanted:
        name = wanted.pop()
        if name in seen:
            continue
        seen.add(name)
        module = importlib.import_module(name)
        for node in ast.walk(ast.parse(Path(module.__file__ or "").read_text(encoding="utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("samovar.core"):
                wanted.append(str(node.module))
                wanted += [full for a in node.names if (full := f"{node.module}.{a.name}") in sys.modules]
    return sorted(Path(sys.modules[name].__file__ or "") for name in seen)


def code_of(path: Path) -> str:
    """What a file does: without comments, docstrings, layout, and the version itself."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    for node in ast.walk(tree):
        body = getattr(node, "body", None)
        if isinstance(body, list):
            node.body = [  # type: ignore[attr-defined]
                one
                for one in body
                if not (isinstance(one, ast.Expr) and isinstance(one.value, ast.Constant))
                and not (
                    isinstance(one, ast.Assign)
                    and any(isinstance(t, ast.Name) and t.id == "METHOD_VERSION" for t in one.targets)
                )
            ]
    return ast.unparse(tree)


def now() -> dict[str, object]:
    """The version, and what the code comes to."""
    total = hashlib.sha256()
    for path in modules():
        total.update(f"{path.stem}\n{code_of(path)}\n".encode())
    return {"version": METHOD_VERSION, "code": total.hexdigest()}


class MethodVersionTest(unittest.TestCase):
    def test_the_code_of_readings_and_their_version_change_together(self) -> None:
        kept = json.loads(KEPT.read_text(encoding="utf-8"))
        self.assertEqual(now(), kept, WHAT_TO_DO.format(version=kept["version"]))

    def test_words_and_layout_do_not_count_and_a_threshold_does(self) -> None:
        path = Path(sys.modules["samovar.core.reading"].__file__ or "")
        text = path.read_text(encoding="utf-8")
        self.assertNotIn('"""', code_of(path))
        self.assertGreater(len(modules()), 20)
        self.assertIn("def read(", text)


if __name__ == "__main__":
    KEPT.write_text(json.dumps(now(), indent=1) + "\n", encoding="utf-8")
    print(f"kept for version {METHOD_VERSION}")
