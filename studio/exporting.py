"""What is asked of a file, and how it is made: an export, a sheet from the proof press, a strip."""

import logging
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import cv2
from ninja import Schema
from pydantic import Field

from sunlatch.binding import map_of
from sunlatch.errors import DocumentError, ExportError, SunLatchError
from sunlatch.geometry import View
from sunlatch.ledger import Paper
from sunlatch.ledger import Scene as Document
from sunlatch.proof import (
    About,
    Layout,
    Setting,
    check,
    checked,
    file_name,
    laid_out,
    on_screen,
    printing_of,
    sharpness_of,
    strip,
    write_picture,
    write_pixels,
)
from sunlatch.proof.press import ask_press, press_papers, press_profile
from sunlatch.render import Development, Output, picture_8

from . import services
from .models import Frame, Scene

log = logging.getLogger(__name__)
PREVIEW = ".preview.jpg"
"""A small picture of a file, beside it."""
PREVIEW_EDGE = 240
PRESS_EDGE = 2400
"""Px of a long edge that the press is sent, where nothing is said."""


class NewExport(Schema):
    """A file to make. space: or "paper", the paper's own numbers; paper: of the document, by id; border: the whole sheet, not the
    picture alone; ppi: without them as many px as the picture has."""

    kind: Literal["tif", "png", "jpg", "jxl", "webp", "exr", "pdf"] = "tif"
    space: Literal["srgb", "p3", "rec2020", "romm", "grey", "linear", "paper"] = "srgb"
    bits: Literal[8, 16, 32] = 16
    long_edge: int | None = Field(default=None, ge=16, le=60000)
    paper: str | None = Field(default=None, max_length=64)
    border: bool = False
    ppi: float | None = Field(default=None, ge=20, le=4800)
    caption: str = Field(default="", max_length=4000)
    author: str = Field(default="", max_length=4000)
    rights: str = Field(default="", max_length=4000)
    place: bool = False
    name: str = Field(default="{scene}", max_length=200)


class StripAsked(Schema):
    """A setting of a strip, in steps."""

    of: str = Field(max_length=100)
    steps: list[float] = Field(min_length=1, max_length=12)


class ToPress(Schema):
    """What goes to the proof press: the picture on its paper, or a strip of it."""

    long_edge: int = Field(default=PRESS_EDGE, ge=64, le=12000)
    strip: list[StripAsked] = Field(default=[], max_length=2)
    piece: list[float] | None = Field(default=None, min_length=4, max_length=4)


def paper_of(document: Document, key: str | None) -> Paper | None:
    """A paper of a document. Raises DocumentError where it is not there."""
    if key is None:
        return None
    found = next((paper for paper in document.papers if paper.id == key), None)
    if found is None:
        raise DocumentError("this paper is not in the scene any more", "paper")
    return found


def output_of(document: Document, given: NewExport, layout: Layout | None) -> Output:
    """Raises ExportError, ProfileError where it cannot be."""
    paper = paper_of(document, given.paper)
    sharpness = sharpness_of(layout, given.ppi) if given.space != "linear" else None
    if given.space != "paper":
        return Output(given.space, given.bits, sharpness=sharpness)
    printing = printing_of(paper, services.blobs())
    if printing is None:
        raise ExportError("this paper has no profile; choose a colour space, or give it one")
    return Output(bits=given.bits, printing=printing, sharpness=sharpness)


def view_of(made: Development, given: NewExport, layout: Layout | None) -> View:
    """What of the picture, and how many px."""
    if layout is None:
        return made.geometry.fit(given.long_edge or 10**6)
    sheet = layout.at_density(given.ppi)
    return View(layout.region, sheet.picture)


def plan(scene: Scene, document: Document, given: NewExport, number: int, taken: set[str]) -> str:
    """The name of the file, once it is known that it can be made. Raises ExportError, ProfileError, DocumentError."""
    geometry = map_of(document, scene.frame.facts)
    size = geometry.developed_size
    paper = paper_of(document, given.paper)
    layout = laid_out(paper.params, size) if paper is not None else None
    checked(given.name)
    About(None, given.caption, given.author, given.rights, given.place)
    px = geometry.fit(given.long_edge or 10**6).size
    if layout is not None:
        sheet = layout.at_density(given.ppi)
        px = sheet.size if given.border else sheet.picture
    facts = {
        "scene": scene.name, "outing": scene.frame.outing.name, "paper": paper.name if paper else "",
        "date": scene.frame.taken[:10].replace(":", "-"), "width": str(px[0]), "height": str(px[1]),
        "space": given.space, "number": str(number),
    }  # fmt: skip
    name = file_name(given.name, facts, f".{given.kind}", taken)
    check(Path(name), output_of(document, given, layout), px)
    return name


