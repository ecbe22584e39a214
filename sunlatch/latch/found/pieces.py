"""Pieces of a picture between its crisp edges: which of them are land, by what they touch."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
Pieces = NDArray[np.int32]
"""Which piece each px lies in (h, w); 0 for the edges themselves."""
CRISP: Final = 0.02
"""What costs more than this to cross parts the picture into pieces."""
TOP: Final = 3
"""Rows of the top edge."""
BY_ITSELF, DARKER, BLUER = 0.05, 0.2, 0.02
"""What is land at the top edge is darker and no bluer by so much, in OKLab, than the lightest of it; how much of it that
is."""
PIECE, APART = 0.0008, 0.35
"""The share of the picture of a piece that can be a thing, and how near to the top it is at most, over a crisp edge."""
CLOSE, RING = 9, 15
"""Px, a side: what is nearer to a thing is its own edge, and as far its surroundings reach."""
ROOM: Final = 8
"""Px around a thing that are looked at with it."""
IS_SKY, IS_LAND = 0.5, 0.1
"""From how near to the top, over no crisp edge, a px is sky, and up to how near it is land."""
OF_SKY, OF_LAND, UNLIKE = 0.15, 0.1, 0.09
"""How much of what lies around a thing is sky and how much is land, and how far its colour is from that sky, in OKLab."""


def parted(cost: F32) -> Pieces:
    """The pieces between edges that cost (h, w) much to cross."""
    return np.asarray(cv2.connectedComponents((cost < CRISP).astype(np.uint8), connectivity=4)[1], np.int32)


def land_at_the_top(lab: F32) -> B2:
    """What is far darker than the lightest at the top edge (h, w), no bluer, and about as dark as what lies at the
    bottom: a cliff or a crown that is taller than the picture. A dark cloud can be so as well, but is reached from
    beside, over no crisp edge."""
    light, _, blue = lab
    top = light[:TOP]
    lightest = float(np.percentile(top, 100 * (1 - BY_ITSELF)))
    beside = float(blue[:TOP][top >= lightest - DARKER / 4].mean())
    bottom = float(np.median(light[3 * len(light) // 4 :]))
    dark = (light < lightest - DARKER) & (light < bottom + DARKER / 2)
    return np.asarray(dark & (blue > beside - BLUER))


def against_the_sky(lab: F32, near: F32, pieces: Pieces) -> B2:
    """Pieces that have sky beyond a crisp edge, of another colour, and land too, on which they stand (h, w): a white
    tower before white clouds. A gap in a rock has no sky around it, and one between twigs has the same."""
    n = int(pieces.max()) + 1
    size = np.bincount(pieces.ravel(), minlength=n)
    mean = np.bincount(pieces.ravel(), near.ravel(), n) / np.maximum(size, 1)
    found = np.zeros(pieces.shape, bool)
    for piece in np.flatnonzero((size > PIECE * pieces.size) & (mean < APART)):
        if piece == 0:  # the edges themselves
            continue
        y, x = np.nonzero(pieces == piece)
        box = (
            slice(max(y.min() - ROOM, 0), y.max() + ROOM + 1),
            slice(max(x.min() - ROOM, 0), x.max() + ROOM + 1),
        )
        thing = (pieces[box] == piece).astype(np.uint8)
        close, wide = (cv2.dilate(thing, np.ones((k, k), np.uint8)) for k in (CLOSE, RING))
        ring = near[box][wide > close]
        sky = (wide > close) & (near[box] > IS_SKY)
        if sky.sum() < OF_SKY * ring.size or (ring < IS_LAND).sum() < OF_LAND * ring.size:
            continue
        colour, beside = lab[:, y, x].mean(1), lab[:, box[0], box[1]][:, sky].mean(1)
        if float(np.linalg.norm(colour - beside)) > UNLIKE:
            found[y, x] = True
    return found
