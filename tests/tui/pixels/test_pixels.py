"""Pictures for the terminal: read back by other hands than those that wrote them, and what a terminal says that it takes."""

from __future__ import annotations

import base64
import io
import os
import pty
import re
import subprocess
import sys
import threading
import unittest
from dataclasses import replace
from unittest.mock import patch

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from textual.geometry import Region
from textual.screen import ModalScreen

from samovar.core.envelope import Envelope
from samovar.tui.pixels.coded import coded, shown
from samovar.tui.pixels.layer import HOLD, SHOW, PixelLayer, draw_in_pixels, switch
from samovar.tui.pixels.picture import CellPicture, tiles, without_cells
from samovar.tui.pixels.sixel import sixels
from samovar.tui.pixels.strokes import TONES, Strokes
from samovar.tui.pixels.terminal import GRAPHICS, SIXEL, Pixels, pixels_of
from samovar.tui.widgets.strip_plan import StripSpec
from samovar.tui.widgets.strips import StripStack, StripView
from tests.tui.pixels.stage import Stage, has_dots

COLOURS = ("#000000", "#ff0000", "#33ff66", "#6699cc", "#ffffff")


def decoded(text: str) -> tuple[np.ndarray, dict[int, tuple[int, ...]]]:
    """What a terminal makes of sixels: numbers of colours plus one, 0 where nothing is drawn, and the colours in percent."""
    assert text.startswith("\x1bP0;1;0q") and text.endswith("\x1b\\"), text[:20]
    body = text[8:-2]
    size = re.match(r'"1;1;(\d+);(\d+)', body)
    assert size is not None
    out = np.zeros((int(size[2]) + 6, int(size[1]) + 1), int)
    colours: dict[int, tuple[int, ...]] = {}
    x = y = colour = 0
    for token in re.finditer(
        r"#(\d+)(?:;2;(\d+);(\d+);(\d+))?|!(\d+)([?-~])|([?-~])|(\$)|(-)", body[size.end() :]
    ):
        number, r, g, b, count, run, one, back, line = token.groups()
        if number is not None:
            colour = int(number)
            if r is not None:
                colours[colour] = (int(r), int(g), int(b))
        elif back:
            x = 0
        elif line:
            x, y = 0, y + 6
        else:
            length, bits = int(count or 1), ord(run or one) - 63
            for row in range(6):
                if bits >> row & 1:
                    out[y + row, x : x + length] = colour + 1
            x += length
    return out[: int(size[2]), : int(size[1])], colours


