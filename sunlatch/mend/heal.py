"""What a place becomes when light is taken from another: as it is, or with the light and colour of its own edge."""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from ..ledger import Take
from ..lookup import looked_up
from .membrane import membrane

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
FLOOR: Final = 0.002
"""Light, of what clips, under which ratios are no ratios any more: noise."""
APRON: Final = 10
"""Px around a place that tell what meets its edge."""
_SMOOTH: Final = 7
"""Px over which the edge's own noise is evened out before it is spread inside."""


def logarithm(planes: F32) -> F32:
    """Light as natural logarithms, nothing under the floor's quarter."""
    return np.asarray(cv2.log(np.maximum(planes + FLOOR, FLOOR / 4)), np.float32)


def compared(planes: F32) -> F32:
    """Light and colour as they are compared: logarithms of a sum of colours and of two differences, the latter weighed more."""
    red, green, blue = logarithm(planes)
    light = 0.3 * red + 0.5 * green + 0.2 * blue
    return np.stack([light, 1.5 * (red - green), 1.5 * (blue - green)]).astype(np.float32)


def taken(read: Fetch, block: Block, take: Take, per: float, middle: tuple[float, float]) -> F32:
    """What lies where a block's light is taken from: planes (3, h, w). per: px to one long edge; middle: x, y px about which
    it is turned and scaled."""
    dx, dy = round(take.dx * per), round(take.dy * per)
    if take.turn == 0 and take.scale == 1 and not take.mirror:
        return read(block.top + dy, block.bottom + dy, block.left + dx, block.right + dx)
    turn = math.radians(-take.turn)
    cos, sin = math.cos(turn) / take.scale, math.sin(turn) / take.scale
    flip = -1.0 if take.mirror else 1.0
    y, x = np.mgrid[block.top : block.bottom, block.left : block.right].astype(np.float32) + np.float32(0.5)
    x, y = (x - middle[0]) * flip, y - middle[1]
    at_x, at_y = cos * x - sin * y + (middle[0] + dx), sin * x + cos * y + (middle[1] + dy)
    left, top = math.floor(at_x.min()) - 3, math.floor(at_y.min()) - 3
    right, bottom = math.ceil(at_x.max()) + 3, math.ceil(at_y.max()) + 3
    planes = read(top, bottom, left, right)
    at_x = (at_x - left - 0.5).astype(np.float32)
    at_y = (at_y - top - 0.5).astype(np.float32)
    return np.stack([looked_up(plane, at_x, at_y, cv2.INTER_CUBIC, cv2.BORDER_CONSTANT) for plane in planes])


def healed(
    there: F32,
    source: F32,
    hole: B2,
    share: float = 1.0,
    untold: B2 | None = None,
    deep: int | None = None,
) -> F32:
    """Texture of `source` in the hole (h, w), with light and colour led to those of `there` along its edge; planes (3, h, w).
    share: how far they are led. What lies around the hole in both must be seen; untold: but there, where it says nothing.
    deep: px inside over which what only a part of the edge asks for fades."""
    own = logarithm(source)
    apart = logarithm(there) - own
    known = ~hole if untold is None else ~(hole | untold)
    if deep is None:
        led = membrane(_evened(apart, known, hole, _SMOOTH), hole)
    else:
        far = _evened(apart, known, hole, 2 * deep + 1)
        near = _evened(apart, known, hole, _SMOOTH) - far
        inside = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 5)
        led = membrane(far, hole) + membrane(near, hole) * np.exp(-inside / np.float32(deep))
    return np.asarray(cv2.exp(own + led * np.float32(share)) - FLOOR, np.float32)


def _evened(planes: F32, known: B2, hole: B2, across: int) -> F32:
    """Planes (k, h, w) outside a hole as the mean of what is told (h, w) within so many px; nought where nothing is."""
    there = known.astype(np.float32)
    weight = cv2.blur(there, (across, across), borderType=cv2.BORDER_REPLICATE)
    out = np.zeros_like(planes)
    near = ~hole & (weight > 1e-4)
    for plane, even in zip(planes, out, strict=True):
        even[near] = (
            cv2.blur(plane * there, (across, across), borderType=cv2.BORDER_REPLICATE)[near] / weight[near]
        )
    return out


def bounds(take: Take, block: Block, per: float, whole: Block | None = None) -> Block:
    """The block that `taken` reads for a block, roughly, and never too little of it. whole: about whose middle it is turned,
    where that is another."""
    dx, dy = round(take.dx * per), round(take.dy * per)
    room = 4
    if take.turn != 0 or take.scale != 1 or take.mirror:
        block = Block(
            min(block.top, (whole or block).top), max(block.bottom, (whole or block).bottom),
            min(block.left, (whole or block).left), max(block.right, (whole or block).right),
        )  # fmt: skip
        h, w = block.bottom - block.top, block.right - block.left
        room += math.ceil(math.hypot(h, w) * max(1.0, 1 / take.scale))
    return Block(
        block.top + dy - room, block.bottom + dy + room, block.left + dx - room, block.right + dx + room
    )
