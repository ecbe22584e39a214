"""Matting: what belongs to a mask px by px where it is known only roughly.

Closed-form matting (Levin, Lischinski & Weiss 2008), within the band of px that are not known.
"""

import importlib.util
import sys
from functools import cache
from pathlib import Path
from types import ModuleType
from typing import Any, Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from ...running.patience import go_on
from .measures import unlike

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
EPSILON: Final = 1e-5
"""Smaller ones take minutes on a sky without noise."""
LAPLACIAN: Final = "laplacian/cf_laplacian.py"
SURE: Final = 100.0
OPINION: Final = 0.006
"""What a px's own opinion weighs against its neighbours'; without it islands of leaves stay grey."""
THIN: Final = 0.012
"""Difference in OKLab by which a thin thing stands out at least…"""
OVER_TEXTURE, QUIET = 6.0, 30
"""…and how many times as much as its surroundings' own texture: this percentage of all px differ less from theirs."""
EVEN, LONG = 5, 12
"""Px, a side, of what a thin thing is told from; and how long it is at least."""
IN, OUT = 0.85, 0.15
"""From how much on a px belongs to a mask whole, and up to how much not at all; between, it is asked…"""
SURELY_IN, SURELY_OUT = 0.9, 0.1
"""…and from, up to how much its colour is an example."""
NEAR_IN, NEAR_OUT, FARTHEST = (0.04, 0.012), (0.03, 0.02), 0.1
"""How far examples inside and outside are looked for, and how far a colour is evened, in long edges (see `unlike`)."""
LEAN, UNDECIDED, SETTLED = 4.0, 3.0, 20.0
"""How much more unlike the inside than the outside a px may be to be inside, over how much that turns, and where it is decided;
in units of noise."""
MIXED: Final = 1.5
"""The power of lightness in which an edge is mixed: light itself would be 3, and leave no quiet in shadows."""
COUPLED: Final = 5
"""Px, a side, around an open px of those that are mixed with it: windows of three that hold it."""
PRECISE, ROUNDS = 1e-6, 600
"""When the solver is done, of what it began with, and when it is given up."""


@cache
def _from_pymatting(file: str) -> ModuleType:
    """One file of PyMatting: importing the package compiles everything in it, which takes over a minute."""
    package = importlib.util.find_spec("pymatting")
    assert package is not None
    assert package.submodule_search_locations is not None
    path = Path(package.submodule_search_locations[0]) / file
    spec = importlib.util.spec_from_file_location(f"pymatting_{path.stem}", path)
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules[spec.name] = module  # what is compiled is kept on disk under this name
    spec.loader.exec_module(module)
    return module


def warm_matte() -> None:
    """Have it compiled."""
    _from_pymatting(LAPLACIAN)


def unknown(mask: F32, band: int) -> B2:
    """Where a mask is between nothing and all, and a band of so many px around."""
    around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * band + 1, 2 * band + 1))
    inside = cv2.erode((mask > IN).astype(np.uint8), around)
    outside = cv2.erode((mask < OUT).astype(np.uint8), around)
    return np.asarray((inside == 0) & (outside == 0))


def thin_things(lab: F32, within: B2) -> B2:
    """Lines a few px wide within something smooth, and what lies beside them: twigs, cables, masts."""
    off = sum(np.abs(p - cv2.medianBlur(np.ascontiguousarray(p), EVEN)) for p in lab)
    off = np.asarray(off, np.float32)
    line = (off > max(OVER_TEXTURE * float(np.percentile(off, QUIET)), THIN)) & within
    count, label, box, _ = cv2.connectedComponentsWithStats(line.astype(np.uint8), connectivity=8)
    long = np.maximum(box[:, cv2.CC_STAT_WIDTH], box[:, cv2.CC_STAT_HEIGHT]) >= LONG
    long[0] = False
    assert count == len(long)
    return np.asarray(cv2.dilate(long[label].astype(np.uint8), np.ones((EVEN, EVEN))) > 0)


def looks_like(lab: F32, inside: F32, outside: F32) -> F32:
    """Each px's own opinion (h, w), 0–1: whether its colour is more like what is inside near it."""
    size = max(inside.shape)
    one, _ = unlike(lab, inside, NEAR_IN[0] * size, NEAR_IN[1] * size)
    other, _ = unlike(lab, outside, NEAR_OUT[0] * size, NEAR_OUT[1] * size, widest=FARTHEST)
    return np.asarray(
        1 / (1 + np.exp(np.clip((one - other - LEAN) / UNDECIDED, -SETTLED, SETTLED))), np.float32
    )


