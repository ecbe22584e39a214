"""`sunlatch render, mask`: pictures and masks as files."""

from pathlib import Path
from typing import Annotated

import typer

from ..colour.printing import Printing, Profile
from ..errors import SunLatchError
from ..frame import hash_file
from ..geometry import View
from ..ledger import EdgeTrue, Latch, Scene, Source
from ..meters import why_empty
from ..proof import (
    About,
    Layout,
    bits_for,
    check,
    laid_out,
    printing_of,
    sharpness_of,
    write_mask,
    write_picture,
)
from ..render import Development, Engine, Output
from .latches import found_ingredient
from .opening import FrameOption, SceneFile, find_latch, open_scene, store, there

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)


@app.command()
def render(
    scene: SceneFile,
    out: Annotated[Path, typer.Option("-o", help="The file: .tif, .png, .jpg, .jxl, .webp, .exr or .pdf")],
    frame: FrameOption = None,
    long_edge: Annotated[int | None, typer.Option("--long-edge", min=16, max=60000)] = None,
    region: Annotated[str | None, typer.Option(help="X0,Y0,X1,Y1 in fractions of the picture")] = None,
    space: Annotated[str, typer.Option(help="srgb, p3, rec2020, romm, grey or linear")] = "",
    bits: Annotated[
        int | None, typer.Option(help="8, 16 or 32; without it what suits the file's ending")
    ] = None,
    profile: Annotated[Path | None, typer.Option("--profile", help="A paper's ICC profile")] = None,
    intent: Annotated[str, typer.Option(help="relative, perceptual, saturation or absolute")] = "relative",
    no_bpc: Annotated[bool, typer.Option("--no-bpc", help="Without black-point compensation")] = False,
    paper: Annotated[
        bool, typer.Option("--paper", help="On the scene's paper: its profile, lines and border")
    ] = False,
    ppi: Annotated[float | None, typer.Option(min=20, max=4800, help="That the file states")] = None,
    caption: Annotated[str, typer.Option()] = "",
    author: Annotated[str, typer.Option()] = "",
    rights: Annotated[str, typer.Option("--copyright")] = "",
    place: Annotated[bool, typer.Option("--place", help="Say where it was taken, too")] = False,
    times: Annotated[bool, typer.Option("--times", help="Say where the time went")] = False,
) -> None:
    """Render a scene to a file."""
    plain = "linear" if out.suffix.lower() == ".exr" else "srgb"
    output = Output(space or plain, bits_for(out, bits))
    if profile is not None:
        printing = Printing(Profile(there(profile).read_bytes(), profile.name), intent, not no_bpc)
        output = Output(bits=output.bits, printing=printing)
    check(out, output, (1, 1))
    found, development = open_scene(scene, frame)
    development.context.clock.on = times
    view, layout = view_of(development, region, long_edge), None
    if paper:
        development, view, layout, output = _on_paper(found, development, output, ppi)
    source = frame or scene.parent / found.anchor.path
    about = About(source if source.is_file() else None, caption, author, rights, place)
    write_picture(development, out, view=view, output=output, layout=layout, ppi=ppi, about=about)
    if times:
        print(development.context.clock.table())


def _on_paper(
    scene: Scene, development: Development, output: Output, ppi: float | None
) -> tuple[Development, View, Layout, Output]:
    """The same on the scene's paper. Raises SunLatchError where it is on none."""
    sheet = scene.on_paper
    if sheet is None:
        raise SunLatchError("the scene is on no paper; leave out --paper, or choose one")
    made = development.again(scene.for_paper(sheet))
    layout = laid_out(sheet.params, made.geometry.developed_size)
    printing = output.printing or printing_of(sheet, made.context.blobs)
    on = Output(output.space, output.bits, printing, sharpness_of(layout, ppi))
    return made, View(layout.region, layout.at_density(ppi).picture), layout, on


def view_of(development: Development, region: str | None, long_edge: int | None) -> View:
    w, h = development.geometry.developed_size
    box = (0.0, 0.0, 1.0, 1.0)
    if region is not None:
        try:
            x0, y0, x1, y1 = (float(v) for v in region.split(","))
        except ValueError as error:
            raise SunLatchError(f"a region is four numbers X0,Y0,X1,Y1, not {region!r}") from error
        if not (0 <= x0 < x1 <= 1 and 0 <= y0 < y1 <= 1):
            raise SunLatchError(f"the region {region} does not lie inside the picture")
        box = (round(x0 * w) / w, round(y0 * h) / h, round(x1 * w) / w, round(y1 * h) / h)
        if box[2] <= box[0] or box[3] <= box[1]:
            raise SunLatchError(f"the region {region} is smaller than a pixel")
    pw, ph = (box[2] - box[0]) * w, (box[3] - box[1]) * h
    scale = min(1.0, long_edge / max(pw, ph)) if long_edge else 1.0
    return View(box, (max(1, round(pw * scale)), max(1, round(ph * scale))))


@app.command()
def mask(
    of: Annotated[Path, typer.Argument(help="A scene document, or a frame to find something in")],
    out: Annotated[Path, typer.Option("-o", help="The file: .png")],
    latch: Annotated[str, typer.Option("--latch", help="A latch of the scene: its name or id")] = "",
    find: Annotated[str, typer.Option("--find", help="In a frame: sky, water or subject")] = "",
    box: Annotated[str, typer.Option(help="Around the subject: X0,Y0,X1,Y1 in fractions")] = "",
    frame: FrameOption = None,
) -> None:
    """Write a latch of a scene, or what is found in a frame, as 16-bit grey PNG, the size of the developed
    picture."""
    if out.suffix.lower() != ".png":
        raise SunLatchError(f"{out.name}: a mask is written as .png")
    if bool(latch) == bool(find):
        raise SunLatchError("say what to write: the --latch of a scene, or what to --find in a frame")
    if latch:
        opened, development = open_scene(of, frame)
        write_mask(development, out, find_latch(opened, latch), view_of(development, None, None))
        return
    sha256 = hash_file(there(of))
    bare = Engine().develop(Scene(sources=[Source(sha256=sha256)]), store().whole(sha256, of))
    held = Latch(
        name=find,
        ingredients=[found_ingredient(find, box, bare.geometry.base)],
        read_at=bare.ground.read_at(),
        edge_true=EdgeTrue(on=False),
    )
    empty = why_empty(bare, held)
    if empty:
        raise SunLatchError(f"{of.name}: {empty}")
    write_mask(bare, out, held, view_of(bare, None, None))
