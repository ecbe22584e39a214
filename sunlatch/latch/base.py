"""What an ingredient is, and what it may look at."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..errors import DocumentError
from ..lookup import looked_up
from ..parameters import Params, choice
from .stroke import Sheet, Stroke

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

STOPS_LOW, STOPS_PER = -16.0, 64
STOPS_SIZE = 2049
"""Curves over light are sampled every 1/64 stop from −16 to +16."""


def no_sheet(sheet: Sheet) -> tuple[Stroke, ...]:
    """Where there are no sheets. Raises DocumentError."""
    raise DocumentError(f"the strokes of this scene are not with it ({sheet.sheet[:8]})")


def _nothing(*_: object) -> F32:
    raise ValueError("this reading does not hold what was asked for")


Each = Callable[[int, Callable[[int, int], None]], None]


def at_once(rows: int, work: Callable[[int, int], None]) -> None:
    """All rows in one band."""
    work(0, rows)


SURE, DOUBT = 0.75, 0.25
"""From so sure on what was found counts; and is asked for, from so sure on."""
Region = tuple[float, float, float, float]


@dataclass(frozen=True)
class Sight:
    """What finders may look at: the whole frame upright, by a light of its own. lab(region, long_edge):
    OKLab (3, h, w) of a region, in fractions of the frame, at a long edge of so many px at most. aspect:
    (width, height) in long edges. to_frame: source points (n, 2) → long edges from the left top corner.
    stops: light (h, w) of the whole. name: names the frame. found: what a kind found in it (h, w) before marks
    set it right. sheet: the strokes on a sheet. wraps: its right edge goes on at its left."""

    lab: Callable[..., F32]
    aspect: tuple[float, float]
    to_frame: Callable[[F64], F64]
    stops: Callable[[], F32]
    name: str
    found: Callable[..., F32] = _nothing
    sheet: Callable[[Sheet], tuple[Stroke, ...]] = no_sheet
    wraps: bool = False


def answer() -> Any:
    """What the photographer says of what was found: is it there?"""
    return choice("Is it there?", "found", {"found": "as found", "yes": "yes", "no": "no"})


@dataclass(frozen=True)
class Finding:
    """A mask (h, w) over a region of the upright frame, in fractions of it; outside there is nothing. sure: how sure it is,
    0–1, that there is such a thing at all; where that is less than DOUBT, the mask holds nothing."""

    mask: F32
    region: Region = (0.0, 0.0, 1.0, 1.0)
    sure: float = 1.0

    @property
    def verdict(self) -> Literal["found", "doubtful", "none"]:
        """What comes of it: it is there, it is asked for, or there is none."""
        if self.sure < DOUBT or not self.mask.any():
            return "none"
        return "found" if self.sure >= SURE else "doubtful"

    def held(self, params: Params) -> bool:
        """Whether it counts: where it is sure, or the photographer says that it is there; never where he says that not."""
        answer = getattr(params, "answer", "found")
        return answer == "yes" or (answer == "found" and self.verdict == "found")


def judged(mask: F32, sure: float) -> Finding:
    """A finding of the whole frame, of which it is so sure: nothing where it is all but sure that there is none."""
    return Finding(mask if sure >= DOUBT else np.zeros_like(mask), sure=sure)


@dataclass(frozen=True)
class Reading:
    """What an ingredient sees: the reading picture over a view, never the edited one.

    stops: (h, w) light in stops. lightness: curve over stops (STOPS_SIZE,) → L in [0, 1],
    stretched between the reading picture's 0.1 and 99.9 percentiles. place: u0, v0, du, dv of the
    view in fractions of the canvas, the developed picture before it is trimmed. aspect: (width, height)
    of the canvas in long edges. to_developed: source points (n, 2) → points on the canvas (n, 2).
    places: where every px lies on the canvas (2, h, w); None where `place` says it all.
    lab: the picture's OKLab (3, h, w) there. frame: where every px lies on the upright frame (2, h, w), in
    fractions of it. span: the frame's long edge in px at this scale. sight: the whole frame. latch: another
    latch's mask (h, w) by id. kept, keep: what was made before, by name. each(rows, work): runs
    work(first, last) over bands of rows, on all threads.
    """

    stops: F32
    lightness: F64
    place: tuple[float, float, float, float]
    aspect: tuple[float, float]
    to_developed: Callable[[F64], F64]
    places: F32 | None = None
    lab: Callable[[], F32] = _nothing
    frame: Callable[[], F32] = _nothing
    span: float = 1280.0
    sight: Sight = Sight(_nothing, (1.0, 1.0), lambda p: p, _nothing, "")
    latch: Callable[[str], F32] = _nothing
    kept: Callable[[str], F32 | None] = lambda name: None
    keep: Callable[[str, F32], None] = lambda name, mask: None
    each: Each = at_once

    def canvas_places(self) -> F32:
        """Where every px lies on the canvas (2, h, w), in long edges of it."""
        if self.places is not None:
            return self.places
        u0, v0, du, dv = self.place
        x = ((u0 + du * np.arange(self.stops.shape[1])) * self.aspect[0]).astype(np.float32)
        y = ((v0 + dv * np.arange(self.stops.shape[0])) * self.aspect[1]).astype(np.float32)
        return np.stack(np.broadcast_arrays(x[None], y[:, None]))


@dataclass(frozen=True)
class IngredientKind:
    """The declaration of one ingredient: either `evaluate(params, reading)` → mask (h, w) in [0, 1] over
    any view, or `find(params, sight)`, which is asked once for a frame."""

    kind: str
    revision: int
    label: str
    group: str
    sentence: str
    params: type[Params]
    evaluate: Callable[[Any, Reading], F32] | None = None
    find: Callable[[Any, Sight], Finding] | None = None
    place: int = 100
    says: str = ""
    """What it takes, in a few words, where it is chosen among others."""
    nothing: str = ""
    """What to say where a finder found nothing."""
    asks: str = ""
    """What to ask where it is not sure."""
    shape: Callable[[Any, F32], F32] | None = None
    shaped: tuple[str, ...] = ()
    """`shape(params, mask)` is asked after what was found is drawn; the parameters `shaped` count only there,
    so changing them finds nothing anew."""
    looks_at: tuple[str, ...] = ()
    """The kinds whose findings `find` looks at: it finds something else once they do."""
    remark: Callable[[Any], str] | None = None
    """What to say of settings that do something one may not expect; "" for the others."""
    reads: bool = False
    """True when it looks at the picture's light or colour."""
    placed: bool = False
    """True when the mask is a shape on the developed plane: it changes with lens and plumb."""


