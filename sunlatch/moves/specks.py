"""Specks: soft round dips that dust leaves on smooth light, all taken out together."""

from ..parameters import Params, number
from .base import MoveKind


class SpecksParams(Params):
    """How far around each is mended."""

    reach: float = number(
        "Reach", default=1.0, low=0.5, high=3.0, step=0.05, unit="×", decimals=2,
        hint="How far around each spot is mended, against what was found",
    )  # fmt: skip


MOVE = MoveKind(
    kind="specks",
    revision=1,
    band="mend",
    label="Specks",
    question="What lies on the sensor?",
    sentence="Specks, {reach} as wide as found",
    params=SpecksParams,
    first="reach",
    place=10,
)
