"""The reading picture, and what latches hold of it.

Ingredients look at the reading picture only: the rescued frame, without Noise and Crispness, at the
light stored in the latch. What a latch knows of the whole picture it learns of the frame upright and
otherwise untouched, so that lens, plumb and trim move no mask off its thing.
"""

import math
import sys
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..colour.tones import lightness, tone_curve
from ..errors import DocumentError
from ..geometry import Geometry, View
from ..latch import INGREDIENT_KINDS, Reading, combine
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
from ..ledger import IngredientLine, Latch, ReadAt, Scene, Spare
from ..running.cache import key_of
from ..running.patience import go_on
from .reader import NEUTRAL_CURVE, Reader, found_by, pinned_of

F32 = NDArray[np.float32]

FINE_BAND = 0.008
"""How far a matted latch may have lain off an edge, in long edges."""
SURVEY_LONG_EDGE = 512
"""Long edge, px, of the picture that moves survey and statistics are taken from."""


# latches may be made of one another two hundred deep, and each takes a dozen calls
sys.setrecursionlimit(max(sys.getrecursionlimit(), 8000))


class Latches:
    """A scene's latches and spare clauses over views."""

    def __init__(self, scene: Scene, reader: Reader, bare: "Latches | None" = None) -> None:
        self.scene = scene
        self.reader = reader
        self._bare = bare
        """Where latches are held that read no light and no colour, if the reader's picture is not the bare frame."""
        self.ground = reader.ground
        self._latch_keys: dict[str, str] = {}
        self._latch_placed: dict[str, bool] = {}

    def latch_key(self, latch: Latch) -> str:
        """Names all that a latch depends on but the map."""
        if self._bare is not None and not self._reads(latch):
            return self._bare.latch_key(latch)
        known = self._latch_keys.get(latch.id)
        if known is None:
            held = latch.model_dump(mode="json", exclude={"id": True, "name": True})
            for line, said in zip(latch.ingredients, held["ingredients"], strict=True):
                del said["id"], said["found"]
                if INGREDIENT_KINDS[line.kind].find is not None:
                    said["revision"] = self.reader.finding_key(line)
            others = [self.scene.latch(i.params.latch) for i in latch.ingredients if i.kind == "another"]
            held["others"] = [self.latch_key(other) for other in others if other is not None]
            known = self._latch_keys[latch.id] = key_of(self.ground.raster.identity, self.reader.own, held)
        return known

    def keep_findings(self) -> None:
        """Put among the scene's blobs what has been found for its latches by now, and note it in their lines, so that
        later finders change nothing of them. Looks for nothing. Raises StorageError where it cannot be written."""
        if self.ground.context.blobs is None or not self.ground.raster.complete:
            return
        for line in (i for latch in self.scene.latches for i in latch.ingredients):
            newest = INGREDIENT_KINDS[line.kind].revision
            if INGREDIENT_KINDS[line.kind].find is None or pinned_of(line):
                continue
            if line.found is not None and line.found.by == found_by(line):
                continue
            line.found, line.revision = self.reader.kept_now(line), newest

    def reading(self, view: View, at: ReadAt, geometry: Geometry | None = None) -> Reading:
        """What ingredients may look at, over a view of the developed picture, or of another plane."""
        tone, black, white = NEUTRAL_CURVE
        base, plane = self.ground.geometry.base, geometry or self.ground.geometry

        def make() -> NDArray[Any]:
            whole = self.reader.stops(base.look(SURVEY_LONG_EDGE), at, base)
            seen = lightness(tone_curve(whole.astype(float), tone, black, white))
            low, high = (float(v) for v in np.percentile(seen, (0.1, 99.9)))
            axis = lightness(tone_curve(stop_axis(), tone, black, white))
            return np.asarray(np.clip((axis - low) / max(high - low, 1e-6), 0, 1))

        key = key_of("lightness", self.ground.raster.identity, self.reader.own, at.model_dump_json())
        places = None
        if plane != self.ground.geometry:
            places = self.ground.views.remember(
                key_of(
                    "places",
                    list(view.region),
                    list(view.size),
                    plane.key(),
                    self.ground.geometry.canvas_key(),
                ),
                lambda: self.ground.geometry.canvas_places(view, plane),
            )
        canvas = self.ground.geometry.canvas
        return Reading(
            stops=self.reader.stops(view, at, geometry),
            lightness=self.ground.kept.remember(key, make),
            place=self.ground.geometry.place(view),
            aspect=(canvas.width, canvas.height),
            to_developed=self.ground.geometry.to_canvas,
            places=places,
            lab=lambda: self.reader.lab(view, at, geometry),
            frame=lambda: self.reader.frame_places(view, plane),
            span=plane.scale(view) * plane.long_edge,
            sight=self.reader.sight(),
            latch=lambda key: self._other(key, view, plane),
            kept=self.ground.kept.get,
            keep=self.ground.kept.put,
            each=self.ground.each,
        )

    def _joined(self, latch: Latch, reading: Reading, view: View, plane: Geometry) -> F32:
        """The ingredients' masks over a view of a map, joined downward."""
        mask: F32 | None = None
        for line in latch.ingredients:
            if not line.on:
                continue
            go_on()
            term = self._kept_term(line, latch.read_at, reading, view, plane)
            if mask is None:
                mask = 1 - term if line.join == "take_away" else term
            else:
                mask = combine(mask, term, line.join)
        return np.zeros(reading.stops.shape, np.float32) if mask is None else mask

    def _kept_term(
        self, line: IngredientLine, at: ReadAt, reading: Reading, view: View, plane: Geometry
    ) -> F32:
        """The same as `_term`, kept: while one ingredient is dragged the others are not made anew."""
        if line.kind == "another":
            return self._term(line, reading, view, plane)
        said = self._latch_keys.get(line.id)
        if said is None:  # strokes by the thousand are not written out for every view
            said = key_of(
                self.reader.own,
                line.model_dump(mode="json", include={"kind", "revision", "invert", "params"}),
            )
            if INGREDIENT_KINDS[line.kind].find is not None:
                said = key_of(said, self.reader.finding_key(line))
            self._latch_keys[line.id] = said
        key = self.ground.view_key(
            "term",
            view,
            plane,
            self.ground.raster.identity,
            self.ground.geometry.key(),
            at.model_dump_json(),
            said,
        )
        return self.ground.views.remember(key, lambda: self._term(line, reading, view, plane))

    def _term(self, line: IngredientLine, reading: Reading, view: View, plane: Geometry) -> F32:
        """One ingredient's mask, inverted where it says so."""
        kind = INGREDIENT_KINDS[line.kind]
        if kind.find is not None:
            term = self.reader.found_over(line, view, plane)
        else:
            assert kind.evaluate is not None
            term = kind.evaluate(line.params, reading)
        return 1 - term if line.invert else term

    def term(self, latch: Latch, ingredient: str, view: View) -> F32:
        """What one ingredient of a latch says over a view (h, w), before it is joined."""
        line = next((i for i in latch.ingredients if i.id == ingredient), None)
        if line is None:
            raise DocumentError(f"{latch.name} has no ingredient {ingredient!r}")
        return self._term(line, self.reading(view, latch.read_at), view, self.ground.geometry)

    def _other(self, key: str, view: View, plane: Geometry) -> F32:
        """Another latch's mask over a view of a map; what is no latch holds nothing."""
        other = self.scene.latch(key) if key else None
        if other is None:
            return np.zeros((view.size[1], view.size[0]), np.float32)
        return self.mask(other, view, plane)

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
        lab, places = self.reader.lab(view, at, plane), self.reader.frame_places(view, plane)
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

    def _reads(self, latch: Latch) -> bool:
        """Whether a latch reads light or colour, of itself or by another."""
        for line in latch.ingredients:
            kind = INGREDIENT_KINDS[line.kind]
            if line.kind == "another":
                other = self.scene.latch(line.params.latch) if line.params.latch else None
                if line.on and other is not None and self._reads(other):
                    return True
            elif line.on and kind.reads:
                return True
        return False

    def _placed(self, latch: Latch) -> bool:
        """Whether a latch is, in part, a shape on the developed plane."""
        known = self._latch_placed.get(latch.id)
        if known is None:
            others = [self.scene.latch(i.params.latch) for i in latch.ingredients if i.kind == "another"]
            known = any(INGREDIENT_KINDS[i.kind].placed for i in latch.ingredients if i.on) or any(
                self._placed(other) for other in others if other is not None
            )
            self._latch_placed[latch.id] = known
        return known

    def _applied(self, stops: F32, model: F32, view: View, plane: Geometry) -> F32:
        """The model over a view of a map, on all threads."""
        out = np.empty_like(stops)
        if plane.straight:
            u0, v0, du, dv = plane.place(view)

            def rows(a: int, b: int) -> None:
                out[a:b] = apply(stops[a:b], model, (u0, v0 + a * dv, du, dv))

        else:
            places = self.reader.frame_places(view, plane)

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
