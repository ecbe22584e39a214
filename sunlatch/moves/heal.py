"""Heal: texture from another place, light and colour from around the edge."""

from ..parameters import Params, number
from .base import MoveKind


class HealParams(Params):
    """How much of it."""

    strength: float = number(
        "Strength", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the original is replaced",
    )  # fmt: skip


MOVE = MoveKind(
    kind="heal",
    revision=1,
    band="mend",
    label="Heal",
    question="What distracts?",
    sentence="Heal {strength}",
    params=HealParams,
    first="strength",
    place=20,
)
