"""Borders: what pulls the eye out of the picture along its four edges."""

from itertools import pairwise
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour.spaces import DISPLAY_LUMA
from ..colour.tones import lightness
from ..render import SCREEN, Development

F32 = NDArray[np.float32]
BORDER_LONG_EDGE: Final = 900
DEEP: Final = 0.045
"""How deep the strip along an edge is, as a share of the long edge."""
PIECES: Final = 24
Side = Literal["top", "right", "bottom", "left"]


class BorderMark(BaseModel):
    """Something along an edge. start, end: along it, 0–1 from the left or the top. what: "bright", lighter
    than what lies further in by `much` (L*); or "cut", a thing that stands out and is cut by the edge."""

    side: Side
    start: float
    end: float
    what: Literal["bright", "cut"]
    much: float


def read_borders(development: Development) -> list[BorderMark]:
    """The marks along the four edges of the developed picture, the strongest first."""
    view = development.geometry.fit(BORDER_LONG_EDGE)
    shown = np.empty((view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        y = np.tensordot(DISPLAY_LUMA, band, 1)
        shown[r:e] = 100 * lightness(y.astype(float))

    development.display(view, SCREEN, take, keep=False)
    deep = max(4, round(DEEP * max(view.size)))
    marks: list[BorderMark] = []
    turned: dict[Side, F32] = {
        "top": shown, "bottom": shown[::-1], "left": shown.T, "right": shown.T[::-1]
    }  # fmt: skip
    for side, picture in turned.items():
        edge, inner = picture[:deep], picture[deep : 4 * deep]
        n = min(PIECES, edge.shape[1] // 4)
        bounds = np.linspace(0, edge.shape[1], n + 1).astype(int)
        outer = np.array([edge[:, a:b].mean() for a, b in pairwise(bounds)])
        within = np.array([inner[:, a:b].mean() for a, b in pairwise(bounds)])
        brighter = np.where(outer > 55, outer - within, 0)
        marks += _runs(side, brighter, 8.0, "bright")
        # a thing cut by the edge: it differs along the edge from its neighbours, and reaches the edge
        line = edge[: max(2, deep // 4)].mean(0)
        along = np.array([line[a:b].mean() for a, b in pairwise(bounds)])
        padded = np.pad(along, 2, mode="edge")
        around = np.stack([padded[:-4], padded[4:]])
        stands_out = np.abs(along - around).min(0) * (
            np.sign(along - around[0]) == np.sign(along - around[1])
        )
        marks += _runs(side, stands_out, 10.0, "cut")
    return sorted(marks, key=lambda m: -m.much)[:12]


def _runs(
    side: Side, values: NDArray[np.float64], least: float, what: Literal["bright", "cut"]
) -> list[BorderMark]:
    """Neighbouring pieces above `least`, as one mark each."""
    marks, n, start = [], len(values), -1
    for i in range(n + 1):
        over = i < n and values[i] > least
        if over and start < 0:
            start = i
        if not over and start >= 0:
            much = float(values[start:i].max())
            marks.append(BorderMark(side=side, start=start / n, end=i / n, what=what, much=round(much, 1)))
            start = -1
    return marks
