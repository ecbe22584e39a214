"""`sunlatch …`: work a scene from the command line. Errors go to standard error on one line and
leave exit code 2; 0 means that the file asked for is complete."""

import json
import os
import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from . import __version__
from .errors import DocumentError, SunLatchError
from .frame import FrameStore, Pyramid, hash_file
from .geometry import View
from .latch import INGREDIENT_KINDS
from .ledger import (
    SPARE_EDGES,
    Latch,
    Scene,
    Source,
    Spare,
    ground_sentences,
    ingredient_sentence,
    json_schema,
    load_scene,
    move_sentence,
    new_ingredient,
    new_move,
    parse_scene,
    save_scene,
)
from .moves import GROUND_KINDS, LIGHT_KINDS, MOVE_KINDS
from .parameters import Params
from .proof import write_mask, write_picture
from .propose import propose
from .render import Development, Engine

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)
move_app = typer.Typer(no_args_is_help=True, help="The lines of a scene's ledger.")
latch_app = typer.Typer(no_args_is_help=True, help="The latches of a scene.")
app.add_typer(move_app, name="move")
app.add_typer(latch_app, name="latch")

SceneFile = Annotated[Path, typer.Argument(help="A scene document")]
SceneOption = Annotated[Path, typer.Option("--scene", help="A scene document")]
FrameOption = Annotated[Path | None, typer.Option("--frame", help="The frame, if it has moved")]
Settings = Annotated[list[str] | None, typer.Argument(help="name=value, e.g. ev=-0.9 full.x=0.5")]


def _store() -> FrameStore:
    home = os.environ.get("SUNLATCH_CACHE") or str(Path.home() / ".cache" / "sunlatch")
    return FrameStore(Path(home) / "pyramids")


def _pyramid(scene: Scene, document: Path, frame: Path | None) -> Pyramid:
    source = scene.sources[0]
    path = frame or (document.parent / source.path)
    if not path.is_file():
        raise DocumentError(f"the frame {path} is not there; give it with --frame", "sources[0].path")
    found = hash_file(path)
    if found != source.sha256:
        raise DocumentError(f"{path} is a different frame than the scene was made from", "sources[0].sha256")
    return _store().whole(found, path)


def _open(document: Path, frame: Path | None = None) -> tuple[Scene, Development]:
    scene = load_scene(document)
    return scene, Engine().develop(scene, _pyramid(scene, document, frame))


def _assign(settings: list[str] | None) -> dict[str, Any]:
    """name=value pairs into nested data; values are JSON where they can be, else words."""
    data: dict[str, Any] = {}
    for setting in settings or []:
        name, sign, raw = setting.partition("=")
        if not sign or not name:
            raise DocumentError(f"{setting!r} is not of the form name=value")
        try:
            value = json.loads(raw)
        except json.JSONDecodeError:
            value = raw
        *outer, last = name.split(".")
        place = data
        for part in outer:
            place = place.setdefault(part, {})
        place[last] = value
    return data


def _merge(old: dict[str, Any], new: dict[str, Any]) -> dict[str, Any]:
    return old | {
        k: _merge(old[k], v) if isinstance(v, dict) and isinstance(old.get(k), dict) else v
        for k, v in new.items()
    }


def _from_defaults(params: type[Params], settings: list[str] | None) -> dict[str, Any]:
    return _merge(params().model_dump(mode="json"), _assign(settings))


def _spares(words: list[str] | None, development: Development) -> list[Spare]:
    for word in words or []:
        if word not in SPARE_EDGES:
            raise DocumentError(f"{word!r} cannot be spared; known are {', '.join(SPARE_EDGES)}")
    at = development.read_at()
    return [Spare(what=w, edge=SPARE_EDGES[w], read_at=at) for w in words or []]  # type: ignore[arg-type]


def _find_move(scene: Scene, which: str) -> int:
    """Index of a Light line by number (from 1), id, the start of an id, or name."""
    if which.isdigit() and 1 <= int(which) <= len(scene.moves):
        return int(which) - 1
    for n, move in enumerate(scene.moves):
        if move.id.startswith(which) or (move.name and move.name.casefold() == which.casefold()):
            return n
    raise DocumentError(f"there is no move {which!r} in this scene")


