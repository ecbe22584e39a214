"""From frames to a sweep: how they lie, how light they are, which way is up, and what found no place.

Everything found here goes into the document; nothing of it is asked again.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from ..binding.maps import master_of, member_of, outline_of
from ..blocks import Block
from ..errors import JoinError
from ..geometry import Member
from ..ledger import LeftOut, Scene, Source, Sweep, SweepMember, SweepPair
from ..ledger.joined import MEMBERS
from ..registration.inputs import InputFrame
from ..registration.pairs import Pair, find_pairs
from ..registration.solve import Solved, again, groups, rays, solve
from ..registration.subpixel import lit, refine_all
from ..registration.upright import find_up, held_up
from ..running.context import RenderContext
from ..running.patience import go_on
from .blend import Small, stops_of
from .gains import solve_gains
from .projected import Projected

F64 = NDArray[np.float64]
Progress = Callable[[str, float], None]

LOOKED_AT: Final = 1000
"""Long edge at which features are looked for, px…"""
QUICKLY: Final = 560
"""…and where only a first picture is wanted."""
FINER: Final = 1752
"""Long edge at which matches are made finer, px."""
GRAIN: Final = 64
"""The master's sides are whole numbers of so many px, so that all its levels agree."""
GAINS_AT: Final = 500
"""Long side at which overlaps are compared, px."""
WIDE, VERY_WIDE = math.radians(65), math.radians(115)
"""From so wide on a sweep is shown by Panini's projection, and by the cylinder."""


def nothing(step: str, done: float) -> None:
    """Nobody asks how far it is."""


def sorted_out(
    frames: Sequence[InputFrame], what: str = "A sweep", most: int = MEMBERS
) -> tuple[list[InputFrame], list[LeftOut]]:
    """The frames that may be joined, and those that may not, with reasons. Raises JoinError where too few are left."""
    out: list[LeftOut] = []
    left: list[InputFrame] = []
    if len(frames) > most:
        raise JoinError(f"{what} is of up to {most} frames; these are {len(frames)}. Join fewer at a time.")
    seen: dict[str, str] = {}
    for f in frames:
        twice = seen.setdefault(f.raster.identity, f.name)
        if twice != f.name or any(g.key == f.key for g in left):
            out.append(LeftOut(name=f.name, why=f"it is the same file as {twice}"))
        elif f.dark:
            out.append(LeftOut(name=f.name, why="it is black: there is nothing to match"))
        else:
            left.append(f)
    if len(left) < 2:
        why = "; ".join(f"{o.name}: {o.why}" for o in out)
        raise JoinError(f"{what} takes two frames at least. {why}".strip())
    return left, out


def plan_sweep(
    frames: Sequence[InputFrame], context: RenderContext, quick: bool = False, progress: Progress = nothing
) -> Sweep:
    """The solution of a sweep. quick: as good as a first picture needs. Raises JoinError with a sentence that names the
    frames."""
    usable, out = sorted_out(frames)
    pool = context.pool
    progress("looking for what frames share", 0.05)
    features = list(pool.map(lambda f: f.features(QUICKLY if quick else LOOKED_AT), usable))
    planes = [f.geometry.to_turned(x.points) for f, x in zip(usable, features, strict=True)]
    progress("matching", 0.3)
    pairs = find_pairs(features, planes, pool.map)
    if not pairs:
        names = ", ".join(f.name for f in usable)
        raise JoinError(
            f"None of these frames overlap: {names}. A sweep needs a fifth of each frame to be in the next one too."
        )
    progress("solving how the camera was turned", 0.45)
    solved = tuned(usable, pairs, context, quick)
    members = sorted(solved.turns)
    main = groups(len(usable), pairs)
    out += [
        LeftOut(name=usable[n].name, why=_why(usable, n, members, pairs, main))
        for n in range(len(usable))
        if n not in solved.turns
    ]
    anchor = _anchor(usable, solved)
    progress("looking for the horizon", 0.6)
    up = held_up(solved, anchor) if quick else find_up(usable, solved, anchor, context.pool)[0]
    base = _laid_out(usable, solved, anchor, up, out)
    progress("comparing how light frames are", 0.75)
    return _lit_alike(base, {f.key: f for f in usable}, context, quick)


def tuned(usable: list[InputFrame], pairs: list[Pair], context: RenderContext, quick: bool) -> Solved:
    """How the frames of pairs were turned; by finer matches unless quick. Raises JoinError that names them."""
    stated = {round(f.info.focal, 4) for f in usable if f.info.focal_mm}
    focal = stated.pop() if len(stated) == 1 else None
    corner = usable[0].geometry.half_diagonal
    names = ", ".join(f.name for f in usable)
    try:
        solved = solve(len(usable), pairs, focal, corner)
    except JoinError as error:
        raise JoinError(
            f"{names} do not fit together by turning the camera; were they taken from one place?"
        ) from error
    if not quick:
        long = max(max(f.info.width, f.info.height) for f in usable)
        lights = list(context.pool.map(lambda f: lit(f, min(FINER, long)), usable))
        solved = again(solved, refine_all(usable, lights, solved, context.pool.map), focal, corner)
    return solved


