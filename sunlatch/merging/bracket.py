"""A bracket: how its exposures lie on one another, how light each is, and all of them as one.

Light is merged by the noise of each exposure (Hasinoff, Durand & Freeman 2010: the weights of least variance, taken at what
the light is believed to be, not at each noisy px). Where something moved, one exposure is believed: the one that
most others bear out, and of several the longest that does not clip around there.
"""

import math
from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from ..binding.maps import rotation_matrix
from ..blocks import Block
from ..compiled import kernel
from ..errors import JoinError
from ..geometry import Across, Geometry, View, warp
from ..ledger import Bracket, BracketMember, LeftOut, Scene, Source
from ..lookup import looked_up
from ..registration.inputs import InputFrame
from ..registration.pairs import find_pairs
from ..running.context import RenderContext
from ..running.patience import go_on
from ..sensor.plan import SensorPlan
from ..sensor.sensor import Sensor
from .ahead import ahead
from .painted import painted_on
from .plan import LOOKED_AT, QUICKLY, Progress, nothing, sorted_out, tuned

F32 = NDArray[np.float32]
F16 = NDArray[np.float16]

EXPOSURES_MOST: Final = 9
SAME: Final = 0.2
"""Exposures nearer than so many stops are one."""
ELSEWHERE: Final = 4.0
"""Degrees: a frame turned by more is no exposure of the same view."""
CLIPPED_FROM, DOUBTED_FROM = 0.94, 0.78
"""Light of an exposure, of what clips, that is not believed at all, and believed to begin with."""
BAND: Final = 256
SMALL: Final = 4
"""How many times the picture is reduced to see what moved."""
MOVED: Final = 0.22
"""Stops by which exposures differ where something moved, beyond what noise and a px of misplacement would do."""
SIGMAS: Final = 3.0
LONGER: Final = 0.2
"""How many others a longer exposure outweighs, for its lesser noise."""
MOVED_MARGIN_PX: Final = 7
"""Px of the small size around what moved that are taken from one exposure too."""
HINTED: Final = 0.04
"""Stops by which exposures differ in the soft rim of what moved; from revision 2 on."""
RIM_PX: Final = 32
"""Px of the small size from what moved that its rim reaches at most."""
NOISE: Final = (2e-5, 4e-8)
"""Scale and offset of the noise where a file does not state it: a common camera at its lowest ISO."""


