"""Strips in pixels: pieces that are kept, moved and drawn little by little, dots where they are not there yet."""

from __future__ import annotations

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from samovar.core.envelope import Envelope
from samovar.core.recording import Array
from samovar.figures.palette import DARK
from samovar.tui.pixels.layer import draw_in_pixels
from samovar.tui.pixels.picture import CellPicture
from samovar.tui.pixels.terminal import SIXEL, Pixels
from samovar.tui.widgets.spectrogram import FINE_SHADES
from samovar.tui.widgets.strip_frame import StripView
from samovar.tui.widgets.strip_painter import StripPainter
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strip_tiles import EVERYTHING, TILE, TileStore
from samovar.tui.widgets.strips import StripStack
from tests.tui.pixels.stage import Stage, has_dots

CELL = 8, 16
SIXELS = Pixels(SIXEL, *CELL)
CHIP = StripSpec("Temperature", "temperature", "°C", (0, 1), ("die", "vrm"), ((66.0, "limit"),))
SIZE = (100, 20)
GUTTER = 28
PLOT = SIZE[0] - GUTTER


def course(count: int = 600) -> Array:
    time_s = np.arange(float(count))
    return np.array(
        [48.0 + 8.0 * np.sin(time_s / 20.0) + 3.0 * (time_s % 7 > 3), np.where(time_s < 300, 30.0, np.nan)]
    )


def painted(
    view: StripView, store: TileStore | None, at_once: int = EVERYTHING, values: Array | None = None
) -> tuple[list[str], list[CellPicture]]:
    """The lines and the pictures over them, as many of them as may be new."""
    rows = course() if values is None else values
    painter = StripPainter(view, Envelope(np.arange(float(rows.shape[1])), rows), DARK, SIZE, True)
    painter.store = store
    if store is not None:
        store.begin(at_once)
    return [strip.text for strip in painter.build()], painter.pictures