def _why(
    usable: list[InputFrame], n: int, members: list[int], pairs: list[Pair], main: list[list[int]]
) -> str:
    """Why a frame found no place, as a sentence's end."""
    own = next(g for g in main if n in g)
    first = usable[members[0]]
    if len(own) > 1 and members[0] not in own:
        others = ", ".join(usable[k].name for k in own if k != n)
        return f"with {others} it shows another scene than the rest; join those by themselves"
    if usable[n].camera != first.camera:
        return "it was taken with another camera, and nothing in it was found in the others"
    if any(n in (p.i, p.j) for p in pairs):
        return "what it shares with the others does not fit by turning the camera"
    return "nothing in it was found in the others: it does not overlap, or it shows something else"


def _anchor(usable: list[InputFrame], solved: Solved) -> int:
    """The frame that looks most as all do on the mean."""
    ahead = {n: rotation[2] for n, rotation in solved.turns.items()}
    mean = np.sum(list(ahead.values()), axis=0)
    if np.linalg.norm(mean) < 0.2 * len(ahead):  # all the way round: the middle of the row
        order = sorted(ahead)
        return order[len(order) // 2]
    return max(sorted(ahead), key=lambda n: float(ahead[n] @ mean))


def levelled(up: F64, ahead: F64) -> F64:
    """3×3 from a world with that up to one whose y is down, z level and ahead."""
    y = -up / np.linalg.norm(up)
    z = ahead - (ahead @ y) * y
    if np.linalg.norm(z) < 1e-3:
        z = np.cross(y, [1.0, 0.0, 0.0])
    z = z / np.linalg.norm(z)
    return np.stack([np.cross(y, z), y, z])


def _laid_out(usable: list[InputFrame], solved: Solved, anchor: int, up: F64, out: list[LeftOut]) -> Sweep:
    """The solution in a level world, and the raster that holds all of it."""
    chief = usable[anchor]
    unit = max(chief.info.width, chief.info.height)
    level = levelled(up, solved.turns[anchor][2])
    focal = solved.focal * unit
    residual = {
        n: float(
            np.median(
                [r for p, r in zip(solved.pairs, solved.residuals, strict=True) if n in (p.i, p.j)] or [0]
            )
        )
        for n in solved.turns
    }
    members = [
        SweepMember(
            source=usable[n].key,
            rotation=[
                float(v) for v in scipy.spatial.transform.Rotation.from_matrix(rotation @ level.T).as_rotvec()
            ],
            size=list(usable[n].info.developed_size),
            lens=list(usable[n].lens.distortion),
            residual=residual[n] * unit,
        )
        for n, rotation in sorted(solved.turns.items())
    ]
    pairs = [
        SweepPair(a=usable[p.i].key, b=usable[p.j].key, matches=p.matches, held=len(p.a), residual=r * unit)
        for p, r in zip(solved.pairs, solved.residuals, strict=True)
    ]
    worst = solved.worst or [(np.zeros(2), 0.0)] * len(pairs)
    base = Sweep(
        revision=4, anchor=chief.key, focal=focal, density=focal, distortion=solved.distortion, corner=[0.0, 0.0], size=[64, 64], unit=unit,
        members=members, pairs=pairs, left_out=out,
    )  # fmt: skip
    base = base.model_copy(update=_bounds(base))
    master = master_of(base)
    for pair, of, (place, apart) in zip(base.pairs, solved.pairs, worst, strict=True):
        direction = rays(place[None], solved.focal, solved.distortion, chief.geometry.half_diagonal) @ (
            solved.turns[of.i] @ level.T
        )
        x, y = master.px(direction)[0] / unit
        pair.worst, pair.apart = [float(x), float(y)], apart * unit
    return base


def _bounds(base: Sweep) -> dict[str, object]:
    """How large the master must be: corner, size, and its density where it goes all the way round."""
    rights, downs = [], []
    for m in base.members:
        t = np.linspace(-0.5, 0.5, 65)
        world = member_of(base, m).world(np.stack(np.meshgrid(t, t), -1))
        rights.append(np.arctan2(world[..., 0], world[..., 2]).ravel())
        downs.append(np.arctan2(world[..., 1], np.hypot(world[..., 0], world[..., 2])).ravel())
    right, down = np.sort(np.concatenate(rights)), np.concatenate(downs)
    gaps = np.diff(np.concatenate([right, right[:1] + 2 * math.pi]))
    room = 4 / base.focal
    top, bottom = max(float(down.min()) - room, -math.pi / 2), min(float(down.max()) + room, math.pi / 2)
    n = int(gaps.argmax())
    if gaps[n] < math.radians(1.5):
        width = round(2 * math.pi * base.focal / GRAIN) * GRAIN
        density, left = width / (2 * math.pi), -math.pi
    else:
        left = float(right[(n + 1) % len(right)])
        span = 2 * math.pi - float(gaps[n]) + 2 * room
        left = left - 2 * math.pi if left > math.pi / 2 and left + span > math.pi * 1.5 else left
        left, density = left - room, base.focal
        width = math.ceil(span * density / GRAIN) * GRAIN
    height = math.ceil((bottom - top) * density / GRAIN) * GRAIN
    return {"corner": [left, top], "size": [width, height], "density": density}


def _exposed(frames: dict[str, InputFrame], base: Sweep) -> list[float]:
    """Stops to be added to each member by what the files say of their exposure."""
    chief = frames[base.anchor].exposure
    gains = []
    for m in base.members:
        own = frames[m.source].exposure
        gains.append(0.0 if own is None or chief is None else chief - own)
    return gains


def _lit_alike(base: Sweep, frames: dict[str, InputFrame], context: RenderContext, quick: bool) -> Sweep:
    """The same with gains: by the files, then by what overlaps. quick: by the files alone."""
    stated = _exposed(frames, base)
    base = base.model_copy(
        update={
            "members": [m.model_copy(update={"gain": g}) for m, g in zip(base.members, stated, strict=True)]
        }
    )
    if quick:
        return base
    scale = max(1, math.ceil(max(base.size) / (2 * GAINS_AT)))
    master = master_of(base)
    parts: list[Small] = []
    radii: list[NDArray[np.float32]] = []
    peaks: list[NDArray[np.float32]] = []
    owners: list[int] = []
    whole = Block(0, -(-base.size[1] // scale), 0, -(-base.size[0] // scale))

    def drawn(m: SweepMember) -> list[tuple[Small, NDArray[np.float32], NDArray[np.float32]]]:
        go_on()
        projected = Projected.of(frames[m.source], m, base, master, context)
        found = []
        for block in projected.blocks(whole, scale):
            planes, edge = projected.draw(block, scale)
            part = Small(block.left, block.top, stops_of(planes), edge)
            found.append((part, projected.radius2(block, scale), projected.peak(block, scale)))
        return found

    for n, found in enumerate(context.pool.map(drawn, base.members)):
        parts += [part for part, _, _ in found]
        radii += [radius for _, radius, _ in found]
        peaks += [peak for _, _, peak in found]
        owners += [n] * len(found)
    order = [m.source for m in base.members]
    gains, vignetting = solve_gains(parts, radii, peaks, owners, order.index(base.anchor), len(order))
    members = [m.model_copy(update={"gain": m.gain + g}) for m, g in zip(base.members, gains, strict=True)]
    return base.model_copy(update={"members": members, "vignetting": vignetting})


@dataclass(frozen=True)
class Wide:
    """How wide a sweep is, radians."""

    across: float
    down: float


def wide(base: Sweep) -> Wide:
    """See Wide."""
    return Wide(base.size[0] / base.density, base.size[1] / base.density)


def order_of(base: Sweep) -> tuple[list[str], float]:
    """Sources from left to right, row by row, and how much of a frame neighbours share, 0–1."""
    ahead = {
        m.source: scipy.spatial.transform.Rotation.from_rotvec(m.rotation).as_matrix()[2]
        for m in base.members
    }
    rows = {k: round(math.asin(float(np.clip(v[1], -1, 1))) / math.radians(12)) for k, v in ahead.items()}
    order = sorted(ahead, key=lambda k: (rows[k], math.atan2(ahead[k][0], ahead[k][2])))
    outline = {m.member.source: m for m in _seen(base)}
    shares = []
    for pair in base.pairs:
        one, other = outline[pair.a], outline[pair.b]
        shares.append(max(one.share(other), other.share(one)))
    return order, float(np.median(shares)) if shares else 0.0


@dataclass(frozen=True)
class _Seen:
    """A member, and the directions spread over it."""

    member: SweepMember
    looks: Member
    directions: F64

    def share(self, other: "_Seen") -> float:
        """How much of it the other one sees too."""
        return float(other.looks.sees(self.directions).mean())


def _seen(base: Sweep) -> list[_Seen]:
    out = []
    for m, looks in zip(base.enabled, outline_of(base).members, strict=True):
        t = np.linspace(-0.49, 0.49, 25)
        out.append(_Seen(m, looks, looks.world(np.stack(np.meshgrid(t, t), -1))))
    return out


def coverage_share(base: Sweep) -> float:
    """How much of the master frames cover, 0–1."""
    master, outline = master_of(base), outline_of(base)
    return float(outline.covered(master.directions(master.grid(361, 181))).mean())


def scene_of(base: Sweep, sources: list[Source], name: str = "") -> Scene:
    """A fresh scene of a sweep, in the projection that suits how wide it is."""
    across = max(wide(base).across, wide(base).down)
    kind = "rectilinear" if across < WIDE else "panini" if across < VERY_WIDE else "cylindrical"
    known = set(base.sources)
    scene = Scene(name=name, sources=[s for s in sources if s.id in known], base=base)
    scene.ground.projection.params.kind = kind
    return scene
