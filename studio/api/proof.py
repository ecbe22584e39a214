"""Proof: papers and their profiles, what a print will look like, what is better seen before, the strip."""

import json
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from sunlatch.colour.printing import LARGEST, Profile
from sunlatch.errors import DocumentError, ProfileError, SunLatchError
from sunlatch.ledger import Scene as Document
from sunlatch.proof import (
    About,
    Preflight,
    Setting,
    laid_out,
    on_screen,
    preflight,
    printing_of,
    sharpness_of,
    stepped,
    strip,
)
from sunlatch.proof.paper import Layout
from sunlatch.proof.press import press_papers, press_profile
from sunlatch.render import Development, Output

from .. import services
from ..encoding import encode_png
from ..slots import Rank
from .light import Look, looked_at
from .scenes import Asked, owned, read_document

router = Router(tags=["proof"])


class PressPaper(Schema):
    """A paper of the proof press."""

    name: str
    label: str
    surface: str


class ProfileOut(Schema):
    """A profile that was taken in: how a document names it."""

    name: str
    blob: str
    channels: int


class FromPress(Schema):
    """A paper of the proof press, by name."""

    paper: str = Field(max_length=40)


class LayoutOut(Schema):
    """How the picture lies on its paper. sheet, at, size: mm; region: what of the picture is seen; ppi, sentence: what that comes
    to. paper, ink: stops at which this paper's white and this ink's black print, None without a profile; holds: how many stops
    lie between, has: how many the scene has between its ends. problem: what keeps it from being printed so."""

    sheet: tuple[float, float] | None = None
    at: tuple[float, float] | None = None
    size: tuple[float, float] | None = None
    region: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    ppi: float | None = None
    sentence: str = ""
    paper: float | None = None
    ink: float | None = None
    has: float = 0.0
    holds: float | None = None
    tone: list[float] = []
    """The paper's white and the ink's black as the screen shows them, grey 0–1."""
    problem: str = ""


class PreflightAsked(Asked):
    """For a file of so many bits."""

    bits: int = 16
    view: str = Field(default="", max_length=64)
    number: int = 0


class StepsAsked(Schema):
    """A setting in steps."""

    of: str = Field(max_length=100)
    steps: list[float] = Field(min_length=1, max_length=12)


class StripLook(Look):
    """A strip of one or two settings. piece: of the picture (fractions), the most telling one where none is said; wide: px of it."""

    settings: list[StepsAsked] = Field(min_length=1, max_length=2)
    piece: list[float] | None = Field(default=None, min_length=4, max_length=4)
    wide: int = Field(default=240, ge=60, le=1200)
    width: int = Field(default=1, ge=1, le=6000)
    height: int = Field(default=1, ge=1, le=6000)


class StepTaken(Schema):
    """A setting, and the step of it that won."""

    of: str = Field(max_length=100)
    step: float


class Winner(Asked):
    """The piece of a strip that is right."""

    taken: list[StepTaken] = Field(min_length=1, max_length=2)


class AboutAsked(Schema):
    """What a file would say of itself."""

    caption: str = Field(default="", max_length=4000)
    author: str = Field(default="", max_length=4000)
    rights: str = Field(default="", max_length=4000)
    place: bool = False


@router.get("/papers", response=list[PressPaper])
def papers(request: HttpRequest) -> list[dict[str, str]]:
    """The papers of the proof press."""
    return press_papers()


def taken_in(data: bytes, name: str) -> ProfileOut:
    """A profile, checked and kept. Raises ProfileError, StorageError."""
    found = Profile(data, name or "the profile")
    return ProfileOut(name=found.name[:120], blob=services.blobs().put(data), channels=found.channels)


@router.put("/profiles", response=ProfileOut)
def upload(request: HttpRequest, name: str = "") -> ProfileOut:
    """Take in an ICC profile: any output profile of RGB, CMYK or grey."""
    if len(request.body) > LARGEST:
        raise ProfileError(f"{name} is too large for a profile")
    return taken_in(request.body, Path(name).name[:120])


@router.post("/profiles/press", response=ProfileOut)
def from_press(request: HttpRequest, given: FromPress) -> ProfileOut:
    """Take in the profile of one of the press's papers."""
    return taken_in(press_profile(given.paper, Path(settings.EXPORT_FOLDER)), given.paper)