def plan_bracket(
    frames: Sequence[InputFrame], context: RenderContext, quick: bool = False, progress: Progress = nothing
) -> Bracket:
    """The solution of a bracket. Raises JoinError with a sentence that names the frames."""
    usable, out = sorted_out(frames, "A bracket", EXPOSURES_MOST)
    usable, others = _of_one_size(usable)
    out += others
    exposures = [f.exposure for f in usable]
    names = ", ".join(f.name for f in usable)
    if any(e is None for e in exposures):
        unsaid = ", ".join(f.name for f, e in zip(usable, exposures, strict=True) if e is None)
        raise JoinError(f"{unsaid}: the file does not say how it was exposed, so it cannot be merged.")
    stops = np.array(exposures, float)
    if np.ptp(stops) < SAME:
        raise JoinError(
            f"{names} are of one exposure: there is no more range in them than in one. Join them as a sweep."
        )
    order = np.argsort(stops, kind="stable")
    anchor = int(order[(len(order) - 1) // 2])
    progress("looking for what exposures share", 0.1)
    features = list(context.pool.map(lambda f: f.features(QUICKLY if quick else LOOKED_AT), usable))
    planes = [f.geometry.to_turned(x.points) for f, x in zip(usable, features, strict=True)]
    pairs = find_pairs(features, planes, context.pool.map)
    progress("solving how the camera moved", 0.5)
    try:
        solved = tuned(usable, pairs, context, quick)
    except JoinError as error:
        raise JoinError(f"{names} do not show the same view; were they taken from one place?") from error
    if anchor not in solved.turns:
        anchor = min(solved.turns, key=lambda n: abs(stops[n] - stops[anchor]))
    home = solved.turns[anchor]
    unit = max(usable[anchor].info.width, usable[anchor].info.height)
    members = []
    for n, f in enumerate(usable):
        if n not in solved.turns:
            out.append(
                LeftOut(
                    name=f.name,
                    why="nothing in it was found in the others: it shows something else, or too little",
                )
            )
            continue
        rotation = Rotation.from_matrix(solved.turns[n] @ home.T)
        if np.degrees(rotation.magnitude()) > ELSEWHERE:
            out.append(
                LeftOut(name=f.name, why=f"it looks {np.degrees(rotation.magnitude()):.0f}° elsewhere")
            )
            continue
        off = [r for p, r in zip(solved.pairs, solved.residuals, strict=True) if n in (p.i, p.j)]
        members.append(
            BracketMember(
                source=f.key, rotation=[float(v) for v in rotation.as_rotvec()], ev=float(stops[n] - stops[anchor]),
                residual=float(np.median(off or [0.0])) * unit,
            )
        )  # fmt: skip
    if len(members) < 2:
        raise JoinError(f"{names} do not show the same view; were they taken from one place?")
    base = Bracket(
        revision=2, anchor=usable[anchor].key, focal=solved.focal * unit, members=members, left_out=out
    )
    progress("comparing how light exposures are", 0.8)
    return _weighed(base, {f.key: f for f in usable}, context)


def _of_one_size(frames: list[InputFrame]) -> tuple[list[InputFrame], list[LeftOut]]:
    """Frames of the size most of them have, and the others."""
    sizes = [(f.info.width, f.info.height) for f in frames]
    usual = max(sorted(set(sizes)), key=sizes.count)
    out = [
        LeftOut(name=f.name, why=f"it is {s[0]} × {s[1]} px, the others {usual[0]} × {usual[1]}")
        for f, s in zip(frames, sizes, strict=True)
        if s != usual
    ]
    left = [f for f, s in zip(frames, sizes, strict=True) if s == usual]
    if len(left) < 2:
        raise JoinError("These frames are of different sizes: exposures of one view have one size.")
    return left, out


@dataclass(frozen=True)
class Exposed:
    """One exposure on the anchor's px. time: how many times the anchor's light it let in; shortest: of it alone clipped light
    is rebuilt."""

    frame: InputFrame
    geometry: Geometry | None
    sensor: Sensor
    time: float
    noise: tuple[float, float]
    shortest: bool

    def draw(self, block: Block, level: int, size: tuple[int, int], pool: Executor | None) -> F32:
        """Camera RGB (3, h, w) in its own numbers, of a block of the anchor's px at a level."""
        fetch = self.sensor.fetch(level, "rescued") if self.shortest else self.frame.raster.fetch(level)
        if self.geometry is None:
            return np.ascontiguousarray(fetch(*block))
        w, h = size
        view = View(
            (block.left / w, block.top / h, block.right / w, block.bottom / h),
            (block.right - block.left, block.bottom - block.top),
        )
        return warp(fetch, (w, h), self.geometry, view, pool)


def exposures_of(base: Bracket, frames: dict[str, InputFrame], context: RenderContext) -> list[Exposed]:
    """The exposures that are in, the shortest first."""
    chief = frames[base.anchor]
    unit = max(chief.info.width, chief.info.height)
    taken = sorted(base.enabled, key=lambda m: m.ev)
    out = []
    for m in taken:
        frame = frames[m.source]
        geometry = None
        if m.source != base.anchor:
            rotation = tuple(float(v) for v in rotation_matrix(m.rotation).ravel())
            across = Across(chief.geometry, rotation, base.focal / unit)
            info = frame.info
            geometry = Geometry(info.width, info.height, info.orientation, frame.lens, sphere=across)
        noise = frame.info.noise_profile or NOISE
        out.append(
            Exposed(
                frame,
                geometry,
                Sensor(frame.raster, SensorPlan.untouched(), context),
                2.0**m.ev,
                noise,
                m is taken[0],
            )
        )
    return out


def _weighed(base: Bracket, frames: dict[str, InputFrame], context: RenderContext) -> Bracket:
    """The same, with exposures as the px say where they say it: shutters are not exact."""
    some = exposures_of(base, frames, context)
    level = min(max(f.raster.levels) for f in frames.values())
    height, width = frames[base.anchor].raster.shape(level)
    drawn = [e.draw(Block(0, height, 0, width), level, (width, height), context.pool)[1] for e in some]
    evs = [float(np.log2(e.time)) for e in some]
    true = list(evs)
    for n in range(1, len(some)):
        a, b = drawn[n - 1], drawn[n]
        both = (b < 0.6) & (b > 0.02) & (a > 0.01)
        if both.sum() > 200:
            step = float(np.median(np.log2(b[both] / a[both])))
            stated = evs[n] - evs[n - 1]
            true[n] = true[n - 1] + (step if abs(step - stated) < 0.4 else stated)
        else:
            true[n] = true[n - 1] + evs[n] - evs[n - 1]
    order = sorted(base.enabled, key=lambda m: m.ev)
    home = true[[m.source for m in order].index(base.anchor)]
    from_home = {m.source: v - home for m, v in zip(order, true, strict=True)}
    members = [m.model_copy(update={"ev": from_home[m.source]}) for m in base.members]
    return base.model_copy(update={"members": members})


@dataclass(frozen=True)
class Merging:
    """What is decided at the small size. moved (h, w): 1 where one exposure is believed; chosen (exposures, h, w): which."""

    moved: F32
    chosen: F32


def decide(
    exposures: list[Exposed], base: Bracket, level: int, size: tuple[int, int], pool: Executor | None = None
) -> Merging:
    """What moved between exposures, and which is believed there; where one was painted, that one. size: (width, height) of the
    level."""
    w, h = size
    small = (max(1, w // SMALL), max(1, h // SMALL))
    stops, valid, spread = [], [], []
    for e in exposures:
        light, clipped = _small(e, level, size, small, pool)
        # a clipped px anywhere in the cell makes its mean too small
        clips = cv2.dilate(clipped.astype(np.uint8), np.ones((3, 3)))
        scale, offset = e.noise
        deviation = np.sqrt(np.maximum(scale * np.maximum(light, 0) + offset, 1e-12)) / (SMALL * 2**level)
        stops.append(np.log2(np.maximum(light, 1e-5) / e.time))
        valid.append((clips == 0) & (light > 3 * deviation) if not e.shortest else light > 3 * deviation)
        spread.append(1.44 * deviation / np.maximum(light, 1e-5))
    moved = np.zeros(stops[0].shape, bool)
    hinted = np.zeros_like(moved)
    agrees = np.zeros((len(exposures), *stops[0].shape), np.float32)
    for a in range(len(exposures)):
        for b in range(a + 1, len(exposures)):
            both = valid[a] & valid[b]
            slope = _slope(stops[b])
            off = np.abs(stops[a] - stops[b]) - SIGMAS * np.hypot(spread[a], spread[b]) - 0.35 * slope
            moved |= both & (off > MOVED)
            hinted |= both & (off > HINTED)
            alike = (both & (off <= MOVED)).astype(np.float32)
            agrees[a] += alike
            agrees[b] += alike
    moved = cv2.morphologyEx(moved.astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2)))
    margin = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * MOVED_MARGIN_PX + 1, 2 * MOVED_MARGIN_PX + 1))
    core = near = cv2.dilate(moved, margin)
    if base.revision > 1:
        near = cv2.dilate(_with_rim(moved, hinted), margin)
    soft = cv2.GaussianBlur(near.astype(np.float32), (0, 0), MOVED_MARGIN_PX / 3)
    # only what moved says whom to believe, and all around it is believed the same
    there = moved.astype(np.float32)
    weight = cv2.GaussianBlur(there, (0, 0), MOVED_MARGIN_PX) + 1e-6
    score = np.empty_like(agrees)
    for n, ok in enumerate(
        valid
    ):  # the one that most others bear out; of those, the longest that holds all around
        whole = (
            cv2.erode(ok.astype(np.uint8), np.ones((2 * MOVED_MARGIN_PX + 1, 2 * MOVED_MARGIN_PX + 1))) > 0
        )
        borne_out = cv2.GaussianBlur(agrees[n] * there, (0, 0), MOVED_MARGIN_PX) / weight + LONGER * n
        score[n] = np.where(whole, borne_out, -1.0 if n else -0.5)
    best = score.argmax(0)
    if base.revision > 1:
        best = _as_nearest(best, core)
    numbers = {m.source: n for n, m in enumerate(sorted(base.enabled, key=lambda m: m.ev))}
    for number, cover in painted_on(base, numbers, max(size) / SMALL, soft.shape):
        best[cover] = number
        soft = np.maximum(soft, cv2.GaussianBlur(cover.astype(np.float32), (0, 0), 1))
    chosen = np.stack(
        [
            cv2.GaussianBlur((best == n).astype(np.float32), (0, 0), MOVED_MARGIN_PX / 2)
            for n in range(len(exposures))
        ]
    )
    return Merging(soft, chosen)


