"""The algebra of masks, all in [0, 1]."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

F32 = NDArray[np.float32]

JOINS: Final = {"add": "add", "keep_only": "keep only", "take_away": "take away"}
"""How an ingredient joins those above it, and how that reads."""


def combine(a: F32, b: F32, join: str) -> F32:
    """add = 1 − (1 − a)(1 − b); keep_only = a·b; take_away = a·(1 − b)."""
    if join == "add":
        return 1 - (1 - a) * (1 - b)
    if join == "keep_only":
        return a * b
    if join == "take_away":
        return a * (1 - b)
    raise ValueError(f"unknown join {join!r}")


def inverted(a: F32) -> F32:
    """1 − a."""
    return 1 - a
