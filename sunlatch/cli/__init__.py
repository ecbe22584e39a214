"""`sunlatch …`: work a scene from the command line. Errors go to standard error on one line and
leave exit code 2; 0 means that the file asked for is complete."""

import json
import os
import sys
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import typer

from .. import __version__, compiled
from ..errors import SunLatchError
from ..frame import hash_file
from ..geometry import View
from ..latch.found import warm_matte
from ..ledger import EdgeTrue, Latch, Scene, Source, json_schema, save_scene
from ..meters import why_empty
from ..moves import MOVE_KINDS
from ..proof import write_mask, write_picture
from ..propose import propose
from ..render import Development, Engine, Output
from .joins import join_app
from .latches import found_ingredient, latch_app
from .mend import mend_app
from .moves import move_app
from .opening import FrameOption, SceneOption, find_latch, open_scene, store

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
app.add_typer(move_app, name="move")
app.add_typer(latch_app, name="latch")
app.add_typer(join_app, name="join")
app.add_typer(mend_app, name="mend")


@app.command()
def info(frame: Path, as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """What a frame says about itself."""
    facts, _ = store().first_look(hash_file(frame) if frame.is_file() else missing(frame), frame)
    shot = facts.colour.as_shot()
    data = facts.model_dump(mode="json") | {"as_shot": {"kelvin": shot.kelvin, "duv": shot.duv}}
    if as_json:
        print(json.dumps(data))
        return
    for name, value in data.items():
        print(f"{name}: {value}")


def missing(path: Path) -> str:
    raise SunLatchError(f"{path} is not there")


@app.command()
def warm() -> None:
    """Compile what is not compiled yet; a machine needs it once, and nothing waits for it later."""
    note = compiled.warmed()
    if note.exists():
        return
    compiled.warm()
    warm_matte()
    with suppress(OSError):
        note.touch()


@app.command()
def new(
    frame: Path,
    out: Annotated[Path, typer.Option("-o", help="The scene document to write")],
    proposed: Annotated[bool, typer.Option("--propose", help="Propose Ground, and say why")] = False,
) -> None:
    """Begin a scene from a frame."""
    if not frame.is_file():
        missing(frame)
    sha256 = hash_file(frame)
    store().first_look(sha256, frame)
    hint = os.path.relpath(frame.resolve(), out.resolve().parent)
    scene = Scene(name=frame.stem, sources=[Source(sha256=sha256, path=hint)])
    if proposed:
        scene, said = propose(Engine().develop(scene, store().whole(sha256, frame)))
        for part in said:
            print(f"{MOVE_KINDS[part.kind].label}: {part.why}")
    save_scene(scene, out)


@app.command()
def render(
    scene: SceneOption,
    out: Annotated[Path, typer.Option("-o")],
    frame: FrameOption = None,
    long_edge: Annotated[int | None, typer.Option("--long-edge", min=16, max=60000)] = None,
    region: Annotated[str | None, typer.Option(help="X0,Y0,X1,Y1 in fractions of the picture")] = None,
    space: Annotated[str, typer.Option(help="srgb, p3, rec2020 or linear")] = "srgb",
    bits: Annotated[int, typer.Option(help="8, 16 or 32")] = 16,
    profile: Annotated[bool, typer.Option("--profile", help="Say where the time went")] = False,
) -> None:
    """Render a scene to a file."""
    _, development = open_scene(scene, frame)
    development.shop.clock.on = profile
    write_picture(development, out, view=view_of(development, region, long_edge), output=Output(space, bits))
    if profile:
        print(development.shop.clock.table())


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
    out: Annotated[Path, typer.Option("-o")],
    found_in: Annotated[Path | None, typer.Argument(help="A frame, to find something in")] = None,
    scene: Annotated[Path | None, typer.Option("--scene", help="A scene document")] = None,
    latch: Annotated[str, typer.Option("--latch", help="Its name or id")] = "",
    find: Annotated[str, typer.Option("--find", help="sky, water or subject")] = "",
    box: Annotated[str, typer.Option(help="Around the subject: X0,Y0,X1,Y1 in fractions")] = "",
    frame: FrameOption = None,
) -> None:
    """Write a latch of a scene, or what is found in a frame, as 16-bit grey PNG, the size of the developed
    picture."""
    if out.suffix.lower() != ".png":
        raise SunLatchError(f"{out.name}: a mask is written as .png")
    if scene is not None:
        opened, development = open_scene(scene, frame)
        write_mask(development, out, find_latch(opened, latch), view_of(development, None, None))
        return
    if found_in is None or not find:
        raise SunLatchError("say what to write: --scene and --latch, or a frame and what to --find in it")
    if not found_in.is_file():
        missing(found_in)
    sha256 = hash_file(found_in)
    bare = Engine().develop(Scene(sources=[Source(sha256=sha256)]), store().whole(sha256, found_in))
    held = Latch(
        name=find,
        ingredients=[found_ingredient(find, box, bare.geometry.base)],
        read_at=bare.ground.read_at(),
        edge_true=EdgeTrue(on=False),
    )
    empty = why_empty(bare, held)
    if empty:
        raise SunLatchError(f"{found_in.name}: {empty}")
    write_mask(bare, out, held, view_of(bare, None, None))


@app.command()
def schema() -> None:
    """The JSON Schema of the scene document."""
    print(json.dumps(json_schema(), indent=1))


@app.command()
def version() -> None:
    """This program's version."""
    print(__version__)


def main() -> None:
    """Entry point."""
    try:
        app(standalone_mode=False)
    except SunLatchError as error:
        print(f"sunlatch: {error}", file=sys.stderr)
        sys.exit(2)
    except (OSError, typer.Exit, typer.Abort) as error:
        if isinstance(error, typer.Exit):
            sys.exit(error.exit_code)
        print(f"sunlatch: {error}", file=sys.stderr)
        sys.exit(2)
    except Exception as error:
        usage = getattr(error, "format_message", None)
        text = usage() if usage is not None else f"{type(error).__name__}: {error}"
        print(f"sunlatch: {' '.join(str(text).split())}", file=sys.stderr)
        sys.exit(2)
