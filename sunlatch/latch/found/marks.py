"""A finding set right by hand: what a stroke says counts for all that is like it and can be reached from it."""

from collections.abc import Callable
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from .look import blurred, smaller, texture
from .matte import refined
from .walker import distance, walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LONG_EDGE: Final = 640
REACH: Final = 0.15
"""Way along the picture, in long edges and through what is like the stroke, at which its word fades."""
LIKE: Final = 0.06
"""Difference in OKLab from what the stroke went over at which its word is lost."""
BAND: Final = 0.006


def _with_fine_edges(lab: F32, rough: F32) -> F32:
    return refined(lab, rough, BAND)


def corrected(
    lab: F32,
    mask: F32,
    belongs: B2,
    not_: B2,
    finished: Callable[[F32, F32], F32] = _with_fine_edges,
    reach: float = REACH,
) -> F32:
    """A mask (h, w) set right by marks (h, w), and matted: `finished` is told the picture and a rough mask.
    lab: (3, h, w); reach: way along the picture at which a mark's word fades, in long edges."""
    if not belongs.any() and not not_.any():
        return mask
    h, w = mask.shape
    small = smaller(lab, LONG_EDGE)
    size = (small.shape[2], small.shape[1])
    before = np.asarray(cv2.resize(mask, size, interpolation=cv2.INTER_AREA), np.float32)
    even = np.stack([blurred(p, 1.5) for p in small])
    opinion = np.log((before + 0.05) / (1.05 - before))
    sure = np.zeros(before.shape, np.float32)
    for mark, way in ((belongs, 1.0), (not_, -1.0)):
        here = np.asarray(cv2.resize(mark.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.3)
        if here.any():
            opinion += way * 8 * _heard(even, here, reach)
            sure += way * here
    own = np.where(sure > 0, 1, np.where(sure < 0, 0, 1 / (1 + np.exp(-opinion)))).astype(np.float32)
    noise = max(4 * float(np.percentile(texture(small), 4)), 0.012)
    set_right = walk(small, own, np.where(sure != 0, 10, 0.1).astype(np.float32), noise)
    rough = np.asarray(cv2.resize(set_right, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    return finished(lab, rough)


def _heard(even: F32, mark: B2, reach: float) -> F32:
    """How much a mark's word counts at each px, 0–1."""
    colours = even[:, mark].T
    some = colours[np.linspace(0, len(colours) - 1, min(len(colours), 24)).astype(int)]
    off = np.full(mark.shape, np.inf, np.float32)
    for colour in some:
        off = np.minimum(off, np.square(even - colour[:, None, None]).sum(0))
    unlike = off / LIKE**2
    long_edge = max(mark.shape)
    far = distance((1 + 12 * np.minimum(unlike, 4)).astype(np.float32) / long_edge, mark)
    return np.asarray(np.exp(-unlike - far / reach), np.float32)
