"""Channel mix: each channel made anew from all three."""

import numpy as np

from ..parameters import Params, number, switch
from .base import F32, MoveKind, move_kernel
from .rows import row_mixed


def _share(label: str, default: float) -> float:
    made: float = number(
        label, default=default, low=-2.0, high=2.0, step=0.01, unit="%", decimals=0, shown_times=100.0
    )
    return made


class ChannelMixParams(Params):
    """What each channel takes from each."""

    red_red: float = _share("Red from red", 1)
    red_green: float = _share("Red from green", 0)
    red_blue: float = _share("Red from blue", 0)
    green_red: float = _share("Green from red", 0)
    green_green: float = _share("Green from green", 1)
    green_blue: float = _share("Green from blue", 0)
    blue_red: float = _share("Blue from red", 0)
    blue_green: float = _share("Blue from green", 0)
    blue_blue: float = _share("Blue from blue", 1)
    grey: bool = switch("Keep greys grey", True, hint="Each channel's shares are scaled to 100 %")


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """rgb becomes coef (3×3) times rgb, blended in OKLab."""
    before = np.empty((3, rgb.shape[2]), np.float32)
    after = np.empty((3, rgb.shape[2]), np.float32)
    made = np.empty((3, rgb.shape[2]), np.float32)
    for r in range(rgb.shape[1]):
        row_mixed(coef, mask[r], rgb[0, r], rgb[1, r], rgb[2, r], before, after, made)


def coefficients(params: ChannelMixParams, strength: float) -> F32:
    """The 3×3, row by row; strength goes from doing nothing to the mix, and past it."""
    names = ("red", "green", "blue")
    m = np.array([[getattr(params, f"{to}_{of}") for of in names] for to in names], float)
    if params.grey:
        sums = m.sum(1, keepdims=True)
        m = np.where(np.abs(sums) > 0.05, m / np.where(sums == 0, 1, sums), m + (1 - sums) / 3)
    return (np.eye(3) + strength * (m - np.eye(3))).astype(np.float32).ravel()


MOVE = MoveKind(
    kind="channel_mix",
    revision=1,
    band="light",
    label="Channel mix",
    says="mixes red, green and blue anew",
    question="What colour is it?",
    sentence="Channel mix, red from green {red_green}, blue from green {blue_green}",
    params=ChannelMixParams,
    verbs=("mix",),
    first="red_green",
    place=80,
    kernel=kernel,
    coefficients=coefficients,
)
