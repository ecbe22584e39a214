"""What a move is.

Band "ground" moves exist once and are read by the renderer by name. Band "light" moves bring a
compiled kernel. All kernels share one signature, so the renderer can run any list of them over a
band of rows while it lies in the cache:

    kernel(rgb, mask, coef, aux, place)
        rgb    float32 (3, rows, width), working RGB, changed in place
        mask   float32 (rows, width), 0..1: where the move applies
        coef   float32 (n,), from `coefficients`
        aux    float32 (a, b, c, d), from `survey` (or one zero): what the move learned from the
               whole picture at a fixed small size, so that views, tiles and files agree
        place  float32 (4,): u0, v0, du, dv, the position of the first pixel centre and the step,
               as fractions of the canvas (geometry/map.py), which a crop does not change

A kernel changes nothing where its mask is 0.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..parameters import Params

F32 = NDArray[np.float32]
Kernel = Callable[[F32, F32, F32, F32, F32], None]
move_kernel = kernel(
    "void(float32[:, :, ::1], float32[:, ::1], float32[::1], float32[:, :, :, ::1], float32[::1])"
)
NO_AUX: F32 = np.zeros((1, 1, 1, 1), np.float32)


@dataclass(frozen=True)
class Lay:
    """How a picture lies on its canvas. aspect: (width, height) of the canvas in long edges of the frame;
    crop: x0, y0, x1, y1 of what Trim leaves, in the same; to_canvas: source points (n, 2) → (n, 2)."""

    aspect: tuple[float, float]
    crop: tuple[float, float, float, float]
    to_canvas: Callable[[NDArray[np.float64]], NDArray[np.float64]]


@dataclass(frozen=True)
class MoveKind:
    """The declaration of one move. `sentence` is a template over the fields of `params`."""

    kind: str
    revision: int
    band: Literal["join", "ground", "mend", "light"]
    label: str
    question: str
    sentence: str
    params: type[Params]
    says: str = ""
    """What it does, in a few words, where it is chosen among others."""
    verbs: tuple[str, ...] = ()
    """Words that start this move when typed ("burn sky 0.9"): each may carry a sign for the value."""
    place: int = 100
    kernel: Kernel | None = None
    coefficients: Callable[[Any, float], F32] | None = None
    """(params, strength 0–2) → coef; strength scales the parameters, never the mask."""
    survey: Callable[[F32, Any], F32] | None = None
    """((3, h, w) working RGB of the whole picture at a fixed small size, params) → aux."""
    surveyed: tuple[str, ...] = ()
    """The parameters a survey depends on; changing others surveys nothing anew."""
    survey_edge: int = 512
    """Long edge, px, of the picture that is surveyed."""
    located: Callable[[Any, "Lay"], F32] | None = None
    """(params, how the picture lies) → what is added to coef: for what has a place on the picture."""
    signs: dict[str, float] = field(default_factory=dict)
    """For verbs that mean a direction: verb → sign applied to the typed number."""
    first: str = ""
    """The parameter a typed number goes to."""
    spares: tuple[str, ...] = ()
    """What a fresh line of it spares, so that it does no harm; by the names of spare clauses."""
    zone: Callable[[Any, F32, int], F32] | None = None
    """(params, (3, h, w) as it enters the move, n) → mask (h, w): where the n-th thing drawn for it acts."""
    remark: Callable[[Any], str] | None = None
    """What to say of settings that do something one may not expect; "" for the others."""
    latched: bool = False
    """True for a Ground move that may be latched."""
    once: bool = False
    """True for one that exists once in a scene though its band is not Ground's."""
