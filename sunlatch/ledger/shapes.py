"""What was reshaped and nudged: handles and strokes that carry parts of the picture, in the order of the list. Coordinates are
those of the source; how far a handle carries is told on the turned plane, in long edges."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..moves.nudge import MOVE as NUDGE
from ..moves.nudge import NudgeParams
from ..moves.reshape import MOVE as RESHAPE
from ..moves.reshape import ReshapeParams
from ..parameters import Params, Place, choice, number
from .joined import Id

Far = Annotated[float, Field(ge=-1, le=1)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Pin(_Strict):
    """A place held where it is, or carried by dx, dy."""

    x: Place
    y: Place
    dx: Far = 0.0
    dy: Far = 0.0


class BentLine(Params):
    """A line along something that should be straight. points: x, y in turn, at least three places."""

    points: list[Place] = Field(min_length=4, max_length=400)
    what: Literal["straight", "level", "upright"] = choice(
        "Should be", "straight", {"straight": "straight", "level": "level", "upright": "upright"}
    )


class PulledPart(Params):
    """A foreground pulled larger toward its lower edge. outline: x, y in turn."""

    outline: list[Place] = Field(min_length=6, max_length=800)
    amount: float = number(
        "Nearer", default=1.25, low=0.5, high=2.0, step=0.01, unit="×", decimals=2,
        hint="How many times as wide it is at its lower edge",
    )  # fmt: skip
    soft: float = number(
        "Ends over", default=0.12, low=0.02, high=0.4, step=0.005, unit="%", decimals=1, shown_times=100.0,
        hint="How gently it goes over into what was not pulled, in % of the long edge",
    )  # fmt: skip


class ReshapeLine(_Strict):
    """Pins, lines and a part that is pulled larger, met together."""

    kind: Literal["reshape"] = "reshape"
    revision: Annotated[int, Field(ge=1, le=RESHAPE.revision)] = RESHAPE.revision
    id: Id
    on: bool = True
    name: str = Field(default="", max_length=120)
    pins: list[Pin] = Field(default_factory=list, max_length=200)
    lines: list[BentLine] = Field(default_factory=list, max_length=24)
    pulled: list[PulledPart] = Field(default_factory=list, max_length=4)
    params: ReshapeParams = Field(default_factory=ReshapeParams)


class NudgeBrush(Params):
    """The brush that nudges, as it comes."""

    verb: Literal["carry", "swell", "draw_in", "settle", "put_back"] = choice(
        "It", "carry",
        {"carry": "push", "swell": "enlarge", "draw_in": "shrink", "settle": "smooth", "put_back": "restore"},
    )  # fmt: skip
    radius: float = number(
        "Brush", default=0.05, low=0.005, high=0.4, step=0.001, unit="%", decimals=1, shown_times=100.0,
        hint="Its radius, in % of the long edge",
    )  # fmt: skip
    strength: float = number(
        "Strength", default=0.8, low=0.05, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )


class NudgeStroke(NudgeBrush):
    """A stroke of the brush. points: x, y and pressure (0–1) in turn."""

    points: list[Place] = Field(min_length=3, max_length=3000)


class NudgeLine(_Strict):
    """Strokes that carry, swell, draw in, settle and put back."""

    kind: Literal["nudge"] = "nudge"
    revision: Annotated[int, Field(ge=1, le=NUDGE.revision)] = NUDGE.revision
    id: Id
    on: bool = True
    name: str = Field(default="", max_length=120)
    strokes: list[NudgeStroke] = Field(default_factory=list, max_length=200)
    params: NudgeParams = Field(default_factory=NudgeParams)


AnyShape = Annotated[ReshapeLine | NudgeLine, Field(discriminator="kind")]
MOST_SHAPES: int = 40
