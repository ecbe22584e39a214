"""Curve: light in, light out, px by px, through points; of luminance, or of one channel."""

import itertools
from typing import Final

import numpy as np
from numba import njit
from pydantic import BaseModel, ConfigDict, Field
from scipy.interpolate import PchipInterpolator

from ..fastmath import exp2, log2
from ..parameters import Params, choice, drawn, number
from .base import F32, KERNEL_SIGNATURE, MoveKind

LOW, PER, SIZE = -16.0, 16, 513
OF: Final = {"light": "light", "red": "red", "green": "green", "blue": "blue"}


class CurvePoint(BaseModel):
    """Light `at`, which becomes `to`, in stops."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    at: float = Field(ge=-16, le=16)
    to: float = Field(ge=-16, le=16)


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
        met = PchipInterpolator(at, to)(inside) if len(at) > 1 else np.full(SIZE, to[0])
        change = met - inside
    change = change + params.lift * np.exp(-0.5 * ((axis + 2) / 2.5) ** 2)
    return np.asarray(change * strength, np.float32)


def coefficients(params: CurveParams, strength: float) -> F32:
    """[of what: −1 light, or the channel; the table of changes]"""
    return np.concatenate([[list(OF).index(params.of) - 1.0], table(params, strength)]).astype(np.float32)


_GREY_LOG = np.float32(np.log2(0.18))
_FLOOR = np.float32(0.18 * 2.0**-14)
_ZERO, _LAST = np.float32(0), np.float32(SIZE - 1.001)


@njit(inline="always", nogil=True, fastmath=True)
def _gain(light, much, coef):  # type: ignore[no-untyped-def]
    f = (log2(max(light, _FLOOR)) - _GREY_LOG - np.float32(LOW)) * np.float32(PER)
    f = min(max(f, _ZERO), _LAST)
    n = np.uint32(f)
    one = np.uint32(1)
    stops = coef[n + one] + (coef[n + one + one] - coef[n + one]) * (f - np.float32(n))
    return exp2(much * stops)


@njit(KERNEL_SIGNATURE, nogil=True, cache=True, fastmath=True, error_model="numpy")
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Times 2^(m·change), of the luminance for all three or of one channel for itself."""
    of = int(coef[0])
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            if of < 0:
                luma = (
                    np.float32(0.2627) * rgb[0, r, c]
                    + np.float32(0.6780) * rgb[1, r, c]
                    + np.float32(0.0593) * rgb[2, r, c]
                )
                gain = _gain(luma, mask[r, c], coef)
                rgb[0, r, c] *= gain
                rgb[1, r, c] *= gain
                rgb[2, r, c] *= gain
            else:
                rgb[of, r, c] *= _gain(rgb[of, r, c], mask[r, c], coef)


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
    question="How bright?",
    sentence="Curve of {of}, {points} points, bent {lift}",
    params=CurveParams,
    verbs=("curve", "bend"),
    first="lift",
    place=32,
    kernel=kernel,
    coefficients=coefficients,
    remark=remark,
)