def _small(
    e: Exposed, level: int, size: tuple[int, int], small: tuple[int, int], pool: Executor | None
) -> tuple[F32, NDArray[np.bool_]]:
    """An exposure's green reduced by area (h, w), and where anything of it clips; drawn in bands, never whole."""
    (w, h), (across, down) = size, small
    light, clips = np.empty((down, across), np.float32), np.empty((down, across), bool)
    each = max(1, BAND // SMALL)
    for first in range(0, down, each):
        go_on()
        ends = np.arange(first, min(first + each, down) + 1) * h / down
        block = Block(int(ends[0]), math.ceil(ends[-1]), 0, w)
        planes = e.draw(block, level, size, pool)
        rows = np.arange(block.top, block.bottom)
        # how much of each px row lies in each small one
        share = np.minimum(ends[1:, None], rows + 1) - np.maximum(ends[:-1, None], rows)
        share = (np.where(share > 1e-3, share, 0) * down / h).astype(np.float32)
        here = slice(first, first + len(share))
        for plane, to in ((planes[1], light), (planes.max(0) > CLIPPED_FROM, clips)):
            narrow = cv2.resize(plane.astype(np.float32), (across, len(rows)), interpolation=cv2.INTER_AREA)
            to[here] = share @ narrow
    return light, clips


def _with_rim(moved: NDArray[np.uint8], hinted: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """What moved, and what differs a little all the way from there: the soft rim of it (hysteresis, Canny 1986)."""
    reach = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * RIM_PX + 1, 2 * RIM_PX + 1))
    rim = cv2.morphologyEx(hinted.astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2)))
    both = moved | (rim & cv2.dilate(moved, reach))
    count, which = cv2.connectedComponents(both, connectivity=8)
    holds = np.bincount(which[moved > 0], minlength=count) > 0
    holds[0] = False
    return holds[which].astype(np.uint8)


