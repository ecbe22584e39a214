"""Base exposure: the whole frame's exposure, once."""

from ..parameters import Params, number
from .base import MoveKind


class BaseExposureParams(Params):
    """Where the frame's light lies on the ladder before anything else."""

    ev: float = number(
        "Base exposure", default=0.0, low=-5.0, high=8.0, step=0.1, unit="stops", signed=True, decimals=1
    )


MOVE = MoveKind(
    kind="base_exposure",
    revision=1,
    band="ground",
    label="Base exposure",
    question="How bright?",
    sentence="Base exposure {ev}",
    params=BaseExposureParams,
    first="ev",
    place=20,
)
