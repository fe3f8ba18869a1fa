"""How colours look to eyes that lack a kind of cone, how far apart two are to them, and how far from the ground.

Sources: G. Machado, M. Oliveira, L. Fernandes, IEEE Trans. Vis. Comput. Graph. 15 (2009) 1291, matrices at full severity;
B. Ottosson, "A perceptual color space for image processing" (2020), for distances (Oklab); W3C, Web Content Accessibility
Guidelines 2.2, for contrast.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np

from samovar.core.recording import Array

EYES: dict[str, Array] = {
    "all cones": np.eye(3),
    "no long-wave cones": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "no middle-wave cones": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "no short-wave cones": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}
"""What each kind of eye makes of linear red, green and blue."""
_CONES = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


def linear(colour: str) -> Array:
    """`#rrggbb` as linear red, green and blue, shape (3,), 0 to 1."""
    c = np.array([int(colour[k : k + 2], 16) / 255.0 for k in (1, 3, 5)])
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def seen(colour: str, eye: str) -> Array:
    """What a kind of eye sees, in Oklab, shape (3,)."""
    return _LAB @ np.cbrt(_CONES @ np.clip(EYES[eye] @ linear(colour), 0.0, 1.0))


def least_apart(colours: Sequence[str]) -> tuple[float, str, str, str]:
    """The two colours that are nearest to each other for any kind of eye: their distance in Oklab, that eye, and they."""
    return min(
        (float(np.linalg.norm(seen(a, eye) - seen(b, eye))), eye, a, b)
        for a, b in combinations(colours, 2)
        for eye in EYES
    )


def contrast(colour: str, ground: str) -> float:
    """The contrast of two colours, 1 to 21."""
    light, dark = sorted((float(_LUMINANCE @ linear(c)) for c in (colour, ground)), reverse=True)
    return (light + 0.05) / (dark + 0.05)
