"""`sunlatch keep, compare`: states of a scene to come back to, and what is different between them."""

from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from ..errors import DocumentError, SunLatchError
from ..ledger import (
    Kept,
    Scene,
    before_light,
    changes,
    load_scene,
    parse_scene,
    save_scene,
    shaped_like,
    untouched,
)
from ..meters import difference_picture
from ..proof import write_pixels
from ..render import Output, picture_8
from .opening import FrameOption, SceneFile, open_scene
from .pictures import view_of

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
SIDES = "now, light (before Light), original, or a keep's name"


@app.command()
def keep(
    scene: SceneFile,
    name: Annotated[str, typer.Argument(help="What it is called; without one the keeps are listed")] = "",
    back: Annotated[bool, typer.Option("--back", help="Go back to it")] = False,
    remove: Annotated[bool, typer.Option("--remove", help="Remove it")] = False,
) -> None:
    """Keep a state of a scene by name, go back to it, or remove it."""
    now = load_scene(scene)
    if not name:
        for kept in now.keeps:
            print(kept.name)
        return
    if back:
        was = state_of(now, name)
        save_scene(was.model_copy(update={"keeps": now.keeps}), scene)
        return
    there = [kept for kept in now.keeps if kept.name.casefold() == name.casefold()]
    if remove and not there:
        raise DocumentError(f"there is no keep {name!r} in this scene")
    if there and not remove:
        raise DocumentError(
            f"there is a keep {there[0].name!r} by now; take another name, or --remove it first"
        )
    if remove:
        now.keeps.remove(there[0])
    else:
        now.keeps.append(Kept(name=name, state=now.model_dump(mode="json", exclude={"keeps"})))
    save_scene(parse_scene(now.model_dump(mode="json")), scene)


def state_of(now: Scene, side: str) -> Scene:
    """A state of a scene by its name. Raises DocumentError."""
    if side == "now":
        return now
    if side == "light":
        return before_light(now)
    if side == "original":
        return untouched(now)
    for kept in now.keeps:
        if kept.name.casefold() == side.casefold():
            return parse_scene(kept.state)
    raise DocumentError(f"there is no keep {side!r} in this scene")


@app.command()
def compare(
    scene: SceneFile,
    one: Annotated[str, typer.Argument(help=SIDES)],
    other: Annotated[str, typer.Argument(help=SIDES)] = "now",
    out: Annotated[Path | None, typer.Option("-o", help="A picture of both, or of their difference")] = None,
    look: Annotated[str, typer.Option(help="side, split or difference")] = "side",
    frame: FrameOption = None,
    long_edge: Annotated[int, typer.Option("--long-edge", min=16, max=20000)] = 1600,
) -> None:
    """What is different between two states of a scene."""
    now = load_scene(scene)
    before, after = state_of(now, one), state_of(now, other)
    for description in changes(before, after):
        print(description)
    if out is None:
        return
    if look not in ("side", "split", "difference"):
        raise SunLatchError(f"two states are looked at side by side, split, or as difference, not {look!r}")
    _, development = open_scene(scene, frame, after)
    first = development.again(shaped_like(before, after))
    view = view_of(development, None, long_edge)
    if look == "difference":
        px = difference_picture(first, development, view)
    else:
        left, right = (picture_8(d, view, True) for d in (first, development))
        half = view.size[0] // 2
        px = np.concatenate([left[:, :half], right[:, half:]] if look == "split" else [left, right], axis=1)
    write_pixels(out, np.ascontiguousarray(px), Output("srgb", 8), description=f"{one} and {other}")
