"""What is found in a frame once, whatever is done to it later: its sky, say.

Finders look at the reading picture of the whole frame upright, at the light it was shot in and at an
exposure that suits it, so their finding belongs to the frame and to no scene. It is kept beside the
pyramid (it recomputes the same), and is drawn over views by the picture's own colour, so that what was
found on a small picture follows twigs on a large one.
"""

import os
import threading
from functools import lru_cache
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..colour import LUMA, WORKING_TO_LMS, LightColour, camera_to_working
from ..colour.tones import SETTINGS, tone_curve
from ..errors import DocumentError
from ..geometry import Geometry, View, widened
from ..latch import INGREDIENT_KINDS, KeptFinding, Sheets, finder
from ..latch.base import Finding, Sight, no_sheet, on_frame
from ..latch.kept import keep, kept
from ..latch.refine import FIT_LONG_EDGE, apply_colour, fit_colour
from ..ledger import IngredientLine, ReadAt, new_ingredient
from ..running.arrays import load
from ..running.cache import key_of
from ..running.patience import holding
from ..sensor.ground import Ground
from ..sensor.kernels import LAB_LOW, LAB_PER, LAB_SIZE, read_lab, read_light, read_stops

F32 = NDArray[np.float32]

NEUTRAL_CURVE = (SETTINGS["plain"], -10.0, 4.0)
"""The fixed curve of the reading picture: setting, black and white in stops."""
BRIGHT: float = 2.0
"""Stops at which the brightest of a frame lies when finders look at it: the sky must not be squeezed."""
HEAD: Final = 7
"""Numbers in front of a packed mask: its height and width, its region, how sure it is."""
_finding: dict[str, threading.Lock] = {}
_guard = threading.Lock()


def lab_curve() -> F32:
    """The neutral curve as it is looked up for OKLab."""
    tone, black, white = NEUTRAL_CURVE
    axis = LAB_LOW + np.arange(LAB_SIZE) / LAB_PER
    return np.cbrt(tone_curve(axis, tone, black, white)).astype(np.float32)


@lru_cache(8)
def _sheets(blobs: Blobs) -> Sheets:
    """The sheets of strokes among a studio's blobs: those read last are held."""
    return Sheets(blobs)


