"""Loan: part of a second frame, aligned to the scene, with light of its own. What it is latched to says where."""

from ..parameters import Params, number
from .base import MoveKind


class LoanParams(Params):
    """How much lighter it is brought than it was."""

    stops: float = number(
        "Light", default=0.0, low=-5.0, high=5.0, step=0.05, unit="stops", signed=True, decimals=1,
        hint="Lighter or darker than the same place of the scene is",
    )  # fmt: skip


MOVE = MoveKind(
    kind="loan",
    revision=2,
    band="join",
    label="Loan",
    question="What belongs together?",
    sentence="Loan {stops}",
    params=LoanParams,
    first="stops",
    place=5,
)
