"""`sunlatch move`: the lines of a scene's ledger."""

from pathlib import Path
from typing import Annotated

import typer

from ..errors import DocumentError
from ..ledger import Scene, ground_sentences, load_scene, move_sentence, new_move, parse_scene, save_scene
from ..moves import GROUND_KINDS, LIGHT_KINDS
from .opening import (
    FrameOption,
    SceneFile,
    Settings,
    assigned,
    find_latch,
    keep,
    merged,
    open_scene,
    spares_of,
)

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    no_args_is_help=True,
    help="The lines of a scene's ledger.",
)


def find_move(scene: Scene, which: str) -> int:
    """Index of a Light line by number (from 1), id, the start of an id, or name."""
    if which.isdigit() and 1 <= int(which) <= len(scene.moves):
        return int(which) - 1
    for n, move in enumerate(scene.moves):
        if move.id.startswith(which) or (move.name and move.name.casefold() == which.casefold()):
            return n
    raise DocumentError(f"there is no move {which!r} in this scene")


@app.callback()
def move_of(context: typer.Context, document: SceneFile) -> None:
    """The lines of a scene's ledger."""
    context.obj = document


@app.command("list")
def move_list(context: typer.Context) -> None:
    """The ledger, as it reads."""
    scene = load_scene(context.obj)
    for kind, text in ground_sentences(scene).items():
        print(f"Ground  {kind}: {text}")
    working = scene.working()
    for n, move in enumerate(scene.moves, 1):
        state = "" if move in working else " (off)"
        print(f"Light {n}  {move.id[:8]}  {move_sentence(move, scene)}{state}")


@app.command("add")
def move_add(
    context: typer.Context,
    kind: str,
    settings: Settings = None,
    latch: Annotated[str | None, typer.Option("--latch", help="Latched to this latch")] = None,
    spare: Annotated[list[str] | None, typer.Option("--spare", help="shadows or highlights")] = None,
    strength: Annotated[float, typer.Option()] = 1.0,
    name: Annotated[str, typer.Option()] = "",
    frame: FrameOption = None,
) -> None:
    """Add a line to the Light band, e.g. `add exposure ev=-0.9 --latch Sky`."""
    document: Path = context.obj
    scene = load_scene(document)
    if kind not in LIGHT_KINDS:
        raise DocumentError(f"there is no move {kind!r}; known are {', '.join(LIGHT_KINDS)}")
    held = find_latch(scene, latch).id if latch else None
    spares = spares_of(spare, open_scene(document, frame)[1]) if spare else []
    scene.moves.append(
        new_move(kind, params=assigned(settings), latch=held, strength=strength, name=name, spare=spares)
    )
    keep(scene, document)


@app.command("set")
def move_set(
    context: typer.Context,
    which: str,
    settings: Settings = None,
    latch: Annotated[str | None, typer.Option("--latch", help="A latch, or '' for none")] = None,
    strength: Annotated[float | None, typer.Option()] = None,
    on: Annotated[bool | None, typer.Option("--on/--off")] = None,
    frame: FrameOption = None,
) -> None:
    """Change a line: `which` is its number, id or name, or a Ground move's kind."""
    document: Path = context.obj
    scene = load_scene(document)
    data = scene.model_dump(mode="json")
    if which in GROUND_KINDS:
        line = data["ground"][which] | {"why": ""}
        data["ground"][which] = line
        if strength is not None:
            raise DocumentError(f"{which} has no strength of its own; its settings say how much")
        if latch is not None and not GROUND_KINDS[which].latched:
            raise DocumentError(f"{which} concerns the whole picture and cannot be latched")
    else:
        line = data["moves"][find_move(scene, which)]
        if strength is not None:
            line["strength"] = strength
    if latch is not None:
        line["latch"] = find_latch(scene, latch).id if latch else None
    if on is not None:
        line["on"] = on
    line["params"] = merged(line["params"], assigned(settings))
    changed = parse_scene(data)
    if which in GROUND_KINDS:
        open_scene(document, frame, changed)  # a lens or a turn that cannot be is refused here
    save_scene(changed, document)


@app.command("rm")
def move_rm(context: typer.Context, which: str) -> None:
    """Remove a line from the Light band."""
    document: Path = context.obj
    scene = load_scene(document)
    del scene.moves[find_move(scene, which)]
    keep(scene, document)
