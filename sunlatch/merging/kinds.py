"""The kinds of joins, by their names."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from ..errors import JoinError
from ..frame import Raster
from ..ledger import Bracket, FrameBase, LeftOut, Scene, Source, Sweep
from ..registration.inputs import STEPPED, InputFrame
from ..running.context import RenderContext
from .bracket import plan_bracket, scene_of_bracket
from .plan import Progress, nothing, order_of, plan_sweep, scene_of, wide

Merge = Callable[[Scene], Raster]
ALIKE = 0.25
"""Stops within which exposures that come again are the same."""
MOST_EXPOSURES = 9


def solved(
    kind: str, frames: Sequence[InputFrame], sources: list[Source], context: RenderContext, quick: bool = False,
    progress: Progress = nothing, merge: Merge | None = None,
) -> Scene:  # fmt: skip
    """A fresh scene of frames joined to a "sweep" or a "bracket". merge: makes the light of a bracket, so that a sweep may be
    one of brackets. Raises JoinError."""
    if kind == "bracket":
        return scene_of_bracket(plan_bracket(frames, context, quick, progress), sources)
    sets = exposed_again(frames)
    if sets is not None and merge is not None:
        return scene_of(_of_brackets(sets, sources, context, quick, progress, merge), sources)
    return scene_of(plan_sweep(frames, context, quick, progress), sources)


def exposed_again(frames: Sequence[InputFrame]) -> list[list[InputFrame]] | None:
    """Frames in the sets in which the same exposures come again and again, as they were taken: a sweep of brackets; None where
    they do not."""
    evs = [f.exposure for f in frames]
    if any(ev is None for ev in evs):
        return None
    stops = np.array(evs, float)
    for count in range(2, MOST_EXPOSURES + 1):
        if len(frames) % count or len(frames) < 2 * count:
            continue
        rows = stops.reshape(-1, count)
        # within a set every exposure is another one, on purpose; a drift over the sets is none
        apart = np.abs(rows[:, :, None] - rows[:, None, :])[:, ~np.eye(count, dtype=bool)].min()
        steps = np.ptp(rows - rows[:, :1], axis=0).max()
        if apart >= STEPPED and steps <= ALIKE:
            return [list(frames[n : n + count]) for n in range(0, len(frames), count)]
    return None


def _of_brackets(
    sets: list[list[InputFrame]],
    sources: list[Source],
    context: RenderContext,
    quick: bool,
    progress: Progress,
    merge: Merge,
) -> Sweep:
    """The solution of a sweep whose members are brackets."""
    merged: list[InputFrame] = []
    brackets: dict[str, Bracket] = {}
    out: list[LeftOut] = []
    for n, own in enumerate(sets):
        progress(f"merging exposures, {n + 1} of {len(sets)}", 0.5 * n / len(sets))
        names = ", ".join(f.name for f in own)
        try:
            base = plan_bracket(own, context, quick)
        except JoinError as error:
            raise JoinError(
                f"{names} do not merge to a bracket, which this sweep is made of. {error}"
            ) from error
        keys = set(base.sources)
        raster = merge(Scene(sources=[s for s in sources if s.id in keys], base=base))
        chief = next(f for f in own if f.key == base.anchor)
        merged.append(replace(chief, info=raster.info, raster=raster))
        brackets[chief.key] = base
        out += base.left_out
    base_ = plan_sweep(merged, context, quick, lambda step, share: progress(step, 0.5 + 0.5 * share))
    members = [m.model_copy(update={"bracket": brackets[m.source]}) for m in base_.members]
    return base_.model_copy(update={"members": members, "left_out": [*base_.left_out, *out][:60]})


def description_of(scene: Scene) -> tuple[list[str], str]:
    """The sources of a join in the order in which they lie, and what it is, in a sentence."""
    base = scene.base
    assert not isinstance(base, FrameBase)
    if isinstance(base, Sweep):
        order, overlap = order_of(base)
        size = wide(base)
        across, down = (round(float(np.degrees(v))) for v in (size.across, size.down))
        description = f"{across}° across, {down}° high; neighbours share {round(overlap * 100)} %."
        exposures = {len(bracket.members) for bracket in base.brackets}
        if exposures:
            description += (
                f" Each of {max(exposures)} exposures; light clips {base.headroom:.1f} stops further up."
            )
        return order, description
    order = [m.source for m in sorted(base.members, key=lambda m: m.ev)]
    evs = sorted(m.ev for m in base.members)
    step = (evs[-1] - evs[0]) / (len(evs) - 1)
    return order, f"{step:.1f} stops from one to the next; light clips {base.headroom:.1f} stops further up."
