"""Pictures by the terminal graphics protocol: 32-bit pixels, deflated, in pieces of base64, placed at the cursor.

Source: the protocol's published specification, "Transferring pixel data", "Controlling displayed image layout", "Deleting images".
"""

from __future__ import annotations

import base64
import zlib

import numpy as np

from samovar.tui.pixels.picture import CellPicture, rgb

PIECE = 4096
"""Bytes of base64 in a piece, at most."""
FASTEST = 1
"""Of zlib's levels: plain areas shrink to nothing with any."""
DELETE_ALL = "\x1b_Ga=d,d=A,q=2\x1b\\"


def placed(picture: CellPicture, number: int) -> str:
    """The picture at the cursor, in place of the one of this number; the cursor stays, and nothing is answered."""
    table = np.array([(0, 0, 0, 0), *((*colour, 255) for colour in rgb(picture.colours))], np.uint8)
    height, width = picture.pixels.shape
    packed = base64.b64encode(zlib.compress(table[picture.pixels].tobytes(), FASTEST)).decode()
    pieces = [packed[k : k + PIECE] for k in range(0, len(packed), PIECE)]
    control = f"a=T,f=32,s={width},v={height},o=z,i={number},p=1,C=1,q=2"
    said = []
    for k, piece in enumerate(pieces):
        more = int(k + 1 < len(pieces))
        said.append(f"\x1b_G{control + ',' if k == 0 else ''}m={more};{piece}\x1b\\")
    return "".join(said)


def removed(number: int) -> str:
    """Take the picture of this number away."""
    return f"\x1b_Ga=d,d=I,i={number},q=2\x1b\\"
