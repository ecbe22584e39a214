"""What finders share: how far a place is from another along the picture, and who it belongs to.

Random walker with priors (Grady 2005): the chance that a walk from a px, which crosses edges unwillingly,
ends as one thing rather than the other, where every px also has an opinion of its own.
"""

from typing import Any

import numpy as np
import scipy.sparse as sparse
from numpy.typing import NDArray
from scipy.sparse.linalg import cg

from ...compiled import kernel

F32 = NDArray[np.float32]


@kernel("void(float32[:, ::1], float32[:, ::1], int64)")
def _sweep(cost, far, rounds):  # type: ignore[no-untyped-def]
    h, w = far.shape
    slant = np.float32(1.41421356)
    for _ in range(rounds):
        changed = False
        for r in range(h):
            for c in range(w):
                best, own = far[r, c], cost[r, c]
                if c > 0:
                    best = min(best, far[r, c - 1] + own)
                if r > 0:
                    best = min(best, far[r - 1, c] + own)
                    if c > 0:
                        best = min(best, far[r - 1, c - 1] + own * slant)
                    if c < w - 1:
                        best = min(best, far[r - 1, c + 1] + own * slant)
                if best < far[r, c]:
                    far[r, c] = best
                    changed = True
        for r in range(h - 1, -1, -1):
            for c in range(w - 1, -1, -1):
                best, own = far[r, c], cost[r, c]
                if c < w - 1:
                    best = min(best, far[r, c + 1] + own)
                if r < h - 1:
                    best = min(best, far[r + 1, c] + own)
                    if c < w - 1:
                        best = min(best, far[r + 1, c + 1] + own * slant)
                    if c > 0:
                        best = min(best, far[r + 1, c - 1] + own * slant)
                if best < far[r, c]:
                    far[r, c] = best
                    changed = True
        if not changed:
            break


def distance(cost: F32, start: NDArray[np.bool_], rounds: int = 12) -> F32:
    """The least cost of a way from `start` to every px (h, w), by sweeps (Toivanen 1996)."""
    far = np.where(start, np.float32(0), np.float32(1e9)).astype(np.float32)
    _sweep(np.ascontiguousarray(cost, np.float32), far, rounds)
    return far


def walk(guide: F32, prior: F32, trust: F32 | float, contrast: float) -> F32:
    """Who every px belongs to (h, w), 0–1. guide: (n, h, w), in which differences of `contrast` are edges.
    prior: opinion of each px; trust: how much it counts, (h, w) or one for all."""
    h, w = prior.shape
    across = np.exp(-np.square(guide[:, :, 1:] - guide[:, :, :-1]).sum(0) / (2 * contrast**2)) + 1e-4
    down = np.exp(-np.square(guide[:, 1:] - guide[:, :-1]).sum(0) / (2 * contrast**2)) + 1e-4
    index = np.arange(h * w).reshape(h, w)
    i = np.concatenate([index[:, :-1].ravel(), index[:-1].ravel()])
    j = np.concatenate([index[:, 1:].ravel(), index[1:].ravel()])
    weight = np.concatenate([across.ravel(), down.ravel()]).astype(float)
    graph: Any = sparse.coo_matrix(
        (np.concatenate([weight, weight]), (np.concatenate([i, j]), np.concatenate([j, i]))),
        (h * w, h * w),
    ).tocsr()
    own = np.broadcast_to(np.asarray(trust, float), (h, w)).ravel()
    matrix = sparse.diags(np.asarray(graph.sum(1)).ravel() + own) - graph
    start = prior.ravel().astype(float)
    near = sparse.diags(1 / matrix.diagonal())
    found, _ = cg(matrix, own * start, x0=start, rtol=1e-3, maxiter=400, M=near)
    return np.asarray(np.clip(found.reshape(h, w), 0, 1), np.float32)
