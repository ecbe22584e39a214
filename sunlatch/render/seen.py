"""The reading picture with what was brought into the scene: light and colour are read as they are seen, loans and new sky in
place. Finders go on looking at the bare frame, so that the matte of a new sky never depends on that sky."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA, WORKING_TO_LMS, LightColour, camera_to_working
from ..geometry import Geometry, View
from ..latch import KeptFinding
from ..latch.base import Finding, Sight
from ..layers.loans import Layer, layer_alpha, onto
from ..layers.skies import SkyIn
from ..ledger import IngredientLine, ReadAt
from ..masking.masks import Latches
from ..masking.reader import Reader, lab_curve
from ..running.cache import key_of
from ..running.patience import doing_of
from ..sensor.kernels import blend, read_lab, read_stops, to_working

F32 = NDArray[np.float32]


@dataclass(frozen=True)
class Seen:
    """What is brought into a scene, for whoever reads it. latches: by which it is let in; they read the bare frame."""

    latches: Latches
    loans: list[Layer]
    sky: SkyIn | None

    @property
    def key(self) -> str:
        """Names all of it but the light by which it is read."""
        return key_of("seen", [loan.own_key for loan in self.loans], self.sky.own_key if self.sky else "")

    def light(self, view: View, at: ReadAt, plane: Geometry) -> F32:
        """Working light (3, h, w) of a view of a map of the frame, at a light and exposure of its own."""
        ground = self.latches.ground
        matrix = (
            camera_to_working(ground.raster.info.colour, LightColour(at.kelvin, at.duv))
            * 2.0**at.base_exposure
        )
        flat = matrix.astype(np.float32).ravel()
        camera = ground.reading_camera(view, plane)
        lent = []
        for loan in self.loans:
            second = onto(loan.frame, plane, loan.matrix(LightColour(at.kelvin, at.duv), at.base_exposure))
            lent.append((second.light(view), layer_alpha(loan.line, second, self.latches, view, plane)))
        laid = None
        if self.sky is not None:
            second = onto(self.sky.frame, plane, self.sky.matrix(at.base_exposure))
            key = key_of(self.sky.own_key, at.model_dump_json())
            with doing_of(self.sky.line.id):
                laid = replace(self.sky, frame=second, scene_matrix=flat, plane=plane, key=key).lay(view)
        out = np.empty_like(camera)

        def band(a: int, b: int) -> None:
            rgb = np.empty((3, b - a, view.size[0]), np.float32)
            to_working(camera[:, a:b], flat, rgb)
            for light, mask in lent:
                blend(rgb, light[:, a:b], mask[a:b])
            if laid is not None:
                laid.band(rgb, a, b)
            out[:, a:b] = rgb

        ground.each(out.shape[1], band)
        return out


class SeenReader(Reader):
    """The reading picture's light and colour with what was brought; what is found is found in the bare frame."""

    def __init__(self, bare: Reader, seen: Seen) -> None:
        super().__init__(bare.ground)
        self._bare, self._seen = bare, seen
        self.own = seen.key

    def _light(self, view: View, at: ReadAt, plane: Geometry) -> F32:
        key = self.ground.view_key("seen", view, plane, self.own, at.model_dump_json())
        return self.ground.views.remember(key, lambda: self._seen.light(view, at, plane))

    def stops(self, view: View, at: ReadAt, geometry: Geometry | None = None) -> F32:
        """As `Reader.stops`."""
        plane = geometry or self.ground.geometry

        def make() -> F32:
            light = self._light(view, at, plane)
            weights, out = LUMA.astype(np.float32), np.empty(light.shape[1:], np.float32)
            self.ground.each(len(out), lambda a, b: read_stops(light[:, a:b], weights, out[a:b]))
            return out

        key = self.ground.view_key("stops", view, plane, self.own, at.model_dump_json())
        return self.ground.views.remember(key, make)

    def lab(self, view: View, at: ReadAt, geometry: Geometry | None = None) -> F32:
        """As `Reader.lab`."""
        plane = geometry or self.ground.geometry

        def make() -> F32:
            light, shown = self._light(view, at, plane), lab_curve()
            lms, weights = WORKING_TO_LMS.astype(np.float32).ravel(), LUMA.astype(np.float32)
            out = np.empty_like(light)
            self.ground.each(
                out.shape[1], lambda a, b: read_lab(light[:, a:b], lms, weights, shown, out[:, a:b])
            )
            return out

        key = self.ground.view_key("lab", view, plane, self.own, at.model_dump_json())
        return self.ground.views.remember(key, make)

    def finders_light(self) -> ReadAt:
        """As `Reader.finders_light`."""
        return self._bare.finders_light()

    def finding(self, line: IngredientLine) -> Finding:
        """As `Reader.finding`."""
        return self._bare.finding(line)

    def kept_now(self, line: IngredientLine) -> KeptFinding | None:
        """As `Reader.kept_now`."""
        return self._bare.kept_now(line)

    def sight(self, kind: str = "") -> Sight:
        """As `Reader.sight`."""
        return self._bare.sight(kind)

    def found_over(self, line: IngredientLine, view: View, geometry: Geometry) -> F32:
        """As `Reader.found_over`."""
        return self._bare.found_over(line, view, geometry)
