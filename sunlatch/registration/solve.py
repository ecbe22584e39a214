"""How a camera was turned from frame to frame: rotations, one focal length and one term of distortion for all, solved
together over all matches with a robust loss (bundle adjustment: Triggs et al. 2000; for sweeps, Brown & Lowe 2007).

A rotation is 3×3, world to camera; camera axes: x right, y down, z ahead, of the upright frame. Lengths are in long edges.
"""

from dataclasses import dataclass, field
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from ..errors import JoinError
from .pairs import Pair

F64 = NDArray[np.float64]

MOST_POINTS: Final = 160
"""Matches of a pair that are solved over, spread over where it overlaps."""
SOFT: Final = 0.0003
"""Residuals beyond this, in long edges, count less and less: a px of a common frame."""
BEND_PRIOR: Final = 0.004
"""The term of distortion is small where little speaks for it."""
FOCAL_PRIOR: Final = 0.05
"""The focal length that the file states is believed to so much (of its logarithm)…"""
UNSTATED_PRIOR: Final = 2.0
"""…and one that no file states, to this."""
TOGETHER: Final = 7
"""Matches that are looked at together where the worst place is looked for."""
FALSE: Final = 0.004
"""A match further off than this, in long edges, after all is solved, was none."""
FOCALS: Final = np.geomspace(0.35, 9.0, 40)


@dataclass(frozen=True)
class Solved:
    """turns: rotation of each frame that found its place, by index; distortion: seen = true · (1 + distortion r²), r = 1 at a
    corner; residuals: median distance of each pair's matches, in long edges; pairs: those that held; worst: of each, where
    matches lie farthest apart (on the plane of its first frame) and how far there."""

    turns: dict[int, F64]
    focal: float
    distortion: float
    pairs: list[Pair]
    residuals: list[float]
    worst: list[tuple[F64, float]] = field(default_factory=list)


def rays(p: F64, focal: float, distortion: float, corner: float) -> F64:
    """Directions (n, 3), not of unit length, of places on the upright plane."""
    r2 = (p * p).sum(-1, keepdims=True) / corner**2
    return np.concatenate([p * (1 - distortion * r2), np.full((*p.shape[:-1], 1), focal)], -1)


def rotation_between(pair: Pair, focal: float, distortion: float = 0.0, corner: float = 1.0) -> F64:
    """The rotation that takes what frame i sees to what frame j sees (Kabsch 1976)."""
    a, b = (rays(p, focal, distortion, corner) for p in (pair.a, pair.b))
    a, b = (v / np.linalg.norm(v, axis=1, keepdims=True) for v in (a, b))
    keep = np.ones(len(a), bool)
    rotation = np.eye(3)
    for _ in range(4):
        rotation = np.asarray(scipy.spatial.transform.Rotation.align_vectors(b[keep], a[keep])[0].as_matrix())
        off = np.linalg.norm(a @ rotation.T - b, axis=1)
        keep = off <= max(3 * float(np.median(off)), 1e-6)
    return rotation


def _misfit(pair: Pair, focal: float) -> float:
    a, b = (rays(p, focal, 0.0, 1.0) for p in (pair.a, pair.b))
    a, b = (v / np.linalg.norm(v, axis=1, keepdims=True) for v in (a, b))
    return float(np.median(np.linalg.norm(a @ rotation_between(pair, focal).T - b, axis=1))) * focal


def guess_focal(pairs: list[Pair]) -> float:
    """The focal length, in long edges, with which the pairs are turns of one camera."""
    best = [sum(min(_misfit(p, f), 0.05) * len(p.a) for p in pairs) for f in FOCALS]
    return float(FOCALS[int(np.argmin(best))])


def _tree(count: int, pairs: list[Pair], root: int, focal: float) -> dict[int, F64]:
    """First rotations: along the spanning tree of the pairs that have the most in common."""
    between = {(min(p.i, p.j), max(p.i, p.j)): p for p in sorted(pairs, key=lambda p: len(p.a))}
    graph = _graph(count, list(between.values()))
    order, before = scipy.sparse.csgraph.breadth_first_order(
        scipy.sparse.csgraph.minimum_spanning_tree(-graph), root, directed=False
    )
    turns = {root: np.eye(3)}
    for n in (int(v) for v in order[1:]):
        known = int(before[n])
        pair = between[min(n, known), max(n, known)]
        rotation = rotation_between(pair, focal)
        turns[n] = (rotation if pair.j == n else rotation.T) @ turns[known]
    return turns


