"""Clone: another place, as it is."""

from ..parameters import Params, number
from .base import MoveKind


class CloneParams(Params):
    """How much of it, and how much lighter."""

    strength: float = number(
        "Strength", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the original is replaced",
    )  # fmt: skip
    stops: float = number(
        "Light", default=0.0, low=-4.0, high=4.0, step=0.05, unit="stops", signed=True, decimals=2,
        hint="Lighter or darker than the place it comes from",
    )  # fmt: skip


MOVE = MoveKind(
    kind="clone",
    revision=1,
    band="mend",
    label="Clone",
    question="What distracts?",
    sentence="Clone {strength}, {stops}",
    params=CloneParams,
    first="strength",
    place=30,
)
