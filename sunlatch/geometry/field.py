"""A field of displacements over the turned plane, for what Reshape and Nudge do to a picture.

It is kept backward: what is shown at a place g lies at g + D(g) without it. Several lie one on another, the last on top.
"""

from collections.abc import Callable
from dataclasses import dataclass
from dataclasses import field as part_of
from typing import Final

import numpy as np
from numpy.typing import NDArray

from .lattice import Lattice, scattered

F64 = NDArray[np.float64]

AREA_LEAST: Final = 0.15
"""No place may be stretched to more than one over this of its area: beyond lies the fold."""
TRIES: Final = 24


@dataclass(frozen=True)
class Field:
    """digest: names it; nodes (2, rows, columns): D, in long edges; interval: how far apart, in long edges, one may ask it and
    miss nothing; share: how much of what was asked for is done, 1 but where more would fold the picture; line: the id of the
    line in the ledger."""

    digest: str
    nodes: Lattice = part_of(compare=False, repr=False)
    interval: float = part_of(default=0.01, compare=False, repr=False)
    share: float = part_of(default=1.0, compare=False, repr=False)
    line: str = part_of(default="", compare=False, repr=False)

    def under(self, points: F64) -> F64:
        """Where what is shown at places (..., 2) lies without it (..., 2)."""
        return np.asarray(points, float) + scattered(self.nodes, points)

    def over(self, points: F64) -> F64:
        """The inverse: where what lies at places (..., 2) is shown (..., 2). Newton's method, half a step where a whole
        one would lead away."""
        wanted = np.asarray(points, float)
        at = wanted - scattered(self.nodes, wanted)
        step = min(self.nodes.step) / 4
        right, down = np.array([step, 0.0]), np.array([0.0, step])
        off = self.under(at) - wanted
        for _ in range(TRIES):
            size = np.abs(off).max(-1)
            if size.max(initial=0.0) < 1e-9:
                break
            xx, yx = np.moveaxis((self.under(at + right) - self.under(at - right)) / (2 * step), -1, 0)
            xy, yy = np.moveaxis((self.under(at + down) - self.under(at - down)) / (2 * step), -1, 0)
            det = np.maximum(xx * yy - xy * yx, AREA_LEAST / 4)
            go = np.stack(
                [(yy * off[..., 0] - xy * off[..., 1]) / det, (xx * off[..., 1] - yx * off[..., 0]) / det], -1
            )
            tried = at - go
            after = self.under(tried) - wanted
            worse = np.abs(after).max(-1) > size
            tried[worse] = at[worse] - go[worse] / 3
            if worse.any():
                after[worse] = self.under(tried[worse]) - wanted[worse]
            at, off = tried, after
        return at


def over_plane(x0: float, y0: float, x1: float, y1: float, cells: int, ask: Callable[[F64], F64]) -> Lattice:
    """Nodes over a rectangle, so many steps along its long side. ask: places (..., 2) to D (..., 2)."""
    step = max(x1 - x0, y1 - y0) / cells
    count = int(np.ceil((x1 - x0) / step - 1e-9)), int(np.ceil((y1 - y0) / step - 1e-9))
    return Lattice.over((x0, y0), (step, step), count, ask)


def determinants(nodes: Lattice) -> F64:
    """Area on the plane below per area shown, at every node but the outermost (rows − 2, columns − 2)."""
    (xx, xy), (yx, yy) = slopes(nodes)
    return np.asarray((1 + xx) * (1 + yy) - xy * yx)


def slopes(nodes: Lattice) -> tuple[tuple[F64, F64], tuple[F64, F64]]:
    """How D changes: ((x along x, x along y), (y along x, y along y))."""
    d, (w, h) = nodes.values, nodes.step
    across = (d[:, 1:-1, 2:] - d[:, 1:-1, :-2]) / (2 * w)
    down = (d[:, 2:, 1:-1] - d[:, :-2, 1:-1]) / (2 * h)
    return (across[0], down[0]), (across[1], down[1])


def held_back(nodes: Lattice, least: float = AREA_LEAST) -> tuple[Lattice, float]:
    """The same, of which only so much is done that it folds nowhere; and how much that is, 0 to 1."""
    (xx, xy), (yx, yy) = slopes(nodes)
    trace, det = xx + yy, xx * yy - xy * yx
    # 1 + f·trace + f²·det = least: the first f from nought up at which any place gets there
    a, b, c = det, trace, 1 - least
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        root = np.sqrt(b * b - 4 * a * c)
        both = np.stack([2 * c / (-b + root), 2 * c / (-b - root)])
    first = np.where((both > 0) & np.isfinite(both), both, np.inf).min(initial=np.inf)
    share = float(min(1.0, first * 0.98)) if first < 1 / 0.98 else 1.0
    if share == 1.0:
        return nodes, 1.0
    return Lattice(nodes.values * share, nodes.start, nodes.step), share
