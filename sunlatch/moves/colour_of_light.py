"""Colour of light: what is white in this frame. The one place where that is set."""

from ..parameters import Params, number, optional_number
from .base import MoveKind


class ColourOfLightParams(Params):
    """As the camera recorded it, or a temperature and a tint (Duv × 1000)."""

    kelvin: float | None = optional_number(
        "Temperature", low=1667, high=25000, step=50, unit="K", decimals=0, automatic="as shot"
    )
    tint: float | None = optional_number(
        "Tint", low=-50, high=50, step=0.5, signed=True, decimals=1, automatic="as shot"
    )
    patch: float = number(
        "Picking patch", default=0.006, low=0.001, high=0.05, step=0.001, unit="%", decimals=1,
        shown_times=100.0, hint="How large a place is averaged when a neutral is pointed at",
    )  # fmt: skip


MOVE = MoveKind(
    kind="colour_of_light",
    revision=1,
    band="ground",
    label="Colour of light",
    question="What colour is the light?",
    sentence="Colour of light {kelvin}, tint {tint}",
    params=ColourOfLightParams,
    first="kelvin",
    place=10,
)