class Reader:
    """The reading picture's light and colour, and what is found in it. own: names what is read beside the frame; "" for
    nothing."""

    own = ""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground

    def stops(self, view: View, at: ReadAt, geometry: Geometry | None = None) -> F32:
        """The reading picture's light (h, w) in stops, at a latch's own light and exposure."""
        plane = geometry or self.ground.geometry

        def make() -> F32:
            matrix = camera_to_working(self.ground.raster.info.colour, LightColour(at.kelvin, at.duv))
            weights = (LUMA @ matrix * 2.0**at.base_exposure).astype(np.float32)
            out = np.empty((view.size[1], view.size[0]), np.float32)
            if not plane.straight and not plane.lens.lateral and self.ground.plan.best("crisp") != "rescued":
                # the picture is drawn from another stage: one plane is drawn for the reading, not three; where the
                # lens drew colours apart, each has its own place, and one plane would be another reading
                light = self.ground.sensor.light(plane, view, weights)[0]
                self.ground.each(out.shape[0], lambda a, b: read_light(light[a:b], out[a:b]))
            else:
                camera = self.ground.reading_camera(view, plane)
                self.ground.each(out.shape[0], lambda a, b: read_stops(camera[:, a:b], weights, out[a:b]))
            return out

        key = self.ground.view_key("stops", view, plane, at.model_dump_json())
        return self.ground.views.remember(key, make)

    def lab(self, view: View, at: ReadAt, geometry: Geometry | None = None) -> F32:
        """The reading picture's colour (3, h, w): OKLab through the neutral curve."""
        plane = geometry or self.ground.geometry

        def make() -> F32:
            matrix = camera_to_working(self.ground.raster.info.colour, LightColour(at.kelvin, at.duv))
            matrix = matrix * 2.0**at.base_exposure
            shown = lab_curve()
            lms = (WORKING_TO_LMS @ matrix).astype(np.float32).ravel()
            weights = (LUMA @ matrix).astype(np.float32)
            camera = self.ground.reading_camera(view, plane)
            out = np.empty_like(camera)
            self.ground.each(
                out.shape[1], lambda a, b: read_lab(camera[:, a:b], lms, weights, shown, out[:, a:b])
            )
            return out

        return self.ground.views.remember(
            self.ground.view_key("lab", view, plane, at.model_dump_json()), make
        )

    def finders_light(self) -> ReadAt:
        """The light finders look by: as shot, at an exposure that makes good use of the neutral curve."""

        def make() -> NDArray[Any]:
            shot = self.ground.raster.info.colour.as_shot()
            at = ReadAt(kelvin=shot.kelvin, duv=shot.duv, base_exposure=0.0)
            base = self.ground.geometry.base
            bright = float(np.percentile(self.stops(base.look(256), at, base), 99))
            return np.array([shot.kelvin, shot.duv, np.clip(BRIGHT - bright, -5, 8)])

        found = self.ground.kept.remember(key_of("finders light", self._frame()), make)
        return ReadAt(kelvin=float(found[0]), duv=float(found[1]), base_exposure=float(found[2]))

    def _frame(self) -> str:
        """Names the frame, and how much of it is decoded: what was found in the first look of it is found again, and
        may be a little different, once it is there whole."""
        return self.ground.raster.identity

    def finding(self, line: IngredientLine) -> Finding:
        """What an ingredient's finder says of the frame; found once, then kept on disk."""
        find = INGREDIENT_KINDS[line.kind].find
        assert find is not None
        key = self.finding_key(line)

        def make() -> NDArray[Any]:
            pinned = pinned_of(line)
            if pinned is not None:
                if self.ground.context.blobs is None:
                    raise DocumentError(f"what this scene keeps is not with it ({pinned.mask[:8]})")
                return _packed(kept(pinned, self.ground.context.blobs))
            with _guard:
                lock = _finding.setdefault(key, threading.Lock())
            with holding(lock):  # asked for twice at once, it is looked for once
                held = _read(self._file(key))
                if held is None:
                    held = _packed(find(line.params, self.sight(line.kind)))
                    _write(self._file(key), held)
                return held

        return _unpacked(self.ground.kept.remember(key, make))

    def finding_key(self, line: IngredientLine) -> str:
        """Names all that an ingredient's finding depends on."""
        pinned = pinned_of(line)
        how = pinned.mask if pinned else [finder(line.kind), found_by(line)]
        return key_of("found and how sure", self._frame(), line.kind, how)

    def _file(self, key: str) -> Path | None:
        """Where a finding is kept beside the frame's pyramid."""
        return self.ground.raster.home and self.ground.raster.home / f"found-{key}.npy"

    def kept_now(self, line: IngredientLine) -> KeptFinding | None:
        """What has been found for an ingredient by now, put among the blobs; None where nothing has been, or there is
        nowhere to put it. Raises StorageError where it cannot be written."""
        key = self.finding_key(line)
        held = self.ground.kept.get(key)
        held = _read(self._file(key)) if held is None else held
        blobs = self.ground.context.blobs
        if held is None or blobs is None:
            return None
        return keep(_unpacked(held), found_by(line), finder(line.kind), blobs)

    def sight(self, kind: str = "") -> Sight:
        """The whole frame, as finders see it; those of a kind see what it says that they look at, and what was found
        of their own before marks set it right."""
        base = self.ground.geometry.base
        w, h = base.developed_size

        def lab(
            region: tuple[float, float, float, float] = (0, 0, 1, 1), long_edge: int = FIT_LONG_EDGE
        ) -> F32:
            across, down = (region[2] - region[0]) * w, (region[3] - region[1]) * h
            if region == (0, 0, 1, 1):
                long_edge = round(long_edge * widened(across, down))
            k = min(1.0, long_edge / max(across, down))
            size = (max(1, round(across * k)), max(1, round(down * k)))
            return self.lab(View(region, size), self.finders_light(), base)

        def found(other: str) -> F32:
            may = (kind, *INGREDIENT_KINDS[kind].looks_at) if kind else ()
            assert other in may, f"{kind} does not say that it looks at {other}"
            return self.finding(new_ingredient(other)).mask

        blobs = self.ground.context.blobs
        return Sight(
            lab,
            (w / max(w, h), h / max(w, h)),
            base.to_developed,
            lambda: self.stops(base.look(FIT_LONG_EDGE), self.finders_light(), base),
            self._frame(),
            found,
            _sheets(blobs).strokes if blobs else no_sheet,
            self.ground.raster.wraps,
        )

    def found_over(self, line: IngredientLine, view: View, geometry: Geometry) -> F32:
        """A finding over a view (h, w) of a map of the frame."""
        finding = self.finding(line)
        if not finding.held(line.params):
            return np.zeros((view.size[1], view.size[0]), np.float32)
        x0, y0, x1, y1 = finding.region
        at = self.finders_light()

        def fitted() -> F32:
            h, w = finding.mask.shape
            base = self.ground.geometry.base
            return fit_colour(finding.mask, self.lab(View(finding.region, (w, h)), at, base))

        model = self.ground.kept.remember(key_of("found fit", self.finding_key(line)), fitted)
        lab = self.lab(view, at, geometry)
        places = self.looked_up(view, geometry)
        shift = np.array([[[x0]], [[y0]]], np.float32)
        extent = np.array([[[x1 - x0]], [[y1 - y0]]], np.float32)
        part = finding.region != (0.0, 0.0, 1.0, 1.0)
        out = np.empty((view.size[1], view.size[0]), np.float32)

        def rows(a: int, b: int) -> None:
            apply_colour(lab[:, a:b], model, (places[:, a:b] - shift) / extent, out[a:b], part)

        self.ground.each(view.size[1], rows)
        shape = INGREDIENT_KINDS[line.kind].shape
        return shape(line.params, out) if shape else out

    def looked_up(self, view: View, geometry: Geometry) -> F32:
        """The same as `frame_places`, each on the raster: for what was learned of the whole, and is looked up in it."""
        return on_frame(self.frame_places(view, geometry), self.ground.raster.wraps)

    def frame_places(self, view: View, geometry: Geometry) -> F32:
        """Where every px of a view lies on the upright frame (2, h, w), in fractions of it; of one that goes all the way
        round, counted on and on."""
        if not geometry.straight:
            return self.ground.source_map(view, geometry)[:2]
        u0, v0, du, dv = geometry.place(view)
        u = (u0 + du * np.arange(view.size[0])).astype(np.float32)
        v = (v0 + dv * np.arange(view.size[1])).astype(np.float32)
        return np.stack(np.broadcast_arrays(u[None], v[:, None]))


