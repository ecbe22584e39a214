"""Nudge: parts of the picture carried, swelled, drawn in, settled and put back by brush."""

from ..parameters import Params, number
from .base import MoveKind


class NudgeParams(Params):
    """How much of it all."""

    strength: float = number(
        "Strength", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )


MOVE = MoveKind(
    kind="nudge",
    revision=1,
    band="mend",
    label="Nudge",
    question="What shape?",
    sentence="Nudge {strength}",
    params=NudgeParams,
    first="strength",
    place=80,
)
