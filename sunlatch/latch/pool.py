"""Pool: an ellipse, turned as one likes, full or hollow."""

import numpy as np

from ..compiled import kernel
from ..parameters import Params, Point, number, point, switch
from .base import F32, IngredientKind, Reading


class PoolParams(Params):
    """Around `centre`; `edge` is where it ends along its first axis."""

    centre: Point = point("Centre", 0.5, 0.33)
    edge: Point = point("Edge", 0.7, 0.33)
    across: float = number(
        "Across", default=0.7, low=0.05, high=8.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="Its other axis, in % of the first",
    )  # fmt: skip
    softness: float = number(
        "Softness", default=0.6, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="Feather: how much of the way from the centre it fades",
    )  # fmt: skip
    hollow: bool = switch("Hollow", False, hint="Nothing inside, full outside")


@kernel("void(float64[::1], float64[::1], float32[:, :, :], float32, float32[:, ::1])")
def _fill(m, place, places, soft, out):  # type: ignore[no-untyped-def]
    """m: 2×3 to the unit circle. place: x, y of the first px and the steps; places (2, h, w) instead, if any."""
    one, zero = np.float32(1), np.float32(0)
    a, b, t0, c2, d, t1 = m
    bent = places.shape[1] > 0
    start = one - soft
    per = one / max(soft, np.float32(1e-4))
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            if bent:
                x, y = places[0, r, c], places[1, r, c]
            else:
                x, y = np.float32(place[0] + c * place[2]), np.float32(place[1] + r * place[3])
            p = np.float32(a) * x + np.float32(b) * y + np.float32(t0)
            q = np.float32(c2) * x + np.float32(d) * y + np.float32(t1)
            t = min(max(zero, (np.sqrt(p * p + q * q) - start) * per), one)
            out[r, c] = one - t * t * (np.float32(3) - np.float32(2) * t)


def evaluate(params: PoolParams, reading: Reading) -> F32:
    """Mask (h, w): anchors are carried to the developed plane, the ellipse is drawn there."""
    ends = np.array([[params.centre.x, params.centre.y], [params.edge.x, params.edge.y]])
    centre, edge = reading.to_developed(ends)
    axis = edge - centre
    length = max(float(np.hypot(*axis)), 1e-4)
    u = axis / length
    m = np.array([u / length, np.array([-u[1], u[0]]) / (length * params.across)])
    shift = -m @ centre
    matrix = np.array([m[0, 0], m[0, 1], shift[0], m[1, 0], m[1, 1], shift[1]])
    u0, v0, du, dv = reading.place
    w, h = reading.aspect
    place = np.array([u0 * w, v0 * h, du * w, dv * h])
    out = np.empty(reading.stops.shape, np.float32)
    places = reading.places if reading.places is not None else np.empty((2, 0, 0), np.float32)
    _fill(matrix, place, places, np.float32(params.softness), out)
    return 1 - out if params.hollow else out


INGREDIENT = IngredientKind(
    kind="pool",
    revision=1,
    label="Pool",
    says="in an ellipse",
    group="Where it lies",
    sentence="Pool",
    params=PoolParams,
    evaluate=evaluate,
    place=42,
    placed=True,
)