def found_by(line: IngredientLine) -> str:
    """Names the parameters a finding depends on."""
    return key_of(line.params.model_dump(mode="json", exclude=set(INGREDIENT_KINDS[line.kind].shaped)))


def pinned_of(line: IngredientLine) -> KeptFinding | None:
    """What a scene keeps of an earlier finder's, while it is asked for as it was then."""
    if line.found is None or line.found.finder == finder(line.kind):
        return None
    return line.found if line.found.by == found_by(line) else None


def _packed(found: Finding) -> NDArray[Any]:
    """A finding as one row of numbers."""
    return np.concatenate([found.mask.shape, found.region, [found.sure], found.mask.ravel()]).astype(
        np.float32
    )


def _unpacked(packed: NDArray[Any]) -> Finding:
    h, w = int(packed[0]), int(packed[1])
    x0, y0, x1, y1 = (float(v) for v in packed[2:6])
    return Finding(packed[HEAD:].reshape(h, w), (x0, y0, x1, y1), float(packed[6]))


def _read(path: Path | None) -> NDArray[Any] | None:
    """What was found before; None where it is not there, or not whole."""
    try:
        held = load(path) if path else None
    except (OSError, ValueError, EOFError):
        return None
    if held is None or held.ndim != 1 or held.size < HEAD or held.size != HEAD + int(held[0]) * int(held[1]):
        return None
    return held


def _write(path: Path | None, array: NDArray[Any]) -> None:
    """Whole or not at all; what cannot be kept is found again."""
    if path is None:
        return
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with part.open("wb") as out:
            np.save(out, array)
        part.replace(path)
    except OSError:
        part.unlink(missing_ok=True)
