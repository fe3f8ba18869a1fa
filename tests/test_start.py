"""What the program imports before it answers, and before its first picture and its Desk."""

from __future__ import annotations

import os
import pty
import subprocess
import sys
import unittest

from samovar import first_frame, settings
from samovar.figures.palette import DARK, LIGHT
from samovar.tui.widgets.rail import PLACES

HEAVY = ("textual", "sqlalchemy", "numpy", "pydantic", "typer", "greenlet", "scipy", "matplotlib")
NOT_FOR_THE_DESK = (
    "scipy",
    "matplotlib",
    "polars",
    "typst",
    "jinja2",
    "markdown_it",
    "PIL",
    "fluent",
    "psycopg",
    "numpy",
)


def imported(code: str) -> set[str]:
    """The packages that are imported after some code, in a program of its own."""
    listed = f"{code}\nimport sys; print(' '.join(sorted({{m.partition('.')[0] for m in sys.modules}})))"
    done = subprocess.run([sys.executable, "-c", listed], capture_output=True, text=True, check=True)
    return set(done.stdout.splitlines()[-1].split())


class StartTest(unittest.TestCase):
    def test_the_version_and_the_first_picture_import_nothing_heavy(self) -> None:
        code = "import sys; sys.argv = ['samovar', '--version']; from samovar.__main__ import main; main()"
        self.assertEqual(imported(code) & set(HEAVY), set())
        self.assertEqual(
            imported("from samovar import first_frame") & {*HEAVY, "json", "asyncio", "pathlib"}, set()
        )

    def test_the_desk_imports_nothing_that_it_does_not_use(self) -> None:
        found = imported("import samovar.tui.start, samovar.tui.screens.desk")
        self.assertEqual(found & set(NOT_FOR_THE_DESK), set())

    def test_the_first_picture_is_of_the_places_in_their_colours(self) -> None:
        self.assertEqual(first_frame.PLACES, tuple(name for _, _, name in PLACES))
        for theme, palette in ((settings.DARK, DARK), (settings.LIGHT, LIGHT)):
            wanted = (palette.ground, palette.raised, palette.text, palette.soft, palette.brass)
            found = tuple("#{:02x}{:02x}{:02x}".format(*c) for c in first_frame.COLOURS[theme])
            self.assertEqual(found, wanted)

    def test_it_is_drawn_only_where_the_interface_opens(self) -> None:
        master, slave = pty.openpty()
        self.addCleanup(os.close, master)
        code = "import sys; from samovar.first_frame import opens_interface as o; sys.stderr.write(repr([o(a) for a in {}]))"
        calls = (
            [], ["demo"], ["--archive", "x.sqlite"], ["--archive=x"], ["demo", "--speed", "60"], ["runs"], ["--help"],
            ["demo", "--tour"], ["read", "r0001"], ["--archive", "x", "runs"],
        )  # fmt: skip
        done = subprocess.run(
            [sys.executable, "-c", code.format(list(calls))],
            stdin=slave,
            stdout=slave,
            stderr=subprocess.PIPE,
            text=True,
        )
        os.close(slave)
        self.assertEqual(done.stderr, repr([True] * 5 + [False] * 5))


if __name__ == "__main__":
    unittest.main()
