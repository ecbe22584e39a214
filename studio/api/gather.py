"""Gather: outings, frames coming in, scenes made from them."""

import hashlib
import os
from datetime import datetime
from pathlib import Path
from typing import Any

import cv2
from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from sunlatch.errors import FrameError
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source, parse_scene

from .. import darkroom
from ..models import Frame, Outing, Revision, Scene
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


class FrameLine(Schema):
    """A frame as Gather lists it. sorting: "", "evening", "maybe" or "leave"."""

    id: str
    name: str
    sha256: str
    bytes: int
    info: dict[str, Any]
    sorting: str
    group: str | None
    scenes: list[SceneLine]


class GroupLine(Schema):
    """Frames that belong together; `said` is what could not be known."""

    id: str
    kind: str
    by_hand: bool
    said: list[str]


class OutingOut(Schema):
    """An outing with its frames, in the order in which they were taken."""

    id: str
    name: str
    created: datetime
    frames: list[FrameLine]
    groups: list[GroupLine]


class NewScene(Schema):
    """A scene to make; `document` brings one from a file."""

    name: str = ""
    document: dict[str, Any] | None = None


def frame_line(frame: Frame) -> FrameLine:
    """A frame with its scenes."""
    scenes = [SceneLine(id=s.id, name=s.name, revisions=s.head) for s in frame.scenes.order_by("created")]
    return FrameLine(
        id=frame.id, name=frame.name, sha256=frame.sha256, bytes=frame.bytes, info=frame.info,
        sorting=frame.sorting, group=frame.group_id, scenes=scenes,
    )  # fmt: skip


def outing_out(outing: Outing) -> OutingOut:
    """An outing with its frames; those that do not say when they were taken come last."""
    held = sorted(
        outing.frames.all(), key=lambda f: (not f.info.get("taken"), f.info.get("taken", ""), f.name)
    )
    groups = [
        GroupLine(id=g.id, kind=g.kind, by_hand=g.by_hand, said=g.said)
        for g in outing.groups.exclude(kind="none").order_by("created")
    ]
    return OutingOut(
        id=outing.id,
        name=outing.name,
        created=outing.created,
        frames=[frame_line(f) for f in held],
        groups=groups,
    )


@router.get("/outings", response=list[OutingOut])
def outings(request: HttpRequest) -> list[OutingOut]:
    """The signed-in photographer's outings, newest first."""
    return [outing_out(o) for o in Outing.objects.filter(user=request.user).order_by("-created")]


@router.post("/outings", response=OutingOut)
def new_outing(request: HttpRequest, given: NewOuting) -> OutingOut:
    """Begin an outing."""
    name = given.name.strip()[:200] or "Untitled outing"
    return outing_out(Outing.objects.create(user=request.user, name=name))


def receive(outing: Outing, name: str, source: Any) -> Frame:
    """Store an uploaded file (anything with read) once it has proved to be a frame.

    Raises FrameError; nothing is left behind then.
    """
    name = Path(name.replace("\\", "/")).name[:255] or "unnamed"
    folder = Path(settings.FRAME_FOLDER)
    folder.mkdir(parents=True, exist_ok=True)
    part = folder / f"arriving-{os.getpid()}-{os.urandom(6).hex()}.part"
    digest, size = hashlib.sha256(), 0
    try:
        with part.open("wb") as out:
            while block := source.read(BLOCK):
                size += len(block)
                if size > settings.MAX_UPLOAD_BYTES:
                    raise FrameError(f"{name} cannot be opened: it is larger than 2 GB.")
                digest.update(block)
                out.write(block)
            out.flush()
            os.fsync(out.fileno())
        sha256 = digest.hexdigest()
        final = darkroom.frame_path(sha256)
        fresh = not final.exists()
        final.parent.mkdir(parents=True, exist_ok=True)
        part.replace(final)
        try:
            info, _ = darkroom.store().first_look(sha256, final)
        except FrameError as error:
            if fresh:
                final.unlink(missing_ok=True)
            raise FrameError(str(error).replace(sha256, name)) from error
    except OSError as error:
        raise FrameError(f"{name} was not stored: {error.strerror}.") from error
    finally:
        part.unlink(missing_ok=True)
    facts = info.model_dump(mode="json") | {"developed_size": list(info.developed_size)}
    frame, _ = Frame.objects.get_or_create(
        outing=outing, sha256=sha256, defaults={"name": name, "bytes": size, "info": facts}
    )
    return frame


@router.put("/outings/{outing_id}/frames", response={200: FrameLine, 422: Problem})
def upload(request: HttpRequest, outing_id: str, name: str) -> FrameLine:
    """Receive one file, its bytes as the body."""
    outing = get_object_or_404(Outing, pk=outing_id, user=request.user)
    if int(request.headers.get("Content-Length") or 0) > settings.MAX_UPLOAD_BYTES:
        raise FrameError(f"{name} cannot be opened: it is larger than 2 GB.")
    return frame_line(receive(outing, name, request))


def encode_jpeg(picture: Any, quality: int) -> bytes:
    """RGB uint8 (h, w, 3) to JPEG without chroma subsampling."""
    parameters = [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, 0x111111]
    ok, data = cv2.imencode(".jpg", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR), parameters)
    if not ok:
        raise FrameError("the preview could not be encoded")
    return bytes(data)


@router.post("/frames/{frame_id}/scenes", response=SceneLine)
def new_scene(request: HttpRequest, frame_id: str, given: NewScene) -> SceneLine:
    """Make a scene from a frame, fresh or from a document."""
    frame = get_object_or_404(Frame, pk=frame_id, outing__user=request.user)
    scene = make_scene(frame, given.name, given.document)
    return SceneLine(id=scene.id, name=scene.name, revisions=scene.head)


def make_scene(frame: Frame, name: str = "", document: dict[str, Any] | None = None) -> Scene:
    """A scene with its first revision. Raises DocumentError."""
    count = frame.scenes.count()
    name = name.strip()[:200] or Path(frame.name).stem + (f" {count + 1}" if count else "")
    source = Source(sha256=frame.sha256, path=frame.name)
    made = Document(sources=[source]) if document is None else parse_scene(document)
    made = made.model_copy(update={"sources": [source], "name": name})
    with transaction.atomic():
        scene = Scene.objects.create(frame=frame, name=name, head=1)
        Revision.objects.create(
            scene=scene, number=1, parent=None, words="start", document=made.model_dump(mode="json")
        )
    return scene
