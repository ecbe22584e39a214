"""`sunlatch latch`: the latches of a scene."""

from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer

from ..errors import DocumentError
from ..geometry import Geometry
from ..latch import INGREDIENT_KINDS
from ..ledger import (
    IngredientLine,
    Latch,
    ingredient_sentence,
    load_scene,
    new_ingredient,
    parse_scene,
    save_scene,
)
from .opening import (
    FrameOption,
    SceneFile,
    Settings,
    assigned,
    find_latch,
    from_defaults,
    keep,
    merged,
    open_scene,
)


def found_ingredient(what: str, box: str, base: Geometry) -> IngredientLine:
    """The ingredient that finds something in a frame, a box drawn around it in fractions of the frame
    upright, whose map is `base`. Raises DocumentError."""
    finders = [k for k, kind in INGREDIENT_KINDS.items() if kind.find is not None]
    if what not in finders:
        raise DocumentError(f"{what!r} cannot be found; what can be: {', '.join(finders)}")
    settings: dict[str, Any] = {}
    if box:
        if "box" not in INGREDIENT_KINDS[what].params.model_fields:
            raise DocumentError(f"a box says where a subject is; {what} is found in the whole frame")
        try:
            x0, y0, x1, y1 = (float(v) for v in box.split(","))
        except ValueError as error:
            raise DocumentError(f"a box is four numbers X0,Y0,X1,Y1, not {box!r}") from error
        if not (0 <= x0 < x1 <= 1 and 0 <= y0 < y1 <= 1):
            raise DocumentError(f"the box {box} does not lie inside the picture")
        w, h = base.developed_size
        corners = base.to_source(np.array([[x0 * w, y0 * h], [x1 * w, y1 * h]]) / max(w, h))
        one, other = ({"x": float(x), "y": float(y)} for x, y in corners)
        settings["box"] = {"one": one, "other": other}
    return new_ingredient(what, params=settings)


app = typer.Typer(
    add_completion=False, pretty_exceptions_enable=False, no_args_is_help=True, help="The latches of a scene."
)


@app.callback()
def latch_of(context: typer.Context, document: SceneFile) -> None:
    """The latches of a scene."""
    context.obj = document


@app.command("list")
def latch_list(context: typer.Context) -> None:
    """The latches and their ingredients."""
    for latch in load_scene(context.obj).latches:
        print(f"{latch.name}  {latch.id[:8]}" + (" inverted" if latch.invert else ""))
        for n, line in enumerate(latch.ingredients, 1):
            print(f"  {n} {line.join.replace('_', ' ')}: {ingredient_sentence(line)}")


@app.command("add")
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
        latch = Latch(name=name, read_at=open_scene(document, frame)[1].ground.read_at())
        scene.latches.append(latch)
    if kind is not None:
        latch.ingredients.append(
            new_ingredient(
                kind, params=from_defaults(INGREDIENT_KINDS[kind].params, settings), join=join, invert=invert
            )
        )
    keep(scene, document)


@app.command("set")
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
    index = scene.latches.index(find_latch(scene, name))
    data = scene.model_dump(mode="json")
    held = data["latches"][index]
    if number is None:
        data["latches"][index] = merged(held, assigned(settings))
    elif 1 <= number <= len(held["ingredients"]):
        line = held["ingredients"][number - 1]
        given = assigned(settings)
        own = {k: given.pop(k) for k in ("on", "invert", "join") if k in given}
        line |= own
        line["params"] = merged(line["params"], given)
    else:
        raise DocumentError(f"{name} has no ingredient {number}")
    save_scene(parse_scene(data), document)


@app.command("rm")
def latch_rm(
    context: typer.Context, name: str, number: Annotated[int | None, typer.Argument()] = None
) -> None:
    """Remove a latch, or one of its ingredients. A latch in use stays."""
    document: Path = context.obj
    scene = load_scene(document)
    latch = find_latch(scene, name)
    if number is None:
        used = [n for n, move in enumerate(scene.moves, 1) if move.latch == latch.id]
        if used:
            raise DocumentError(f"{name} is still used by move {used[0]}; nothing was removed")
        scene.latches.remove(latch)
    elif 1 <= number <= len(latch.ingredients):
        del latch.ingredients[number - 1]
    else:
        raise DocumentError(f"{name} has no ingredient {number}")
    keep(scene, document)