class WrittenTest(unittest.TestCase):
    @given(st.integers(1, 40), st.integers(1, 60), st.integers(1, 3), st.integers(0, 2**32 - 1))
    def test_a_picture_is_read_back_as_it_was(self, height: int, width: int, stretch: int, seed: int) -> None:
        chance = np.random.default_rng(seed)
        # Runs, as pictures of curves have them, and noise.
        pixels = np.repeat(chance.integers(0, 6, (height, width)), chance.integers(1, 30), axis=1).astype(
            np.uint8
        )
        picture = CellPicture(0, 0, pixels, COLOURS, stretch)
        wide = np.repeat(pixels, stretch, axis=1)
        text = sixels(picture)
        if not pixels.any():
            self.assertEqual(text, "")
            return
        found, colours = decoded(text)
        self.assertEqual((found > 0).tolist(), (wide > 0).tolist())
        for k, percent in colours.items():
            (number,) = set(wide[found == k + 1].tolist())
            wanted = [int(COLOURS[number - 1][i : i + 2], 16) / 2.55 for i in (1, 3, 5)]
            self.assertLessEqual(max(abs(a - b) for a, b in zip(percent, wanted, strict=True)), 0.51)
        graphics = Pixels(GRAPHICS, stretch, 1)
        (piece,) = coded(picture, graphics)
        pieces = re.findall(r"\x1b_G([^;]*);([^\x1b]*)\x1b\\", shown(piece, graphics, 7))
        self.assertTrue(all(len(piece) <= 4096 for _, piece in pieces))
        self.assertEqual([c.rpartition("m=")[2] for c, _ in pieces], ["1"] * (len(pieces) - 1) + ["0"])
        # The terminal stretches it over its cells.
        self.assertIn(f"i=7,p=1,c={pixels.shape[1]},r={height},", pieces[0][0])
        image = Image.open(io.BytesIO(base64.b64decode("".join(piece for _, piece in pieces)))).convert(
            "RGBA"
        )
        table = np.array([(0, 0, 0, 0), *((*bytes.fromhex(c[1:]), 255) for c in COLOURS)])
        np.testing.assert_array_equal(np.asarray(image), table[pixels])

    def test_what_is_covered_is_left_out(self) -> None:
        picture = CellPicture(2, 1, np.ones((40, 30), np.uint8), COLOURS, 2)
        left = without_cells(picture, (10, 20), [(4, 1, 2, 1), (0, 0, 1, 1)])
        self.assertEqual(int((left.pixels == 0).sum()), 20 * 10)
        self.assertEqual(left.pixels[0, 10:20].tolist(), [0] * 10)

    def test_a_large_picture_comes_in_pieces_of_whole_cells(self) -> None:
        pixels = np.arange(70 * 90).reshape(70, 90) % 6
        picture = CellPicture(3, 1, pixels.astype(np.uint8), COLOURS, 2)
        again = np.zeros((70, 90), np.uint8)
        for piece in tiles(picture, (8, 16), 40):
            self.assertTrue(max(piece.pixels.shape[0], 2 * piece.pixels.shape[1]) <= 40)
            y, x = 16 * (piece.row - 1), 4 * (piece.column - 3)
            again[y : y + piece.pixels.shape[0], x : x + piece.pixels.shape[1]] = piece.pixels
        np.testing.assert_array_equal(again, pixels)

    def test_strokes_are_soft_at_their_edges_and_keep_to_the_sheet(self) -> None:
        sheet = Strokes(40, 30, "#000000")
        sheet.line((-20.0, 10.5), (90.0, 10.5), 3.0, "#ffffff")
        self.assertTrue((sheet.pixels[9:12] == TONES).all())
        self.assertFalse(sheet.pixels[:8].any() or sheet.pixels[13:].any())
        sheet.line((5.0, 0.0), (20.0, 29.0), 2.0, "#ff0000")
        sheet.disc((35.0, 25.0), 3.0, "#ff0000")
        sheet.diamond((100.0, 100.0), 3.0, "#00ff00")
        self.assertGreater(len(set(sheet.pixels.ravel().tolist())), TONES)
        self.assertEqual(sheet.colours[TONES - 1 :: TONES], ("#ffffff", "#ff0000", "#00ff00"))
        sheet.clear_cells([(0, 1)], (8, 16))
        self.assertFalse(sheet.pixels[:16, 8:16].any())

    def test_it_stands_where_the_widget_does(self) -> None:
        layer = PixelLayer(StripStack())
        layer.show([CellPicture(3, 2, np.ones((6, 6), np.uint8), COLOURS)])
        for protocol in (SIXEL, GRAPHICS):
            said = layer.written(Pixels(protocol, 8, 16), (10, 20), ())
            self.assertTrue(said.startswith("\x1b7\x1b[23;14H\x1b"), repr(said[:20]))
            self.assertTrue(said.endswith("\x1b8"))
        # The same again is not worked out again; another place, or another picture, is.
        again = layer.written(Pixels(GRAPHICS, 8, 16), (10, 20), ())
        self.assertIs(again, said)
        self.assertNotEqual(layer.written(Pixels(GRAPHICS, 8, 16), (11, 20), ()), said)
        layer.show([CellPicture(3, 2, np.zeros((6, 6), np.uint8), COLOURS)])
        self.assertNotEqual(layer.written(Pixels(GRAPHICS, 8, 16), (10, 20), ()), said)


