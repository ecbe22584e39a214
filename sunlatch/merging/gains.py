"""How much lighter one frame of a join is than another, beyond what their exposures say: a gain for each and what
corners lose, solved over all overlaps together."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from .blend import DARK, Small

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

BRIGHT: Final = 0.78
"""Of what clips; brighter light may be clipped, or rescued…"""
DIM: Final = float(np.log2(DARK)) + 2.5
"""…and darker is noise."""
SOFT: Final = 0.08
"""Differences beyond so many stops are something that moved."""
SAMPLES_MOST: Final = 4000
PRIOR: Final = 0.3
"""How far gains may be from what metadata say, stops, where frames hardly overlap."""
FALL_PRIOR: Final = 0.1


def solve_gains(
    parts: list[Small], radii: list[F32], peaks: list[F32], owners: list[int], anchor: int, count: int
) -> tuple[list[float], float]:
    """Stops to be added to each of `count` frames, none to the anchor, and stops to be added at a corner. radii: squared
    distance from each part's middle (h, w), 1 at a corner; peaks: the lightest channel of each (h, w) before it was made as
    light as the others, of what clips; owners: whose each part is."""
    rng = np.random.default_rng(5)
    rows: list[tuple[int, int, F64, F64]] = []
    for i, a in enumerate(parts):
        for j in range(i + 1, len(parts)):
            b = parts[j]
            if owners[i] == owners[j]:
                continue
            top, left = max(a.top, b.top), max(a.left, b.left)
            bottom = min(a.top + a.edge.shape[0], b.top + b.edge.shape[0])
            right = min(a.left + a.edge.shape[1], b.left + b.edge.shape[1])
            if top >= bottom or left >= right:
                continue
            one = slice(top - a.top, bottom - a.top), slice(left - a.left, right - a.left)
            two = slice(top - b.top, bottom - b.top), slice(left - b.left, right - b.left)
            light, other = a.stops[1][one], b.stops[1][two]
            both = a.there[one] & b.there[two] & (light > DIM) & (other > DIM)
            both &= np.maximum(peaks[i][one], peaks[j][two]) < BRIGHT
            at = np.flatnonzero(both)
            if len(at) < 30:
                continue
            at = rng.choice(at, min(SAMPLES_MOST, len(at)), replace=False)
            apart = (other.ravel()[at] - light.ravel()[at]).astype(float)
            vignetting = (radii[i][one].ravel()[at] - radii[j][two].ravel()[at]).astype(float)
            rows.append((owners[i], owners[j], apart, vignetting))
    if not rows:
        return [0.0] * count, 0.0
    design = np.zeros((sum(len(r[2]) for r in rows), count + 1))
    wanted = np.concatenate([r[2] for r in rows])
    at_row = 0
    for i, j, apart, vignetting in rows:
        span = slice(at_row, at_row + len(apart))
        design[span, i], design[span, j], design[span, count] = 1, -1, vignetting
        at_row += len(apart)
    prior = np.diag([1e3 if n == anchor else 1 / PRIOR for n in range(count)] + [1 / FALL_PRIOR])
    x = np.zeros(count + 1)
    for _ in range(12):  # robust: what moved counts less and less
        off = wanted - design @ x
        weight = 1 / np.sqrt(SOFT**2 + off**2)
        a = design.T @ (design * weight[:, None]) + prior.T @ prior
        x = np.linalg.solve(a, design.T @ (weight * wanted))
    return [float(v) for v in x[:count]], float(x[count])
