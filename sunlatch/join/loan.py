"""A loan: a second frame aligned to a scene's, so that part of it can be let in through a latch."""

import numpy as np
from scipy.spatial.transform import Rotation

from ..blocks import Block
from ..errors import JoinError
from ..geometry import Across, Geometry, warp
from ..ledger import LoanLine
from ..moves.loan import LoanParams
from ..render.ground import turn_of
from ..render.workshop import Workshop
from .pairs import find_pairs
from .plan import LOOKED_AT, Progress, nothing, tuned
from .taken import Taken

ELSEWHERE = 12.0
"""Degrees: a frame turned by more has too little in common."""


def lend(chief: Taken, other: Taken, shop: Workshop, progress: Progress = nothing) -> LoanLine:
    """A fresh loan of one frame to the scene of another. Raises JoinError with a sentence that names it."""
    if chief.raster.identity == other.raster.identity:
        raise JoinError(f"{other.name} is the scene's own frame: there is nothing in it to lend.")
    if other.dark:
        raise JoinError(f"{other.name} is black: there is nothing to match.")
    if chief.info.developed_size != other.info.developed_size:
        ours, theirs = chief.info.developed_size, other.info.developed_size
        raise JoinError(
            f"{other.name} is {theirs[0]} × {theirs[1]} px, the scene {ours[0]} × {ours[1]}: frames of one size can be lent."
        )
    progress("looking for what both show", 0.1)
    both = [chief, other]
    features = list(shop.pool.map(lambda f: f.features(LOOKED_AT), both))
    pairs = find_pairs(
        features, [f.geometry.to_turned(x.points) for f, x in zip(both, features, strict=True)]
    )
    if not pairs:
        raise JoinError(f"{other.name} shows something else than the scene: nothing in it was found there.")
    progress("aligning it", 0.5)
    solved = tuned(both, pairs, shop, quick=False)
    turn = Rotation.from_matrix(solved.turns[1] @ solved.turns[0].T)
    if np.degrees(turn.magnitude()) > ELSEWHERE:
        raise JoinError(f"{other.name} looks {np.degrees(turn.magnitude()):.0f}° elsewhere than the scene.")
    unit = max(chief.info.width, chief.info.height)
    vector = [float(v) for v in turn.as_rotvec()]
    line = LoanLine(source=other.key, turn=vector, focal=solved.focal * unit)
    ev = _lighter(chief, other, line, shop)
    # a darker one is wanted as dark as it was taken: that is why it was
    return line.model_copy(update={"ev": ev, "params": LoanParams(stops=round(min(max(ev, -5.0), 0.0), 2))})


def _lighter(chief: Taken, other: Taken, line: LoanLine, shop: Workshop) -> float:
    """Stops more that a lent frame was exposed for: as its px say, near what the files say."""
    stated = None
    if chief.exposure is not None and other.exposure is not None:
        stated = other.exposure - chief.exposure
    level = min(max(chief.raster.levels), max(other.raster.levels))
    h, w = chief.raster.shape(level)
    unit = max(chief.info.width, chief.info.height)
    across = Across(chief.geometry, tuple(turn_of(line.turn).ravel().tolist()), line.focal / unit)
    info = other.info
    geometry = Geometry(info.width, info.height, info.orientation, other.lens, sphere=across)
    size = other.raster.shape(level)
    whole = geometry.fit(10**6)
    view = type(whole)(whole.region, (w, h))
    theirs = warp(other.raster.fetch(level), (size[1], size[0]), geometry, view, shop.pool)[1]
    ours = chief.raster.fetch(level)(*Block(0, h, 0, w))[1]
    both = (ours > 0.004) & (ours < 0.7) & (theirs > 0.004) & (theirs < 0.7)
    if both.sum() < 200:
        return stated or 0.0
    seen = float(np.median(np.log2(theirs[both] / ours[both])))
    return seen if stated is None or abs(seen - stated) < 0.5 else stated