def _graph(count: int, pairs: list[Pair]) -> "scipy.sparse.csr_array":
    """Frames by pairs; what two have in common is the weight between them."""
    i, j = [p.i for p in pairs], [p.j for p in pairs]
    return scipy.sparse.csr_array(([float(len(p.a)) for p in pairs], (i, j)), shape=(count, count))


def groups(count: int, pairs: list[Pair]) -> list[list[int]]:
    """Frames that hang together by pairs, the most first."""
    number, home = scipy.sparse.csgraph.connected_components(_graph(count, pairs), directed=False)
    sets = [np.flatnonzero(home == n).tolist() for n in range(number)]
    return sorted(sets, key=lambda s: (-len(s), s[0]))


def _spread(pair: Pair) -> Pair:
    """At most so many of its matches, spread: each next is the farthest from those chosen."""
    if len(pair.a) <= MOST_POINTS:
        return pair
    chosen = [0]
    far = np.linalg.norm(pair.a - pair.a[0], axis=1)
    while len(chosen) < MOST_POINTS:
        n = int(far.argmax())
        chosen.append(n)
        far = np.minimum(far, np.linalg.norm(pair.a - pair.a[n], axis=1))
    return Pair(pair.i, pair.j, pair.a[chosen], pair.b[chosen], pair.matches)


def solve(count: int, pairs: list[Pair], stated: float | None, corner: float) -> Solved:
    """All of it, for the frames that hang together. stated: the focal length the files state, long edges; corner: half
    the diagonal. Raises JoinError where nothing can be solved."""
    if not pairs:
        raise JoinError("no two of these frames show the same thing")
    focal = stated or guess_focal(pairs)
    members = groups(count, pairs)[0]
    held = [p for p in pairs if p.i in members]
    degree = {n: sum(len(p.a) for p in held if n in (p.i, p.j)) for n in members}
    turns = _tree(count, held, max(members, key=lambda n: degree[n]), focal)
    distortion = 0.0
    for _ in range(2):
        turns, focal, distortion = _adjust(
            turns, [_spread(p) for p in held], focal, distortion, stated, corner
        )
        held = _believed(held, turns, focal, distortion, corner)
        joined = groups(count, held)[0] if held else []
        if len(joined) < 2:
            raise JoinError("these frames do not fit together by turning the camera")
        turns = {n: turns[n] for n in joined}
        held = [p for p in held if p.i in turns and p.j in turns]
    return _solution(turns, focal, distortion, held, corner)


def again(solved: Solved, pairs: list[Pair], stated: float | None, corner: float) -> Solved:
    """The same, from finer matches of the pairs that held."""
    turns, focal, distortion = _adjust(
        solved.turns, [_spread(p) for p in pairs], solved.focal, solved.distortion, stated, corner
    )
    return _solution(turns, focal, distortion, pairs, corner)


def _solution(
    turns: dict[int, F64], focal: float, distortion: float, pairs: list[Pair], corner: float
) -> Solved:
    offs = [_off(p, turns, focal, distortion, corner) for p in pairs]
    worst = [_worst(p.a, off) for p, off in zip(pairs, offs, strict=True)]
    return Solved(turns, focal, distortion, pairs, [float(np.median(off)) for off in offs], worst)


def _worst(points: F64, off: F64) -> tuple[F64, float]:
    """Where distances (n) at places (n, 2) are largest, each taken with its neighbours: one false match is no place."""
    near = np.linalg.norm(points[:, None] - points[None], axis=-1).argsort(1)[:, :TOGETHER]
    even = np.median(off[near], axis=1)
    n = int(even.argmax())
    return points[n], float(even[n])


