"""Colour: what is like the samples picked in the picture, and not like those taken away."""

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from ..compiled import kernel
from ..parameters import Params, Point, drawn, number
from .base import F32, IngredientKind, Reading


class ColourSample(BaseModel):
    """A colour of the reading picture in OKLab, and where it was picked. take: False takes it away."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    at: Point
    l: float = Field(ge=-0.5, le=2)  # noqa: E741 (the axis is called l)
    a: float = Field(ge=-1, le=1)
    b: float = Field(ge=-1, le=1)
    take: bool = True


class ColourParams(Params):
    """A soft ellipsoid around each sample in OKLab, flatter or longer along lightness."""

    samples: list[ColourSample] = drawn("Samples", 32)
    reach: float = number(
        "Reach", default=0.06, low=0.005, high=0.4, step=0.005, unit="%", decimals=1, shown_times=100.0,
        hint="How far a colour may be from a sample, in % of the way from black to white",
    )  # fmt: skip
    softness: float = number(
        "Softness", default=0.5, low=0.02, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How gently it ends",
    )  # fmt: skip
    light: float = number(
        "Light counts", default=0.3, low=0.0, high=1.5, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="0: the colour alone, however light or dark",
    )  # fmt: skip


@kernel("void(float32[:, :, :], float32[:, ::1], float32, float32, float32, float32[:, :])")
def _like(lab, samples, inner, outer, light, out):  # type: ignore[no-untyped-def]
    zero, one = np.float32(0), np.float32(1)
    per = one / (outer - inner)
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            out[r, c] = zero
    for way in range(2):  # those that take, then those that take away
        for r in range(out.shape[0]):
            for c in range(out.shape[1]):
                best = zero
                for n in range(samples.shape[0]):
                    if (samples[n, 3] > zero) == (way == 0):
                        dl = (lab[0, r, c] - samples[n, 0]) * light
                        da, db = lab[1, r, c] - samples[n, 1], lab[2, r, c] - samples[n, 2]
                        t = (outer - np.sqrt(dl * dl + da * da + db * db)) * per
                        best = max(best, min(t, one))
                best = best * best * (np.float32(3) - np.float32(2) * best)
                out[r, c] = best if way == 0 else out[r, c] * (one - best)


def evaluate(params: ColourParams, reading: Reading) -> F32:
    """Mask (h, w): 1 within reach·(1 − softness) of a sample, 0 beyond reach·(1 + softness)."""
    samples = np.array([[s.l, s.a, s.b, 1.0 if s.take else -1.0] for s in params.samples], np.float32)
    out = np.zeros(reading.stops.shape, np.float32)
    inner, outer = params.reach * (1 - params.softness), params.reach * (1 + params.softness)
    if len(samples):
        lab, light = reading.lab(), np.float32(params.light)

        def rows(a: int, b: int) -> None:
            _like(lab[:, a:b], samples, np.float32(inner), np.float32(outer), light, out[a:b])

        reading.each(len(out), rows)
    return out


INGREDIENT = IngredientKind(
    kind="colour",
    revision=1,
    label="Colour",
    says="what is picked, and near it",
    group="Its colour",
    sentence="Colour, {samples} picked, reach {reach}",
    params=ColourParams,
    evaluate=evaluate,
    place=30,
    reads=True,
)
