"""What a file says of what it was made of: which frames, how they were joined, how wide one sees, what was brought."""

import math

from ..ledger import Scene
from ..render import Development


def described(development: Development) -> str:
    """For example "Sweep of 5 frames (sweep-1.dng, …), 131 x 62 degrees, cylindrical.", in plain letters."""
    scene = development.scene
    base = scene.base
    said = []
    if base.kind == "frame":
        said.append(f"Frame {_name(scene, scene.sources[0].id)}, {_seen(development)}.")
    else:
        names = ", ".join(_name(scene, m.source) for m in base.enabled)
        if base.kind == "sweep":
            across, down = (round(math.degrees(px / base.density)) for px in base.size)
            shown = scene.ground.projection.params.kind
            exposures = [len(m.bracket.enabled) for m in base.enabled if m.bracket]
            what = f"brackets of {max(exposures)}" if exposures else "frames"
            said.append(f"Sweep of {len(base.enabled)} {what} ({names}), {across} x {down} degrees, {shown}.")
            if exposures:
                said.append(f"Light clips {base.headroom:.1f} stops further up.")
        else:
            evs = [m.ev for m in base.enabled]
            said.append(
                f"Bracket of {len(base.enabled)} frames ({names}), {max(evs) - min(evs):.1f} stops from the darkest to the"
                f" lightest, light clips {base.headroom:.1f} stops further up, {_seen(development)}."
            )
    said += [f"Loan from {_name(scene, loan.source)}." for loan in scene.loans if loan.on]
    if scene.sky is not None and scene.sky.on:
        said.append(f"Sky from {_name(scene, scene.sky.source)}.")
    return " ".join(said).encode("ascii", "replace").decode()


def _name(scene: Scene, key: str) -> str:
    return scene.source(key).path.rpartition("/")[2] or "unnamed"


def _seen(development: Development) -> str:
    """The angle of view of the developed picture."""
    focal, box = development.raster.info.focal, development.geometry.box
    across, down = (round(math.degrees(2 * math.atan(side / 2 / focal))) for side in (box.width, box.height))
    return f"{across} x {down} degrees"
