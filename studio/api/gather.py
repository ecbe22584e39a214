"""Gather: outings, frames coming in, scenes made from them."""

import hashlib
import os
from datetime import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import Case, Prefetch, Value, When
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError, FrameError
from sunlatch.frame import FrameInfo
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source, parse_scene
from sunlatch.running.patience import Patience

from .. import services, thumbnails
from ..models import Frame, Outing, Revision, Scene
from ..sentences import of_disk
from .naming import plain_name
from .people import Problem

router = Router(tags=["gather"])
BLOCK = 1 << 20


class NewOuting(Schema):
    """A name for a trip."""

    name: str


class SceneLine(Schema):
    """A scene as Gather lists it."""

    id: str
    name: str
    revisions: int


class Share(Schema):
    """A place in a frame as Gather shows it, fractions of its width and height."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class FrameLine(Schema):
    """A frame as Gather lists it. sorting: "", "evening", "maybe" or "leave". stopped: what made the photographer stop."""

    id: str
    name: str
    sha256: str
    bytes: int
    info: dict[str, Any]
    sorting: str
    stopped: Share | None
    group: str | None
    scenes: list[SceneLine]


class GroupLine(Schema):
    """Frames that belong together; `said` is what could not be known."""

    id: str
    kind: str
    by_hand: bool
    reasons: list[str]


class OutingOut(Schema):
    """An outing with its frames, in the order in which they were taken."""

    id: str
    name: str
    created: datetime
    count: int
    """How many frames it has; `frames` are the first of them."""
    frames: list[FrameLine]
    groups: list[GroupLine]


class NewScene(Schema):
    """A scene to make; `document` brings one from a file."""

    name: str = ""
    document: dict[str, Any] | None = None


def frame_line(frame: Frame) -> FrameLine:
    """A frame with its scenes."""
    scenes = [SceneLine(id=s.id, name=s.name, revisions=s.head) for s in frame.scenes.all()]
    return FrameLine(
        id=frame.id, name=frame.name, sha256=frame.sha256, bytes=frame.bytes, info=frame.info,
        sorting=frame.sorting, stopped=frame.stopped, group=frame.group_id, scenes=scenes,
    )  # fmt: skip


PAGE = 120
"""Frames that are sent at a time."""


def _in_order() -> Any:
    """Frames in the order in which they were taken, with their scenes; those that do not say when come last."""
    untold = Case(When(taken="", then=Value(1)), default=Value(0))
    scenes = Prefetch("scenes", Scene.objects.order_by("created"))
    return Frame.objects.order_by(untold, "taken", "name", "pk").prefetch_related(scenes)


def outing_out(outing: Outing) -> OutingOut:
    """An outing with the first of its frames."""
    groups = [
        GroupLine(id=g.id, kind=g.kind, by_hand=g.by_hand, reasons=g.reasons)
        for g in outing.groups.exclude(kind="none").order_by("created")
    ]
    return OutingOut(
        id=outing.id,
        name=outing.name,
        created=outing.created,
        count=outing.frames.count(),
        frames=[frame_line(f) for f in _in_order().filter(outing=outing)[:PAGE]],
        groups=groups,
    )


@router.get("/outings", response=list[OutingOut])
def outings(request: HttpRequest) -> list[OutingOut]:
    """The signed-in photographer's outings, newest first; of each the first frames."""
    return [outing_out(o) for o in Outing.objects.of(request.user).order_by("-created")]


@router.get("/outings/{outing_id}/frames", response=list[FrameLine])
def frames(request: HttpRequest, outing_id: str, after: int = 0) -> list[FrameLine]:
    """Frames of an outing, from one on."""
    outing = get_object_or_404(Outing.objects.of(request.user), pk=outing_id)
    first = max(after, 0)
    return [frame_line(f) for f in _in_order().filter(outing=outing)[first : first + PAGE]]


@router.post("/outings", response=OutingOut)
def new_outing(request: HttpRequest, given: NewOuting) -> OutingOut:
    """Begin an outing."""
    name = plain_name(given.name, "Untitled outing")
    return outing_out(Outing.objects.create(user=request.user, name=name))


def receive(outing: Outing, name: str, source: Any) -> Frame:
    """Store an uploaded file (anything with read) once it has proved to be a frame: it lies apart until it has been
    decoded and looked at.

    Raises FrameError; nothing is left behind then.
    """
    name = _plain_name(name)
    folder = Path(settings.ARRIVING_FOLDER)
    part = folder / f"arriving-{os.getpid()}-{os.urandom(6).hex()}.part"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        sha256, size = _spooled(source, part, name)
        final = services.frame_path(sha256)
        info = _proved(sha256, final if final.exists() else part, name)
        if not final.exists():
            final.parent.mkdir(parents=True, exist_ok=True)
            part.replace(final)
    except OSError as error:
        raise FrameError(f"{name} was not stored. {of_disk(error)}") from error
    finally:
        part.unlink(missing_ok=True)
    facts = info.model_dump(mode="json") | {"developed_size": list(info.developed_size)}
    frame, fresh = Frame.everything.get_or_create(
        outing=outing,
        sha256=sha256,
        defaults={"name": name, "bytes": size, "info": facts, "taken": info.taken},
    )
    if not fresh and frame.removed is not None:  # brought in again, it is wanted again
        frame.removed = None
        frame.save(update_fields=["removed"])
    return frame


