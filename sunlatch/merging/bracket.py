"""A bracket: how its exposures lie on one another, how light each is, and all of them as one.

Light is merged by the noise of each exposure (Hasinoff, Durand & Freeman 2010: the weights of least variance, taken at what
the light is believed to be, not at each noisy px). Where something moved, one exposure is believed: the one that
most others bear out, and of several the longest that does not clip around there.
"""

from collections.abc import Iterator, Sequence
from concurrent.futures import Executor
from typing import Final

import numpy as np
import scipy
from numpy.typing import NDArray

from ..blocks import Block
from ..compiled import kernel
from ..errors import JoinError
from ..ledger import Bracket, BracketMember, LeftOut, Scene, Source
from ..lookup import looked_up
from ..registration.inputs import InputFrame
from ..registration.pairs import find_pairs
from ..running.context import RenderContext
from ..running.patience import go_on
from .ahead import ahead
from .exposures import BAND, CLIPPED_FROM, Exposed, exposures_of
from .moved import Merging
from .plan import LOOKED_AT, QUICKLY, Progress, nothing, sorted_out, tuned

F32 = NDArray[np.float32]
F16 = NDArray[np.float16]

EXPOSURES_MOST: Final = 9
SAME: Final = 0.2
"""Exposures nearer than so many stops are one."""
ELSEWHERE: Final = 4.0
"""Degrees: a frame turned by more is no exposure of the same view."""
DOUBTED_FROM: Final = 0.78
"""Light of an exposure, of what clips, up to which it is believed whole."""


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
        rotation = scipy.spatial.transform.Rotation.from_matrix(solved.turns[n] @ home.T)
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
