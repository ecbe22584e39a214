"""Monochrome: the picture in greys, mixed by pointing at colours and saying how light each becomes."""

import numpy as np
from numba import njit
from pydantic import Field

from ..fastmath import exp2, log2
from ..parameters import Params, drawn, number
from .anchors import WIDTH, Anchor, likeness, packed
from .base import F32, KERNEL_SIGNATURE, MoveKind
from .rows import row_from_lab, row_to_lab

_EACH = WIDTH + 1


class GreyOf(Anchor):
    """A colour, and by how many stops its grey is lighter than its luminance."""

    lighten: float = Field(default=0.0, ge=-4, le=4)


class MonochromeParams(Params):
    """Without any colour pointed at, greys are luminances."""

    amount: float = number(
        "Grey", default=1.0, low=0.0, high=1.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the colour goes",
    )  # fmt: skip
    anchors: list[GreyOf] = drawn("Colours", 12)


_FLOOR, _GREY_LOG = np.float32(0.18 * 2.0**-14), np.float32(np.log2(0.18))
_ZERO, _ONE = np.float32(0), np.float32(1)


@njit(KERNEL_SIGNATURE, nogil=True, cache=True, fastmath=True, error_model="numpy")
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Towards the grey of its own luminance, times 2^(likeness·lighten); blended in OKLab."""
    lab = np.empty((3, rgb.shape[2]), np.float32)
    count = (coef.size - 1) // _EACH
    third = _ONE / np.float32(3)
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            luma = (
                np.float32(0.2627) * rgb[0, r, c]
                + np.float32(0.6780) * rgb[1, r, c]
                + np.float32(0.0593) * rgb[2, r, c]
            )
            level = log2(max(luma, _FLOOR))
            stops = level - _GREY_LOG
            light = max(lab[0, c], np.float32(1e-4))
            u, v = lab[1, c] / light, lab[2, c] / light
            total, more = _ZERO, _ZERO
            for n in range(count):
                at = 1 + n * _EACH
                w = likeness(u, v, stops, coef, at)
                total += w
                more += w * coef[at + WIDTH]
            grey = exp2((level + more / max(total, _ONE)) * third)  # white's L is the root of its light
            much = mask[r, c] * coef[0]
            lab[0, c] += much * (grey - lab[0, c])
            lab[1, c] -= much * lab[1, c]
            lab[2, c] -= much * lab[2, c]
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: MonochromeParams, strength: float) -> F32:
    """[amount, then for each anchor its numbers and its stops]; past 100 % only the mix grows."""
    more = np.array([[a.lighten * strength] for a in params.anchors], np.float32).reshape(-1, 1)
    both = np.concatenate([packed(params.anchors), more], 1).ravel()
    return np.concatenate([[min(params.amount * strength, 1)], both]).astype(np.float32)


MOVE = MoveKind(
    kind="monochrome",
    revision=1,
    band="light",
    label="Monochrome",
    question="What colour is it?",
    sentence="Monochrome {amount}, {anchors} colours pointed at",
    params=MonochromeParams,
    verbs=("monochrome", "grey"),
    first="amount",
    place=90,
    kernel=kernel,
    coefficients=coefficients,
)