def _plain_name(name: str) -> str:
    """A file's own name, as text of at most 255 characters."""
    plain = Path(name.replace("\\", "/").replace("\0", "")).name.encode(errors="replace").decode()
    return plain[:255] or "unnamed"


def _spooled(source: Any, part: Path, name: str) -> tuple[str, int]:
    """Write what arrives to a file; its digest and size. Raises FrameError, OSError."""
    digest, size = hashlib.sha256(), 0
    with part.open("wb") as out:
        while block := source.read(BLOCK):
            size += len(block)
            if size > settings.MAX_UPLOAD_BYTES:
                raise FrameError(f"{name} cannot be opened: it is larger than 2 GB.")
            digest.update(block)
            out.write(block)
        out.flush()
        os.fsync(out.fileno())
    return digest.hexdigest(), size


def _proved(sha256: str, path: Path, name: str) -> FrameInfo:
    """What a file says of itself, once it has been decoded and a small picture of it made. Raises FrameError."""
    try:
        info, pyramid = services.store().first_look(sha256, path)
    except FrameError as error:
        raise FrameError(str(error).replace(path.name, name).replace(sha256, name)) from error
    try:
        with Patience(lambda: False):  # what has arrived is taken in, whoever waits
            thumbnails.made_of(sha256, pyramid)
    except Exception as error:
        services.store().forget(sha256)
        raise FrameError(
            f"{name} cannot be opened: it was decoded, but no picture can be made of it ({type(error).__name__})."
        ) from error
    return info


@router.put("/outings/{outing_id}/frames", response={200: FrameLine, 422: Problem})
def upload(request: HttpRequest, outing_id: str, name: str) -> FrameLine:
    """Receive one file, its bytes as the body."""
    return frame_line(
        receive(get_object_or_404(Outing.objects.of(request.user), pk=outing_id), name, request)
    )


@router.post("/frames/{frame_id}/scenes", response=SceneLine)
def new_scene(request: HttpRequest, frame_id: str, given: NewScene) -> SceneLine:
    """Make a scene from a frame, fresh or from a document."""
    frame = get_object_or_404(Frame.objects.of(request.user), pk=frame_id)
    scene = make_scene(frame, given.name, given.document)
    return SceneLine(id=scene.id, name=scene.name, revisions=scene.head)


def sources_of(frames: list[Frame]) -> list[Source]:
    """Frames as sources of a document."""
    return [Source(sha256=f.sha256, path=f.name) for f in frames]


def of_this_outing(document: Document, anchor: Frame, scene: Scene | None = None) -> Document:
    """A joined document, once all its frames are known to be of the anchor's outing, or the scene was made of them before:
    whatever became of a frame, a scene of it goes on. Raises DocumentError."""
    if document.anchor.sha256 != anchor.sha256:
        raise DocumentError("this frame is not the scene's", "sources[0].sha256")
    asked = {source.sha256 for source in document.sources}
    held = Frame.everything.filter(outing=anchor.outing, sha256__in=asked).values_list("sha256", flat=True)
    missing = asked - set(held)
    if missing and scene is not None:
        named = scene.revisions.filter(number=scene.head).values_list("document__sources", flat=True).get()
        missing -= {source["sha256"] for source in named}
    if missing:
        raise DocumentError("one of these frames is not of the scene's outing", "sources")
    return document


def make_scene(
    frame: Frame, name: str = "", document: dict[str, Any] | None = None, joined: Document | None = None
) -> Scene:
    """A scene with its first revision. joined: of several frames, this one its anchor. Raises DocumentError."""
    count = frame.scenes.count()
    name = plain_name(name, Path(frame.name).stem + (f" {count + 1}" if count else ""))
    source = Source(sha256=frame.sha256, path=frame.name)
    made = Document(sources=[source]) if document is None else parse_scene(document)
    if joined is None and (made.base.members or made.layer_sources):
        joined = of_this_outing(made, frame)
    if joined is None:
        made = made.model_copy(update={"sources": [source], "name": name})
    else:
        made = joined.model_copy(update={"name": name})
    with transaction.atomic():
        scene = Scene.objects.create(frame=frame, name=name, head=1)
        Revision.objects.create(
            scene=scene, number=1, parent=None, words="start", document=made.model_dump(mode="json")
        )
    return scene
