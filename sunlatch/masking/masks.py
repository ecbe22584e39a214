"""The reading picture, and what latches hold of it.

Ingredients look at the reading picture only: the rescued frame, without Noise and Crispness, at the
light stored in the latch. What a latch knows of the whole picture it learns of the frame upright and
otherwise untouched, so that lens, plumb and trim move no mask off its thing.
"""

import math
import sys

import numpy as np
from numpy.typing import NDArray

from ..geometry import Geometry, View
from ..latch.base import by_light, smoothstep, stop_axis
from ..latch.colour import evaluate as evaluate_colour
from ..latch.found import followed
from ..latch.refine import (
    FIT_LONG_EDGE,
    apply,
    apply_at,
    apply_colour,
    fit,
    fit_colour,
    guide_of,
    margin_of,
    softened,
)
from ..ledger import Latch, ReadAt, Spare
from ..running.cache import key_of
from ..running.patience import go_on
from .ingredients import IngredientMasks

F32 = NDArray[np.float32]

FINE_BAND = 0.008
"""How far a matted latch may have lain off an edge, in long edges."""
# latches may be made of one another two hundred deep, and each takes a dozen calls
sys.setrecursionlimit(max(sys.getrecursionlimit(), 8000))


class Latches(IngredientMasks):
    """A scene's latches and spare clauses over views."""

    def mask(self, latch: Latch, view: View, plane: Geometry | None = None) -> F32:
        """A latch over a view of the developed picture, or of another map of the frame: (h, w) in [0, 1]."""
        if self._bare is not None and not self._reads(latch):
            return self._bare.mask(latch, view, plane)
        plane = plane or self.ground.geometry

        def make() -> F32:
            go_on()
            grow, feather = (v * plane.scale(view) for v in (latch.grow, latch.feather))
            if grow or feather:  # its neighbourhood is seen too, beyond the view
                wide, (left, top) = _widened(view, margin_of(grow, feather))
                inner = (slice(top, top + view.size[1]), slice(left, left + view.size[0]))
                mask = softened(self._held(latch, wide, plane), grow, feather)[inner]
            else:
                mask = self._held(latch, view, plane)
            return self._finished(latch, mask)

        # a shape on the developed picture lies elsewhere on the frame when that is turned
        where = (
            self.ground.geometry.canvas_key() if plane != self.ground.geometry and self._placed(latch) else ""
        )
        key = self.ground.view_key("latch", view, plane, self.latch_key(latch), where)
        return self.ground.views.remember(key, make)

    def _held(self, latch: Latch, view: View, plane: Geometry) -> F32:
        """A latch over a view before it grows and is feathered: joined, and true to edges as it says."""
        clock = self.ground.context.clock
        with clock.step("reading picture (wall)"):
            reading = self.reading(view, latch.read_at, plane)
        some = any(i.on for i in latch.ingredients)
        if some and latch.fine_edges:
            return self.matted_over(self.fine_model(latch), view, plane, latch.read_at)
        if some and latch.edge_true.on:
            model = self._edge_model(latch)
            with clock.step("latch, edge-true (wall)"):
                return self._applied(reading.stops, model, view, plane)
        return self._joined(latch, reading, view, plane)

    def fine_model(self, latch: Latch) -> F32:
        """What fits a latch to the picture's finest edges: matted on the frame as it stands upright. Takes
        seconds; kept."""
        if self._bare is not None and not self._reads(latch):
            return self._bare.fine_model(latch)

        def make() -> F32:
            base = self.ground.geometry.base
            view = base.look(FIT_LONG_EDGE)
            there = self.reading(view, latch.read_at, base)
            lab = self.reader.lab(view, latch.read_at, base)
            return fit_colour(followed(lab, self._joined(latch, there, view, base), FINE_BAND), lab)

        where = self.ground.geometry.shape_key() if self._placed(latch) else ""
        return self.ground.kept.remember(key_of("fine", self.latch_key(latch), where), make, long=True)

    def matted_over(self, model: F32, view: View, plane: Geometry, at: ReadAt) -> F32:
        """A matted latch over a view of a map, by the picture's own colour."""
        lab, places = self.reader.lab(view, at, plane), self.reader.looked_up(view, plane)
        out = np.empty((view.size[1], view.size[0]), np.float32)
        self.ground.each(len(out), lambda a, b: apply_colour(lab[:, a:b], model, places[:, a:b], out[a:b]))
        return out

    @staticmethod
    def _finished(latch: Latch, mask: F32) -> F32:
        """Inverted and weakened as the latch says."""
        if latch.invert:
            mask = 1 - mask
        if latch.strength != 1:
            mask = mask * np.float32(latch.strength)
        return np.ascontiguousarray(mask, np.float32)

    def _edge_model(self, latch: Latch) -> F32:
        """What fits a latch to the picture's edges, learned from the frame as it stands upright."""

        def make() -> F32:
            base = self.ground.geometry.base
            view = base.look(FIT_LONG_EDGE)
            there = self.reading(view, latch.read_at, base)
            edge = latch.edge_true
            guide = self.ground.kept.remember(
                key_of(
                    "guide",
                    self.ground.raster.identity,
                    self.reader.own,
                    latch.read_at.model_dump_json(),
                    edge.reach,
                    edge.texture,
                ),
                lambda: guide_of(there.stops, edge.reach, edge.texture),
            )
            return fit(self._joined(latch, there, view, base), guide, edge.reach, self.ground.each)

        where = self.ground.geometry.shape_key() if self._placed(latch) else ""
        return self.ground.kept.remember(key_of("edge", self.latch_key(latch), where), make)

    def _applied(self, stops: F32, model: F32, view: View, plane: Geometry) -> F32:
        """The model over a view of a map, on all threads."""
        out = np.empty_like(stops)
        if plane.straight:
            u0, v0, du, dv = plane.place(view)

            def rows(a: int, b: int) -> None:
                out[a:b] = apply(stops[a:b], model, (u0, v0 + a * dv, du, dv))

        else:
            places = self.reader.looked_up(view, plane)

            def rows(a: int, b: int) -> None:
                out[a:b] = apply_at(stops[a:b], model, places[:, a:b])

        self.ground.each(len(out), rows)
        return out

    def where(
        self, latch_id: str | None, spares: list[Spare], view: View, plane: Geometry | None = None
    ) -> F32 | None:
        """Where a line applies over a view of the developed picture, or of another map of the frame, latch and spare clauses
        together; None for everywhere."""
        latch = self.scene.latch(latch_id) if latch_id else None
        if latch is None and not spares:
            return None
        if latch is not None and not spares:
            return self.mask(latch, view, plane)

        def make() -> F32:
            mask = self.mask(latch, view, plane) if latch is not None else None
            for spare in spares:
                if spare.what == "colour":
                    kept = 1 - evaluate_colour(spare.colour, self.reading(view, spare.read_at, plane))
                else:
                    kept = by_light(self.reader.stops(view, spare.read_at, plane), spared(spare))
                mask = kept if mask is None else mask * kept
            assert mask is not None
            return mask

        key = self.ground.view_key(
            "move", view, plane or self.ground.geometry, self.where_key(latch_id, spares)
        )
        return self.ground.views.remember(key, make)

    def where_key(self, latch_id: str | None, spares: list[Spare]) -> str:
        """Names what `where` depends on but view and map; "" for everywhere."""
        latch = self.scene.latch(latch_id) if latch_id else None
        parts = [self.latch_key(latch) if latch else ""]
        parts += [self.reader.own + spare.model_dump_json() for spare in spares]
        return "" if parts == [""] else key_of(*parts)


