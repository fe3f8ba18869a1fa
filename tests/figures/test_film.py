"""Films: they grow with the run, end whole, and say in a line where they cannot be written."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from samovar.core.reading import read
from samovar.exchange.problems import InputError
from samovar.figures.film import FRAMES_A_SECOND, SIZE_PX, film_frames, write_film
from samovar.figures.time_chart import time_chart
from tests.recordings import FACTS, simple_run


def chart():  # type: ignore[no-untyped-def]
    recording = simple_run()
    return time_chart(recording, read(recording, FACTS), FACTS, "Osprey 161")


class FilmTest(unittest.TestCase):
    def test_more_and_more_of_the_chart_is_seen(self) -> None:
        inked = [int((np.asarray(f.convert("L")) < 200).sum()) for f in film_frames(chart(), 1.0)]
        self.assertEqual(len(inked), FRAMES_A_SECOND + 1)
        self.assertLess(inked[0], inked[10])
        self.assertLess(inked[10], inked[-1])

    def test_a_file_or_a_sequence(self) -> None:
        with tempfile.TemporaryDirectory() as holder:
            folder = Path(holder)
            for name in ("a.png", "b.gif"):
                (path,) = write_film(chart(), folder / name, 0.5)
                with Image.open(path) as film:
                    self.assertEqual((film.n_frames > 5, film.size), (True, SIZE_PX))  # type: ignore[attr-defined]
            steps: list[tuple[int, int]] = []
            frames = write_film(chart(), folder / "frames", 0.5, lambda k, n: steps.append((k, n)))
            self.assertEqual(len(frames), steps[-1][0])
            self.assertEqual(steps[-1][0], steps[-1][1])
            for path, seconds, words in (
                (folder / "a.mp4", 1.0, "change the ending"),
                (folder / "a.png", 0.0, "choose another length"),
            ):
                with self.assertRaisesRegex(InputError, words):
                    write_film(chart(), path, seconds)


if __name__ == "__main__":
    unittest.main()
