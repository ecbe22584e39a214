"""Projection: how a picture joined on a sphere is laid flat. The forms are in geometry/projection.py."""

from typing import Literal

from ..parameters import Params, choice, number
from .base import MoveKind


class ProjectionParams(Params):
    """Which projection, where it looks, and how strongly Panini's draws its sides together."""

    kind: Literal["rectilinear", "panini", "cylindrical", "mercator", "equirectangular", "stereographic"] = choice(
        "Projection", "cylindrical",
        {"rectilinear": "rectilinear", "panini": "Panini", "cylindrical": "cylindrical", "mercator": "Mercator",
         "equirectangular": "equirectangular", "stereographic": "stereographic"},
    )  # fmt: skip
    facing: float = number(
        "Facing", default=0.0, low=-180.0, high=180.0, step=0.5, unit="°", signed=True, decimals=1,
        hint="How far to the right of the middle frame it looks: there it is stretched the least",
    )  # fmt: skip
    squeeze: float = number(
        "Squeeze", default=1.0, low=0.0, high=1.5, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="Panini only: how strongly the sides are drawn together; 0 is rectilinear",
    )  # fmt: skip
    stretch: float = number(
        "Borders stretched", default=0.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How far the ragged outline is drawn out to the edges, smoothly; 0 leaves it",
    )  # fmt: skip


MOVE = MoveKind(
    kind="projection",
    revision=1,
    band="ground",
    label="Projection",
    question="What shape?",
    sentence="{kind}, facing {facing}",
    params=ProjectionParams,
    first="facing",
    place=10,
)
