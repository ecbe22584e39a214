"""The scene document, the one truth about a picture in the making.

JSON, UTF-8, `schema_version` first. Lines of moves and ingredients are typed by their kind; the
types are built from the moves and ingredients that exist, so a new one is valid at once.
"""

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self

from pydantic import BaseModel, Field, create_model, model_validator

from ..latch import INGREDIENT_KINDS
from ..moves import GROUND_KINDS, LIGHT_KINDS
from ..parameters import number
from .circles import no_circle
from .joined import LOANS, SOURCES, Base, FrameBase
from .migrations import SCHEMA_VERSION
from .paper import PAPERS, Kept, PaperParams, ProfileRef
from .parts import (
    EdgeTrue,
    GroundLine,
    Group,
    IngredientLine,
    LatchedGroundLine,
    LoanLine,
    MoveLine,
    ReadAt,
    Source,
    Strict,
    new_id,
)
from .repairs import REPAIRS_MOST, AnyRepair, PlacedSky
from .shapes import MOST_SHAPES, AnyShape


def _camel(kind: str) -> str:
    return "".join(part.capitalize() for part in kind.split("_"))


def _line_types(base: type[BaseModel], kinds: dict[str, Any], suffix: str) -> Any:
    made: list[Any] = []
    for kind in kinds.values():
        fields: dict[str, Any] = {
            "kind": (Literal[kind.kind], kind.kind),
            "revision": (Annotated[int, Field(ge=1, le=kind.revision)], kind.revision),
            "params": (kind.params, Field(default_factory=kind.params)),
        }
        made.append(create_model(_camel(kind.kind) + suffix, __base__=base, **fields))
    if len(made) == 1:
        return made[0]
    return Annotated[reduce(or_, made), Field(discriminator="kind")]


def _ground_type() -> Any:
    fields: dict[str, Any] = {}
    for kind in GROUND_KINDS.values():
        line = create_model(
            f"{_camel(kind.kind)}Ground",
            __base__=LatchedGroundLine if kind.latched else GroundLine,
            revision=(Annotated[int, Field(ge=1, le=kind.revision)], kind.revision),
            params=(kind.params, Field(default_factory=kind.params)),
        )
        fields[kind.kind] = (line, Field(default_factory=line))
    return create_model("Ground", __base__=Strict, **fields)


if TYPE_CHECKING:
    AnyIngredient = IngredientLine
    AnyMove = MoveLine
    Ground = Any
else:
    AnyIngredient = _line_types(IngredientLine, INGREDIENT_KINDS, "Ingredient")
    AnyMove = _line_types(MoveLine, LIGHT_KINDS, "Move")
    Ground = _ground_type()


class NewSky(PlacedSky):
    """A new sky, with what was done to its frame before it came: that frame's own Ground, and its own repairs."""

    ground: Ground = Field(default_factory=Ground)
    repairs: list[AnyRepair] = Field(default_factory=list, max_length=REPAIRS_MOST)


