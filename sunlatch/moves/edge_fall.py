"""Edge fall: light falls away toward the frame's edges, and may be lifted in its middle.

It follows the crop. Two rings: within the inner one light is lifted, from the inner to the outer it falls.
"""

import numpy as np

from ..fastmath import exp2, log2, smooth
from ..parameters import Params, Point, number, optional_point
from .base import F32, Lay, MoveKind, move_kernel
from .rows import row_by_stops


class EdgeFallParams(Params):
    """Rings are measured from the middle, in % of the way to the edge."""

    depth: float = number(
        "At the edges", default=0.0, low=-4.0, high=2.0, step=0.05, unit="stops", signed=True, decimals=2
    )
    lift: float = number(
        "In the middle", default=0.0, low=-1.0, high=2.0, step=0.05, unit="stops", signed=True, decimals=2
    )
    inner: float = number(
        "Inner ring", default=0.5, low=0.05, high=1.5, step=0.01, unit="%", decimals=0, shown_times=100.0
    )
    outer: float = number(
        "Outer ring", default=1.25, low=0.1, high=2.5, step=0.01, unit="%", decimals=0, shown_times=100.0
    )
    roundness: float = number(
        "Roundness", default=0.6, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="From the frame's own shape to a circle",
    )  # fmt: skip
    keep: float = number(
        "Keep highlights", default=0.0, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="As in scenes made before; sparing the highlights does this now", bygone=True,
    )  # fmt: skip
    centre: Point | None = optional_point("Middle", "the middle of the frame")


_ZERO, _ONE = np.float32(0), np.float32(1)


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Stops by the distance from the middle, a norm between the frame's shape and a circle's."""
    depth, lift, inner, outer, power, keep = coef[0], coef[1], coef[2], coef[3], coef[4], coef[5]
    u0, v0, per_x, per_y = coef[6], coef[7], coef[8], coef[9]
    per, root = _ONE / max(outer - inner, np.float32(1e-3)), _ONE / power
    width = rgb.shape[2]
    stops, bright, far_x = (
        np.empty(width, np.float32),
        np.empty(width, np.float32),
        np.empty(width, np.float32),
    )
    for c in range(width):
        far_x[c] = exp2(power * log2(abs((place[0] + np.float32(c) * place[2] - u0) * per_x)))
    for r in range(rgb.shape[1]):
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        for c in range(a.size):
            luma = np.float32(0.2627) * a[c] + np.float32(0.6780) * b[c] + np.float32(0.0593) * d[c]
            bright[c] = smooth((luma - np.float32(0.36)) / np.float32(1.08))  # one stop to three over grey
        y = abs((place[1] + np.float32(r) * place[3] - v0) * per_y)
        far_y = exp2(power * log2(y))
        for c in range(a.size):
            ring = exp2(log2(far_x[c] + far_y) * root)
            fall = depth * smooth((ring - inner) * per)
            fall *= _ONE - (keep * bright[c] if fall < _ZERO else _ZERO)
            stops[c] = fall + lift * (_ONE - smooth(ring / inner))
        row_by_stops(stops, mask[r], a, b, d)


def coefficients(params: EdgeFallParams, strength: float) -> F32:
    """[depth, lift, rings, the norm's power, share of highlights kept]. Of the power, 2 is an ellipse and 6
    nearly the frame."""
    outer = max(params.outer, params.inner + 0.02)
    return np.array(
        [params.depth * strength, params.lift * strength, params.inner, outer,
         2 + 4 * (1 - params.roundness) ** 2, params.keep],
        np.float32,
    )  # fmt: skip


def located(params: EdgeFallParams, lay: Lay) -> F32:
    """[the middle in fractions of the canvas; one over half the crop's width and height, in the same: for a
    roundness of 1 both are the mean, so that rings are circles]"""
    x0, y0, x1, y1 = lay.crop
    half = np.array([x1 - x0, y1 - y0]) / 2
    middle = np.array([x0 + x1, y0 + y1]) / 2
    if params.centre is not None:
        middle = lay.to_canvas(np.array([[params.centre.x, params.centre.y]]))[0]
    half = half ** (1 - params.roundness) * float(np.sqrt(half.prod())) ** params.roundness
    aspect = np.array(lay.aspect)
    return np.concatenate([middle / aspect, aspect / half]).astype(np.float32)


MOVE = MoveKind(
    kind="edge_fall",
    revision=1,
    band="light",
    label="Edge fall",
    says="lifts the middle, darkens the edges",
    question="Where does the eye go?",
    sentence="Edge fall {depth}, its middle {lift}",
    params=EdgeFallParams,
    verbs=("edges", "edge"),
    first="depth",
    spares=("highlights",),
    place=50,
    kernel=kernel,
    coefficients=coefficients,
    located=located,
)
