"""Monochrome: the picture in greys, mixed by pointing at colours and saying how light each becomes."""

import numpy as np

from ..fastmath import exp2
from ..parameters import Params, drawn, number
from .anchors import WIDTH, Anchor, packed, row_likeness, row_read, share
from .base import F32, MoveKind, move_kernel
from .rows import row_from_lab

_EACH = WIDTH + 1


class GreyOf(Anchor):
    """A colour, and by how many stops its grey is lighter than its luminance."""

    lighten: float = number(
        "lighten", default=0.0, low=-4.0, high=4.0, step=0.05, unit="stops", signed=True, decimals=2
    )


class MonochromeParams(Params):
    """Without any colour pointed at, greys are luminances."""

    amount: float = number(
        "Grey", default=1.0, low=0.0, high=1.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the colour goes",
    )  # fmt: skip
    anchors: list[GreyOf] = drawn("Colours", 12)


_ZERO, _ONE, _THIRD, _GREY_LOG = np.float32(0), np.float32(1), np.float32(1 / 3), np.float32(np.log2(0.18))


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Towards the grey of its own luminance, times 2^(likeness·lighten); blended in OKLab."""
    width = rgb.shape[2]
    lab, read = np.empty((3, width), np.float32), np.empty((4, width), np.float32)
    like, sums = np.empty(width, np.float32), np.empty((2, width), np.float32)
    for r in range(rgb.shape[1]):
        row_read(rgb[0, r], rgb[1, r], rgb[2, r], lab, read)
        sums[:] = _ZERO
        for n in range((coef.size - 1) // _EACH):
            at = 1 + n * _EACH
            row_likeness(read, coef, at, like)
            lighten = coef[at + WIDTH]
            for c in range(width):
                sums[0, c] += like[c]
                sums[1, c] += like[c] * lighten
        for c in range(width):
            level = read[3, c] + _GREY_LOG + sums[1, c] / max(sums[0, c], _ONE)
            much = mask[r, c] * coef[0]
            lab[0, c] += much * (exp2(level * _THIRD) - lab[0, c])  # a grey's L is the root of its light
            lab[1, c] -= much * lab[1, c]
            lab[2, c] -= much * lab[2, c]
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: MonochromeParams, strength: float) -> F32:
    """[amount, then for each anchor its numbers and its stops]; past 100 % only the mix grows."""
    more = np.array([[a.lighten * strength] for a in params.anchors], np.float32).reshape(-1, 1)
    both = np.concatenate([packed(params.anchors), more], 1).ravel()
    return np.concatenate([[min(params.amount * strength, 1)], both]).astype(np.float32)


def zone(params: MonochromeParams, rgb: F32, n: int) -> F32:
    """What the n-th anchor has."""
    return share(params.anchors, rgb, n)


MOVE = MoveKind(
    kind="monochrome",
    revision=1,
    band="light",
    label="Monochrome",
    says="mixes greys by pointing at colours",
    question="What colour is it?",
    sentence="Monochrome {amount}, {anchors} colours",
    params=MonochromeParams,
    verbs=("monochrome", "grey"),
    first="amount",
    place=90,
    kernel=kernel,
    coefficients=coefficients,
    zone=zone,
)