def seen(pictures: list[CellPicture]) -> np.ndarray:
    """All pictures of a window as one, of colours, shape (height, width / 2)."""
    sheet = np.full((SIZE[1] * CELL[1], SIZE[0] * CELL[0] // 2), "", dtype="<U7")
    for one in pictures:
        height, width = one.pixels.shape
        y, x = one.row * CELL[1], one.column * CELL[0] // 2
        part = sheet[y : y + height, x : x + width]
        table = np.array(["", *one.colours], dtype="<U7")
        np.copyto(part, table[one.pixels], where=one.pixels > 0)
    return sheet


class PiecesTest(unittest.TestCase):
    view = StripView(specs=(CHIP,), end_s=600.0, held=(("held by", ()),))

    def test_pixels_are_where_the_dots_were_and_the_words_stay(self) -> None:
        dots, none = painted(self.view, None)
        cells, pictures = painted(self.view, TileStore(SIXELS))
        self.assertEqual(none, [])
        self.assertFalse(has_dots("".join(cells)))
        inked = seen(pictures) != ""
        wide, high = CELL[0] // 2, CELL[1]
        for row in range(max(p.row + len(p.pixels) // high for p in pictures)):
            for column in range(GUTTER, SIZE[0]):
                across = slice(wide * column, wide * (column + 1))
                if has_dots(dots[row][column]):
                    # A dot is a quarter of a cell high, and a line of dots two of them: so far apart the two may lie.
                    near = inked[max(0, high * row - 8) : high * row + high + 8, across]
                    self.assertTrue(near.any(), (row, column))
                if cells[row][column] != " ":
                    self.assertFalse(inked[high * row : high * (row + 1), across].any(), (row, column))
        self.assertIn("limit 66", "".join(cells))

    def test_a_window_that_is_moved_shows_what_is_drawn_already(self) -> None:
        store = TileStore(SIXELS)
        column_s = 300.0 / PLOT
        first, then = (
            StripView(specs=(CHIP,), start_s=begin, end_s=begin + 300.0)
            for begin in (24 * column_s, (24 + TILE) * column_s)
        )
        _, before = painted(first, store)
        cells, after = painted(then, store, 0)
        # Nothing is drawn anew but at its edges; those wait, and have dots.
        kept = [one for one in after if any(one.pixels is other.pixels for other in before)]
        self.assertGreaterEqual(len(kept), PLOT // TILE - 3)
        self.assertTrue(store.waits)
        self.assertTrue(has_dots("".join(row[-TILE:] for row in cells)))
        for one in kept:
            (other,) = [p for p in before if p.pixels is one.pixels]
            self.assertEqual(other.column - one.column, TILE)
        while store.waits:
            store.go_on()
        cells, whole = painted(then, store, 0)
        self.assertFalse(store.waits)
        self.assertFalse(has_dots("".join(cells)))
        _, anew = painted(then, TileStore(SIXELS))
        np.testing.assert_array_equal(seen(whole), seen(anew))

    def test_what_has_to_wait_has_dots_and_nothing_has_both(self) -> None:
        store = TileStore(SIXELS)
        dots, _ = painted(self.view, None)
        cells, pictures = painted(self.view, store, 0)
        self.assertEqual(pictures, [])
        self.assertEqual([row[GUTTER:] for row in cells], [row[GUTTER:] for row in dots])
        store.begin(0)
        store.go_on()
        cells, pictures = painted(self.view, store, 0)
        drawn = {c for one in pictures for c in range(one.column, one.column + one.pixels.shape[1] // 4)}
        for row in cells[:16]:
            self.assertFalse(has_dots("".join(row[c] for c in drawn)))

    def test_the_cursor_lies_over_pieces_that_stay(self) -> None:
        store = TileStore(SIXELS)
        _, without = painted(self.view, store)
        at_s = 200.0
        column = GUTTER + int(at_s / 600.0 * PLOT)
        _, pictures = painted(replace(self.view, cursor_s=at_s), store, 0)
        self.assertFalse(store.waits)
        over = pictures[-1]
        self.assertEqual((over.column, over.pixels.shape[1]), (column, 4))
        for one, other in zip(pictures[:-1], without, strict=True):
            self.assertIs(one.pixels, other.pixels)
        across = slice(4 * column, 4 * column + 4)
        below, above = seen(without)[:, across], seen([over])[:, across]
        line = DARK.quantity["temperature"]
        # The line stays where it was, on the cursor's ground.
        self.assertTrue((above[below == line] == line).all())
        self.assertTrue((above[: len(over.pixels)] != "").any(axis=0).all())

    def test_other_colours_and_other_samples_are_other_pieces(self) -> None:
        store = TileStore(SIXELS)
        _, before = painted(self.view, store)
        values = course()
        values[0, 350:] += 2.0
        _, after = painted(self.view, store, values=values)
        _, anew = painted(self.view, TileStore(SIXELS), values=values)
        np.testing.assert_array_equal(seen(after), seen(anew))
        self.assertFalse(np.array_equal(seen(before), seen(after)))

    def test_a_spectrogram_is_kept_in_pieces_too_and_the_cursor_lies_over_it(self) -> None:
        levels = np.random.default_rng(1).integers(10, 50, (4, 600)).astype(float)
        spec = StripSpec(
            "Third octaves", "band", "dB", (0, 1, 2, 3), ("25", "100", "1000", "10000"), is_picture=True
        )
        store = TileStore(SIXELS)
        view = StripView(specs=(spec,), end_s=600.0)
        _, before = painted(view, store, values=levels)
        self.assertEqual({one.column for one in before}, set(range(GUTTER, SIZE[0], TILE)))
        _, after = painted(replace(view, cursor_s=200.0), store, 0, levels)
        self.assertFalse(store.waits)
        for one, other in zip(before, after[:-1], strict=True):
            self.assertIs(one.pixels, other.pixels)
        column = GUTTER + PLOT // 3
        self.assertEqual((after[-1].column, after[-1].pixels.shape[1]), (column, 4))
        under, over = (seen(part)[: len(before[0].pixels), 4 * column] for part in (before, after))
        self.assertTrue((under != over).all())
        # A picture has the loudest third octave lightest, and the highest at the top.
        anew = [one.pixels for one in painted(view, TileStore(SIXELS), values=levels)[1]]
        np.testing.assert_array_equal(np.hstack(anew), np.hstack([one.pixels for one in before]))
        self.assertEqual(int(np.hstack(anew).max()), FINE_SHADES)

    @given(st.integers(0, 400), st.integers(1, 1000), st.integers(20, 140), st.integers(0, 2**32 - 1))
    @settings(max_examples=40, deadline=None)
    def test_columns_are_the_same_wherever_the_window_begins(
        self, moved: int, span_ds: int, columns: int, seed: int
    ) -> None:
        values = np.random.default_rng(seed).standard_normal((2, 9000))
        envelope = Envelope(np.arange(9000) / 10.0, values)
        column_s = span_ds / 10.0 / columns
        views = [
            StripView(start_s=begin * column_s, end_s=begin * column_s + columns * column_s).on_columns(
                columns
            )
            for begin in (60, 60 + moved % columns)
        ]
        shift = moved % columns
        (low, high), (low_moved, high_moved) = (
            envelope.columns([0, 1], view.start_s, view.end_s, columns) for view in views
        )
        for whole, part in ((low, low_moved), (high, high_moved)):
            np.testing.assert_allclose(whole[:, shift:], part[:, : columns - shift], atol=1e-6)


class ByAndByTest(unittest.IsolatedAsyncioTestCase):
    async def test_dots_are_there_at_once_and_pixels_follow(self) -> None:
        app = Stage()
        async with app.run_test(size=SIZE) as pilot:
            draw_in_pixels(app, SIXELS)
            strips = app.query_one(StripStack)
            strips.draw_with(SIXELS)
            envelope = Envelope(np.arange(600.0), course())
            for end_s in (500.0, 300.0):
                strips.show(StripView(specs=(CHIP,), end_s=end_s), envelope)
                self.assertTrue(has_dots("".join(row.text for row in strips.build())))
                self.assertTrue(strips.unfinished)
                for _ in range(100):
                    await pilot.pause(0.02)
                    if not strips.unfinished:
                        break
                self.assertFalse(has_dots("".join(strips.render_line(y).text for y in range(SIZE[1]))))
            # Another cursor needs nothing new.
            strips.show(StripView(specs=(CHIP,), end_s=300.0, cursor_s=100.0), envelope)
            strips.build()
            self.assertFalse(strips.unfinished)


if __name__ == "__main__":
    unittest.main()
