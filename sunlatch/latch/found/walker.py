"""What finders share: how far a place is from another along the picture, and who it belongs to.

Random walker with priors (Grady 2005): the chance that a walk from a px, which crosses edges unwillingly,
ends as one thing rather than the other, where every px also has an opinion of its own.
"""

import numpy as np
from numpy.typing import NDArray

from ...compiled import kernel
from ...running.patience import go_on

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
    go_on()
    far = np.where(start, np.float32(0), np.float32(1e9)).astype(np.float32)
    _sweep(np.ascontiguousarray(cost, np.float32), far, rounds)
    return far


@kernel(
    "int64(float32[:, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1], float64, int64)"
)
def _solve(found, left, whole, across, down, enough, most):  # type: ignore[no-untyped-def]
    """Conjugate gradients, each px's equation divided by the weight of all it holds to (`whole`). across, down:
    weights of a px's ways to the right and down, 0 at the frame; left: what `found` leaves of the right side.
    Ends when the squares of that come to `enough`; returns the rounds it took."""
    h, w = found.shape
    # a px wider all around, of nothing, so that no px is told apart and rows run in vector registers
    way, along = np.zeros((h + 2, w + 2), np.float32), np.empty_like(found)
    size, product, turn = 0.0, 0.0, np.float32(0)
    for r in range(h):
        for c in range(w):
            size += left[r, c] ** 2
            product += left[r, c] ** 2 / whole[r, c]
    for n in range(most):
        if size <= enough:
            return n
        for r in range(h):
            for c in range(w):
                way[r + 1, c + 1] = left[r, c] / whole[r, c] + turn * way[r + 1, c + 1]
        length = 0.0
        for r in range(h):
            up = max(r - 1, 0)
            for c in range(w):
                here = whole[r, c] * way[r + 1, c + 1] - across[r, c] * way[r + 1, c + 2]
                along[r, c] = here - down[r, c] * way[r + 2, c + 1] - down[up, c] * way[r, c + 1]
            row = np.float32(0)
            for c in range(1, w):
                along[r, c] -= across[r, c - 1] * way[r + 1, c]
            for c in range(w):
                row += along[r, c] * way[r + 1, c + 1]
            length += np.float64(row)
        step = np.float32(product / length)
        before, product, size = product, 0.0, 0.0
        for r in range(h):
            squares, shares = np.float32(0), np.float32(0)
            for c in range(w):
                found[r, c] += step * way[r + 1, c + 1]
                left[r, c] -= step * along[r, c]
                squares += left[r, c] ** 2
                shares += left[r, c] ** 2 / whole[r, c]
            size += np.float64(squares)
            product += np.float64(shares)
        turn = np.float32(product / before)
    return most


def walk(guide: F32, prior: F32, reliability: F32 | float, contrast: float) -> F32:
    """Who every px belongs to (h, w), 0–1. guide: (n, h, w), in which differences of `contrast` are edges.
    prior: opinion of each px; reliability: how much it counts, (h, w) or one for all."""
    go_on()
    across, down = np.zeros_like(prior), np.zeros_like(prior)
    own = np.broadcast_to(np.asarray(reliability, np.float32), prior.shape)
    whole, left = own.copy(), np.zeros_like(prior)
    for axis, ways in ((0, down), (1, across)):
        ways_, whole_, left_ = (np.moveaxis(x, axis, 0) for x in (ways, whole, left))
        steps = np.moveaxis(np.square(np.diff(guide, axis=axis + 1)).sum(0), axis, 0)
        ways_[:-1] = np.exp(-steps / (2 * contrast**2)) + 1e-4
        drawn = ways_[:-1] * np.diff(np.moveaxis(prior, axis, 0), axis=0)
        for at, sign in ((slice(-1), 1), (slice(1, None), -1)):
            whole_[at] += ways_[:-1]
            left_[at] += sign * drawn
    found = np.array(prior, np.float32)
    _solve(
        found, left, whole, across, down, 1e-6 * float(np.square(own * prior, dtype=np.float64).sum()), 400
    )
    return np.clip(found, 0, 1)
