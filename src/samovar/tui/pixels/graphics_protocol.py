"""Pictures by the terminal graphics protocol: as PNG, in pieces of base64, placed at the cursor.

Source: the protocol's published specification, "Transferring pixel data", "Controlling displayed image layout", "Deleting images".
"""

from __future__ import annotations

import base64
import struct
import zlib

import numpy as np

from samovar.tui.pixels.picture import CellPicture, rgb

PIECE = 4096
"""Bytes of base64 in a piece, at most."""
BY_PALETTE = 3
"""The kind of colour of a PNG whose pixels are numbers of colours."""
FASTEST = 1
"""Of zlib's levels: plain areas shrink to nothing with any."""
DELETE_ALL = "\x1b_Ga=d,d=A,q=2\x1b\\"


def packed(picture: CellPicture) -> str:
    """The picture as it is sent: a PNG in base64."""
    return base64.b64encode(png(picture)).decode()


def placed(code: str, columns: int, rows: int, number: int) -> str:
    """A packed picture at the cursor, in place of the one of this number; the cursor stays, and nothing is answered. The terminal
    stretches it over so many cells."""
    pieces = [code[k : k + PIECE] for k in range(0, len(code), PIECE)]
    # Of pictures on each other the one with the higher number is seen.
    control = f"a=T,f=100,i={number},p=1,c={columns},r={rows},C=1,q=2"
    said = []
    for k, piece in enumerate(pieces):
        more = int(k + 1 < len(pieces))
        said.append(f"\x1b_G{control + ',' if k == 0 else ''}m={more};{piece}\x1b\\")
    return "".join(said)


def taken_away(number: int) -> str:
    """The picture of this number gone, and forgotten: it would stay over whatever cells are written."""
    return f"\x1b_Ga=d,d=I,i={number},q=2\x1b\\"


def png(picture: CellPicture) -> bytes:
    """The picture as PNG with a palette (ISO/IEC 15948), unstretched: a quarter of what its colours would take one by one, and as
    much sooner deflated."""
    pixels = picture.pixels
    height, width = pixels.shape
    lines = np.zeros((height, width + 1), np.uint8)
    lines[:, 1:] = pixels
    palette = bytes((0, 0, 0)) + b"".join(map(bytes, rgb(picture.colours)))
    return b"".join(
        (
            b"\x89PNG\r\n\x1a\n",
            _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, BY_PALETTE, 0, 0, 0)),
            _chunk(b"PLTE", palette),
            # The first colour is the only one that is not seen.
            _chunk(b"tRNS", b"\x00"),
            _chunk(b"IDAT", zlib.compress(lines.tobytes(), FASTEST)),
            _chunk(b"IEND", b""),
        )
    )


def _chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
