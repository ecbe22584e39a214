"""Regrow: an area filled from what surrounds it, patch by patch. Revision 1 was not led to the light along its edge."""

from ..parameters import Params, number
from .base import MoveKind


class RegrowParams(Params):
    """How it meets what is around it."""

    fit: float = number(
        "Fit the light", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How far its light and colour are led to those along the edge",
    )  # fmt: skip


MOVE = MoveKind(
    kind="regrow",
    revision=2,
    band="mend",
    label="Regrow",
    question="What should not be there?",
    sentence="Regrow, fitted {fit}",
    params=RegrowParams,
    first="fit",
    place=50,
)
