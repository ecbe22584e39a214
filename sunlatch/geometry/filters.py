"""How px are drawn together, the same wherever the map bends and wherever it does not.

Where px are kept, but turned: Lanczos of three lobes (Duchon 1979). Where they are enlarged, or shifted only: Catmull-Rom
(Keys 1981, a = −1/2), which rings less. Where they are drawn together: what each covers of the new px, so that no light
is lost.
"""

import math
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
I32 = NDArray[np.int32]
PHASES: Final = 1024
SHARP: Final = 1.05
"""Source px per px up to which they count as kept."""
LARGE: Final = 0.95
"""…and below which as enlarged."""


def _covered(step: float, distance: F64) -> F64:
    """How much of a px lies in one `step` px wide whose middle is so far from its own."""
    return np.asarray(np.clip((step + 1) / 2 - distance, 0, min(step, 1)))


@lru_cache(32)
def phase_table(step: float, shifted: bool = False) -> F32:
    """Weights (PHASES + 1, n), n even: row p for a place p / PHASES of the way from tap n/2 − 1 to the
    next. step: source px per output px; shifted: rows stay rows and columns stay columns."""
    n = 6 if step <= SHARP else 2 * math.ceil((step + 1) / 2)
    d = np.abs(np.arange(n) - (n // 2 - 1) - np.linspace(0, 1, PHASES + 1)[:, None])
    if step < LARGE or (shifted and step <= SHARP):
        near, far = 1.5 * d**3 - 2.5 * d**2 + 1, -0.5 * d**3 + 2.5 * d**2 - 4 * d + 2
        weights = np.where(d < 1, near, np.where(d < 2, far, 0.0))
    elif step <= SHARP:
        weights = np.sinc(d) * np.sinc(d / 3) * (d < 3)
    else:
        weights = _covered(step, d)
    return np.ascontiguousarray(weights / weights.sum(1, keepdims=True), np.float32)


def whole_px(start: float, step: float) -> bool:
    """Whether so placed px are the source's own."""
    return abs(step - 1) < 1e-9 and abs(start - round(start)) < 1e-6


def taps(start: float, step: float, count: int, limit: int) -> tuple[I32, F32]:
    """First index and weights (count, n) that sample a row of `limit` px from `start`, `step` ≥ 1 px
    apart, in continuous px (pixel i covers i to i + 1). Ends are repeated."""
    centres = start + (np.arange(count) + 0.5) * step
    if whole_px(start, step):
        i = np.rint(centres - 0.5).astype(np.int64)[:, None]
        weights = np.ones((count, 1))
    else:
        i = np.floor(centres - step / 2 + 1e-9).astype(np.int64)[:, None] + np.arange(math.ceil(step) + 1)
        weights = _covered(step, np.abs(centres[:, None] - 0.5 - i))
    weights = weights / weights.sum(1, keepdims=True)
    return np.clip(i, 0, limit - 1).astype(np.int32), np.ascontiguousarray(weights, np.float32)
