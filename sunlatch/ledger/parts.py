"""What a scene document is made of: sources, what a latch reads at, and lines before their kinds are known."""

import uuid
from typing import TYPE_CHECKING, Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..latch import KeptFinding
from ..latch.colour import ColourParams
from ..moves.loan import MOVE as LOAN
from ..moves.loan import LoanParams
from ..parameters import Params, number
from .joined import Id, Rotation


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


def new_id() -> str:
    return str(uuid.uuid4())


class Source(Strict):
    """A frame: its content hash, and where it was last seen (relative to the document)."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    path: str = Field(default="", max_length=4096)


class ReadAt(Strict):
    """The colour of light and base exposure at which a latch reads the picture. Kept in the latch,
    so that later changes of Ground do not shift it; "read again" renews them."""

    kelvin: float = Field(ge=1667, le=25000)
    duv: float = Field(ge=-0.05, le=0.05)
    base_exposure: float = Field(ge=-5, le=8)


class EdgeTrue(Params):
    """Edge-true refinement of a latch."""

    on: bool = True
    reach: float = number(
        "Reach", default=0.004, low=0.0008, high=0.05, step=0.0002, unit="%", decimals=2,
        shown_times=100.0, hint="How far the mask may move to meet an edge, in % of the long edge",
    )  # fmt: skip
    texture: float = number(
        "Leave texture under", default=0.4, low=0.02, high=3.0, step=0.02, unit="stops", decimals=2,
        hint="Differences smaller than this are not taken for edges",
    )  # fmt: skip


SPARE_EDGES: Final = {"shadows": -3.0, "highlights": 1.5}
"""Where a fresh spare clause begins, in stops."""


class Spare(Params):
    """A spare clause: keep a move off the shadows, the highlights or a colour, without painting."""

    what: Literal["shadows", "highlights", "colour"]
    edge: float = number(
        "from", default=0.0, low=-12.0, high=8.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    soft: float = number("softly over", default=1.5, low=0.1, high=6.0, step=0.1, unit="stops")
    colour: ColourParams = Field(default_factory=ColourParams)
    """Which colour, where it is one that is spared."""
    read_at: ReadAt


class IngredientLine(Strict):
    """One term of a latch."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    kind: str
    revision: int = Field(default=1, ge=1)
    join: Literal["add", "keep_only", "take_away"] = "add"
    invert: bool = False
    on: bool = True
    found: KeptFinding | None = None
    """What was found in the frame when the scene was saved; shown where finders would say something else by now."""
    if TYPE_CHECKING:
        params: Any


class Group(Strict):
    """Lines of the Light band that are switched together; each keeps its own switch."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=120)
    on: bool = True


class MoveLine(Strict):
    """One line of the Light band."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    kind: str
    revision: int = Field(default=1, ge=1)
    name: str = Field(default="", max_length=120)
    note: str = Field(default="", max_length=2000)
    on: bool = True
    strength: float = number(
        "Strength", default=1.0, low=0.0, high=2.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    latch: str | None = None
    group: str | None = None
    spare: list[Spare] = Field(default_factory=list, max_length=4)
    if TYPE_CHECKING:
        params: Any


class GroundLine(Strict):
    """One line of the Ground band, which is always there. Off, it does nothing."""

    on: bool = True
    why: str = Field(default="", max_length=400)
    """What the program said when it proposed this; empty once it is set by hand."""
    if TYPE_CHECKING:
        revision: int
        params: Any


class LatchedGroundLine(GroundLine):
    """One that may be latched."""

    latch: str | None = None
    spare: list[Spare] = Field(default_factory=list, max_length=4)


class LoanLine(Strict):
    """A line of the Join band: part of a second frame, aligned to the scene's. rotation: from the scene's camera
    (of a sweep: its world) to its own, as a rotation vector in radians; focal: of both, px; ev: stops more than the scene's frame it was exposed for."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    kind: Literal["loan"] = "loan"
    revision: Annotated[int, Field(ge=1, le=LOAN.revision)] = LOAN.revision
    source: Id
    rotation: Rotation
    focal: float = Field(gt=1, lt=1e6)
    ev: float = Field(default=0.0, ge=-20, le=20)
    on: bool = True
    strength: float = number(
        "Strength", default=1.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    latch: str | None = None
    spare: list[Spare] = Field(default_factory=list, max_length=4)
    params: LoanParams = Field(default_factory=LoanParams)
