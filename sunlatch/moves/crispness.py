"""Crispness: fine contrast given back where there are edges. Done in sensor/crispness.py."""

from ..parameters import Params, number
from .base import MoveKind


class CrispnessParams(Params):
    """Where, how fine, how much. The noise model sets the floor."""

    edges: float = number(
        "At edges", default=0.6, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="0: everywhere; 100 %: only where there are edges. The mask (4) shows where",
    )  # fmt: skip
    radius: float = number(
        "How fine", default=0.9, low=0.4, high=4.0, step=0.1, unit="px", decimals=1,
        hint="Radius in px of the frame",
    )  # fmt: skip
    amount: float = number(
        "How much", default=0.0, low=0.0, high=3.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    floor: float = number(
        "Noise threshold", default=2.0, low=0.0, high=6.0, step=0.1, unit="× noise", decimals=1,
        hint="Contrast smaller than this many times the noise stays as it is",
    )  # fmt: skip


MOVE = MoveKind(
    kind="crispness",
    revision=1,
    band="ground",
    label="Crispness",
    question="What shape?",
    sentence="Crispness radius {radius}, {amount}",
    params=CrispnessParams,
    first="amount",
    place=52,
    latched=True,
)
