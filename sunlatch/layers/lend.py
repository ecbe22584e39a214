"""A loan: a second frame aligned to a scene's, so that part of it can be let in through a latch."""

from collections.abc import Sequence

import numpy as np
import scipy

from ..binding.maps import map_of
from ..blocks import Block
from ..errors import JoinError
from ..frame import Raster
from ..geometry import View, warp
from ..ledger import LoanLine, Scene, Sweep
from ..merging.plan import LOOKED_AT, Progress, nothing, tuned
from ..moves.loan import LoanParams
from ..registration.inputs import InputFrame
from ..registration.pairs import Pair, find_pairs
from ..registration.solve import rotation_between
from ..running.context import RenderContext
from ..sensor.ground import Ground
from .loans import SecondaryFrame, lent_map

ELSEWHERE = 12.0
"""Degrees: a frame turned by more has too little in common."""
BRIGHTNESS_AT = 900
"""Long edge, px, at which light is compared, at most."""


def lend(
    scene: Scene,
    own: Sequence[InputFrame],
    raster: Raster,
    other: InputFrame,
    context: RenderContext,
    progress: Progress = nothing,
) -> LoanLine:
    """A fresh loan of one frame to a scene. own: the frames it is made of that light is measured by: the anchor, or all
    of a sweep; raster: the scene's light. Raises JoinError with a sentence that names it."""
    if any(f.raster.identity == other.raster.identity for f in own):
        raise JoinError(f"{other.name} is the scene's own frame: there is nothing in it to lend.")
    if other.dark:
        raise JoinError(f"{other.name} is black: there is nothing to match.")
    # the anchor may be left out of its sweep
    chief = next((f for f in own if f.key == scene.anchor.id), own[0])
    if set(chief.info.developed_size) != set(other.info.developed_size):
        ours, theirs = chief.info.developed_size, other.info.developed_size
        raise JoinError(
            f"{other.name} is {theirs[0]} × {theirs[1]} px, the scene {ours[0]} × {ours[1]}: frames of one size can be lent."
        )
    progress("looking for what both show", 0.1)
    features = list(context.pool.map(lambda f: f.features(LOOKED_AT), [*own, other]))
    planes = [f.geometry.to_turned(x.points) for f, x in zip([*own, other], features, strict=True)]
    found: list[tuple[InputFrame, Pair]] = []
    for n, mine in enumerate(own):
        for pair in find_pairs([features[n], features[-1]], [planes[n], planes[-1]]):
            found.append((mine, pair))
    if not found:
        raise JoinError(f"{other.name} shows something else than the scene: nothing in it was found there.")
    progress("aligning it", 0.5)
    mine, pair = max(found, key=lambda f: len(f[1].a))
    solved = tuned([mine, other], [pair], context, quick=False)
    unit = max(chief.info.width, chief.info.height)
    if isinstance(scene.base, Sweep):
        rotation, focal = _into(scene.base, mine, solved.pairs[0], chief), scene.base.focal
    else:
        rotation, focal = (
            scipy.spatial.transform.Rotation.from_matrix(solved.turns[1] @ solved.turns[0].T),
            solved.focal * unit,
        )
        if np.degrees(rotation.magnitude()) > ELSEWHERE:
            raise JoinError(
                f"{other.name} looks {np.degrees(rotation.magnitude()):.0f}° elsewhere than the scene."
            )
    line = LoanLine(source=other.key, rotation=[float(v) for v in rotation.as_rotvec()], focal=focal)
    ev = _lighter(scene, raster, chief, other, line, context)
    # a darker one is wanted as dark as it was taken: that is why it was
    return line.model_copy(update={"ev": ev, "params": LoanParams(stops=round(min(max(ev, -5.0), 0.0), 2))})


def _into(base: Sweep, mine: InputFrame, pair: Pair, chief: InputFrame) -> "scipy.spatial.transform.Rotation":
    """From a sweep's world to the camera of a frame that shows what a member shows, in the lens of that sweep."""
    member = next(m for m in base.members if m.source == mine.key)
    rotation = rotation_between(pair, base.focal / base.unit, base.distortion, chief.geometry.half_diagonal)
    return scipy.spatial.transform.Rotation.from_matrix(
        rotation
    ) * scipy.spatial.transform.Rotation.from_rotvec(member.rotation)


def _lighter(
    scene: Scene, raster: Raster, chief: InputFrame, other: InputFrame, line: LoanLine, context: RenderContext
) -> float:
    """Stops more that a lent frame was exposed for: as its px say, near what the files say."""
    stated = None
    if chief.exposure is not None and other.exposure is not None:
        stated = other.exposure - chief.exposure - scene.base.gain_of(chief.key)
    small = [k for k in raster.levels if max(raster.shape(k)) <= BRIGHTNESS_AT]
    level = min(small, default=max(raster.levels))
    h, w = raster.shape(level)
    shown = map_of(scene, raster.info).base
    geometry = lent_map(scene, raster.info, shown, line, other.info)
    theirs_at = min(max(level, min(other.raster.levels)), max(other.raster.levels))
    size = other.raster.shape(theirs_at)
    ours = shown.turn(raster.fetch(level)(*Block(0, h, 0, w)))[1]
    view = View((0.0, 0.0, 1.0, 1.0), (ours.shape[1], ours.shape[0]))
    theirs = warp(other.raster.fetch(theirs_at), (size[1], size[0]), geometry, view, context.pool)[1]
    freed = scene.base.vignetting
    if freed is not None:
        bare = Ground.of_frame(context, scene.anchor, other.raster)
        theirs = theirs * SecondaryFrame(bare, geometry, np.zeros(9, np.float32)).gain(view, freed)
    both = (ours > 0.004) & (ours < 0.7) & (theirs > 0.004) & (theirs < 0.7)
    if both.sum() < 200:
        return stated or 0.0
    seen = float(np.median(np.log2(theirs[both] / ours[both])))
    return seen if stated is None or abs(seen - stated) < 0.5 else stated
