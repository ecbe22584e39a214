"""What Ground can find out about a scene: lines, horizon, lights, ends; and a proposal for all of it."""

from collections.abc import Callable
from typing import TypeVar

from django.http import HttpRequest
from ninja import Router, Schema

from sunlatch.colour.light import NAMED_LIGHTS
from sunlatch.errors import RenderError
from sunlatch.ledger import Scene as Document
from sunlatch.meters import (
    SURE,
    BorderMark,
    Estimate,
    GroundState,
    estimate_fringe,
    estimate_lights,
    find_ends,
    find_horizon,
    find_lines,
    level_by,
    plumb_residual,
    plumbed,
    read_borders,
    read_ground,
)
from sunlatch.moves.plumb import DrawnLine
from sunlatch.parameters import Point
from sunlatch.propose import propose
from sunlatch.render import Development

from .. import services
from ..slots import Rank
from .scenes import Asked, owned, read_document

router = Router(tags=["ground"])
Result = TypeVar("Result")


_LOOKED_AT: dict[str, str] = {}
"""What proposals under way look at, by scene."""


class Looking(Schema):
    """What is looked at."""

    at: str


class Turn(Schema):
    """How the camera stood, in degrees, and by how much the worst line is then still off."""

    lean: float
    swing: float
    roll: float
    off: float


class Level(Schema):
    """Trim's level in degrees."""

    level: float


class Along(Asked):
    """A line drawn along the horizon, in source coordinates."""

    a: Point
    b: Point


class Ends(Schema):
    """Which light prints black and which white, stops."""

    black: float
    white: float


class Fringe(Schema):
    """How much larger the lens drew red and blue than green, in ‰."""

    red: float
    blue: float


class Part(Schema):
    """One thing a proposal set, and why."""

    kind: str
    why: str


class Proposed(Schema):
    """A proposal: the document as it would be, not yet saved."""

    document: Document
    proposals: list[Part]


class NamedLight(Schema):
    """A light with a name: kelvin, tint (Duv × 1000)."""

    name: str
    kelvin: float
    tint: float


def _ask(
    request: HttpRequest, scene_id: str, given: Asked, what: str, work: Callable[[Development], Result],
    rank: Rank = Rank.LOOK,
) -> Result:  # fmt: skip
    """Work on a scene's document in the lane, which somebody waits for."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    with services.lane().asked(f"{found.id}/{what}", 0, rank):
        return services.lane().run(lambda: work(services.development(document)))


@router.post("/scenes/{scene_id}/ground", response=GroundState)
def state(request: HttpRequest, scene_id: str, given: Asked) -> GroundState:
    """What is still open at Ground, what the lens database knows, how far corners are stretched."""
    return _ask(request, scene_id, given, "ground", read_ground, Rank.SURVEY)


@router.post("/scenes/{scene_id}/ground/plumb", response=Turn)
def plumb(request: HttpRequest, scene_id: str, given: Asked) -> Turn:
    """The turn that brings the document's lines upright and level."""

    def work(development: Development) -> Turn:
        lean, swing, roll = plumbed(development)
        turned = development.scene.model_copy(deep=True)
        params = turned.ground.plumb.params
        params.lean, params.swing, params.roll = lean, swing, roll
        turned.ground.plumb.on = True
        off = plumb_residual(development.again(turned)) or 0.0
        return Turn(lean=lean, swing=swing, roll=roll, off=off)

    return _ask(request, scene_id, given, "plumb", work)


@router.post("/scenes/{scene_id}/ground/lines", response=list[DrawnLine])
def lines(request: HttpRequest, scene_id: str, given: Asked) -> list[DrawnLine]:
    """Lines that look built and should be upright."""
    found = _ask(request, scene_id, given, "lines", find_lines)
    if not found:
        raise RenderError("No built lines were found in this picture; draw two along what should be upright.")
    return found


@router.post("/scenes/{scene_id}/ground/horizon", response=Level)
def horizon(request: HttpRequest, scene_id: str, given: Asked) -> Level:
    """The level by a found horizon."""
    found = _ask(request, scene_id, given, "horizon", find_horizon)
    if found is None or found.share < SURE:
        seen = 0 if found is None else found.share * 100
        raise RenderError(
            f"No horizon was found that can be trusted (one runs along {seen:.0f} % of the width). "
            "Draw along it instead; nothing was changed."
        )
    return Level(level=found.level)


@router.post("/scenes/{scene_id}/ground/level", response=Level)
def level(request: HttpRequest, scene_id: str, given: Along) -> Level:
    """The level by a line drawn along the horizon."""
    try:
        return _ask(request, scene_id, given, "level", lambda d: Level(level=level_by(d, given.a, given.b)))
    except ValueError as error:
        raise RenderError(str(error)) from error


@router.post("/scenes/{scene_id}/ground/lights", response=list[Estimate])
def lights(request: HttpRequest, scene_id: str, given: Asked) -> list[Estimate]:
    """What the light may have been, by what is taken for granted."""
    return _ask(request, scene_id, given, "lights", estimate_lights)


@router.post("/scenes/{scene_id}/ground/ends", response=Ends)
def ends(request: HttpRequest, scene_id: str, given: Asked) -> Ends:
    """Ends such that the stated share of the picture lies beyond each."""

    def work(development: Development) -> Ends:
        black, white = find_ends(development, float(development.scene.ground.ends.params.share))
        return Ends(black=black, white=white)

    return _ask(request, scene_id, given, "ends", work)


@router.post("/scenes/{scene_id}/ground/fringe", response=Fringe)
def fringe(request: HttpRequest, scene_id: str, given: Asked) -> Fringe:
    """Lateral colour, read off the frame's own edges."""
    found = _ask(request, scene_id, given, "fringe", estimate_fringe)
    if found is None:
        raise RenderError("Too few strong edges lie away from the middle to read the colour fringe from.")
    return Fringe(red=round(found[0] * 1000, 2), blue=round(found[1] * 1000, 2))


@router.post("/scenes/{scene_id}/ground/borders", response=list[BorderMark])
def borders(request: HttpRequest, scene_id: str, given: Asked) -> list[BorderMark]:
    """What pulls the eye out along the edges."""
    return _ask(request, scene_id, given, "borders", read_borders)


@router.post("/scenes/{scene_id}/ground/propose", response=Proposed)
def start(request: HttpRequest, scene_id: str, given: Asked) -> Proposed:
    """Start for me: a proposal, each part with its reason."""

    def work(development: Development) -> Proposed:
        document, proposals = propose(development, lambda looks: _LOOKED_AT.update({scene_id: looks}))
        return Proposed(document=document, proposals=[Part(kind=p.kind, why=p.why) for p in proposals])

    try:
        return _ask(request, scene_id, given, "propose", work)
    finally:
        _LOOKED_AT.pop(scene_id, None)


@router.get("/scenes/{scene_id}/ground/propose", response=Looking)
def looking(request: HttpRequest, scene_id: str) -> Looking:
    """What a proposal that is under way looks at now; "" where none is."""
    return Looking(at=_LOOKED_AT.get(owned(request, scene_id).id, ""))


@router.get("/lights", response=list[NamedLight])
def named(request: HttpRequest) -> list[NamedLight]:
    """Lights by name."""
    return [
        NamedLight(name=n, kelvin=light.kelvin, tint=light.duv * 1000) for n, light in NAMED_LIGHTS.items()
    ]