def layout_of(development: Development, document: Document) -> Layout | None:
    """How the picture lies on the document's paper. Raises ExportError."""
    paper = document.on_paper
    return laid_out(paper.params, development.geometry.developed_size) if paper is not None else None


def proofed(document: Document) -> Document:
    """A document as it is printed on its paper."""
    return document.for_paper(document.on_paper)


@router.post("/scenes/{scene_id}/paper", response=LayoutOut)
def on_paper(request: HttpRequest, scene_id: str, given: Asked) -> LayoutOut:
    """How a document lies on its paper, and what that paper holds."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    development = services.development(document)
    black, white = development.ground.ends()
    out = LayoutOut(has=white - black)
    paper = document.on_paper
    if paper is None:
        return out
    try:
        layout = laid_out(paper.params, development.geometry.developed_size)
        out.sheet, out.at, out.size, out.region = layout.sheet, layout.at, layout.size, layout.region
        out.ppi, out.sentence = layout.ppi, layout.sentence
        layout.at_density(None)
    except SunLatchError as error:
        out.problem = str(error)
    try:
        printing = printing_of(paper, services.blobs())
    except SunLatchError as error:
        out.problem = str(error)
        printing = None
    if printing is not None:
        sheet, ink = printing.profile.ends
        # where the scene's own tones are as dark as the ink is, and as light as the paper
        out.ink = development.ground.stop_of(ink)
        out.paper = development.ground.stop_of(sheet)
        out.holds = out.paper - out.ink
        out.tone = [float(v) for v in (sheet, ink)]
    return out


@router.post("/scenes/{scene_id}/preflight", response=Preflight)
def before_the_print(request: HttpRequest, scene_id: str, given: PreflightAsked):  # type: ignore[no-untyped-def]
    """What will be seen on paper that is better seen before. 204 when overtaken."""
    found = owned(request, scene_id)
    document = proofed(read_document(found, given.document))

    def work(development: Development) -> Preflight:
        printing = printing_of(document.on_paper, services.blobs())
        layout = layout_of(development, document)
        output = Output("srgb", given.bits, printing, sharpness_of(layout))
        return preflight(development, output, layout)

    with services.lane().asked(f"{found.id}/preflight/{given.view}", given.number, Rank.MEASURE):
        development = services.found(services.development(document), document.in_use())
        return services.lane().run(lambda: work(development))


@router.post("/scenes/{scene_id}/strip")
def test_strip(request: HttpRequest, scene_id: str, look: StripLook) -> HttpResponse:
    """A test strip as PNG, as it will come out of the press; X-Strip: where its pieces lie, and their steps."""
    found = owned(request, scene_id)
    document = looked_at(found, look)
    asked = [Setting(one.of, tuple(one.steps)) for one in look.settings]
    piece = look.piece
    if piece is not None and not (
        0 <= piece[0] < piece[2] <= 1.000001 and 0 <= piece[1] < piece[3] <= 1.000001
    ):
        raise DocumentError("the piece does not lie inside the picture", "piece")
    region = (piece[0], piece[1], piece[2], piece[3]) if piece is not None else None

    def work(development: Development) -> tuple[bytes, str]:
        printing = printing_of(document.on_paper, services.blobs())
        sharpness = sharpness_of(layout_of(development, document))
        px, pieces = strip(development, asked, on_screen(printing, sharpness), region=region, width=look.wide)
        return encode_png(px), json.dumps({"size": [px.shape[1], px.shape[0]], "pieces": pieces})

    with services.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        development = services.found(services.development(document), document.in_use())
        data, pieces = services.lane().run(lambda: work(development))
    response = HttpResponse(data, content_type="image/png")
    response["X-Strip"] = pieces
    response["X-Frame"] = "whole"
    return response


@router.post("/scenes/{scene_id}/strip/winner", response=Document)
def winner(request: HttpRequest, scene_id: str, given: Winner) -> Document:
    """The document with the winner's steps taken: on its paper where there is one and that is possible."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    kelvin = services.development(document).ground.light().kelvin
    for one in given.taken:
        document = stepped(document, one.of, one.step, kelvin)
    return document


@router.post("/scenes/{scene_id}/about", response=list[str])
def what_it_says(request: HttpRequest, scene_id: str, given: AboutAsked) -> list[str]:
    """What a file of the scene would say of itself."""
    found = owned(request, scene_id)
    path = services.frame_path(found.frame.sha256)
    return About(path, given.caption, given.author, given.rights, given.place).lines()
