"""`sunlatch mend …`: what is taken out of a scene. Points are fractions of the developed picture, masks PNGs of its size."""

import uuid
from pathlib import Path
from typing import Annotated

import cv2
import numpy as np
import typer
from numpy.typing import NDArray

from ..errors import MendError
from ..latch import Stroke
from ..ledger import (
    AnyRepair,
    Area,
    BentLine,
    ReshapeLine,
    Scene,
    load_scene,
    repair_sentence,
    shape_sentence,
    sky_latch,
)
from ..mend import circle, clone_of, heal_of, regrow_of, specks_of, wire_of
from ..render import Development, area_of, to_source
from .opening import SceneFile, find_latch, keep, open_scene, parts_of, source_raster, sources_of

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    no_args_is_help=True,
    help="What is taken out of a scene.",
)
Points = Annotated[list[str], typer.Argument(help="X,Y in fractions of the picture")]
Radius = Annotated[float, typer.Option("--radius", min=1, max=4000, help="Px of the developed picture")]


@app.callback()
def mend_of(context: typer.Context, document: SceneFile) -> None:
    """What is taken out of a scene."""
    context.obj = document


def _points(words: list[str]) -> NDArray[np.float64]:
    try:
        return np.array([[float(v) for v in word.split(",")] for word in words]).reshape(len(words), 2)
    except ValueError as error:
        raise MendError(f"a place is two numbers X,Y, not {' '.join(words)!r}") from error


def _added(scene: Scene, document: Path, repair: AnyRepair) -> None:
    scene.repairs.append(repair)
    keep(scene, document)
    print(f"{len(scene.repairs)}: {repair_sentence(repair)}")


@app.command()
def specks(context: typer.Context) -> None:
    """Find all specks and mend them together."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    _added(opened, scene, specks_of(development.raster))


@app.command()
def wire(context: typer.Context, points: Points) -> None:
    """Take out a thin line through points: its ends, or along it."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    _added(opened, scene, wire_of(development.raster, to_source(development.geometry, _points(points))))


@app.command()
def heal(context: typer.Context, points: Points, radius: Radius) -> None:
    """Heal a place, or a stroke through several."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    _added(opened, scene, heal_of(development.raster, _stroked(development, points, radius), parts_of(scene)))


@app.command()
def clone(context: typer.Context, points: Points, radius: Radius) -> None:
    """Clone over a place, or a stroke through several."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    _added(
        opened, scene, clone_of(development.raster, _stroked(development, points, radius), parts_of(scene))
    )


def _stroked(development: Development, words: list[str], radius: float) -> Area:
    at = to_source(development.geometry, _points(words))
    reach = radius / development.geometry.long_edge
    if len(at) == 1:
        return circle(float(at[0, 0]), float(at[0, 1]), reach)
    path = np.column_stack([at, np.ones(len(at))]).ravel()
    return Area(strokes=[Stroke(points=path.tolist(), radius=min(reach, 1.0), soft=0.3, flow=1.0)])


def _mask(path: Path, development: Development, document: Path) -> Area:
    grey = cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
    if grey is None:
        raise MendError(f"{path} is no picture that can be read")
    w, h = development.geometry.developed_size
    if grey.shape != (h, w):
        raise MendError(f"{path} is {grey.shape[1]} × {grey.shape[0]} px, the developed picture {w} × {h}")
    return area_of(development, grey.astype(np.float32) / 255, parts_of(document))


