"""Curve: light in, light out, px by px, through points; of luminance, or of one channel."""

import itertools
from typing import Final

import numpy as np
import scipy
from pydantic import BaseModel, ConfigDict

from ..compiled import part
from ..fastmath import exp2, log2
from ..parameters import Params, choice, drawn, number
from .base import F32, MoveKind, move_kernel
from .grid import row_stops

LOW, PER, SIZE = -16.0, 16, 513
OF: Final = {"light": "light", "red": "red", "green": "green", "blue": "blue"}


class CurvePoint(BaseModel):
    """Light `at`, which becomes `to`, in stops."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    at: float = number(
        "at", default=-2.0, low=-16.0, high=16.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    to: float = number(
        "to", default=-2.0, low=-16.0, high=16.0, step=0.1, unit="stops", signed=True, decimals=1
    )


class CurveParams(Params):
    """A curve through its points, which never turns back; beyond them light keeps its distance."""

    points: list[CurvePoint] = drawn("Points", 24)
    of: str = choice("Of", "light", OF)
    lift: float = number(
        "Bend", default=0.0, low=-2.0, high=2.0, step=0.05, unit="stops", signed=True, decimals=2,
        hint="Carries the middle of the curve, about two stops under middle grey",
    )  # fmt: skip


def table(params: CurveParams, strength: float) -> F32:
    """By how many stops light at LOW … changes (SIZE,). Monotone cubic (Fritsch & Carlson 1980); of two
    points on one place the mean counts; points that would make it fall are lifted to their neighbour."""
    axis = LOW + np.arange(SIZE) / PER
    places: dict[float, list[float]] = {}
    for p in params.points:
        places.setdefault(round(p.at, 2), []).append(p.to)
    at = np.array(sorted(places))
    change = np.zeros(SIZE)
    if len(at):
        to = np.maximum.accumulate(np.array([np.mean(places[x]) for x in sorted(places)]))
        inside = np.clip(axis, at[0], at[-1])
        met = scipy.interpolate.PchipInterpolator(at, to)(inside) if len(at) > 1 else np.full(SIZE, to[0])
        change = met - inside
    change = change + params.lift * np.exp(-0.5 * ((axis + 2) / 2.5) ** 2)
    return np.asarray(change * strength, np.float32)


def coefficients(params: CurveParams, strength: float) -> F32:
    """[of what: −1 light, or the channel; the table of changes]"""
    return np.concatenate([[list(OF).index(params.of) - 1.0], table(params, strength)]).astype(np.float32)


_GREY_LOG, _FLOOR = np.float32(np.log2(0.18)), np.float32(0.18 * 2.0**-14)
_ZERO, _LAST = np.float32(0), np.float32(SIZE - 1.001)


@part
def _row_gains(stops, mask, table, out):  # type: ignore[no-untyped-def]
    """Three loops, of which only the middle one, which looks things up, does not run in vector registers."""
    for c in range(stops.size):
        out[c] = min(max(_ZERO, (stops[c] - np.float32(LOW)) * np.float32(PER)), _LAST)
    for c in range(stops.size):
        f = out[c]
        n = np.uint32(f)
        out[c] = table[n] + (table[n + np.uint32(1)] - table[n]) * (f - np.float32(n))
    for c in range(stops.size):
        out[c] = exp2(mask[c] * out[c])


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Times 2^(m·change), of the luminance for all three or of one channel for itself."""
    of, table = int(coef[0]), coef[1:]
    stops, gains = np.empty(rgb.shape[2], np.float32), np.empty(rgb.shape[2], np.float32)
    for r in range(rgb.shape[1]):
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        if of < 0:
            row_stops(a, b, d, stops)
        else:
            one = rgb[of, r]
            for c in range(one.size):
                stops[c] = log2(max(one[c], _FLOOR)) - _GREY_LOG
        _row_gains(stops, mask[r], table, gains)
        for c in range(a.size):
            a[c] *= gains[c] if of < 0 or of == 0 else np.float32(1)
            b[c] *= gains[c] if of < 0 or of == 1 else np.float32(1)
            d[c] *= gains[c] if of < 0 or of == 2 else np.float32(1)


def remark(params: CurveParams) -> str:
    """What to say of points that share a place, or would make the curve fall."""
    at = [round(p.at, 2) for p in params.points]
    if len(set(at)) < len(at):
        return "Two points stand on one place: the mean of both counts"
    to = [p.to for p in sorted(params.points, key=lambda p: p.at)]
    if any(b < a for a, b in itertools.pairwise(to)):
        return "A curve does not turn back: where it would fall it stays level"
    return ""


MOVE = MoveKind(
    kind="curve",
    revision=1,
    band="light",
    label="Curve",
    says="a drawn curve, all channels or one",
    question="How bright?",
    sentence="Curve of {of}, points: {points}, bent {lift}",
    params=CurveParams,
    verbs=("curve", "bend"),
    first="lift",
    place=32,
    kernel=kernel,
    coefficients=coefficients,
    remark=remark,
)
