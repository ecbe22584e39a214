"""What a scene is made of: one frame, or several joined. The solution of a join is document, its px are cache: another way
of solving tomorrow moves nothing in a scene of today.

All three bases answer the same: which sources they are made of and which of these show what, how light these are, and whether
their px lie as the sensor took them. Which of the three it is, is asked where px and their map are made."""

from math import pi
from typing import Annotated, ClassVar, Final, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..latch import Stroke
from ..parameters import Place

Id = Annotated[str, Field(min_length=1, max_length=64)]
Angle = Annotated[float, Field(ge=-10, le=10)]
"""Radians, of a turn or from ahead: once round and more."""
Rotation = Annotated[list[Angle], Field(min_length=3, max_length=3)]
Two = Annotated[list[Place], Field(min_length=2, max_length=2)]
Px = Annotated[int, Field(ge=16, le=400_000)]
"""A side of a frame, or of what is joined."""
MOST_PX: Final = 2_000_000_000
"""Px of what is joined, at most."""
ROOM: Final = 256
"""Px by which it may be larger than its sphere: its sides are whole numbers of blocks."""
MEMBERS, EXPOSURES, LOANS = 120, 9, 8
"""Frames of a sweep, exposures of a bracket and loans, at most…"""
SOURCES: Final = MEMBERS * EXPOSURES + LOANS + 1
"""…and what a scene can be made of and borrow from, with another sky."""


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class FrameBase(_Strict):
    """The one source there is."""

    kind: Literal["frame"] = "frame"
    as_taken: ClassVar[bool] = True
    """Whether its px lie as a sensor took them, with the lens's faults and the sensor's dust in them."""
    vignetting: ClassVar[None] = None
    """Stops that its lens lost at a corner beyond what is known of it, where it was freed of its faults."""
    anchor: ClassVar[str] = ""
    members: ClassVar[tuple["BracketMember", ...]] = ()
    enabled: ClassVar[tuple["BracketMember", ...]] = ()
    sources: ClassVar[tuple[str, ...]] = ()
    views: ClassVar[tuple[str, ...]] = ()
    brackets: ClassVar[tuple["Bracket", ...]] = ()

    def gain_of(self, source: str) -> float:
        """Stops that were added to the light of a source."""
        return 0.0

    def check(self, known: set[str]) -> None:
        """The first source; others may be lent, or not be any more."""


class LeftOut(_Strict):
    """A frame that found no place, and why."""

    name: str = Field(max_length=255)
    why: str = Field(max_length=400)


class Painted(_Strict):
    """A stroke that says: this frame here. What is painted last counts."""

    source: Id
    stroke: Stroke


class BracketMember(_Strict):
    """One exposure of a bracket. rotation: from the anchor's camera to this one's, as a rotation vector in radians; ev: stops
    more than the anchor it was exposed for; residual: how far its matches lay off, px."""

    source: Id
    rotation: Rotation
    ev: float = Field(ge=-30, le=30)
    on: bool = True
    residual: float = Field(default=0.0, ge=0)


class Bracket(_Strict):
    """Exposures of one view, merged on the px of one of them, the anchor: Ground, coordinates and latches are those of that
    frame. Light is in the anchor's own numbers, and goes on beyond 1. focal: px."""

    kind: Literal["bracket"] = "bracket"
    as_taken: ClassVar[bool] = True
    vignetting: ClassVar[None] = None
    brackets: ClassVar[tuple["Bracket", ...]] = ()
    """The brackets that are merged before it is."""
    revision: Literal[1, 2] = 1
    anchor: Id
    focal: float = Field(gt=1, lt=1e6)
    members: list[BracketMember] = Field(min_length=2, max_length=EXPOSURES)
    left_out: list[LeftOut] = Field(default_factory=list, max_length=MEMBERS)
    painted: list[Painted] = Field(default_factory=list, max_length=400)

    @property
    def enabled(self) -> list[BracketMember]:
        """The members that are in."""
        return [m for m in self.members if m.on]

    @property
    def sources(self) -> list[str]:
        """All the sources it is made of."""
        return [m.source for m in self.members]

    @property
    def views(self) -> list[str]:
        """The sources that show what it shows, each its own part."""
        return [self.anchor]

    @property
    def headroom(self) -> float:
        """Stops beyond 1 at which the shortest exposure that is in clips."""
        return max(0.0, -min(m.ev for m in self.enabled))

    def gain_of(self, source: str) -> float:
        """Stops that were added to the light of a source."""
        return 0.0

    def check(self, known: set[str]) -> None:
        """Raises ValueError where it names what is not among the document's sources, or nothing is left of it."""
        _checked(self, known)