class SwitchedTest(unittest.IsolatedAsyncioTestCase):
    async def test_strips_are_drawn_either_way_and_in_dots_under_a_sheet(self) -> None:
        app = Stage()
        async with app.run_test(size=(100, 20)) as pilot:
            strips = app.query_one(StripStack)
            time_s = np.arange(60.0)
            spec = StripSpec("Power", "power", "W", (0,), ("package",))
            strips.show(StripView(specs=(spec,), end_s=60.0), Envelope(time_s, 40.0 + time_s[None]))

            # What is shown already is not drawn again; what has grown, or is looked at otherwise, is.
            await pilot.pause()
            shown = strips.view
            with patch.object(strips, "refresh") as refreshed:
                strips.show(replace(shown), strips.envelope)
                self.assertEqual(refreshed.call_count, 0)
                strips.show(replace(shown, cursor_s=3.0), strips.envelope)
                self.assertEqual(refreshed.call_count, 1)
                assert strips.envelope is not None
                strips.envelope.extend(np.arange(61.0), np.full((1, 61), 50.0))
                strips.show(replace(shown, cursor_s=3.0), strips.envelope)
                self.assertEqual(refreshed.call_count, 2)
            strips.show(shown, strips.envelope)

            async def in_dots() -> bool:
                await pilot.pause(0.1)
                return any(has_dots(strips.render_line(y).text) for y in range(20))

            self.assertTrue(await in_dots())
            switch(app)
            self.assertTrue(await in_dots())
            draw_in_pixels(app, Pixels(SIXEL, 8, 16))
            strips.refresh()
            self.assertFalse(await in_dots())
            assert app._driver is not None
            with patch.object(app._driver, "write") as written:
                # Lines that Textual has in store are written again without being asked for: the cells go over the picture.
                with patch.object(strips, "render_line", side_effect=AssertionError("in store")):
                    strips.render_lines(Region(0, 0, 100, 20))
                await pilot.pause(0.1)
            self.assertIn("\x1bP", "".join(call.args[0] for call in written.call_args_list))
            app.push_screen(ModalScreen())
            self.assertTrue(await in_dots())
            app.pop_screen()
            self.assertFalse(await in_dots())
            switch(app)
            self.assertTrue(await in_dots())
            switch(app)
            self.assertFalse(await in_dots())

    async def test_by_the_graphics_protocol_what_is_not_shown_any_more_is_taken_away(self) -> None:
        app = Stage()
        async with app.run_test(size=(100, 20)) as pilot:
            draw_in_pixels(app, Pixels(GRAPHICS, 8, 16))
            strips, ink = app.query_one(StripStack), np.ones((16, 8), np.uint8)
            assert app._driver is not None
            gone = []
            for shown, protocol in ((2, GRAPHICS), (1, GRAPHICS), (0, GRAPHICS), (2, SIXEL), (0, SIXEL)):
                draw_in_pixels(app, Pixels(protocol, 8, 16))
                await pilot.pause(0.1)
                with patch.object(app._driver, "write") as written:
                    strips.pictures.show([CellPicture(k, 0, ink, COLOURS) for k in range(shown)])
                    strips.pictures.drawn()
                    await pilot.pause(0.1)
                text = "".join(call.args[0] for call in written.call_args_list)
                gone.append(len(re.findall(r"\x1b_Ga=d,d=I,i=\d+,q=2\x1b", text)))
                # What was held is always let go.
                self.assertEqual(text.count(HOLD), text.count(SHOW))
            self.assertEqual(gone, [0, 1, 1, 0, 0])
            draw_in_pixels(app, Pixels(GRAPHICS, 8, 16))
            strips.pictures.show([CellPicture(0, 0, ink, COLOURS)])
            strips.pictures.drawn()
            await pilot.pause(0.1)
            with patch.object(app._driver, "write") as written:
                await strips.remove()
            self.assertIn("a=d,d=I", "".join(call.args[0] for call in written.call_args_list))


class AskedTest(unittest.TestCase):
    def test_what_terminals_answer(self) -> None:
        cell = b"\x1b[6;17;8t"
        for answer, known, wanted in (
            (b"\x1b[6;17;8t\x1b[?1;0;256S\x1b[?63;1;2;4;6c", None, Pixels(SIXEL, 8, 17)),
            (b"\x1b_Gi=31;OK\x1b\\" + cell + b"\x1b[?62;c", None, Pixels(GRAPHICS, 8, 17)),
            (b"\x1b[?62;4c", (9, 18), Pixels(SIXEL, 9, 18)),
            (cell + b"\x1b[?1;0;16S\x1b[?63;4c", None, None),
            (b"\x1b[?1;2c", (8, 17), None), (b"\x1b[?62;4c", None, None), (b"", (8, 17), None),
            (b"\x1b_Gi=31;ENOENT:x\x1b\\" + cell + b"\x1b[?4;1c", None, None),
        ):  # fmt: skip
            self.assertEqual(pixels_of(answer, known), wanted, answer)

    def asked(self, answer: bytes, **environment: str) -> str:
        """What the program makes of a terminal that answers so."""
        mine, its = pty.openpty()
        code = "import sys; from samovar.tui.pixels.terminal import ask_terminal; print(ask_terminal(), file=sys.stderr)"
        kept = {k: v for k, v in os.environ.items() if k not in ("TMUX", "SAMOVAR_PIXELS")}
        process = subprocess.Popen(
            [sys.executable, "-c", code], stdin=its, stdout=its, stderr=subprocess.PIPE, text=True,
            env={**kept, "TERM": "xterm", **environment},
        )  # fmt: skip

        def terminal() -> None:
            heard = b""
            while b"\x1b[c" not in heard:
                try:
                    heard += os.read(mine, 1000)
                except OSError:
                    return
            os.write(mine, answer)

        threading.Thread(target=terminal, daemon=True).start()
        _, said = process.communicate(timeout=30)
        os.close(its)
        os.close(mine)
        return said.strip()

    def test_a_terminal_is_asked_once_and_may_stay_silent(self) -> None:
        answer = b"\x1b[6;20;10t\x1b[?1;0;1024S\x1b[?63;4c"
        self.assertEqual(self.asked(answer), "(Pixels(protocol='sixel', cell_width=10, cell_height=20), ())")
        self.assertEqual(self.asked(answer, SAMOVAR_PIXELS="off"), "(None, ())")
        # What is typed while it is asked is not lost.
        self.assertEqual(
            self.asked(b"4" + answer[:10] + b"\x1b[A" + answer[10:] + b"/\r").rpartition(", (")[2],
            "'4', 'slash', 'enter'))",
        )
        self.assertEqual(self.asked(b"q"), "(None, ('q',))")


if __name__ == "__main__":
    unittest.main()
