"""Rungs: zones of light carried up or down the ladder, on the base of the picture; its detail is kept."""

import itertools
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict

from ..compiled import part
from ..parameters import Params, drawn, number
from .base import F32, MoveKind, move_kernel
from .grid import row_of_base, stops_of, survey
from .rows import row_by_stops
from .sampling import columns

LOW, PER, SIZE = -16.0, 8, 257
"""The gain is sampled every 1/8 stop from −16 to +16."""
CLOSEST = 0.08
"""Strands come no closer than this share of their distance, so that they never cross."""


class Rung(BaseModel):
    """A place on the ladder and where it is carried, both in stops; reach: how far its pull reaches."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    at: float = number(
        "at", default=-3.0, low=-14.0, high=10.0, step=0.5, unit="stops", signed=True, decimals=1
    )
    by: float = number("by", default=0.0, low=-6.0, high=6.0, step=0.1, unit="stops", signed=True, decimals=1)
    reach: float = number("reach", default=1.5, low=0.5, high=8.0, step=0.1, unit="stops", decimals=1)


class RungsParams(Params):
    """Rungs that are carried; others stay where nothing pulls at them."""

    rungs: list[Rung] = drawn("Rungs", 24)
    squeeze: float = number(
        "All tones", default=0.0, low=-0.8, high=0.8, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0, hint="Spreads all tones about the pivot; negative values squeeze them",
    )  # fmt: skip
    middle: float = number(
        "Pivot", default=-2.0, low=-8.0, high=4.0, step=0.1, unit="stops", signed=True, decimals=1
    )


def _pull(rung: Rung, stops: Any) -> Any:
    """How strongly a rung is felt at places of the ladder, 0–1."""
    t = np.clip(1 - np.abs(stops - rung.at) / rung.reach, 0, 1)
    return t * t * (3 - 2 * t)


def zone(params: RungsParams, rgb: F32, n: int) -> F32:
    """Where the n-th rung is felt."""
    return np.asarray(_pull(params.rungs[n], stops_of(rgb)), np.float32)


def gains(params: RungsParams, strength: float) -> F32:
    """Stops by which a base at LOW … is carried (SIZE,). Every rung arrives where it was put, whatever
    pulls beside it; where strands would cross they are kept just apart."""
    axis = LOW + np.arange(SIZE) / PER
    carried = np.zeros(SIZE)
    rungs = list({round(r.at, 3): r for r in params.rungs}.values())
    if rungs:
        at, wanted = np.array([r.at for r in rungs]), np.array([r.by for r in rungs])

        def pull(x: np.ndarray) -> np.ndarray:
            return np.stack([_pull(r, x) for r in rungs], 1)

        # what each adds, so that together they arrive; a little stiffness where two nearly coincide
        parts = pull(at)
        each = np.linalg.solve(parts.T @ parts + 1e-4 * np.eye(len(at)), parts.T @ wanted)
        carried = pull(axis) @ each
    carried = (carried + params.squeeze * (axis - params.middle)) * strength
    steps = np.maximum(np.diff(axis + carried), CLOSEST / PER)
    # kept apart from the middle outward, so that neither end is favoured
    pivot = int(np.abs(axis - params.middle).argmin())
    strands = np.concatenate([[0.0], np.cumsum(steps)])
    strands += axis[pivot] + carried[pivot] - strands[pivot]
    return (strands - axis).astype(np.float32)


@part
def _row_carried(base, table):  # type: ignore[no-untyped-def]
    """Bases become stops to be carried by. Looking up does not run in vector registers; what can is kept apart."""
    zero, last = np.float32(0), np.float32(SIZE - 1.001)
    for c in range(base.size):
        base[c] = min(max(zero, (base[c] - np.float32(LOW)) * np.float32(PER)), last)
    for c in range(base.size):
        f = base[c]
        n = np.uint32(f)
        base[c] = table[n] + (table[n + np.uint32(1)] - table[n]) * (f - np.float32(n))


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Change by m·gain(base) stops; coef is the gain's table."""
    w = rgb.shape[2]
    work, base = np.empty((2, w), np.float32), np.empty(w, np.float32)
    slab = np.empty(aux.shape[1] * aux.shape[2] * 2, np.float32)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[1], at, between)
    for r in range(rgb.shape[1]):
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        row_of_base(aux, place, r, a, b, d, at, between, slab, work, base)
        _row_carried(base, coef)
        row_by_stops(base, mask[r], a, b, d)


def remark(params: RungsParams) -> str:
    """What to say where rungs were pulled past one another."""
    ordered = sorted(params.rungs, key=lambda r: r.at)
    crossed = any(b.at + b.by < a.at + a.by for a, b in itertools.pairwise(ordered))
    return "A rung was pulled past its neighbour: strands do not cross, they are kept just apart" * crossed


MOVE = MoveKind(
    kind="rungs",
    revision=1,
    band="light",
    label="Rungs",
    says="moves single tones on the ladder",
    question="How bright?",
    sentence="Rungs moved: {rungs}, all tones {squeeze}",
    params=RungsParams,
    verbs=("rungs", "open", "squeeze"),
    signs={"squeeze": -1},
    first="squeeze",
    place=12,
    kernel=kernel,
    coefficients=gains,
    survey=survey,
    zone=zone,
    remark=remark,
)
