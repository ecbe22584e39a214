"""What ingredients hold: each over a view of the reading picture, and joined downward."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..colour.tones import lightness, tone_curve
from ..errors import DocumentError
from ..geometry import Geometry, View
from ..latch import INGREDIENT_KINDS, Reading, combine
from ..latch.base import stop_axis
from ..ledger import IngredientLine, Latch, ReadAt
from ..running.cache import key_of
from ..running.patience import go_on
from .keys import LatchKeys
from .reader import NEUTRAL_CURVE

F32 = NDArray[np.float32]

SURVEY_LONG_EDGE = 512
"""Long edge, px, of the picture that moves survey and statistics are taken from."""


class IngredientMasks(LatchKeys):
    """A scene's ingredients over views."""

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
        own_key = self._latch_keys.get(line.id)
        if own_key is None:  # strokes by the thousand are not written out for every view
            own_key = key_of(
                self.reader.own,
                line.model_dump(mode="json", include={"kind", "revision", "invert", "params"}),
            )
            if INGREDIENT_KINDS[line.kind].find is not None:
                own_key = key_of(own_key, self.reader.finding_key(line))
            self._latch_keys[line.id] = own_key
        key = self.ground.view_key(
            "term",
            view,
            plane,
            self.ground.raster.identity,
            self.ground.geometry.key(),
            at.model_dump_json(),
            own_key,
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
        raise NotImplementedError
