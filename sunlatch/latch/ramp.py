"""Ramp: a straight gradient between two places."""

from typing import Self

import numpy as np
from pydantic import model_validator

from ..compiled import kernel
from ..parameters import Params, Point, point
from .base import F32, IngredientKind, Reading


class RampParams(Params):
    """Full on the far side of `full`, nothing on the far side of `none`, smooth between."""

    full: Point = point("Full", 0.5, 0.12)
    none: Point = point("None", 0.5, 0.42)

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if (self.full.x - self.none.x) ** 2 + (self.full.y - self.none.y) ** 2 < 1e-10:
            raise ValueError("the two ends of a ramp must lie apart")
        return self


@kernel("void(float64, float64, float64, float32[:, ::1])")
def _fill(t0, dx, dy, out):  # type: ignore[no-untyped-def]
    for r in range(out.shape[0]):
        start = np.float32(t0 + r * dy)
        step = np.float32(dx)
        for c in range(out.shape[1]):
            t = min(max(np.float32(0), start + np.float32(c) * step), np.float32(1))
            out[r, c] = t * t * (np.float32(3) - np.float32(2) * t)


@kernel("void(float32[:, :, ::1], float32, float32, float32, float32[:, ::1])")
def _fill_at(places, t0, ax, ay, out):  # type: ignore[no-untyped-def]
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            t = min(max(np.float32(0), t0 + ax * places[0, r, c] + ay * places[1, r, c]), np.float32(1))
            out[r, c] = t * t * (np.float32(3) - np.float32(2) * t)


def evaluate(params: RampParams, reading: Reading) -> F32:
    """Mask (h, w): anchors are carried to the developed plane, the ramp is straight there."""
    ends = np.array([[params.none.x, params.none.y], [params.full.x, params.full.y]])
    none, full = reading.to_developed(ends)
    along = full - none
    along = along / (along @ along)
    out = np.empty(reading.stops.shape, np.float32)
    if reading.places is not None:
        _fill_at(reading.places, np.float32(-none @ along), np.float32(along[0]), np.float32(along[1]), out)
        return out
    u0, v0, du, dv = reading.place
    w, h = reading.aspect
    start = (np.array([u0 * w, v0 * h]) - none) @ along
    _fill(float(start), float(du * w * along[0]), float(dv * h * along[1]), out)
    return out


INGREDIENT = IngredientKind(
    kind="ramp",
    revision=1,
    label="Ramp",
    says="across a line",
    group="Where it lies",
    sentence="Ramp",
    params=RampParams,
    evaluate=evaluate,
    place=40,
    placed=True,
)
