"""`sunlatch loan`: part of a second frame in a scene."""

from pathlib import Path
from typing import Annotated

import typer

from ..layers import lend, where_wanted
from ..ledger import load_scene
from ..merging import input_frames
from ..render import Engine
from .opening import SceneFile, find_latch, keep, raster_of, source_raster, sources_of

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)


@app.command()
def loan(
    scene: SceneFile,
    frame: Annotated[Path, typer.Argument(help="The frame that lends part of itself")],
    latch: Annotated[
        str,
        typer.Option("--latch", help="Where it is let in; without one where the scene clips, or is darkest"),
    ] = "",
    stops: Annotated[
        float | None,
        typer.Option(help="Lighter or darker than the same place of the scene; else as it was taken"),
    ] = None,
) -> None:
    """Part of a second frame comes into a scene through a latch."""
    opened = load_scene(scene)
    held = find_latch(opened, latch) if latch else None
    [source] = sources_of([frame], scene)
    source = next((s for s in opened.sources if s.sha256 == source.sha256), source)
    if source not in opened.sources:
        opened.sources.append(source)
    *taken, other = input_frames([*opened.views, source], lambda s: source_raster(s, scene))
    engine = Engine()
    raster = raster_of(opened, scene, None, engine)
    line = lend(opened, taken, raster, other, engine)
    if held is None:
        plain = opened.model_copy(update={"loans": [], "sky": None})
        shown = engine.develop(plain, raster)
        held = where_wanted(shown.ground, shown.reader, line.ev, frame.stem)
        opened.latches.append(held)
    line.latch = held.id
    if stops is not None:
        line.params.stops = stops
    opened.loans.append(line)
    keep(opened, scene)
    print(f"Loan from {frame.stem}, {line.params.stops:+.1f} stops, on {held.name}")