def _find_latch(scene: Scene, which: str) -> Latch:
    found = scene.latch(which)
    if found is None:
        raise DocumentError(f"there is no latch {which!r} in this scene")
    return found


def _keep(scene: Scene, document: Path) -> None:
    save_scene(parse_scene(scene.model_dump(mode="json")), document)


@app.command()
def info(frame: Path, as_json: Annotated[bool, typer.Option("--json")] = False) -> None:
    """What a frame says about itself."""
    facts, _ = _store().first_look(hash_file(frame) if frame.is_file() else _missing(frame), frame)
    shot = facts.colour.as_shot()
    data = facts.model_dump(mode="json") | {"as_shot": {"kelvin": shot.kelvin, "duv": shot.duv}}
    if as_json:
        print(json.dumps(data))
        return
    for name, value in data.items():
        print(f"{name}: {value}")


def _missing(path: Path) -> str:
    raise SunLatchError(f"{path} is not there")


@app.command()
def new(
    frame: Path,
    out: Annotated[Path, typer.Option("-o", help="The scene document to write")],
    proposed: Annotated[bool, typer.Option("--propose", help="Propose Ground, and say why")] = False,
) -> None:
    """Begin a scene from a frame."""
    if not frame.is_file():
        _missing(frame)
    sha256 = hash_file(frame)
    _store().first_look(sha256, frame)
    hint = os.path.relpath(frame.resolve(), out.resolve().parent)
    scene = Scene(name=frame.stem, sources=[Source(sha256=sha256, path=hint)])
    if proposed:
        scene, said = propose(Engine().develop(scene, _store().whole(sha256, frame)))
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
) -> None:
    """Render a scene to a file."""
    _, development = _open(scene, frame)
    write_picture(development, out, view=_view(development, region, long_edge), space=space, bits=bits)


def _view(development: Development, region: str | None, long_edge: int | None) -> View:
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
    scene: SceneOption,
    latch: Annotated[str, typer.Option("--latch", help="Its name or id")],
    out: Annotated[Path, typer.Option("-o")],
    frame: FrameOption = None,
) -> None:
    """Write a latch as 16-bit grey PNG, the size of the developed picture."""
    if out.suffix.lower() != ".png":
        raise SunLatchError(f"{out.name}: a mask is written as .png")
    opened, development = _open(scene, frame)
    write_mask(development, out, _find_latch(opened, latch), _view(development, None, None))


@app.command()
def schema() -> None:
    """The JSON Schema of the scene document."""
    print(json.dumps(json_schema(), indent=1))


@move_app.callback()
def move_of(context: typer.Context, document: SceneFile) -> None:
    """The lines of a scene's ledger."""
    context.obj = document


@latch_app.callback()
def latch_of(context: typer.Context, document: SceneFile) -> None:
    """The latches of a scene."""
    context.obj = document


@move_app.command("list")
def move_list(context: typer.Context) -> None:
    """The ledger, as it reads."""
    scene = load_scene(context.obj)
    for kind, text in ground_sentences(scene).items():
        print(f"Ground  {kind}: {text}")
    for n, move in enumerate(scene.moves, 1):
        state = "" if move.on else " (off)"
        print(f"Light {n}  {move.id[:8]}  {move_sentence(move, scene)}{state}")


@move_app.command("add")
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
    held = _find_latch(scene, latch).id if latch else None
    spares = _spares(spare, _open(document, frame)[1]) if spare else []
    scene.moves.append(
        new_move(kind, params=_assign(settings), latch=held, strength=strength, name=name, spare=spares)
    )
    _keep(scene, document)