class Latch(Strict):
    """A named, live mask."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=120)
    ingredients: list[AnyIngredient] = Field(default_factory=list, max_length=64)
    invert: bool = False
    strength: float = number(
        "Strength", default=1.0, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0
    )
    edge_true: EdgeTrue = Field(default_factory=EdgeTrue)
    fine_edges: bool = False
    """Matted along its edges, twig by twig, instead of edge-true."""
    grow: float = number(
        "Grow", default=0.0, low=-60.0, high=60.0, step=1.0, unit="px", signed=True, decimals=0,
        hint="Moves its edge outward, in px of the frame; negative values shrink it",
    )  # fmt: skip
    feather: float = number(
        "Feather", default=0.0, low=0.0, high=300.0, step=1.0, unit="px", decimals=0,
        hint="Softens its edge over so many px of the frame on both sides",
    )  # fmt: skip
    read_at: ReadAt


class Paper(Strict):
    """A printing condition. moves: lines of Light for this paper alone."""

    id: str = Field(default_factory=new_id, min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=120)
    profile: ProfileRef | None = None
    params: PaperParams = Field(default_factory=PaperParams)
    moves: list[AnyMove] = Field(default_factory=list, max_length=20)


class Scene(Strict):
    """A picture in the making."""

    schema_version: Literal[9] = SCHEMA_VERSION
    name: str = Field(default="", max_length=200)
    sources: list[Source] = Field(min_length=1, max_length=SOURCES)
    base: Base = Field(default_factory=FrameBase)
    loans: list[LoanLine] = Field(default_factory=list, max_length=LOANS)
    ground: Ground = Field(default_factory=Ground)
    repairs: list[AnyRepair] = Field(default_factory=list, max_length=REPAIRS_MOST)
    sky: NewSky | None = None
    shapes: list[AnyShape] = Field(default_factory=list, max_length=MOST_SHAPES)
    latches: list[Latch] = Field(default_factory=list, max_length=200)
    moves: list[AnyMove] = Field(default_factory=list, max_length=200)
    groups: list[Group] = Field(default_factory=list, max_length=100)
    papers: list[Paper] = Field(default_factory=list, max_length=PAPERS)
    paper: str | None = None
    """The paper it is proofed on; None for none."""
    keeps: list[Kept] = Field(default_factory=list, max_length=100)
    """Kept states, where it travels as a file; a server keeps them as revisions."""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        ids = [latch.id for latch in self.latches] + [move.id for move in self.moves]
        ids += [i.id for latch in self.latches for i in latch.ingredients] + [g.id for g in self.groups]
        ids += [key for paper in self.papers for key in (paper.id, *(move.id for move in paper.moves))]
        ids += [line.id for lines in (self.loans, self.repairs, self.shapes) for line in lines]
        if len(ids) != len(set(ids)):
            raise ValueError("two things in the document have the same id")
        self._based()
        known = {latch.id for latch in self.latches}
        groups = {group.id for group in self.groups}
        for n, move in enumerate(self.moves):
            if move.group is not None and move.group not in groups:
                raise ValueError(f"moves[{n}].group names a group that is not in the document")
            if move.latch is not None and move.latch not in known:
                raise ValueError(f"moves[{n}].latch names a latch that is not in the document")
        for n, paper in enumerate(self.papers):
            for k, move in enumerate(paper.moves):
                if move.group is not None or (move.latch is not None and move.latch not in known):
                    raise ValueError(
                        f"papers[{n}].moves[{k}] names a group, or a latch that is not in the document"
                    )
        if self.paper is not None and self.paper not in {paper.id for paper in self.papers}:
            raise ValueError("paper names a paper that is not in the document")
        if self.sky is not None and self.sky.latch not in known:
            raise ValueError("sky.latch names a latch that is not in the document")
        for n, loan in enumerate(self.loans):
            if loan.latch is not None and loan.latch not in known:
                raise ValueError(f"loans[{n}].latch names a latch that is not in the document")
        no_circle(self.latches)
        for kind in GROUND_KINDS:
            held = getattr(getattr(self.ground, kind), "latch", None)
            if held is not None and held not in known:
                raise ValueError(f"ground.{kind}.latch names a latch that is not in the document")
        return self

    def _based(self) -> None:
        """Raises ValueError where the base names what is not among the sources."""
        known = [source.id for source in self.sources]
        if len(set(known)) != len(known):
            raise ValueError("two sources have the same id")
        own = self.made_from
        lent = self.layer_sources
        if not lent <= set(known) - own:
            raise ValueError(
                "a loan or a sky names a source that is not in the document, or that the scene is made of"
            )
        self.base.check(set(known))

    @property
    def made_from(self) -> set[str]:
        """The sources it is made of."""
        return set(self.base.sources) or {self.sources[0].id}

    @property
    def layer_sources(self) -> set[str]:
        """The sources it is not made of, but that something of is brought from."""
        return {loan.source for loan in self.loans} | ({self.sky.source} if self.sky else set())

    def source(self, key: str) -> Source:
        """A source by id. Raises KeyError."""
        return {source.id: source for source in self.sources}[key]

    @property
    def anchor(self) -> Source:
        """The source whose light and size the scene goes by."""
        return self.source(self.base.anchor) if self.base.anchor else self.sources[0]

    @property
    def views(self) -> list[Source]:
        """The sources that show what it shows, each its own part: what another frame can be matched with."""
        return [self.source(key) for key in self.base.views] or [self.anchor]

    def latch(self, key: str) -> Latch | None:
        """A latch by id or by name (names are compared without case)."""
        for latch in self.latches:
            if latch.id == key:
                return latch
        for latch in self.latches:
            if latch.name.casefold() == key.casefold():
                return latch
        return None

    @property
    def on_paper(self) -> Paper | None:
        """The paper it is proofed on."""
        return next((paper for paper in self.papers if paper.id == self.paper), None)

    def for_paper(self, paper: Paper | None) -> "Scene":
        """The same as it is printed on a paper: with that paper's own lines above those of Light."""
        if paper is None or not paper.moves:
            return self
        return self.model_copy(update={"moves": [*self.moves, *paper.moves]})

    def working(self) -> list[MoveLine]:
        """The lines of Light that are on, and whose group is."""
        off = {group.id for group in self.groups if not group.on}
        return [move for move in self.moves if move.on and move.group not in off]

    def _latched(self) -> list[tuple[str, str]]:
        """Lines that are on and what each is latched to: (id, or kind of a Ground line, latch)."""
        lines = [(line.id, line) for line in (*self.working(), *self.loans, self.sky) if line and line.on]
        ground = [(kind, getattr(self.ground, kind)) for kind in GROUND_KINDS]
        lines += [(kind, line) for kind, line in ground if line.on]
        return [(key, held) for key, line in lines if (held := getattr(line, "latch", None))]

    def in_use(self) -> list[Latch]:
        """The latches the picture depends on: those of lines that are on, and what these are made of."""
        held = {latch for _, latch in self._latched()}
        return self.made_of([latch for latch in self.latches if latch.id in held])

    def holder(self, latch: Latch) -> str:
        """The first line that is on and holds on to a latch, of itself or by another; "" where none does."""
        for key, held in self._latched():
            made_of = self.made_of([one for one in self.latches if one.id == held])
            if any(one.id == latch.id for one in made_of):
                return key
        return ""

    def made_of(self, latches: list[Latch]) -> list[Latch]:
        """Latches and all the latches they are made of."""
        known = {latch.id: latch for latch in self.latches}
        out = {latch.id: latch for latch in latches}
        left = list(out.values())
        while left:
            for line in left.pop().ingredients:
                other = known.get(line.params.latch) if line.kind == "another" and line.on else None
                if other is not None and other.id not in out:
                    out[other.id] = other
                    left.append(other)
        return list(out.values())
