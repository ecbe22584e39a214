"""Rendering: how scene light becomes tones. The curve itself is in colour/tones.py."""

from typing import Literal

from ..parameters import Params, choice, optional_number
from .base import MoveKind


class RenderingParams(Params):
    """A named setting, and what is changed about it by hand."""

    setting: Literal["plain", "clear", "mist", "dusk", "straight"] = choice(
        "Setting",
        "clear",
        {"plain": "Plain", "clear": "Clear", "mist": "Mist", "dusk": "Dusk", "straight": "Straight"},
    )
    toe: float | None = optional_number("Toe", low=0.3, high=6.0, step=0.1, decimals=1, automatic="its own")
    shoulder: float | None = optional_number(
        "Shoulder", low=0.3, high=6.0, step=0.1, decimals=1, automatic="its own"
    )
    hue_keeping: float | None = optional_number(
        "Hue keeping", low=0.0, high=1.0, step=0.05, decimals=2, automatic="its own"
    )


MOVE = MoveKind(
    kind="rendering",
    revision=1,
    band="ground",
    label="Rendering",
    question="How bright?",
    sentence="Rendering {setting}",
    params=RenderingParams,
    first="setting",
    place=30,
)
