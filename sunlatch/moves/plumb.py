"""Plumb: lines that should be upright or level, and the turn of the camera that makes them so."""

from typing import Literal, Self

from pydantic import BaseModel, ConfigDict, model_validator

from ..parameters import Params, Point, drawn, number
from .base import MoveKind


class DrawnLine(BaseModel):
    """A line along something that should be upright or level; ends in source coordinates."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    a: Point
    b: Point
    what: Literal["upright", "level"]

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if abs(self.a.x - self.b.x) + abs(self.a.y - self.b.y) < 1e-4:
            raise ValueError("a line needs two ends")
        return self


class PlumbParams(Params):
    """How the camera stood, to be undone; and the lines it was found from."""

    lines: list[DrawnLine] = drawn("Lines", 24)
    roll: float = number(
        "Roll", default=0.0, low=-45.0, high=45.0, step=0.1, unit="°", signed=True, decimals=1,
        hint="How far it was rolled clockwise",
    )  # fmt: skip
    lean: float = number(
        "Lean", default=0.0, low=-40.0, high=40.0, step=0.1, unit="°", signed=True, decimals=1,
        hint="How far the camera was tipped up",
    )  # fmt: skip
    swing: float = number(
        "Swing", default=0.0, low=-40.0, high=40.0, step=0.1, unit="°", signed=True, decimals=1,
        hint="How far it was turned to the right",
    )  # fmt: skip


MOVE = MoveKind(
    kind="plumb",
    revision=1,
    band="ground",
    label="Plumb",
    question="What shape?",
    sentence="Plumb: roll {roll}, lean {lean}, swing {swing}",
    params=PlumbParams,
    first="roll",
    place=14,
)