def _off(pair: Pair, turns: dict[int, F64], focal: float, distortion: float, corner: float) -> F64:
    """How far each match of a pair lies off, long edges."""
    world = rays(pair.a, focal, distortion, corner) @ turns[pair.i]
    seen = world @ turns[pair.j].T
    true = rays(pair.b, focal, distortion, corner)[:, :2]
    z = np.maximum(seen[:, 2:], 1e-3 * focal)
    return np.asarray(np.linalg.norm(seen[:, :2] / z * focal - true, axis=1))


def _believed(
    pairs: list[Pair], turns: dict[int, F64], focal: float, distortion: float, corner: float
) -> list[Pair]:
    """Pairs without the matches that lie far off, and without those of which little is left."""
    out = []
    for p in pairs:
        off = _off(p, turns, focal, distortion, corner)
        keep = off < min(FALSE, max(4 * float(np.median(off)), SOFT))
        if keep.sum() >= max(10, 0.3 * len(off)):
            out.append(Pair(p.i, p.j, p.a[keep], p.b[keep], p.matches))
    return out


def _adjust(
    turns: dict[int, F64],
    pairs: list[Pair],
    focal: float,
    distortion: float,
    stated: float | None,
    corner: float,
) -> tuple[dict[int, F64], float, float]:
    order = sorted(turns)
    place = {n: k for k, n in enumerate(order)}
    first = np.stack([turns[n] for n in order])
    a, b = np.concatenate([p.a for p in pairs]), np.concatenate([p.b for p in pairs])
    i = np.concatenate([np.full(len(p.a), place[p.i]) for p in pairs])
    j = np.concatenate([np.full(len(p.a), place[p.j]) for p in pairs])
    weight = np.concatenate([np.full(len(p.a), 1 / np.sqrt(len(p.a) / 40)) for p in pairs])[:, None]
    weight = np.minimum(weight, 1.0)
    start = np.log(stated or focal)
    sure = (FOCAL_PRIOR if stated else UNSTATED_PRIOR) / SOFT

    def residuals(x: F64) -> F64:
        f, k = float(np.exp(x[0])), float(x[1])
        deltas = np.concatenate([np.zeros((1, 3)), x[2:].reshape(-1, 3)])
        now = scipy.spatial.transform.Rotation.from_rotvec(deltas).as_matrix() @ first
        world = np.einsum("nij,ni->nj", now[i], rays(a, f, k, corner))
        seen = np.einsum("nij,nj->ni", now[j], world)
        true = rays(b, f, k, corner)[:, :2]
        off = (seen[:, :2] / np.maximum(seen[:, 2:], 1e-3 * f) * f - true) * weight
        prior = [(x[0] - start) / sure, x[1] / BEND_PRIOR * SOFT]
        return np.concatenate([off.ravel(), prior])

    count = 2 + 3 * (len(order) - 1)
    rows = np.arange(2 * len(a)).reshape(-1, 2)
    at: list[F64] = []
    for frame in (i, j):
        turned = frame > 0  # the first one stands still
        columns = 2 + 3 * (frame[turned] - 1)
        for n in range(3):
            for axis in range(2):
                at.append(np.stack([rows[turned, axis], columns + n]))
    for n in range(2):
        at.append(np.stack([np.arange(2 * len(a)), np.full(2 * len(a), n)]))
    at.append(np.array([[2 * len(a), 2 * len(a) + 1], [0, 1]]))
    where = np.concatenate(at, 1).astype(int)
    pattern = scipy.sparse.coo_matrix((np.ones(where.shape[1]), where), (2 * len(a) + 2, count))
    x0 = np.zeros(count)
    x0[:2] = np.log(focal), distortion
    found = scipy.optimize.least_squares(
        residuals, x0, loss="soft_l1", f_scale=SOFT, x_scale="jac", max_nfev=40,
        jac_sparsity=pattern.tocsr() if len(order) > 12 else None,
    )  # fmt: skip
    x = found.x
    deltas = np.concatenate([np.zeros((1, 3)), x[2:].reshape(-1, 3)])
    now = scipy.spatial.transform.Rotation.from_rotvec(deltas).as_matrix() @ first
    return {n: now[k] for k, n in enumerate(order)}, float(np.exp(x[0])), float(x[1])
