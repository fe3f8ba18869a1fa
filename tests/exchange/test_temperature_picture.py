"""Temperature pictures from files of many cameras' kinds; what is none is one line."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from samovar.exchange.problems import InputError
from samovar.exchange.temperature_picture import named_picture, read_picture

VALUES = np.round(20.0 + np.add.outer(np.arange(6) * 1.25, np.arange(9) * 3.5), 2)


class TemperaturePictureTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def written(self, name: str, text: str, encoding: str = "utf-8") -> Path:
        path = self.folder / name
        path.write_bytes(text.encode(encoding))
        return path

    def refused(self, line: str, *words: str, room_c: float | None = 22.0) -> None:
        with self.assertRaises(InputError) as caught:
            read_picture(named_picture(line), room_c)
        for one in words:
            self.assertIn(one, str(caught.exception))
        self.assertNotIn("\n", str(caught.exception))

    def test_tables_of_degrees_however_they_are_parted(self) -> None:
        head = "Made by a camera\nemissivity;0,95\nframe 12\n\n"
        for name, part, comma, encoding, before in (
            ("a.csv", ",", ".", "utf-8", ""), ("b.csv", ";", ",", "utf-16", head), ("c.txt", "\t", ".", "latin-1", head),
            ("d.txt", " ", ".", "utf-8-sig", ""), ("e.csv", ";", ",", "utf-8", "x;1;2;3;4;5;6;7;8;9\n"),
        ):  # fmt: skip
            rows = [part.join(f"{v:.2f}".replace(".", comma) for v in row) for row in VALUES]
            ending = part if name == "e.csv" else ""
            path = self.written(name, before + "".join(f"{row}{ending}\n" for row in rows), encoding)
            with self.subTest(name):
                picture = read_picture(named_picture(f"{path}, at 12:30, emissivity 0.9"), 22.5)
                np.testing.assert_allclose(picture.celsius, VALUES)
                self.assertEqual((picture.at_s, picture.set_to, picture.reflected_c), (750.0, 0.9, 22.5))

    def test_whole_numbers_need_their_scale(self) -> None:
        raw = np.rint((VALUES + 273.15) / 0.04).astype(np.uint16)
        for ending in ("png", "tiff"):
            path = self.folder / f"a.{ending}"
            Image.fromarray(raw).save(path)
            picture = read_picture(named_picture(f"{path}, scale 0.04, offset -273.15, reflected 21"), None)
            np.testing.assert_allclose(picture.celsius, VALUES, atol=0.021)
            self.refused(str(path), "say what its numbers mean", "scale 0.04, offset -273.15")
            self.refused(f"{path}, scale 1, offset 0", "check scale and offset")
        Image.fromarray(VALUES.astype(np.float32)).save(self.folder / "f.tiff")
        np.testing.assert_allclose(
            read_picture(named_picture(f"{self.folder}/f.tiff"), 20.0).celsius, VALUES, atol=1e-4
        )

    def test_what_is_no_picture_of_temperatures_is_said(self) -> None:
        Image.new("RGB", (40, 30), "#884422").save(self.folder / "p.jpg")
        self.refused(f"{self.folder}/p.jpg", "a photograph only")
        self.refused(f"{self.folder}/none.csv", "there is no such file")
        self.refused(str(self.written("t.csv", "nothing here\nat all\n")), "no table of degrees")
        self.refused(str(self.written("u.png", "no picture")), "cannot be read as a picture")
        table = self.written("v.csv", "1,2\n3,4\n")
        self.refused(f"{table}, emissivity 1.4", "over 0 and up to 1")
        self.refused(f"{table}, upside down", "'upside down' is not understood")
        self.refused(f"{table}, at noon", "no time")
        self.refused(str(table), "what the surface mirrored", room_c=None)

    @given(st.text(max_size=300))
    def test_whatever_a_file_holds_it_is_a_picture_or_one_line(self, text: str) -> None:
        path = self.written("x.csv", text, "utf-8")
        try:
            picture = read_picture(named_picture(str(path)), 20.0)
        except InputError as problem:
            self.assertNotIn("\n", str(problem))
        else:
            self.assertEqual(picture.celsius.ndim, 2)


if __name__ == "__main__":
    unittest.main()
