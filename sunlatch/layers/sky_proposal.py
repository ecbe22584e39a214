"""What a new sky is proposed as: where it lies, how light it is, what water shows of it, and its grain."""

import uuid
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA
from ..errors import MendError
from ..frame import Raster
from ..ledger import Latch, NewSky, Source
from ..masking.masks import Latches
from ..masking.reader import Reader
from ..moves.new_sky import NewSkyParams
from ..parameters import held
from ..running.progress import phase
from ..sensor.ground import Ground
from ..sensor.kernels import LOG_GREY, to_working
from .own_sky import LEARNED_PX, share_of_sky
from .skies import SkyIn, bound_sky
from .sky_bands import DARKEST_LIGHT

F32 = NDArray[np.float32]
HOLDS, MOST_DARKER = 2.0, 2.0
"""Stops under which all but the lightest of a new sky is proposed to lie, and by how many it is darkened for that at most."""
LEAST_USED: Final = 0.3
"""The share of its height that any sky is taken to have, from above."""
CLEANER: Final = 0.7
"""Grain of a sky against that of the one that was there under which it is proposed to take that one's."""
POND: Final = 0.06
"""The share of a frame that is water from which on it is sure to be some, and mirrors the sky…"""
MIRRORS: Final = 0.8
"""…and how far it is proposed to."""


def propose_sky(
    ground: Ground, latches: Latches, reader: Reader, matrix: F32, source: Source, raster: Raster,
    latch: Latch, horizon: float | None = None,
) -> NewSky:  # fmt: skip
    """A new sky that covers what a latch holds, its lower edge on the scene's horizon (in heights of the frame upright; found
    where none is said), as light as the sky that was there. Raises MendError where the latch holds too little."""
    base = ground.geometry.base
    view = base.look(LEARNED_PX)
    matte = latches.mask(latch, view, base)
    if (matte > 0.5).mean() < 0.005:
        raise MendError(f"{latch.name} holds all but nothing here; mark the sky first, then bring another.")
    h, w = matte.shape
    rows, columns = np.nonzero(matte > 0.5)
    top, left, right = float(rows.min()) / h, float(columns.min()) / w, float(columns.max() + 1) / w
    found = float(np.percentile(rows, 99.5) + 1) / h
    line = NewSky(
        id="proposed", source=source.id, latch=latch.id, horizon=found if horizon is None else horizon
    )
    own = Ground.of_frame(ground.context, source, raster)
    with phase(0.0, 0.4):
        usable = max(share_of_sky(own), LEAST_USED)
    own_w, own_h = own.geometry.base.developed_size
    sky_w, sky_h = own_w / max(own_w, own_h), own_h / max(own_w, own_h)
    unit = max(w, h)
    wide, tall = (right - left) * w / unit, (max(found, line.horizon) - top) * h / unit
    size = max(wide / sky_w, tall / (usable * sky_h)) * 1.02
    line.params.size = held(NewSkyParams, "size", size)
    across = ((left + right) / 2 - 0.5) * w / unit
    if ground.raster.wraps:  # the middle of what is looked at; where it meets itself lies behind
        shown = ground.geometry
        middle = shown.to_source(np.array(shown.developed_size) / (2 * shown.long_edge))
        across = float((middle - shown.middle)[0])
        across -= round(across * unit / w) * w / unit
    down = (max(found, line.horizon) - 0.5) * h / unit - (usable - 0.5) * sky_h * line.params.size
    line.params.across = held(NewSkyParams, "across", across)
    line.params.down = held(NewSkyParams, "down", down)
    placed = bound_sky(line, latch, source, raster, ground, latches, reader, matrix)
    with phase(0.4, 1.0):
        pond = float((placed.water(view, base) > 0.5).mean())
        line.params.water = MIRRORS if pond > POND and placed.sure_of_water() else 0.0
    ours, theirs = placed.grains(ground.geometry.fit(10**6), ground.geometry)
    line.params.grain = 1.0 if theirs < CLEANER * ours else 0.0
    return _measured(line, placed)


def _measured(line: NewSky, placed: SkyIn) -> NewSky:
    """The same, as light as the sky that was there, and with how its colour differs from that."""
    ground = placed.scene_ground
    view = ground.geometry.look(LEARNED_PX)
    camera = ground.reading_camera(view)
    old = np.empty_like(camera)
    to_working(camera, placed.scene_matrix, old)
    new, alpha = placed.light(view), placed.matte(view)
    both = (alpha > 0.9) & (new.min(0) > DARKEST_LIGHT) & (old.min(0) > DARKEST_LIGHT)
    if both.sum() < 50:
        both = alpha > 0.5
    weights = np.asarray(LUMA, np.float32)
    ours, theirs = (np.tensordot(weights, p[:, both], 1) for p in (old, new))
    level = float(
        np.median(np.log2(np.maximum(ours, DARKEST_LIGHT)))
        - np.median(np.log2(np.maximum(theirs, DARKEST_LIGHT)))
    )
    shed = (
        np.log2(np.maximum(new[:, both], DARKEST_LIGHT)).mean(1)
        - np.log2(np.maximum(old[:, both], DARKEST_LIGHT)).mean(1)
        + level
    )
    # as light as the old one, but for what would print white of it
    bright = (
        np.log2(np.maximum(np.percentile(np.tensordot(weights, new[:, both], 1), 97), DARKEST_LIGHT))
        + level
        - LOG_GREY
    )
    line.params.stops = round(float(np.clip(HOLDS - bright, -MOST_DARKER, 0)), 1)
    update = {
        "level": level,
        "shed": [float(s) for s in np.clip(shed, -6, 6)],
    }
    return line.model_copy(update={"id": str(uuid.uuid4()), **update})
