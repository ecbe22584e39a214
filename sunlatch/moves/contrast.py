"""Contrast about a chosen rung, on the base of the picture; its detail is kept and added back."""

import numpy as np

from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel
from .grid import row_of_base, survey
from .rows import row_by_stops
from .sampling import columns


class ContrastParams(Params):
    """How much steeper tones run away from the pivot."""

    amount: float = number(
        "Contrast", default=0.0, low=-0.8, high=1.5, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    pivot: float = number(
        "Pivot", default=-1.0, low=-8.0, high=4.0, step=0.1, unit="stops", signed=True, decimals=1,
        hint="The rung that stays where it is",
    )  # fmt: skip


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Change by m·slope·(base − pivot) stops, the base looked up in the grid."""
    w = rgb.shape[2]
    work, base = np.empty((2, w), np.float32), np.empty(w, np.float32)
    slab = np.empty(aux.shape[1] * aux.shape[2] * 2, np.float32)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[1], at, between)
    for r in range(rgb.shape[1]):
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        row_of_base(aux, place, r, a, b, d, at, between, slab, work, base)
        for c in range(w):
            base[c] = coef[0] * (base[c] - coef[1])
        row_by_stops(base, mask[r], a, b, d)


def coefficients(params: ContrastParams, strength: float) -> F32:
    """[slope − 1, pivot in stops]"""
    return np.array([params.amount * strength, params.pivot], np.float32)


MOVE = MoveKind(
    kind="contrast",
    revision=1,
    band="light",
    label="Contrast",
    says="steeper or flatter about one tone",
    question="How bright?",
    sentence="Contrast {amount}, pivot {pivot}",
    params=ContrastParams,
    verbs=("contrast", "flatten"),
    signs={"flatten": -1},
    first="amount",
    place=30,
    kernel=kernel,
    coefficients=coefficients,
    survey=survey,
)
