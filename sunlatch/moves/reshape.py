"""Reshape: what should be straight made straight, what should lie elsewhere carried there, a foreground pulled larger."""

from ..parameters import Params, number, switch
from .base import MoveKind


class ReshapeParams(Params):
    """How far a handle is felt, and whether the picture's edges stay."""

    reach: float = number(
        "Reach", default=0.25, low=0.05, high=1.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="How far around a pin or a line the picture goes with it, in % of the long edge",
    )  # fmt: skip
    edges: bool = switch("Edges stay", True, hint="What lies on an edge of the frame only slides along it")


MOVE = MoveKind(
    kind="reshape",
    revision=1,
    band="mend",
    label="Reshape",
    question="What shape?",
    sentence="Reshape, {reach} around",
    params=ReshapeParams,
    first="reach",
    place=70,
)
