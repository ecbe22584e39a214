"""The kinds of joins, by their names."""

from collections.abc import Sequence

import numpy as np

from ..ledger import Bracket, Scene, Source, Sweep
from ..render.workshop import Workshop
from .bracket import plan_bracket, scene_of_bracket
from .plan import Progress, nothing, order_of, plan_sweep, scene_of, wide
from .taken import Taken


def solved(
    kind: str, frames: Sequence[Taken], sources: list[Source], shop: Workshop, quick: bool = False,
    progress: Progress = nothing,
) -> Scene:  # fmt: skip
    """A fresh scene of frames joined to a "sweep" or a "bracket". Raises JoinError."""
    if kind == "bracket":
        return scene_of_bracket(plan_bracket(frames, shop, quick, progress), sources)
    return scene_of(plan_sweep(frames, shop, quick, progress), sources)


def told_of(scene: Scene) -> tuple[list[str], str]:
    """The sources of a join in the order in which they lie, and what it is, in a sentence."""
    base = scene.base
    if base.kind == "sweep":
        order, overlap = order_of(base)
        size = wide(base)
        across, down = (round(float(np.degrees(v))) for v in (size.across, size.down))
        return order, f"{across}° across, {down}° high; neighbours share {round(overlap * 100)} %."
    assert base.kind == "bracket"
    order = [m.source for m in sorted(base.members, key=lambda m: m.ev)]
    evs = sorted(m.ev for m in base.members)
    step = (evs[-1] - evs[0]) / (len(evs) - 1)
    return order, f"{step:.1f} stops from one to the next; light clips {base.headroom:.1f} stops further up."


def laid(base: Sweep | Bracket) -> list[str]:
    """The sources that are in, as `Joined.seams` counts them."""
    if base.kind == "bracket":
        return [m.source for m in sorted(base.taken, key=lambda m: m.ev)]
    return [m.source for m in base.taken]
