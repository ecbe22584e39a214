"""Rescue: light whose channels clipped. The work is done in sensor/rescue.py."""

from ..parameters import Params, number
from .base import MoveKind


class RescueParams(Params):
    """What is rebuilt where one or two channels clipped, and where all did."""

    amount: float = number(
        "Rescue", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How far clipped channels are rebuilt from those that are whole",
    )  # fmt: skip
    hue: float = number(
        "Hue from around", default=0.6, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="Where all channels clipped: the hue of the light around it, or white",
    )  # fmt: skip


MOVE = MoveKind(
    kind="rescue",
    revision=3,
    band="ground",
    label="Rescue",
    question="How bright?",
    sentence="Rescue {amount}",
    params=RescueParams,
    first="amount",
    place=24,
)
