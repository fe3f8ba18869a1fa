"""The fit's drawing and the spectrum in pixels: where the cells have them, words left alone."""

from __future__ import annotations

import math
import unittest

import numpy as np
from textual.app import App, ComposeResult
from textual.containers import VerticalScroll
from textual.widgets import Static

from samovar.core.elevation import Box, Dimension, Elevation
from samovar.figures.palette import DARK
from samovar.tui.heard_at import HeardAt
from samovar.tui.pixels.layer import covered, draw_in_pixels
from samovar.tui.pixels.terminal import SIXEL, Pixels
from samovar.tui.theme import DARK_THEME
from samovar.tui.widgets.elevation_pixels import elevation_pixels
from samovar.tui.widgets.elevation_scale import part_colour
from samovar.tui.widgets.elevation_view import drawn
from samovar.tui.widgets.heard_view import HeardView
from samovar.tui.widgets.miniature import course_of, miniature_pixels
from samovar.tui.widgets.spectrum import ROWS, SpectrumView, spectrum_pixels, spectrum_text
from samovar.tui.widgets.strip_pixels import STRETCH, Ground, Ink, heights, strip_pixels

CELL = 8, 16


def numbers_of(pixels: np.ndarray, colours: tuple[str, ...], colour: str) -> np.ndarray:
    """Where a picture has just this colour."""
    return np.asarray(pixels == colours.index(colour) + 1)


class FitTest(unittest.TestCase):
    drawing = Elevation(
        "Tower",
        (Box("Tower", "cooler", -40.0, 40.0, 40.0, 120.0), Box("memory", "memory", 50.0, 56.0, 0.0, 30.0, False)),
        (Dimension("height 120", "z", 0.0, 120.0, -60.0, "fits"),),
        150.0, True, (),
    )  # fmt: skip

    def test_parts_are_to_scale_and_words_stay(self) -> None:
        sheet = drawn(self.drawing, 100, 40, DARK)
        pixels, colours = elevation_pixels(self.drawing, sheet.scale, list(sheet.words), CELL, DARK)
        self.assertEqual(pixels.shape, (40 * CELL[1], 100 * CELL[0]))
        rows, columns = np.nonzero(numbers_of(pixels, colours, part_colour(DARK, "cooler")))
        per_mm = CELL[0] / sheet.scale.mm
        # 80 mm each way, less the edges that are drawn over it.
        self.assertAlmostEqual(np.ptp(columns), 80.0 * per_mm, delta=4.0)
        self.assertAlmostEqual(np.ptp(rows), 80.0 * per_mm, delta=4.0)
        whole = numbers_of(pixels, colours, part_colour(DARK, "memory")).sum()
        # What is not known is hatched: half of it.
        self.assertAlmostEqual(whole / (6.0 * 30.0 * per_mm**2), 0.5, delta=0.1)
        words = "".join(character for (_, _), (character, _) in sorted(sheet.words.items()))
        for name in ("height 120", "side panel", "Tower"):
            self.assertIn(name, words)
        for row, column in sheet.words:
            self.assertFalse(pixels[16 * row : 16 * row + 16, 8 * column : 8 * column + 8].any())
        # The panel's lower side is where the room under it ends.
        panel = np.nonzero(numbers_of(pixels, colours, DARK.brass)[:, 5])[0]
        self.assertAlmostEqual(panel.max() + 1, sheet.scale.down(150.0) * CELL[1], delta=1.0)
        alone = sheet.lines(areas=False).plain
        self.assertFalse(set(alone) & set("▀│┬┴├┤─"))
        self.assertIn("height 120", alone)
        self.assertIn("│", sheet.lines(areas=True).plain)


