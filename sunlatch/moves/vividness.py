"""Vividness of colour: of all colours evenly, or of the weak ones first."""

import numpy as np

from ..parameters import Params, choice, number
from .base import F32, MoveKind, move_kernel
from .rows import row_from_lab, row_to_lab

WEAK = 0.11
"""Chroma to lightness (OKLab) at which a colour is half as weak as a grey."""


class VividnessParams(Params):
    """How much further from grey."""

    amount: float = number(
        "Vividness", default=0.0, low=-1.0, high=1.5, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    which: str = choice("Which colours", "weak", {"weak": "muted colours first", "all": "all equally"})


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Chroma times 1 + m·amount·w, hue and lightness kept; w is 1, or falls from 1 as a colour is stronger."""
    lab = np.empty((3, rgb.shape[2]), np.float32)
    one, per = np.float32(1), coef[1]
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            light = max(abs(lab[0, c]), np.float32(1e-4))
            strong = (lab[1, c] * lab[1, c] + lab[2, c] * lab[2, c]) / (light * light) * per
            gain = max(one + mask[r, c] * coef[0] / (one + strong), np.float32(0))
            lab[1, c] *= gain
            lab[2, c] *= gain
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: VividnessParams, strength: float) -> F32:
    """[amount, one over the square of what counts as weak; 0 for all alike]"""
    return np.array([params.amount * strength, WEAK**-2 if params.which == "weak" else 0], np.float32)


MOVE = MoveKind(
    kind="vividness",
    revision=1,
    band="light",
    label="Vividness",
    says="colour stronger or quieter",
    question="What colour is it?",
    sentence="Vividness {amount}, {which}",
    params=VividnessParams,
    verbs=("vividness", "calm"),
    signs={"calm": -1},
    first="amount",
    place=60,
    kernel=kernel,
    coefficients=coefficients,
)