@move_app.command("set")
def move_set(
    context: typer.Context,
    which: str,
    settings: Settings = None,
    latch: Annotated[str | None, typer.Option("--latch", help="A latch, or '' for none")] = None,
    strength: Annotated[float | None, typer.Option()] = None,
    on: Annotated[bool | None, typer.Option("--on/--off")] = None,
) -> None:
    """Change a line: `which` is its number, id or name, or a Ground move's kind."""
    document: Path = context.obj
    scene = load_scene(document)
    data = scene.model_dump(mode="json")
    if which in GROUND_KINDS:
        line = data["ground"][which]
    else:
        line = data["moves"][_find_move(scene, which)]
        if latch is not None:
            line["latch"] = _find_latch(scene, latch).id if latch else None
        if strength is not None:
            line["strength"] = strength
        if on is not None:
            line["on"] = on
    line["params"] = _merge(line["params"], _assign(settings))
    save_scene(parse_scene(data), document)


@move_app.command("rm")
def move_rm(context: typer.Context, which: str) -> None:
    """Remove a line from the Light band."""
    document: Path = context.obj
    scene = load_scene(document)
    del scene.moves[_find_move(scene, which)]
    _keep(scene, document)


@latch_app.command("list")
def latch_list(context: typer.Context) -> None:
    """The latches and their ingredients."""
    for latch in load_scene(context.obj).latches:
        print(f"{latch.name}  {latch.id[:8]}" + (" inverted" if latch.invert else ""))
        for n, line in enumerate(latch.ingredients, 1):
            print(f"  {n} {line.join.replace('_', ' ')}: {ingredient_sentence(line)}")


@latch_app.command("add")
def latch_add(
    context: typer.Context,
    name: str,
    kind: Annotated[str | None, typer.Argument(help="Its ingredient")] = None,
    settings: Settings = None,
    join: Annotated[str, typer.Option(help="add, keep_only or take_away")] = "add",
    invert: Annotated[bool, typer.Option("--invert")] = False,
    frame: FrameOption = None,
) -> None:
    """Add an ingredient to a latch, making the latch if there is none of that name."""
    document: Path = context.obj
    scene = load_scene(document)
    if kind is not None and kind not in INGREDIENT_KINDS:
        raise DocumentError(f"there is no ingredient {kind!r}; known are {', '.join(INGREDIENT_KINDS)}")
    latch = scene.latch(name)
    if latch is None:
        latch = Latch(name=name, read_at=_open(document, frame)[1].read_at())
        scene.latches.append(latch)
    if kind is not None:
        latch.ingredients.append(
            new_ingredient(
                kind, params=_from_defaults(INGREDIENT_KINDS[kind].params, settings), join=join, invert=invert
            )
        )
    _keep(scene, document)


@latch_app.command("set")
def latch_set(
    context: typer.Context,
    name: str,
    number: Annotated[
        int | None, typer.Argument(help="Ingredient, from 1; none for the latch itself")
    ] = None,
    settings: Settings = None,
) -> None:
    """Change an ingredient's settings, or the latch's own (invert=true, strength=0.8, edge_true.reach=0.01)."""
    document: Path = context.obj
    scene = load_scene(document)
    index = scene.latches.index(_find_latch(scene, name))
    data = scene.model_dump(mode="json")
    held = data["latches"][index]
    if number is None:
        data["latches"][index] = _merge(held, _assign(settings))
    elif 1 <= number <= len(held["ingredients"]):
        line = held["ingredients"][number - 1]
        given = _assign(settings)
        own = {k: given.pop(k) for k in ("on", "invert", "join") if k in given}
        line |= own
        line["params"] = _merge(line["params"], given)
    else:
        raise DocumentError(f"{name} has no ingredient {number}")
    save_scene(parse_scene(data), document)


@latch_app.command("rm")
def latch_rm(
    context: typer.Context, name: str, number: Annotated[int | None, typer.Argument()] = None
) -> None:
    """Remove a latch, or one of its ingredients. A latch in use stays."""
    document: Path = context.obj
    scene = load_scene(document)
    latch = _find_latch(scene, name)
    if number is None:
        used = [n for n, move in enumerate(scene.moves, 1) if move.latch == latch.id]
        if used:
            raise DocumentError(f"{name} is still used by move {used[0]}; nothing was removed")
        scene.latches.remove(latch)
    elif 1 <= number <= len(latch.ingredients):
        del latch.ingredients[number - 1]
    else:
        raise DocumentError(f"{name} has no ingredient {number}")
    _keep(scene, document)


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


if __name__ == "__main__":
    main()