def stop_axis() -> F64:
    """The stops at which curves over light are sampled."""
    return STOPS_LOW + np.arange(STOPS_SIZE) / STOPS_PER


def smoothstep(x: F64) -> F64:
    """3x² − 2x³ on [0, 1], flat outside."""
    t = np.clip(x, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


@kernel("void(float32[:, ::1], float32[::1], float32[:, ::1])")
def _look_up(stops, table, out):  # type: ignore[no-untyped-def]
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            f = (stops[r, c] - np.float32(STOPS_LOW)) * np.float32(STOPS_PER)
            f = min(max(np.float32(0), f), np.float32(STOPS_SIZE - 1.001))
            i = int(f)
            t = f - np.float32(i)
            out[r, c] = table[i] + (table[i + 1] - table[i]) * t


def by_light(stops: F32, curve: F64, each: Each = at_once) -> F32:
    """Apply a curve over light (STOPS_SIZE,) to stops (h, w)."""
    out = np.empty_like(stops)
    stops, table = np.ascontiguousarray(stops), np.ascontiguousarray(curve, np.float32)
    each(len(out), lambda a, b: _look_up(stops[a:b], table, out[a:b]))
    return out


def on_frame(places: F32, wraps: bool) -> F32:
    """Places (2, h, w) in fractions of a frame, where its px lie: one that goes all the way round may be counted on and on."""
    return np.stack([np.mod(places[0], np.float32(1)), places[1]]) if wraps else places


def sampled(raster: F32, places: F32, wraps: bool = False) -> F32:
    """A mask of the whole frame (H, W), looked up where px lie on it: places (2, h, w) in fractions."""
    h, w = raster.shape
    x, y = places[0] * np.float32(w) - np.float32(0.5), places[1] * np.float32(h) - np.float32(0.5)
    if wraps:
        raster = cv2.copyMakeBorder(raster, 0, 0, 1, 1, cv2.BORDER_WRAP)
        x = np.mod(x, np.float32(w)) + np.float32(1)
    return np.asarray(looked_up(raster, x, y), np.float32)
