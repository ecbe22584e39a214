"""A new sky: whose fits, what it is let in by, and how it belongs."""

from functools import partial

from django.http import HttpRequest
from ninja import Router, Schema

from sunlatch.errors import MendError
from sunlatch.layers import WATER
from sunlatch.ledger import (
    Latch,
    NewSky,
    Source,
    new_ingredient,
    sky_latch,
)
from sunlatch.ledger import Scene as Document
from sunlatch.meters import Belonging, Fit, fit, glance, read_belongs
from sunlatch.render import Development
from sunlatch.running.progress import phase, report

from .. import services
from ..models import Frame
from ..progress import known_as
from ..slots import Rank
from .gather import FrameLine, frame_line
from .mending import Mending, on_light, patiently
from .people import Problem
from .scenes import frame_and_source, owned, read_document

router = Router(tags=["mend"])
MOST_SKIES = 300
"""Frames of an outing that are looked at for their skies; the rest is offered after these."""
LIKELY = 2
"""How many of the skies that are offered first are looked at closely before they are asked for."""


class Bringing(Mending):
    """A frame of the same outing whose sky is wanted."""

    frame: str


class SkyOffered(Schema):
    """A frame whose sky is offered; said: what keeps it from fitting, in a few words each."""

    frame: FrameLine
    reasons: list[str]


@router.post("/scenes/{scene_id}/mend/skies", response=list[SkyOffered])
def skies(request: HttpRequest, scene_id: str, given: Mending) -> list[SkyOffered]:
    """The outing's other frames, those first whose skies would fit the best. What a sky is let in by, and what mirrors it, is
    looked for meanwhile."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    frames = list(found.frame.outing.frames.exclude(sha256=document.anchor.sha256))
    with patiently(), known_as(given.work):
        bare = services.bare(document)
        own = services.lane().run(lambda: glance(services.first_development(bare)))
        offered: list[tuple[Fit, Frame]] = []
        for n, frame in enumerate(frames[:MOST_SKIES]):
            report(n / min(len(frames), MOST_SKIES))
            alone = Document(sources=[Source(sha256=frame.sha256)])
            light = services.first_development(alone)
            offered.append((fit(own, services.lane().run(partial(glance, light))), frame))
    offered.sort(key=lambda one: one[0].apart)

    def prepare() -> None:
        with services.lane().wanted(Rank.BEHIND):
            shown, latch = _with_sky_latch(found.frame, document)
            _look_for(shown, latch, [Source(sha256=frame.sha256) for _, frame in offered[:LIKELY]])

    services.later("skies", prepare)
    unseen = [SkyOffered(frame=frame_line(frame), reasons=[]) for frame in frames[MOST_SKIES:]]
    return [SkyOffered(frame=frame_line(frame), reasons=fits.reasons) for fits, frame in offered] + unseen


def _look_for(shown: Development, latch: Latch, sources: list[Source]) -> None:
    """What lets a sky in, and what mirrors it; beside that, the skies of some frames."""

    def skies() -> None:
        for source in sources:
            services.sky_of(Document(sources=[source]), services.quick_source(source))

    water = shown.scene.latch(WATER)
    with services.beside(skies):
        services.found(shown, [latch] if water is None else [latch, water])
        if water is None:
            shown.bare.reader.finding(new_ingredient("water"))


def _with_sky_latch(frame: Frame, document: Document) -> tuple[Development, Latch]:
    """A scene without a new sky, and the latch of it that lets one in: its own Sky, or a new one."""
    shown = services.development(document.model_copy(update={"sky": None}))
    latch = document.latch("Sky") or sky_latch(shown.ground.read_at())
    held = [*(known_ for known_ in document.latches if known_.id != latch.id), latch]
    return shown.again(document.model_copy(update={"sky": None, "latches": held})), latch


class SkyOut(Schema):
    """What goes into the document: the frame as a source, the sky, and the latch that lets it in."""

    source: Source
    sky: NewSky
    latch: Latch


@router.post("/scenes/{scene_id}/mend/sky", response={200: SkyOut, 422: Problem})
def sky(request: HttpRequest, scene_id: str, given: Bringing) -> SkyOut:
    """The sky of another frame, placed and as light as the one that was there. 422 where there is no sky to put it in."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    frame, source = frame_and_source(request, found, document, given.frame)
    if frame.sha256 == document.anchor.sha256:
        raise MendError("This is the scene's own frame: its sky is there already.")
    with patiently(), known_as(given.work):
        shown, latch = _with_sky_latch(found.frame, document)
        raster = services.quick_source(source)
        with phase(0.0, 0.8):
            _look_for(shown, latch, [source])
        with phase(0.8, 1.0):
            placed = services.lane().run(lambda: shown.propose_sky(source, raster, latch))
    return SkyOut(source=source, sky=placed, latch=latch)


@router.post("/scenes/{scene_id}/mend/belongs", response={200: list[Belonging], 422: Problem})
def belongs(request: HttpRequest, scene_id: str, given: Mending) -> list[Belonging]:
    """How the new sky belongs."""
    return on_light(request, scene_id, given, lambda _, shown: read_belongs(shown))
