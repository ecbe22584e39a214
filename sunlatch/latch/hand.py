"""Hand: painted. Strokes lie on the frame, so that lens, plumb and trim leave them on what was painted.

A stroke counts once however often it crosses itself; strokes add up, and the eraser takes away. With
`seek`, a stroke holds only what looks like what its middle went over.
"""

import hashlib
from dataclasses import dataclass

import cv2
import numpy as np

from ..blocks import px_of
from ..parameters import Params, drawn, number
from .base import F32, IngredientKind, Reading, Region, Sight, sampled
from .stroke import Sheet, Stroke
from .strokes import covered, path_of

SIZES = (1280, 2560, 5120, 10240)
"""Long edges, px, at which strokes are drawn; the first that is not coarser than the view."""
TILE = 1024
"""Px on a side of the squares they are drawn on: at 100 % only those that are seen are."""
MARGIN_PX = 8
"""Px around a window that are seen with it."""
LIKE = 0.05
"""Distance in OKLab at which an edge-seeking stroke lets go."""


class HandParams(Params):
    """What was painted, and the brush that paints next."""

    strokes: list[Stroke | Sheet] = drawn("Strokes", 20_000)
    size: float = number(
        "Size", default=0.03, low=0.001, high=0.4, step=0.001, unit="%", decimals=1, shown_times=100.0,
        hint="Radius of the brush in % of the long edge",
    )  # fmt: skip
    soft: float = number(
        "Soft edge", default=0.7, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    flow: float = number(
        "Build-up", default=1.0, low=0.05, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much one stroke adds; strokes build up",
    )  # fmt: skip


@dataclass(frozen=True)
class _Tile:
    """A square of the raster (h, w) that strokes are drawn on, the whole upright frame."""

    shape: tuple[int, int]
    left: int
    top: int

    @property
    def right(self) -> int:
        return min(self.left + TILE, self.shape[1])

    @property
    def bottom(self) -> int:
        return min(self.top + TILE, self.shape[0])

    def region(self, window: tuple[int, int, int, int] | None = None) -> Region:
        """The tile, or a window of the raster (left, top, right, bottom), in fractions of the frame."""
        x0, y0, x1, y1 = window or (self.left, self.top, self.right, self.bottom)
        return x0 / self.shape[1], y0 / self.shape[0], x1 / self.shape[1], y1 / self.shape[0]


def _drawn(mask: F32, stroke: Stroke, laid: tuple[F32, int, int], tile: _Tile, reading: Reading) -> None:
    """Lay what a stroke covers of a tile, from a left top corner on, upon the tile's mask (h, w), in place."""
    cover, left, top = laid
    if stroke.seek:
        window = (left + tile.left, top + tile.top)
        lab = _seen(tile, window, (cover.shape[1], cover.shape[0]), reading.sight)
        cover = np.asarray(cover * _alike(lab, _gone_over(stroke, tile, reading)), np.float32)
    here = mask[top : top + cover.shape[0], left : left + cover.shape[1]]
    cover *= np.float32(stroke.flow)
    if stroke.erase:
        here *= 1 - cover
    else:
        here += (1 - here) * cover


def _seen(tile: _Tile, corner: tuple[int, int], size: tuple[int, int], sight: Sight) -> F32:
    """The picture's colour (3, h, w) over a window of the raster, texture taken for no edge. What lies around the
    window is seen too, so that two windows meet without a step."""
    (left, top), (w, h) = corner, size
    x0, y0 = max(left - MARGIN_PX, 0), max(top - MARGIN_PX, 0)
    x1, y1 = min(left + w + MARGIN_PX, tile.shape[1]), min(top + h + MARGIN_PX, tile.shape[0])
    lab = sight.lab(tile.region((x0, y0, x1, y1)), max(x1 - x0, y1 - y0))
    # a small frame is not enlarged for the look
    lab = np.stack([cv2.resize(p, (x1 - x0, y1 - y0), interpolation=cv2.INTER_LINEAR) for p in lab])
    lab = np.stack([cv2.GaussianBlur(p, (0, 0), 1.5) for p in lab])
    return np.asarray(lab[:, top - y0 : top - y0 + h, left - x0 : left - x0 + w])


def _gone_over(stroke: Stroke, tile: _Tile, reading: Reading) -> F32:
    """Colours (n, 3) that the stroke's middle went over, the same for every tile of the raster."""
    name = f"gone over {tile.shape} {reading.sight.name} {hashlib.blake2b(stroke.packed).hexdigest()}"
    held = reading.kept(name)
    if held is None:
        path = path_of(stroke, reading.sight, tile.shape)
        some = path[np.linspace(0, len(path) - 1, min(len(path), 12)).astype(int), :2]
        across = px_of(some[:, 0], tile.shape[1], reading.sight.wraps)
        down = px_of(some[:, 1], tile.shape[0], False)
        corners = [(max(int(x) - 1, 0), max(int(y) - 1, 0)) for x, y in zip(across, down, strict=True)]
        held = np.stack([_seen(tile, corner, (3, 3), reading.sight).mean((1, 2)) for corner in corners])
        reading.keep(name, held)
    return held


def _alike(lab: F32, colours: F32) -> F32:
    """How like one of some colours (n, 3) each px of lab (3, h, w) is: (h, w)."""
    best = np.full(lab.shape[1:], np.inf, np.float32)
    for colour in colours:
        best = np.minimum(best, np.square(lab - colour[:, None, None]).sum(0))
    return np.asarray(1 / (1 + (best / LIKE**2) ** 2), np.float32)


def _window(places: F32, shape: tuple[int, int], wraps: bool) -> tuple[int, int, int, int] | None:
    """What of a raster (h, w) is needed to look up places (2, h, w), in fractions of it: left, top, right, bottom; counted on
    and on where it wraps. A map is without folds, so its outermost places lie on its rim."""
    rim = [places[:, 0], places[:, -1], places[:, :, 0], places[:, :, -1]]
    at = np.concatenate(rim, axis=1) * np.array([[shape[1]], [shape[0]]])
    low, high = np.floor(at.min(1)).astype(int) - 2, np.ceil(at.max(1)).astype(int) + 2
    top, bottom = max(int(low[1]), 0), min(int(high[1]), shape[0])
    left, right = (int(low[0]), int(high[0])) if wraps else (max(int(low[0]), 0), min(int(high[0]), shape[1]))
    return (left, top, right, bottom) if left < right and top < bottom else None


def evaluate(params: HandParams, reading: Reading) -> F32:
    """Mask (h, w). Strokes are drawn once at a size, each upon those before it, on the tiles that the view shows."""
    aspect, span = reading.sight.aspect, next((s for s in SIZES if s >= reading.span), SIZES[-1])
    shape = (max(1, round(aspect[1] * span)), max(1, round(aspect[0] * span)))
    places = reading.frame()
    window = _window(places, shape, reading.sight.wraps)
    if window is None:
        return np.zeros(places.shape[1:], np.float32)
    strokes: list[Stroke] = []
    for item in params.strokes:
        strokes += reading.sight.sheet(item) if isinstance(item, Sheet) else [item]
    names, digest = [], hashlib.blake2b(f"{shape} {reading.sight.name}".encode(), digest_size=16)
    for stroke in strokes:
        digest.update(stroke.packed)
        names.append(digest.hexdigest())
    left, top, right, bottom = window
    mask = np.empty((bottom - top, right - left), np.float32)
    for y in range(top // TILE * TILE, bottom, TILE):
        for at, first, last in _turns(left, right, shape[1]):
            for x in range(first // TILE * TILE, last, TILE):
                tile = _Tile(shape, x, y)
                x0, x1, y0, y1 = max(x, first), min(tile.right, last), max(y, top), min(tile.bottom, bottom)
                laid = _laid(strokes, names, tile, reading)
                here = mask[y0 - top : y1 - top, at + x0 - left : at + x1 - left]
                here[:] = laid[y0 - y : y1 - y, x0 - x : x1 - x]
    # looked up in fractions of the window
    corner = np.array([left / shape[1], top / shape[0]], np.float32)[:, None, None]
    extent = np.array([(right - left) / shape[1], (bottom - top) / shape[0]], np.float32)[:, None, None]
    return sampled(mask, (places - corner) / extent)


def _turns(left: int, right: int, width: int) -> list[tuple[int, int, int]]:
    """Columns counted on and on, as columns of a raster (first, before last), each with where it begins."""
    turns = range(left // width, -(-right // width))
    return [(n * width, max(left - n * width, 0), min(right - n * width, width)) for n in turns]


def _laid(strokes: list[Stroke], names: list[str], tile: _Tile, reading: Reading) -> F32:
    """All strokes on a tile (h, w), upon what was drawn there before."""
    where, shape = f" {tile.left} {tile.top}", (tile.bottom - tile.top, tile.right - tile.left)
    done, held = len(names), None
    while done and (held := reading.kept(names[done - 1] + where)) is None:
        done -= 1
    mask, ours = np.zeros(shape, np.float32) if held is None else held, held is None
    for stroke in strokes[done:]:
        laid = covered(stroke, reading.sight, shape, tile.region())
        if laid is not None:
            if not ours:
                mask, ours = mask.copy(), True
            _drawn(mask, stroke, laid, tile, reading)
    if done < len(names):
        reading.keep(names[-1] + where, mask)
    return mask


INGREDIENT = IngredientKind(
    kind="hand",
    revision=1,
    label="Hand",
    says="painted, to edges or soft",
    group="By hand",
    sentence="Hand, strokes: {strokes}",
    params=HandParams,
    evaluate=evaluate,
    place=80,
)
