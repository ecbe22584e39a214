"""Light range: what lies between two rungs, soft at both ends."""

from typing import Self

from pydantic import model_validator

from ..parameters import Params, number
from .base import F32, F64, IngredientKind, Reading, by_light, smoothstep, stop_axis


class LightRangeParams(Params):
    """A trapezoid over stops with smoothstep shoulders that lie outside the range."""

    low: float = number(
        "From", default=-1.0, low=-14.0, high=10.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    high: float = number(
        "To", default=10.0, low=-14.0, high=10.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    soft_low: float = number("Soft below", default=1.0, low=0.0, high=6.0, step=0.1, unit="stops", decimals=1)
    soft_high: float = number(
        "Soft above", default=1.0, low=0.0, high=6.0, step=0.1, unit="stops", decimals=1
    )

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if self.low > self.high:
            raise ValueError("the range must run from a lower to a higher rung")
        return self


def curve(params: LightRangeParams) -> F64:
    """The range over stop_axis()."""
    s = stop_axis()
    up = smoothstep((s - (params.low - params.soft_low)) / max(params.soft_low, 1e-6))
    down = smoothstep(((params.high + params.soft_high) - s) / max(params.soft_high, 1e-6))
    return up * down


def evaluate(params: LightRangeParams, reading: Reading) -> F32:
    """Mask (h, w)."""
    return by_light(reading.stops, curve(params), reading.each)


INGREDIENT = IngredientKind(
    kind="light_range",
    revision=1,
    label="Light range",
    says="from–to, in stops",
    group="Its light",
    sentence="Light from {low} to {high}",
    params=LightRangeParams,
    evaluate=evaluate,
    place=10,
    reads=True,
)
