"""What preflight finds, and what it looks at."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..render import Development, Output
from .paper import Layout

F32 = NDArray[np.float32]


class NextStep(BaseModel):
    """What would help: words; station: where; line: which line of Ground is opened there; paper: settings of the paper; bits: of
    the file."""

    words: str
    station: str = ""
    line: str = ""
    paper: dict[str, Any] = {}
    bits: int = 0


class Finding(BaseModel):
    """One thing that will be seen. much: from 0 (just to be seen) on, to sort by; x, y: where (fractions of the picture), None for
    everywhere."""

    what: str
    description: str
    more: str = ""
    much: float
    x: float | None = None
    y: float | None = None
    remedy: NextStep | None = None


class Preflight(BaseModel):
    """to_look_at: worst first; well: what was looked at and is as it should be, a few words each; unknown: what could not be
    judged, and why."""

    to_look_at: list[Finding]
    well: list[str]
    unknown: list[str]


@dataclass(frozen=True)
class Job:
    """What is judged: a development, the file it is to become, the paper it is to lie on."""

    development: Development
    output: Output
    layout: Layout | None
    small: F32
    """Display light at CHOSEN_PX (tiles)."""


def largest(mask: NDArray[np.bool_]) -> tuple[float, float, float]:
    """The share of a picture that its largest piece has, and that piece's middle (fractions)."""
    count, _, stats, middles = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    if count < 2:
        return 0.0, 0.5, 0.5
    k = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
    x, y = middles[k]
    return float(stats[k, cv2.CC_STAT_AREA] / mask.size), float(x / mask.shape[1]), float(y / mask.shape[0])
