"""Wire: a thin line across the picture, mended over its own width."""

from ..parameters import Params, number
from .base import MoveKind


class WireParams(Params):
    """How wide it is taken to be."""

    width: float = number(
        "Width", default=0.0006, low=0.0001, high=0.01, step=0.00005, unit="%", decimals=3, shown_times=100.0,
        hint="Of the line and its soft edge, in % of the long edge",
    )  # fmt: skip


MOVE = MoveKind(
    kind="wire",
    revision=2,
    band="mend",
    label="Wire",
    question="What distracts?",
    sentence="Wire, {width} wide",
    params=WireParams,
    first="width",
    place=40,
)
