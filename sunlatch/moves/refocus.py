"""Refocus: what a stretch or a lens softened drawn together again. Done in sensor/refocus.py."""

from ..parameters import Params, number
from .base import MoveKind


class RefocusParams(Params):
    """How soft it is taken to be, how much is given back, and how far edges may ring."""

    amount: float = number(
        "How much", default=0.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    radius: float = number(
        "Softened by", default=1.2, low=0.4, high=4.0, step=0.05, unit="px", decimals=2,
        hint="Radius of the softness, in px of the frame: too large a one makes rings",
    )  # fmt: skip
    ring: float = number(
        "Edges may ring", default=0.1, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How far beyond the light around it a px may go, in % of the contrast there",
    )  # fmt: skip
    floor: float = number(
        "Noise threshold", default=2.0, low=0.0, high=6.0, step=0.1, unit="× noise", decimals=1,
        hint="Differences smaller than this many times the noise stay as they are",
    )  # fmt: skip


MOVE = MoveKind(
    kind="refocus",
    revision=1,
    band="mend",
    label="Refocus",
    question="What shape?",
    sentence="Refocus {amount}, softened by {radius}",
    params=RefocusParams,
    first="amount",
    place=85,
    latched=True,
    once=True,
)
