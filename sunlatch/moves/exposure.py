"""Exposure: more or less light, in stops."""

import numpy as np

from ..fastmath import exp2
from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel


class ExposureParams(Params):
    """How much more or less light falls here."""

    ev: float = number(
        "Exposure", default=0.0, low=-6.0, high=6.0, step=0.1, unit="stops", signed=True, decimals=1
    )


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Multiply by 2^(m·ev)."""
    stops = coef[0]
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            gain = exp2(mask[r, c] * stops)
            rgb[0, r, c] *= gain
            rgb[1, r, c] *= gain
            rgb[2, r, c] *= gain


def coefficients(params: ExposureParams, strength: float) -> F32:
    """[stops]"""
    return np.array([params.ev * strength], np.float32)


MOVE = MoveKind(
    kind="exposure",
    revision=1,
    band="light",
    label="Exposure",
    says="lighter or darker, in stops",
    question="How bright?",
    sentence="Exposure {ev}",
    params=ExposureParams,
    verbs=("exposure", "lift", "lighten", "hold", "burn", "darken", "dodge"),
    signs={"lift": 1, "lighten": 1, "dodge": 1, "hold": -1, "burn": -1, "darken": -1},
    first="ev",
    place=10,
    kernel=kernel,
    coefficients=coefficients,
)
