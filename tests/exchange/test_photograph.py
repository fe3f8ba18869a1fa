"""Photographs: upright, scaled, without what the camera noted; what is no picture is one line."""

from __future__ import annotations

import io
import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from samovar.exchange.photograph import LARGEST_PX, read_photograph, scaled
from samovar.exchange.problems import InputError

ORIENTATION, CAMERA, PLACE = 0x0112, 0x0110, 0x8825
TURNED = 6
"""Held upright: the picture is stored lying on its side."""


class PhotographTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def picture(self, name: str, size: tuple[int, int], **how: object) -> Path:
        path = self.folder / name
        Image.new("RGB", size, "#886644").save(path, **how)
        return path

    def test_it_is_turned_scaled_and_says_nothing_of_place_and_camera(self) -> None:
        noted = Image.Exif()
        noted[ORIENTATION], noted[CAMERA] = TURNED, "Camera of somebody"
        noted.get_ifd(PLACE)[1] = "N"
        taken = read_photograph(self.picture("duct.jpg", (3000, 1500), exif=noted))
        self.assertNotIn(b"Camera of somebody", taken.image)
        with Image.open(io.BytesIO(taken.image)) as kept:
            self.assertEqual(kept.size, (LARGEST_PX // 2, LARGEST_PX))
            self.assertEqual(len(kept.getexif()), 0)
        with Image.open(io.BytesIO(scaled(taken.image, 400))) as small:
            self.assertEqual(small.size, (400, 800))
        self.assertEqual(scaled(taken.image, 5000), taken.image)

    def test_png_stays_png(self) -> None:
        self.assertEqual(read_photograph(self.picture("duct.png", (30, 20))).kind, "png")

    def test_what_is_no_picture_is_one_line(self) -> None:
        (self.folder / "words.jpg").write_text("no picture")
        for name, words in (("gone.jpg", "no such file"), ("words.jpg", "cannot be read as a picture")):
            with self.assertRaisesRegex(InputError, words):
                read_photograph(self.folder / name)
        with self.assertRaisesRegex(InputError, "BMP is not read"):
            read_photograph(self.picture("duct.bmp", (30, 20)))

    @given(st.binary(max_size=400))
    def test_no_file_brings_it_down(self, tail: bytes) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "x.jpg"
            out = io.BytesIO()
            Image.new("RGB", (8, 8)).save(out, "JPEG")
            path.write_bytes(out.getvalue()[:40] + tail)
            try:
                read_photograph(path)
            except InputError as problem:
                self.assertEqual(str(problem).count("\n"), 0)


if __name__ == "__main__":
    unittest.main()