def _widened(view: View, margin: int) -> tuple[View, tuple[int, int]]:
    """A view with so many px more on every side, at the same scale, and how many it got on the left and above.
    What lies farther than that beyond the picture is no use: latches made of one another would widen without end."""
    x0, y0, x1, y1 = view.region
    per_x, per_y = (x1 - x0) / view.size[0], (y1 - y0) / view.size[1]
    left, right = (_room(margin, beyond / per_x) for beyond in (x0, 1 - x1))
    top, bottom = (_room(margin, beyond / per_y) for beyond in (y0, 1 - y1))
    region = (x0 - left * per_x, y0 - top * per_y, x1 + right * per_x, y1 + bottom * per_y)
    return View(region, (view.size[0] + left + right, view.size[1] + top + bottom)), (left, top)


def _room(margin: int, inside: float) -> int:
    """How many of so many px more on a side are of use, where the picture goes on for `inside` px there."""
    return min(margin, max(0, math.ceil(inside) + margin))


def spared(spare: Spare) -> NDArray[np.float64]:
    """What a spare clause of shadows or highlights leaves to the move, as a curve over light."""
    axis = stop_axis()
    if spare.what == "shadows":
        return smoothstep((axis - (spare.edge - spare.soft)) / spare.soft)
    return smoothstep(((spare.edge + spare.soft) - axis) / spare.soft)
