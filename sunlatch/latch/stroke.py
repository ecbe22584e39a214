"""What is said of a stroke, and of a sheet of strokes."""

from functools import cached_property

from pydantic import BaseModel, ConfigDict, Field

from ..blobs import NAME
from ..parameters import Place


class Stroke(BaseModel):
    """points: x, y and pressure (0–1) in turn; x, y in source coordinates. radius: of the brush at full
    pressure, in long edges. soft: the share of the radius over which it ends. flow: how much it lays down."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    points: list[Place] = Field(min_length=3, max_length=9000)
    radius: float = Field(gt=0, le=1)
    soft: float = Field(ge=0, le=1)
    flow: float = Field(gt=0, le=1)
    erase: bool = False
    seek: bool = False

    @cached_property
    def packed(self) -> bytes:
        """What it says, to be known by."""
        return self.model_dump_json().encode()


class Sheet(BaseModel):
    """Strokes by the sheet they are on. count: how many."""

    model_config = ConfigDict(extra="forbid")

    sheet: str = Field(pattern=NAME)
    count: int = Field(ge=1, le=20_000)