def _around(open_: B2) -> tuple[slice, slice]:
    """Rows and columns that hold all open px, and what they are mixed with."""
    (top, bottom), (left, right) = (np.flatnonzero(open_.any(axis))[[0, -1]] for axis in (1, 0))
    return (
        slice(max(0, int(top) - COUPLED), int(bottom) + 1 + COUPLED),
        slice(max(0, int(left) - COUPLED), int(right) + 1 + COUPLED),
    )


def _round(_: object) -> None:
    go_on()


def matte(lab: F32, mask: F32, open_: B2) -> F32:
    """The mask (h, w), solved anew where it is open. lab: (3, h, w). Where the solver does not come to an
    end the mask stays as it was."""
    known = ~open_
    if not open_.any() or not known.any():
        return mask
    opinion = looks_like(
        lab, ((mask > SURELY_IN) & known).astype(np.float32), ((mask < SURELY_OUT) & known).astype(np.float32)
    )
    out = np.array(mask, np.float32)
    box = _around(open_)
    lab, mask, open_, known, opinion = lab[:, *box], mask[box], open_[box], known[box], opinion[box]
    picture = np.dstack([np.maximum(lab[0], 0) ** MIXED, lab[1], lab[2]]).astype(np.float64)
    laplacian: Any = _from_pymatting(LAPLACIAN).cf_laplacian(picture, epsilon=EPSILON, is_known=known)
    go_on()
    # what no open px is near stays as it starts: only the others are solved
    near = np.flatnonzero(cv2.dilate(open_.astype(np.uint8), np.ones((COUPLED, COUPLED))))
    weight = np.where(known, SURE, OPINION).ravel()[near]
    start = np.where(known, mask, opinion).ravel().astype(float)
    matrix = laplacian[near][:, near] + scipy.sparse.diags(weight)
    scale = matrix.diagonal()
    jacobi = scipy.sparse.linalg.LinearOperator(matrix.shape, lambda residual: residual / scale, dtype=float)
    solved, unfinished = scipy.sparse.linalg.cg(
        matrix, weight * start[near], x0=start[near], M=jacobi, rtol=PRECISE, maxiter=ROUNDS, callback=_round
    )
    if not unfinished:
        start[near] = solved
        out[box] = np.where(open_, np.clip(start.reshape(mask.shape), 0, 1), mask)
    return out


TOO_MUCH: Final = 0.4
"""Share of the picture from which on there is no band of edges to solve, only doubt: solving it takes many seconds and
says no more."""


def refined(lab: F32, rough: F32, band: float, within: B2 | None = None) -> F32:
    """A rough mask (h, w) made true to fine edges. band: how far it may lie off, in long edges; within: where
    (h, w), or everywhere."""
    sure = np.where(rough > IN, 1, np.where(rough < OUT, 0, rough)).astype(np.float32)
    reach = max(3, round(band * max(rough.shape)))
    band_, where = unknown(rough, reach), True if within is None else within
    open_ = (band_ | thin_things(lab, rough > 0.5)) & where
    if float(open_.mean()) > TOO_MUCH:
        open_ = band_ & where
    return matte(lab, sure, open_) if float(open_.mean()) <= TOO_MUCH else rough


SOLVED_SHARE: Final = 0.3
"""Share of the picture that is solved at most: what has edges everywhere follows them by itself, as masks of
light do."""


def followed(lab: F32, mask: F32, band: float) -> F32:
    """Any mask (h, w) made true to fine edges within so many long edges of where it passes half; elsewhere it
    stays as soft as it is. lab: (3, h, w)."""
    half = (mask > 0.5).astype(np.uint8)
    edge = cv2.morphologyEx(half, cv2.MORPH_GRADIENT, np.ones((3, 3)))
    for reach in (max(3, round(band * max(mask.shape))), 3):
        around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
        open_ = cv2.dilate(edge, around) > 0
        if float(open_.mean()) <= SOLVED_SHARE:
            return matte(lab, mask, np.asarray(open_))
    return mask