class SweepMember(_Strict):
    """One frame of a sweep. rotation: how the camera was turned, world to camera, as a rotation vector in radians (camera
    axes: x right, y down, z ahead, of the upright frame; world axes likewise, level, ahead where the anchor looked);
    gain: stops to be added so that it is as light as the anchor; size: upright, px; residual: how far its matches lay
    off, px; lens: how it bends, as far as the file or a table says (k0 … k3 of geometry.lens); bracket: the exposures it is
    merged of first, where it is not one frame; source is their anchor then."""

    source: Id
    bracket: Bracket | None = None
    rotation: Rotation
    gain: float = Field(default=0.0, ge=-20, le=20)
    size: list[Px] = Field(min_length=2, max_length=2)
    lens: list[Annotated[float, Field(ge=-1, le=1)]] = Field(
        default_factory=lambda: [0.0] * 4, min_length=4, max_length=4
    )
    on: bool = True
    residual: float = Field(default=0.0, ge=0)


class SweepPair(_Strict):
    """Two sources that see the same: matches that looked alike, that held, and their median distance, px; worst: where they
    lie farthest apart, source coordinates, and how far there, px."""

    a: Id
    b: Id
    matches: int = Field(ge=0)
    held: int = Field(ge=0)
    residual: float = Field(ge=0)
    worst: Two | None = None
    apart: float = Field(default=0.0, ge=0)


class Sweep(_Strict):
    """Frames joined on a sphere. Its light lies on a raster of angles, the master, whose px the anchor's middle has.

    focal: px; density: px of the master per radian; distortion: what the lens bends beyond what is known of it (seen = true · (1 + distortion r²), r = 1 at a corner);
    vignetting: stops lost at a corner beyond what is known; corner: the left top of the master, radians to the right of and
    below ahead; size: of the master, px; unit: the anchor's long edge, px, by which coordinates are divided."""

    kind: Literal["sweep"] = "sweep"
    as_taken: ClassVar[bool] = False
    revision: Literal[1, 2, 3, 4] = 1
    anchor: Id
    focal: float = Field(gt=1, lt=1e6)
    density: float = Field(gt=1, lt=1e6)
    distortion: float = Field(default=0.0, ge=-0.2, le=0.2)
    vignetting: float = Field(default=0.0, ge=-2, le=2)
    corner: Annotated[list[Angle], Field(min_length=2, max_length=2)]
    size: list[Px] = Field(min_length=2, max_length=2)
    unit: Px
    members: list[SweepMember] = Field(min_length=2, max_length=MEMBERS)
    pairs: list[SweepPair] = Field(default_factory=list, max_length=MEMBERS * (MEMBERS - 1) // 2)
    left_out: list[LeftOut] = Field(default_factory=list, max_length=MEMBERS)
    painted: list[Painted] = Field(default_factory=list, max_length=400)

    @model_validator(mode="after")
    def _on_a_sphere(self) -> Self:
        w, h = self.size
        if w * h > MOST_PX:
            raise ValueError(
                f"a join of {w * h / 1e6:.0f} MP is too large; up to {MOST_PX / 1e6:.0f} can be made"
            )
        if w > 2 * pi * self.density + ROOM or h > pi * self.density + ROOM:
            raise ValueError(
                f"{w} × {h} px reach farther than once round at {self.density:.0f} px per radian"
            )
        return self

    @property
    def enabled(self) -> list[SweepMember]:
        """The members that are in."""
        return [m for m in self.members if m.on]

    @property
    def views(self) -> list[str]:
        """The sources that show what it shows, each its own part."""
        return [m.source for m in self.enabled]

    @property
    def brackets(self) -> list[Bracket]:
        """The brackets that are merged before it is."""
        return [m.bracket for m in self.enabled if m.bracket]

    @property
    def headroom(self) -> float:
        """Stops beyond 1 that light reaches at most: where members are brackets."""
        return max((b.headroom for b in self.brackets), default=0.0)

    def gain_of(self, source: str) -> float:
        """Stops that were added to the light of a source."""
        return next((m.gain for m in self.members if m.source == source), 0.0)

    def check(self, known: set[str]) -> None:
        """Raises ValueError where it names what is not among the document's sources, or nothing is left of it."""
        if any(m.bracket and m.bracket.anchor != m.source for m in self.members):
            raise ValueError("base.members[].source is not the anchor of its bracket")
        _checked(self, known)

    @property
    def sources(self) -> list[str]:
        """All the sources it is made of, those of its members' brackets among them."""
        return [
            s
            for m in self.members
            for s in ([e.source for e in m.bracket.members] if m.bracket else [m.source])
        ]


def _checked(base: Sweep | Bracket, known: set[str]) -> None:
    members, made = [m.source for m in base.members], base.sources
    if len(set(made)) != len(made) or not set(made) <= known:
        raise ValueError("base.members names a source twice, or one that is not in the document")
    if not {p.source for p in base.painted} <= set(members):
        raise ValueError("base.painted names a source that is not among the members")
    if base.anchor not in members:
        raise ValueError("base.anchor is not among the members")
    if not base.enabled:
        raise ValueError("base.members are all left out; a join shows at least one")


Base = Annotated[FrameBase | Sweep | Bracket, Field(discriminator="kind")]
