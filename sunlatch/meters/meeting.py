"""The meeting: how many stops lie between two latches, how many there might be, and one move that would do it."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, SerializeAsAny

from ..errors import RenderError
from ..ledger import Latch, MoveLine, Spare, move_sentence, new_move
from ..render import Development
from ..sensor.kernels import read_stops

F32 = NDArray[np.float32]
LONG_EDGE = 640
HELD_SHARE = 1e-4
"""Share of the picture a latch must hold to have a centre."""
REFLECTION, BACKLIT, EVEN = (0.3, 1.0), (2.0, 3.0), (0.0, 2.0)
"""Plausible stops of a reflection under its sky, of a land against the light, and of one that is lit."""
AGAINST = 1.9
"""From so many stops on the land counts as against the light."""
TRIES, NEAR = 6, 0.02
PROPOSED_STOPS = 5.0
"""Stops that are proposed at most."""


class Held(BaseModel):
    """What a latch holds of the light: weighted median, and a tenth from either end, in stops."""

    latch: str
    name: str
    centre: float
    low: float
    high: float


class Proposal(BaseModel):
    """One line that would bring the meeting to an aim. lands: what it measures with it."""

    line: SerializeAsAny[MoveLine]
    description: str
    lands: float


class Meeting(BaseModel):
    """Stops from the lower latch's centre up to the upper's; aim: what is plausible, and why."""

    upper: Held
    lower: Held
    distance: float
    aim: tuple[float, float]
    why: str
    proposal: Proposal | None


def read_meeting(development: Development, one: Latch, other: Latch, aim: float | None = None) -> Meeting:
    """How two latches meet; the lighter one is the upper. aim: what to propose for, in stops; by default the
    nearest that is plausible, and nothing is proposed where it is so already. Raises RenderError for a latch
    with itself or one that holds nothing."""
    if one.id == other.id:
        raise RenderError("choose two different latches")
    view = development.geometry.fit(LONG_EDGE)
    stops = _stops(development)
    masks = {latch.id: development.latches.mask(latch, view) for latch in (one, other)}
    held = [_held(latch, stops, masks[latch.id]) for latch in (one, other)]
    water = [any(i.kind == "water" and i.on and i.join == "add" for i in x.ingredients) for x in (one, other)]
    # a reflection lies under its sky even where it has been made lighter
    swapped = water[0] if water[0] != water[1] else held[1].centre > held[0].centre
    (upper, lower), latches = (held[::-1], (other, one)) if swapped else (held, (one, other))
    distance = upper.centre - lower.centre
    plausible, why = _plausible(any(water), distance)
    wanted = aim if aim is not None else float(np.clip(distance, *plausible))
    proposal = None
    if abs(wanted - distance) > NEAR:
        proposal = _propose(development, latches, masks, upper, lower, wanted)
    return Meeting(upper=upper, lower=lower, distance=distance, aim=plausible, why=why, proposal=proposal)


def _plausible(reflects: bool, distance: float) -> tuple[tuple[float, float], str]:
    if reflects:
        return REFLECTION, "a reflection is a little darker than its sky, never lighter"
    if distance > AGAINST:
        return BACKLIT, "a land against the light lies two to three stops under its sky"
    return EVEN, "front-lit land is barely darker than its sky"


def _stops(development: Development) -> F32:
    rgb = development.light_planes(development.geometry.fit(LONG_EDGE))
    stops = np.empty(rgb.shape[1:], np.float32)
    read_stops(rgb, np.array([0.2627, 0.6780, 0.0593], np.float32), stops)
    return stops


def _held(latch: Latch, stops: F32, mask: F32) -> Held:
    weight = mask.ravel().astype(float)
    if weight.mean() < HELD_SHARE:
        raise RenderError(f"{latch.name} holds nothing here, so nothing meets")
    order = np.argsort(stops, axis=None)
    share = np.cumsum(weight[order])
    low, centre, high = (
        float(stops.ravel()[order[np.searchsorted(share, share[-1] * q)]]) for q in (0.1, 0.5, 0.9)
    )
    return Held(latch=latch.id, name=latch.name, centre=centre, low=low, high=high)


def _propose(
    development: Development, latches: tuple[Latch, Latch], masks: dict[str, F32], upper: Held, lower: Held,
    wanted: float,
) -> Proposal | None:  # fmt: skip
    """One Exposure: the sky is held where much of it would print white, else the land is opened, sparing its
    deepest shadows; how much is found by measuring."""
    _, white = development.ground.ends()
    holds = upper.high > white - 0.7 or upper.centre > 1.0
    moved = latches[0] if holds else latches[1]
    sign = 1.0 if holds else -1.0
    spare = []
    if not holds and wanted < upper.centre - lower.centre:
        spare = [Spare(what="shadows", edge=lower.low - 1.5, soft=2.0, read_at=moved.read_at)]
    ev, distance = 0.0, upper.centre - lower.centre
    scene = development.scene.model_copy(deep=True)
    line = new_move("exposure", latch=moved.id, params={"ev": 0.0}, spare=spare)
    scene.moves = [*scene.moves, line]
    for _ in range(TRIES):
        step = sign * (wanted - distance)
        ev = float(np.clip(ev + step, -PROPOSED_STOPS, PROPOSED_STOPS))
        line.params.ev = round(ev, 2)
        tried = development.again(scene)
        stops = _stops(tried)
        top, bottom = (_held(x, stops, masks[x.id]).centre for x in latches)
        distance = top - bottom
        if abs(distance - wanted) < NEAR:
            break
    return Proposal(line=line, description=move_sentence(line, scene), lands=distance)