class SpectrumTest(unittest.TestCase):
    # More of the room is known than of what is heard now.
    view = SpectrumView((31.5, 63.0, 125.0), (20.0, 10.0, math.nan), (0.0, 10.0, 5.0, 5.0))

    def test_columns_are_as_high_as_their_levels_and_the_rooms_part_stands_in_them(self) -> None:
        picture = spectrum_pixels(self.view, DARK, 30, CELL)
        assert picture is not None
        pixels, colours = picture
        self.assertEqual(pixels.shape, (ROWS * CELL[1], 3 * CELL[0]))
        self.assertEqual(colours, (DARK.quantity["noise"], DARK.faint))
        middle = pixels[:, CELL[0] // 2 :: CELL[0]]
        # 40 dB are the height of all: 20 dB under the top of the first is half of it.
        self.assertEqual(int((middle[:, 0] == 1).sum()), ROWS * CELL[1] // 2)
        self.assertEqual(int((middle[:, 0] == 2).sum()), ROWS * CELL[1] // 2)
        self.assertEqual(set(middle[:, 1].tolist()), {0, 2})
        self.assertFalse(middle[:, 2].any())
        text = spectrum_text(self.view, DARK, 30, columns=False).plain
        self.assertFalse(set(text) & set("▁▂▃▄▅▆▇█"))
        self.assertIn("Hz, dB", text)

    def test_nothing_heard_is_no_picture(self) -> None:
        self.assertIsNone(spectrum_pixels(SpectrumView((63.0,), (math.nan,), ()), DARK, 30, CELL))


class MiniatureTest(unittest.TestCase):
    def test_a_course_is_a_line_over_its_tint(self) -> None:
        curve = course_of(list(np.linspace(0.0, 10.0, 48)), 30)
        assert curve is not None
        pixels, colours = miniature_pixels(curve, 4, CELL, ("#ff0000", "#330000", "#000000"), (0.0, 10.0))
        self.assertEqual(pixels.shape, (4 * CELL[1], 30 * CELL[0] // STRETCH))
        line, tint = (numbers_of(pixels, colours, c) for c in ("#ff0000", "#330000"))
        for column in range(4, pixels.shape[1] - 4):
            at = np.flatnonzero(line[:, column])
            wanted = (1.0 - (column + 0.5) / pixels.shape[1]) * len(pixels)
            self.assertLess(abs(at.mean() - wanted), 2.5)
            self.assertFalse(tint[: at[0], column].any())
            self.assertTrue(tint[at[-1] + 3 :, column].all())
        self.assertIsNone(course_of([1.0, None], 30))


class StripTest(unittest.TestCase):
    def test_lines_of_a_large_chips_cores_lie_on_each_other_as_one_would(self) -> None:
        rows, columns = 4, 10
        ground = Ground(np.zeros((rows, columns), np.uint8), np.ones((rows, columns), bool), ("#000000",) * 3)
        course = np.linspace(1.0, 9.0, 2 * columns)

        def drawn_of(cores: int) -> np.ndarray:
            lines = np.tile(course, (cores, 1))
            curves = heights(lines, lines, None, (0.0, 10.0), rows * CELL[1])
            return strip_pixels(CELL, curves, Ink(("#ff0000",) * cores, (True,) * cores), ground)[0]

        alone = drawn_of(1)
        self.assertTrue(alone.any(axis=0).all())
        for cores in (2, 200, 256):
            np.testing.assert_array_equal(drawn_of(cores), alone)


class ScrolledTest(unittest.IsolatedAsyncioTestCase):
    async def test_what_is_scrolled_out_is_not_drawn_over_what_stands_there(self) -> None:
        heard = HeardAt("listened to", SpectrumTest.view)

        class Stage(App[None]):
            CSS = "VerticalScroll { height: 6; } #over { height: 4; } #under { height: 20; }"

            def compose(self) -> ComposeResult:
                with VerticalScroll():
                    yield Static(id="over")
                    yield HeardView(30)
                    yield Static(id="under")

            def on_mount(self) -> None:
                self.register_theme(DARK_THEME)
                self.theme = DARK_THEME.name

        app = Stage()
        async with app.run_test(size=(100, 30)) as pilot:
            draw_in_pixels(app, Pixels(SIXEL, *CELL))
            view = app.query_one(HeardView)
            view.show(heard)
            await pilot.pause()
            self.assertEqual(view.size.height, ROWS + 2)
            self.assertEqual(covered(view), [(0, 2, view.size.width, ROWS)])
            app.query_one(VerticalScroll).scroll_to(y=6, animate=False)
            await pilot.pause()
            self.assertEqual(covered(view), [(0, 0, view.size.width, 2)])


if __name__ == "__main__":
    unittest.main()