@app.command()
def regrow(
    context: typer.Context,
    area: Annotated[Path, typer.Option("--area", help="What should go: a mask, white")],
    source: Annotated[
        Path | None, typer.Option("--from", help="What it may be grown from: a mask, white")
    ] = None,
    spared: Annotated[
        Path | None, typer.Option("--not-from", help="What it may not be grown from: a mask, white")
    ] = None,
    seed: Annotated[int, typer.Option(min=0, help="Another seed, another proposal")] = 0,
) -> None:
    """Fill an area from what surrounds it."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    may, not_ = (_mask(path, development, scene) if path else None for path in (source, spared))
    place, beyond = _mask(area, development, scene), development.ground.shows_edges()
    made = regrow_of(development.raster, place, parts_of(scene), may, seed, beyond=beyond, spared=not_)
    _added(opened, scene, made)


@app.command()
def sky(
    context: typer.Context,
    frame: Annotated[Path, typer.Argument(help="The frame whose sky is put in")],
    horizon: Annotated[
        float | None, typer.Option(help="Where the horizon lies, in heights of the picture; found without it")
    ] = None,
    latch: Annotated[
        str, typer.Option("--latch", help="What holds the old sky; Sky, with fine edges, without it")
    ] = "",
) -> None:
    """Put another sky behind what stands before the old one."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    held = find_latch(opened, latch) if latch else opened.latch("Sky")
    if held is None:
        held = sky_latch(development.ground.read_at())
        opened.latches.append(held)
    source = sources_of([frame], scene)[0]
    source = next((s for s in opened.sources if s.sha256 == source.sha256), source)
    if source.sha256 == opened.anchor.sha256:
        raise MendError(f"{frame.stem} is the scene's own frame: its sky is there already.")
    if source not in opened.sources:
        opened.sources.append(source)
    opened.sky = None
    _, development = open_scene(scene, scene=opened)
    at = None if horizon is None else _height(development, horizon)
    opened.sky = development.propose_sky(source, source_raster(source, scene), held, at)
    opened.sources = [s for s in opened.sources if s.id in opened.made_from | opened.layer_sources]
    keep(opened, scene)
    print(f"New sky from {frame.stem}, let in through {held.name}")


def _height(development: Development, horizon: float) -> float:
    """Heights of the frame upright, of a height of the picture in its middle."""
    at = to_source(development.geometry, np.array([[0.5, horizon]]))
    base = development.geometry.base
    return float(base.to_developed(at)[0, 1] / base.box.height)


@app.command()
def straighten(
    context: typer.Context,
    points: Points,
    level: Annotated[bool, typer.Option("--level", help="Level, not only straight")] = False,
) -> None:
    """Make a line through three points or more straight: a horizon, a shore."""
    scene: Path = context.obj
    opened, development = open_scene(scene)
    if len(points) < 3:
        raise MendError("a line is bent at three points at least; name one more along it.")
    places = to_source(development.geometry, _points(points)).ravel().tolist()
    line = BentLine(points=places, what="level" if level else "straight")
    opened.shapes.append(ReshapeLine(id=str(uuid.uuid4()), lines=[line]))
    keep(opened, scene)
    print(f"{len(opened.repairs) + len(opened.shapes)}: {shape_sentence(opened.shapes[-1])}")


def _repaired(scene: Scene) -> list[tuple[str, bool]]:
    """What is done to the place, in words, and whether it is on: repairs, then shapes."""
    repaired = [(repair_sentence(r), r.on) for r in scene.repairs]
    return repaired + [(shape_sentence(s), s.on) for s in scene.shapes]


@app.command("list")
def list_repairs(context: typer.Context) -> None:
    """The repairs of a scene, in order; then what was reshaped and nudged."""
    scene: Path = context.obj
    for n, (repaired, on) in enumerate(_repaired(load_scene(scene)), 1):
        print(f"{n}: {repaired}" + ("" if on else " (off)"))


@app.command("rm")
def remove(
    context: typer.Context, number: Annotated[int, typer.Argument(min=1, help="As `list` says")]
) -> None:
    """Take a repair out again."""
    scene: Path = context.obj
    opened = load_scene(scene)
    repaired = _repaired(opened)
    if number > len(repaired):
        raise MendError(f"there is no repair {number}; the scene has {len(repaired)}")
    if number <= len(opened.repairs):
        opened.repairs.pop(number - 1)
    else:
        opened.shapes.pop(number - 1 - len(opened.repairs))
    keep(opened, scene)
    print(f"removed: {repaired[number - 1][0]}")
