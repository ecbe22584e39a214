"""What a file says of what it was made of: which frames, how they were joined, how wide one sees, what was brought."""

import math
from functools import singledispatch

from ..ledger import Bracket, FrameBase, Scene, Sweep
from ..ledger.joined import Base
from ..render import Development


def described(development: Development) -> str:
    """For example "Sweep of 5 frames (sweep-1.dng, …), 131 x 62 degrees, cylindrical.", in plain letters."""
    scene = development.scene
    parts = [_of_base(scene.base, development)]
    parts += [f"Loan from {_name(scene, loan.source)}." for loan in scene.loans if loan.on]
    if scene.sky is not None and scene.sky.on:
        parts.append(f"Sky from {_name(scene, scene.sky.source)}.")
    return " ".join(parts).encode("ascii", "replace").decode()


@singledispatch
def _of_base(base: Base, development: Development) -> str:
    raise TypeError(base)


@_of_base.register
def _of_frame(base: FrameBase, development: Development) -> str:
    return f"Frame {_name(development.scene, development.scene.anchor.id)}, {_seen(development)}."


@_of_base.register
def _of_sweep(base: Sweep, development: Development) -> str:
    across, down = (round(math.degrees(px / base.density)) for px in base.size)
    exposures = [len(bracket.enabled) for bracket in base.brackets]
    what = f"brackets of {max(exposures)}" if exposures else "frames"
    shown = development.scene.ground.projection.params.kind
    text = f"Sweep of {len(base.enabled)} {what} ({_names(development.scene)}), {across} x {down} degrees, {shown}."
    return text + (f" Light clips {base.headroom:.1f} stops further up." if exposures else "")


@_of_base.register
def _of_bracket(base: Bracket, development: Development) -> str:
    evs = [m.ev for m in base.enabled]
    return (
        f"Bracket of {len(evs)} frames ({_names(development.scene)}), {max(evs) - min(evs):.1f} stops from the darkest to the"
        f" lightest, light clips {base.headroom:.1f} stops further up, {_seen(development)}."
    )


def _names(scene: Scene) -> str:
    return ", ".join(_name(scene, m.source) for m in scene.base.enabled)


def _name(scene: Scene, key: str) -> str:
    return scene.source(key).path.rpartition("/")[2] or "unnamed"


def _seen(development: Development) -> str:
    """The angle of view of the developed picture."""
    focal, box = development.raster.info.focal, development.geometry.box
    across, down = (round(math.degrees(2 * math.atan(side / 2 / focal))) for side in (box.width, box.height))
    return f"{across} x {down} degrees"
