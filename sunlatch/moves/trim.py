"""Trim: level, format and crop. It only says what is shown; no px is ever thrown away."""

import re
from typing import Any, Final, Literal, Self

from pydantic import model_validator

from ..parameters import Params, Point, choice, number, optional_number, optional_point, switch
from .base import MoveKind

SHAPES: Final = {
    "3:2": 1.5, "5:4": 1.25, "1:1": 1.0, "16:9": 16 / 9, "2:1": 2.0, "paper": 2.0**0.5,
}  # fmt: skip
"""Width over height of the formats that have one, lying. Paper: the A sizes (ISO 216)."""
RATIO: Final = r"\d{1,4}(?:\.\d{1,3})?:\d{1,4}(?:\.\d{1,3})?"
RATIO_LIMIT: Final = 20.0
"""No format is longer than so many times its height."""


class TrimParams(Params):
    """centre: the crop's middle, on the thing it lies on. width, height: in long edges of the frame;
    where a format gives the shape, height is not asked."""

    level: float = number(
        "Level", default=0.0, low=-45.0, high=45.0, step=0.1, unit="°", signed=True, decimals=1,
        hint="The picture is turned clockwise by this",
    )  # fmt: skip
    format: str = choice(
        "Format", "frame",
        {"frame": "as the frame", "free": "free", "3:2": "3:2", "5:4": "5:4", "1:1": "1:1", "16:9": "16:9",
         "2:1": "2:1", "paper": "as paper"},
        or_else=rf"^(frame|free|paper|{RATIO})$",
    )  # fmt: skip
    way: Literal["lying", "standing"] = choice(
        "Orientation", "lying", {"lying": "landscape", "standing": "portrait"}
    )
    centre: Point | None = optional_point("Crop", "the best place")
    width: float | None = optional_number(
        "Width", low=0.001, high=4.0, step=0.01, decimals=3, automatic="all there is"
    )
    height: float | None = optional_number(
        "Height", low=0.001, high=4.0, step=0.01, decimals=3, automatic="all there is"
    )
    stretch: float = number(
        "Stretch", default=0.0, low=-0.6, high=0.6, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0, hint="Taller, or wider below 0",
    )  # fmt: skip
    across: float = number(
        "Shift sideways", default=0.0, low=-0.5, high=0.5, step=0.005, unit="%", signed=True, decimals=1,
        shown_times=100.0, hint="The picture to the right, in its frame",
    )  # fmt: skip
    down: float = number(
        "Place down", default=0.0, low=-0.5, high=0.5, step=0.005, unit="%", signed=True, decimals=1,
        shown_times=100.0, hint="The picture down, in its frame",
    )  # fmt: skip
    empty: bool = switch(
        "Show empty corners", False, hint="They print white; else the crop keeps clear of them"
    )

    @model_validator(mode="before")
    @classmethod
    def _as_written(cls, given: Any) -> Any:
        """A ratio as it is said: 4:5 stands, and is 5:4 standing."""
        chosen = given.get("format") if isinstance(given, dict) else None
        if not isinstance(chosen, str) or not re.fullmatch(RATIO, chosen):
            return given
        across, down = chosen.split(":")
        if 0 < float(across) < float(down):
            return {**given, "format": f"{down}:{across}", "way": "standing"}
        return given

    @model_validator(mode="after")
    def _a_shape(self) -> Self:
        if ":" in self.format:
            across, down = (float(v) for v in self.format.split(":"))
            if not (down > 0 and across > 0 and across / down <= RATIO_LIMIT):
                raise ValueError(
                    f"a format is a ratio like 7:5, at most {RATIO_LIMIT:.0f} to 1, not {self.format}"
                )
        return self

    @model_validator(mode="after")
    def _something(self) -> Self:
        for side in (self.width, self.height):
            if side is not None and side < 0.02:
                raise ValueError("a crop this small would leave nothing of the picture")
        return self

    def aspect(self, own: float) -> float | None:
        """Width over height that is asked for; None for free. own: the upright frame's."""
        if self.format == "free":
            return None
        if self.format == "frame":
            return own
        lying: float = SHAPES.get(self.format, 0.0)
        if not lying:
            across, down = (float(v) for v in self.format.split(":"))
            lying = across / down
        return lying if self.way == "lying" else 1 / lying


MOVE = MoveKind(
    kind="trim",
    revision=1,
    band="ground",
    label="Trim",
    question="What shape?",
    sentence="Trim {format}, level {level}",
    params=TrimParams,
    first="level",
    place=16,
)
