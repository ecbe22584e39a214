"""Ends: which light prints black and which prints white."""

from ..parameters import Params, number, optional_number
from .base import MoveKind


class EndsParams(Params):
    """In stops on the ladder. White left alone is the clip level after base exposure, so light
    that clipped in the camera is paper white, not grey."""

    black: float = number(
        "Prints black", default=-8.0, low=-14.0, high=-1.0, step=0.1, unit="stops", signed=True
    )
    white: float | None = optional_number(
        "Prints white", low=0.5, high=12.0, step=0.1, unit="stops", signed=True,
        automatic="where the frame clips",
    )  # fmt: skip
    share: float = number(
        "Allowed clipping", default=0.001, low=0.0, high=0.05, step=0.0005, unit="%", decimals=2, shown_times=100.0,
        hint="When the ends are found: the share of the picture that may lie beyond each",
    )  # fmt: skip


MOVE = MoveKind(
    kind="ends",
    revision=1,
    band="ground",
    label="Ends",
    question="How bright?",
    sentence="Prints black at {black}, white {white}",
    params=EndsParams,
    first="white",
    place=40,
)
