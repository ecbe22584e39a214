"""`sunlatch info, new, warm, schema, version`: frames, and what every script begins with."""

import json
import os
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import typer

from .. import __version__, compiled
from ..frame import hash_file
from ..latch.found import warm_matte
from ..ledger import Scene, Source, json_schema, save_scene
from ..moves import MOVE_KINDS
from ..propose import propose
from ..render import Engine
from .opening import store, there

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
Json = Annotated[bool, typer.Option("--json", help="As JSON")]


@app.command()
def info(frame: Path, as_json: Json = False) -> None:
    """What a frame says about itself."""
    facts, _ = store().first_look(hash_file(there(frame)), frame)
    shot = facts.colour.as_shot()
    data = facts.model_dump(mode="json") | {"as_shot": {"kelvin": shot.kelvin, "duv": shot.duv}}
    if as_json:
        print(json.dumps(data))
        return
    for name, value in data.items():
        print(f"{name}: {value}")


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
    sha256 = hash_file(there(frame))
    store().first_look(sha256, frame)
    hint = os.path.relpath(frame.resolve(), out.resolve().parent)
    scene = Scene(name=frame.stem, sources=[Source(sha256=sha256, path=hint)])
    if proposed:
        scene, proposals = propose(Engine().develop(scene, store().whole(sha256, frame)))
        for part in proposals:
            print(f"{MOVE_KINDS[part.kind].label}: {part.why}")
    save_scene(scene, out)


@app.command()
def schema() -> None:
    """The JSON Schema of the scene document."""
    print(json.dumps(json_schema(), indent=1))


@app.command()
def version() -> None:
    """This program's version."""
    print(__version__)
