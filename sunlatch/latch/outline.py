"""Outline: a closed line of one's own, through its points in curves or straight from corner to corner.

Faded from its first point on, three corners make a wedge: a beam of light, say.
"""

import hashlib
from typing import Final

import numpy as np
from pydantic import BaseModel, ConfigDict

from ..compiled import kernel
from ..parameters import Params, Place, drawn, number, switch
from .base import F32, F64, IngredientKind, Reading, sampled, smoothstep

RASTER: Final = 1024
"""Long edge, px, of the raster on which the distance from the line is kept; between px it is smooth."""
STEPS: Final = 12
"""Straight pieces a curve is drawn with from point to point."""


class Corner(BaseModel):
    """A point of the line, in source coordinates; the line turns sharply there or runs through in a curve."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    x: Place
    y: Place
    sharp: bool = False


class OutlineParams(Params):
    """Three points at least hold something."""

    points: list[Corner] = drawn("Points", 400)
    soft: float = number(
        "Soft", default=0.01, low=0.0, high=0.5, step=0.002, unit="%", decimals=1, shown_times=100.0,
        hint="Over what width it ends, half of it on each side of the line, in % of the long edge",
    )  # fmt: skip
    fade: float = number(
        "Fade", default=0.0, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How much is lost from the first point to what is farthest from it",
    )  # fmt: skip
    hollow: bool = switch("Hollow", False, hint="Nothing inside, full outside")


def flattened(corners: F64, sharp: list[bool]) -> F64:
    """Points (n, 2) → a closed line of straight pieces (m, 2): Catmull–Rom through what is not sharp."""
    n = len(corners)
    out = []
    t = (np.arange(STEPS) / STEPS)[:, None]
    for i in range(n):
        a, b = corners[i], corners[(i + 1) % n]
        if sharp[i] and sharp[(i + 1) % n]:
            out.append(a[None])
            continue
        before = 2 * a - b if sharp[i] else corners[i - 1]
        after = 2 * b - a if sharp[(i + 1) % n] else corners[(i + 2) % n]
        m0, m1 = (b - before) / 2, (after - a) / 2
        t2, t3 = t * t, t * t * t
        out.append(
            (2 * t3 - 3 * t2 + 1) * a + (t3 - 2 * t2 + t) * m0 + (3 * t2 - 2 * t3) * b + (t3 - t2) * m1
        )
    return np.concatenate(out)


def crosses_itself(line: F64) -> bool:
    """Whether any two pieces of a closed line cross."""
    a, b = line, np.roll(line, -1, 0)

    def side(p: F64, q: F64, r: F64) -> F64:
        return np.asarray(
            (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1])
            - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])
        )

    p, q, r, s = a[:, None], b[:, None], a[None], b[None]
    met = (side(p, q, r) * side(p, q, s) < 0) & (side(r, s, p) * side(r, s, q) < 0)
    return bool(met.any())


@kernel("void(float64[:, ::1], float64, float32[:, ::1])")
def _signed(line, px, out):  # type: ignore[no-untyped-def]
    """Distance of px centres from a closed line, less than nothing inside; what it goes around twice is inside."""
    n = line.shape[0]
    for r in range(out.shape[0]):
        y = (r + 0.5) * px
        for c in range(out.shape[1]):
            x = (c + 0.5) * px
            best, winding = 1e18, 0
            for i in range(n):
                ax, ay = line[i, 0], line[i, 1]
                j = i + 1 if i + 1 < n else 0
                dx, dy = line[j, 0] - ax, line[j, 1] - ay
                ux, uy = x - ax, y - ay
                length2 = dx * dx + dy * dy
                t = min(max(0.0, (ux * dx + uy * dy) / length2), 1.0) if length2 > 0 else 0.0
                ex, ey = ux - t * dx, uy - t * dy
                best = min(best, ex * ex + ey * ey)
                turn = dx * uy - dy * ux
                if ay <= y:
                    if line[j, 1] > y and turn > 0:
                        winding += 1
                elif line[j, 1] <= y and turn < 0:
                    winding -= 1
            out[r, c] = -np.sqrt(best) if winding != 0 else np.sqrt(best)


def remark(params: OutlineParams) -> str:
    """What to say of a line that is no outline yet, or crosses itself."""
    if len(params.points) < 3:
        return "Click three places or more around what it is to hold"
    line = flattened(np.array([[p.x, p.y] for p in params.points]), [p.sharp for p in params.points])
    return "It crosses itself: all that it goes around is held" if crosses_itself(line) else ""


def evaluate(params: OutlineParams, reading: Reading) -> F32:
    """Mask (h, w), drawn on the developed plane. Fewer than three points hold nothing."""
    shape = reading.stops.shape
    if len(params.points) < 3:
        return np.zeros(shape, np.float32)
    corners = reading.to_developed(np.array([[p.x, p.y] for p in params.points]))
    line = np.ascontiguousarray(flattened(corners, [p.sharp for p in params.points]))
    w, h = reading.aspect
    size = (max(2, round(RASTER * h)), max(2, round(RASTER * w)))
    name = "outline " + hashlib.blake2b(line.tobytes() + str(size).encode(), digest_size=16).hexdigest()
    far = reading.kept(name)
    if far is None:
        far = np.empty(size, np.float32)
        _signed(line, 1 / RASTER, far)
        reading.keep(name, far)
    places = reading.canvas_places()
    from_line = sampled(far, places * np.array([[[1 / w]], [[1 / h]]], np.float32))
    soft = max(params.soft, 1 / reading.span)
    mask = smoothstep(0.5 - from_line.astype(np.float64) / soft)
    if params.fade > 0:
        away = np.hypot(places[0] - np.float32(corners[0, 0]), places[1] - np.float32(corners[0, 1]))
        most = float(np.hypot(*(line - corners[0]).T).max())
        mask = mask * (1 - params.fade * np.clip(away / max(most, 1e-6), 0, 1))
    return np.asarray(1 - mask if params.hollow else mask, np.float32)


INGREDIENT = IngredientKind(
    kind="outline",
    revision=1,
    label="Outline",
    says="inside a line you draw",
    group="Where it lies",
    sentence="Outline",
    params=OutlineParams,
    evaluate=evaluate,
    remark=remark,
    place=44,
    placed=True,
)