def export(
    frame: Frame, document: Document, wanted: dict[str, Any], path: Path, progress: Callable[[float], None]
) -> None:
    """Make the file. Raises ExportError; no partial file is left."""
    given = NewExport.model_validate(wanted)
    paper = paper_of(document, given.paper)
    made = services.development_for_file(document.for_paper(paper))
    layout = laid_out(paper.params, made.geometry.developed_size) if paper is not None else None
    output = output_of(document, given, layout)
    about = About(services.frame_path(frame.sha256), given.caption, given.author, given.rights, given.place)
    path.parent.mkdir(parents=True, exist_ok=True)
    write_picture(
        made,
        path,
        view=view_of(made, given, layout),
        output=output,
        progress=progress,
        layout=layout if given.border or (layout is not None and given.kind == "pdf") else None,
        ppi=given.ppi or (layout.ppi if layout is not None else None),
        about=about,
    )
    preview(made, output, path)


def preview(made: Development, output: Output, path: Path) -> None:
    """A small picture of a file, beside it, for the tray."""
    try:
        px = picture_8(made, made.geometry.fit(PREVIEW_EDGE), False, on_screen(output.printing))
        cv2.imwrite(str(path.with_name(PREVIEW)), px[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 85])
    except (SunLatchError, OSError, cv2.error):
        log.exception("a file has no small picture; the file itself is whole")


def press_name(paper: Paper, beside: Path) -> str:
    """Which of the press's papers a scene's paper is. Raises ExportError where it is none of them."""
    for one in press_papers():
        profile = press_profile(one["name"], beside)
        if paper.profile is not None and services.blobs().put(profile) == paper.profile.blob:
            return one["name"]
    raise ExportError(
        f"{paper.name} is not a paper of the proof press; choose one of those, or export a file"
    )


def pressed(
    frame: Frame,
    document: Document,
    wanted: dict[str, Any],
    path: Path,
    progress: Callable[[float, str], None],
) -> None:
    """Have the press print the picture, or a strip of it, and measure it. Raises ExportError; no partial file is left."""
    given = ToPress.model_validate(wanted)
    paper = document.on_paper
    if paper is None:
        raise ExportError("the scene is on no paper; choose one first")
    folder = path.parent
    folder.mkdir(parents=True, exist_ok=True)
    sent = folder / ".sent.tif"
    try:
        name = press_name(paper, folder)
        printing = printing_of(paper, services.blobs())
        if given.strip:
            made = services.development_for_file(document)
            layout = laid_out(paper.params, made.geometry.developed_size)
            output = Output(bits=16, printing=printing, sharpness=sharpness_of(layout))
            settings = [Setting(one.of, tuple(one.steps)) for one in given.strip]
            piece = tuple(given.piece) if given.piece else None
            progress(0.1, "rendering the strip")
            px, _ = strip(made, settings, output, region=piece, width=480)  # type: ignore[arg-type]
            write_pixels(sent, px, output, layout.ppi, "Test strip")
        else:
            made = services.development_for_file(document.for_paper(paper))
            layout = laid_out(paper.params, made.geometry.developed_size)
            fitted = made.geometry.fit(given.long_edge)
            density = layout.ppi * fitted.size[0] / made.geometry.developed_size[0]
            view = View(layout.region, _part(fitted.size, layout.region))
            output = Output(bits=16, printing=printing, sharpness=sharpness_of(layout, density))
            write_picture(
                made,
                sent,
                view=view,
                output=output,
                progress=lambda share: progress(0.8 * share, "rendering"),
            )
        progress(0.8, "on the press")
        ask_press("print", str(sent), "--paper", name, "-o", str(path))
        shutil.copyfile(path, path.with_name(PREVIEW)) if path.stat().st_size < 1 << 20 else _small(path)
    finally:
        sent.unlink(missing_ok=True)


def _part(size: tuple[int, int], region: tuple[float, float, float, float]) -> tuple[int, int]:
    x0, y0, x1, y1 = region
    return (max(1, round(size[0] * (x1 - x0))), max(1, round(size[1] * (y1 - y0))))


def _small(path: Path) -> None:
    """A small picture of what the press has measured: to know it again by, not to judge colours."""
    px = cv2.imread(str(path))
    if px is not None:
        scale = PREVIEW_EDGE / max(px.shape[:2])
        small = cv2.resize(px, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
        cv2.imwrite(str(path.with_name(PREVIEW)), small, [cv2.IMWRITE_JPEG_QUALITY, 85])
