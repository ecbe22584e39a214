"""Noise: smoothed by what the sensor's own noise explains. The work is done in sensor/noise.py."""

from ..parameters import Params, number
from .base import MoveKind


class NoiseParams(Params):
    """How much of the explained noise is taken away, in light and in colour."""

    light: float = number(
        "Brightness noise", default=0.0, low=0.0, high=2.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="100 % takes what the noise model explains",
    )  # fmt: skip
    colour: float = number(
        "Colour noise", default=0.0, low=0.0, high=2.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="Colour blotches; 100 % takes what the noise model explains",
    )  # fmt: skip
    grain: float = number(
        "Leave grain", default=0.1, low=0.0, high=0.6, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="A share of the finest noise that stays, so that smooth places do not look like wax",
    )  # fmt: skip


MOVE = MoveKind(
    kind="noise",
    revision=1,
    band="ground",
    label="Noise",
    question="What hangs in the air?",
    sentence="Noise: brightness {light}, colour {colour}",
    params=NoiseParams,
    first="light",
    place=50,
    latched=True,
)
