"""Primaries: the three colours all others are mixed from, turned and made purer; greys stay."""

import math

import numpy as np

from ..colour import rgb_to_xyz, xy_to_xyz
from ..colour.spaces import D65, PRIMARIES
from ..parameters import Params, number
from .base import F32, MoveKind
from .channel_mix import kernel


def _turn(of: str) -> float:
    made: float = number(
        f"{of} turned", default=0.0, low=-30.0, high=30.0, step=0.5, unit="°", signed=True, decimals=1
    )
    return made


def _pure(of: str) -> float:
    made: float = number(
        f"{of} saturation", default=0.0, low=-0.6, high=0.6, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    return made


class PrimariesParams(Params):
    """Turned about white in the plane of CIE xy; purer is further from white."""

    red_turn: float = _turn("Red")
    red_pure: float = _pure("Red")
    green_turn: float = _turn("Green")
    green_pure: float = _pure("Green")
    blue_turn: float = _turn("Blue")
    blue_pure: float = _pure("Blue")


def coefficients(params: PrimariesParams, strength: float) -> F32:
    """3×3 (9,), row by row: the picture as if its light had been mixed from the moved primaries."""
    moved = []
    for name, xy in zip(("red", "green", "blue"), PRIMARIES["rec2020"], strict=True):
        angle = math.radians(getattr(params, f"{name}_turn") * strength)
        away = (xy - D65) * max(1 + getattr(params, f"{name}_pure") * strength, 0.05)
        turned = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]) @ away
        x, y = D65 + turned
        moved.append(xy_to_xyz(np.array([x, max(y, 0.005)])))
    columns = np.stack(moved, axis=1)
    made = columns * np.linalg.solve(columns, xy_to_xyz(D65))
    return np.asarray(np.linalg.solve(rgb_to_xyz("rec2020"), made), np.float32).ravel()


MOVE = MoveKind(
    kind="primaries",
    revision=1,
    band="light",
    label="Primaries",
    says="shifts what red, green and blue are",
    question="What colour is it?",
    sentence="Primaries turned: red {red_turn}, green {green_turn}, blue {blue_turn}",
    params=PrimariesParams,
    verbs=("primaries",),
    first="red_pure",
    place=82,
    kernel=kernel,
    coefficients=coefficients,
)
