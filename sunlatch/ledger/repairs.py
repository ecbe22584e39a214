"""Repairs: what was taken out of a place, as instructions. They lie on the raster beneath everything else, in the order of the
list, and follow every later change of light, lens, crop and projection. Coordinates are those of the source."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..blobs import NAME
from ..latch import Stroke
from ..moves.clone import MOVE as CLONE
from ..moves.clone import CloneParams
from ..moves.heal import MOVE as HEAL
from ..moves.heal import HealParams
from ..moves.new_sky import MOVE as NEW_SKY
from ..moves.new_sky import NewSkyParams
from ..moves.regrow import MOVE as REGROW
from ..moves.regrow import RegrowParams
from ..moves.specks import MOVE as SPECKS
from ..moves.specks import SpecksParams
from ..moves.wire import MOVE as WIRE
from ..moves.wire import WireParams
from ..parameters import Params, Place, number, switch
from .joined import Id

Stops = Annotated[float, Field(ge=-20, le=20)]
REPAIRS_MOST: int = 1000
"""Repairs in a scene, at most; and spots in a line of Specks."""


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class AreaMask(_Strict):
    """A painted area as a grey picture (PNG, 8 bits) among the scene's blobs. box: where it lies, x0, y0, x1, y1."""

    mask: str = Field(pattern=NAME)
    box: Annotated[list[Place], Field(min_length=4, max_length=4)]


class Area(_Strict):
    """A place to be mended: strokes, an outline (x, y in turn), or a mask; together where there are several."""

    strokes: list[Stroke] = Field(default_factory=list, max_length=60)
    outline: list[Place] = Field(default_factory=list, max_length=4000)
    mask: AreaMask | None = None

    @model_validator(mode="after")
    def _something(self) -> "Area":
        if not self.strokes and len(self.outline) < 6 and self.mask is None:
            raise ValueError("the area is empty: it has no stroke, no mask, and no outline of three points")
        return self


class Take(Params):
    """Where light is taken from: so far from the place (long edges), turned (°) and scaled about its own middle, mirrored left
    to right."""

    dx: Place
    dy: Place
    turn: float = number(
        "Turned", default=0.0, low=-180.0, high=180.0, step=1.0, unit="°", signed=True, decimals=0
    )
    scale: float = number(
        "Scaled", default=1.0, low=0.25, high=4.0, step=0.02, unit="%", decimals=0, shown_times=100.0
    )
    mirror: bool = switch("Mirrored", False)


class Brush(Params):
    """The brush that repairs are painted with, as it comes."""

    size: float = number(
        "Brush", default=0.008, low=0.001, high=0.15, step=0.0005, unit="%", decimals=2, shown_times=100.0,
        hint="Its radius, in % of the long edge",
    )  # fmt: skip
    soft: float = number(
        "Softness", default=0.3, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="The share of its radius over which it ends",
    )  # fmt: skip


class Speck(_Strict):
    """A speck. radius: in long edges, to where it has all but ended; dx, dy: where its light is taken from."""

    x: Place
    y: Place
    radius: float = Field(gt=0, le=0.1)
    dx: Place
    dy: Place
    on: bool = True


class _Repair(_Strict):
    id: Id
    on: bool = True
    name: str = Field(default="", max_length=120)
    note: str = Field(default="", max_length=2000)


class SpecksRepair(_Repair):
    """Specks found or pointed at, each of which may be switched off."""

    kind: Literal["specks"] = "specks"
    revision: Annotated[int, Field(ge=1, le=SPECKS.revision)] = SPECKS.revision
    spots: list[Speck] = Field(min_length=1, max_length=REPAIRS_MOST)
    params: SpecksParams = Field(default_factory=SpecksParams)


class HealRepair(_Repair):
    """Texture of another place, light and colour of this one's edge."""

    kind: Literal["heal"] = "heal"
    revision: Annotated[int, Field(ge=1, le=HEAL.revision)] = HEAL.revision
    area: Area
    take: Take
    params: HealParams = Field(default_factory=HealParams)


class CloneRepair(_Repair):
    """Another place as it is."""

    kind: Literal["clone"] = "clone"
    revision: Annotated[int, Field(ge=1, le=CLONE.revision)] = CLONE.revision
    area: Area
    take: Take
    params: CloneParams = Field(default_factory=CloneParams)


class WireRepair(_Repair):
    """A thin line. path: x, y in turn, as it was traced."""

    kind: Literal["wire"] = "wire"
    revision: Annotated[int, Field(ge=1, le=WIRE.revision)] = WIRE.revision
    path: list[Place] = Field(min_length=4, max_length=4000)
    params: WireParams = Field(default_factory=WireParams)


class RegrowRepair(_Repair):
    """An area filled by patches of elsewhere. map: among the scene's blobs, where every px is taken from; seed: what it
    was begun with; source: what it may be grown from, and spared: what not, where that was said."""

    kind: Literal["regrow"] = "regrow"
    revision: Annotated[int, Field(ge=1, le=REGROW.revision)] = REGROW.revision
    area: Area
    source: Area | None = None
    spared: Area | None = None
    map: str = Field(pattern=NAME)
    seed: int = Field(default=0, ge=0)
    params: RegrowParams = Field(default_factory=RegrowParams)


class PlacedSky(_Strict):
    """The sky of another frame, let in through a latch. level: stops to be added to it so that it is as light as the sky that
    was there; shed: stops more that its colours are than that sky's were, then (working red, green, blue); horizon: where the
    scene's lies, in heights of the upright frame."""

    id: Id
    kind: Literal["new_sky"] = "new_sky"
    revision: Annotated[int, Field(ge=1, le=NEW_SKY.revision)] = NEW_SKY.revision
    source: Id
    latch: Id
    on: bool = True
    level: float = Field(default=0.0, ge=-20, le=20)
    shed: Annotated[list[Stops], Field(min_length=3, max_length=3)] = Field(
        default_factory=lambda: [0.0, 0.0, 0.0]
    )
    horizon: float = Field(default=1.0, ge=-2, le=3)
    params: NewSkyParams = Field(default_factory=NewSkyParams)


AnyRepair = Annotated[
    SpecksRepair | HealRepair | CloneRepair | WireRepair | RegrowRepair, Field(discriminator="kind")
]