def _as_nearest(values: NDArray[np.intp], where: NDArray[np.uint8]) -> NDArray[np.intp]:
    """Values (h, w) there, and elsewhere that of the nearest place there."""
    if not where.any():
        return values
    _, nearest = cv2.distanceTransformWithLabels(
        (where == 0).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    of_label = np.zeros(int(nearest.max()) + 1, values.dtype)
    of_label[nearest[where > 0]] = values[where > 0]
    return np.asarray(of_label[nearest])


def _slope(x: F32) -> F32:
    """How much neighbours differ: what a misplacement would do."""
    size = np.ones((3, 3), np.uint8)
    return np.asarray(cv2.dilate(x, size) - cv2.erode(x, size), np.float32)


@kernel(
    "void(float32[:, :, :, ::1], float32[::1], float32[:, ::1], float32[:, ::1], float32[:, :, ::1], boolean[::1],"
    " float32[:, :, ::1])"
)
def _merged(light, times, noise, moved, chosen, last, out):  # type: ignore[no-untyped-def]
    """All exposures (n, 3, h, w) as one (3, h, w), in the anchor's numbers. noise (n, 2): scale and offset; last: the one
    that is believed though it clips."""
    count = light.shape[0]
    full, nearly = np.float32(CLIPPED_FROM), np.float32(DOUBTED_FROM)
    reliability = np.empty(count, np.float32)
    for r in range(out.shape[1]):
        for c in range(out.shape[2]):
            total, sums = np.float32(0), np.float32(0)
            for n in range(count):
                peak = max(light[n, 0, r, c], max(light[n, 1, r, c], light[n, 2, r, c]))
                t = min(max(np.float32(0), (full - peak) / (full - nearly)), np.float32(1))
                reliability[n] = np.float32(1) if last[n] else t * t * (np.float32(3) - np.float32(2) * t)
                w = reliability[n] * times[n] + np.float32(1e-12)
                total += w
                sums += w * (light[n, 1, r, c] / times[n])
            expected = max(sums / total, np.float32(0))
            m = moved[r, c]
            least, one = np.float32(0), np.float32(0)
            for n in range(count):
                t = times[n]
                w = reliability[n] * t * t / (noise[n, 0] * expected * t + noise[n, 1])
                least += w
                one += chosen[n, r, c] * reliability[n]
            for k in range(3):
                a, b = np.float32(0), np.float32(0)
                for n in range(count):
                    t = times[n]
                    x = light[n, k, r, c] / t
                    a += reliability[n] * t * t / (noise[n, 0] * expected * t + noise[n, 1]) * x
                    b += chosen[n, r, c] * reliability[n] * x
                a /= max(least, np.float32(1e-30))
                out[k, r, c] = a if one < np.float32(1e-3) else a + m * (b / one - a)


def bands(
    exposures: list[Exposed],
    merging: Merging,
    level: int,
    size: tuple[int, int],
    pool: Executor | None = None,
) -> Iterator[F16]:
    """The anchor's raster at a level, top to bottom: (rows, w, 3)."""
    w, h = size
    times = np.array([e.time for e in exposures], np.float32)
    noise = np.array([e.noise for e in exposures], np.float32)
    last = np.array([e.shortest for e in exposures])

    def band(top: int) -> F16:
        go_on()
        block = Block(top, min(top + BAND, h), 0, w)
        light = np.stack([e.draw(block, level, size, None) for e in exposures])
        rows = (np.arange(block.top, block.bottom) + 0.5) * merging.moved.shape[0] / h - 0.5
        columns = (np.arange(w) + 0.5) * merging.moved.shape[1] / w - 0.5
        x, y = (np.ascontiguousarray(m, np.float32) for m in np.meshgrid(columns, rows))
        moved = looked_up(merging.moved, x, y)
        chosen = np.stack([looked_up(c, x, y) for c in merging.chosen])
        out = np.empty(light.shape[1:], np.float32)
        _merged(light, times, noise, moved, chosen, last, out)
        return np.ascontiguousarray(np.moveaxis(np.clip(out, -60000, 60000), 0, -1)).astype(np.float16)

    return ahead(band, range(0, h, BAND), pool)


def scene_of_bracket(base: Bracket, sources: list[Source], name: str = "") -> Scene:
    """A fresh scene of a bracket."""
    known = {m.source for m in base.members}
    return Scene(name=name, sources=[s for s in sources if s.id in known], base=base)
