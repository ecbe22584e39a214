"""A finding set right by hand: what a stroke says counts for all that is like it and can be reached from it."""

from collections.abc import Callable
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from .matte import refined
from .measures import across_edges, blurred, smaller, texture
from .walker import distance, walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LONG_EDGE: Final = 640
REACH: Final = 0.15
"""Way along the picture, in long edges and through what is like the stroke, at which its word fades."""
LIKE: Final = 0.06
"""Difference in OKLab from what the stroke went over at which its word is lost."""
SAME: Final = 0.02
"""Difference in OKLab within which two px cannot be told apart."""
COMMON: Final = 0.1
"""Share of what a stroke speaks against that is far from it and the same: then it is right about what is close
to it only (sea and sky, burnt to one white), and reaches no farther than CLOSE of its reach."""
CLOSE: Final = 0.1
HEARD: Final = 0.05
"""A word weaker than this changes nothing."""
BAND: Final = 0.006
"""How far a mask set right may lie off an edge before it is matted, in long edges."""
EVEN: Final = 1.5
"""Px, standard deviation, over which colours are evened before they are compared."""
UNSURE: Final = 0.05
"""What is found, and what is not, may be otherwise by so much: no opinion is without end."""
TOUCHED: Final = 0.3
"""The share of a small px from which on a mark is on it."""
WORD, MARKED, OWN = 8.0, 10.0, 0.1
"""Log odds of a mark's word; and how reliable px under a mark, and all others, are against their neighbours (see `walk`)."""
NOISE, LEAST = 4.0, 0.012
"""From so many times the texture of the smoothest px (SMOOTH percent of them) on, and so much in OKLab, differences are edges."""
SMOOTH: Final = 4
ROOM: Final = 9
"""Px of the small size, a side, around what is heard in which the mask is made anew."""
COLOURS: Final = 24
"""Colours of a mark that are compared with, at most."""
HINDERED, FARTHEST = 12.0, 4.0
"""How much longer a way is through what is unlike the mark, and from how unlike on it is no longer still."""


def _with_fine_edges(lab: F32, rough: F32, within: B2) -> F32:
    return refined(lab, rough, BAND, within)


def corrected(
    lab: F32,
    mask: F32,
    belongs: B2,
    not_: B2,
    finished: Callable[[F32, F32, B2], F32] = _with_fine_edges,
    reach: float = REACH,
) -> F32:
    """A mask (h, w) set right by marks (h, w), and matted where they are heard: `finished` is told the picture, a
    rough mask and where. lab: (3, h, w); reach: way along the picture at which a mark's word fades, in long
    edges."""
    if not belongs.any() and not not_.any():
        return mask
    h, w = mask.shape
    small = smaller(lab, LONG_EDGE)
    size = (small.shape[2], small.shape[1])
    before = np.asarray(cv2.resize(mask, size, interpolation=cv2.INTER_AREA), np.float32)
    edges = across_edges(lab, size)
    even = np.stack([blurred(p, EVEN) for p in small])
    opinion = np.log((before + UNSURE) / (1 + UNSURE - before))
    sure, heard = np.zeros((2, *before.shape), np.float32)
    marks = [
        np.asarray(cv2.resize(mark.astype(np.float32), size, interpolation=cv2.INTER_AREA) > TOUCHED)
        for mark in (belongs, not_)
    ]
    off = [_unlike(even, here) for here in marks]
    for here, way, unlike, other, against in (
        (marks[0], 1.0, off[0], off[1], 1 - before),
        (marks[1], -1.0, off[1], off[0], before),
    ):
        if here.any():
            # what looks like the other mark is spoken against too, whatever was found
            word = _heard(unlike, edges, here, np.maximum(against, np.exp(-other / SAME**2)), reach)
            heard = np.maximum(heard, np.maximum(word, here))
            opinion += way * WORD * word
            sure += way * here
    own = np.where(sure > 0, 1, np.where(sure < 0, 0, 1 / (1 + np.exp(-opinion)))).astype(np.float32)
    noise = max(NOISE * float(np.percentile(texture(small), SMOOTH)), LEAST)
    set_right = walk(small, own, np.where(sure != 0, MARKED, OWN).astype(np.float32), noise)
    around = cv2.dilate(np.clip(heard / HEARD - 1, 0, 1), np.ones((ROOM, ROOM), np.uint8))
    rough, weight = (
        np.asarray(cv2.resize(p, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
        for p in (set_right, around)
    )
    rough = mask + weight * (rough - mask)
    return np.asarray(mask + weight * (finished(lab, rough, weight > 0) - mask), np.float32)


def _unlike(even: F32, mark: B2) -> F32:
    """How far each px's colour is, squared, from what a mark went over (h, w); infinite where there is none."""
    off = np.full(mark.shape, np.inf, np.float32)
    colours = even[:, mark].T
    for colour in colours[np.linspace(0, len(colours) - 1, min(len(colours), COLOURS)).astype(int)]:
        off = np.minimum(off, np.square(even - colour[:, None, None]).sum(0))
    return off


def _heard(off: F32, edges: F32, mark: B2, against: F32, reach: float) -> F32:
    """How much a mark's word counts at each px, 0–1. off: how far its colour is from the mark's (h, w), squared;
    edges: what a way across them costs; against: what it speaks against, 0–1."""
    unlike = off / LIKE**2
    way = np.asarray((1 + HINDERED * np.minimum(unlike, FARTHEST)) / max(mark.shape) + edges, np.float32)
    far = distance(way, mark)
    same = (against * np.exp(-off / SAME**2))[far > REACH].sum() / max(float(against.sum()), 1.0)
    reach *= float(np.clip(1 - same / COMMON, CLOSE, 1))
    return np.asarray(np.exp(-unlike - far / reach), np.float32)
