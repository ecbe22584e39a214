"""An input frame of a join: its light, its lens, its features."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..binding.maps import lens_as_it_is
from ..frame import FrameInfo, Raster, whole
from ..geometry import Geometry, LensShape
from ..running.patience import go_on

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
U8 = NDArray[np.uint8]

FEATURES: Final = 2400
"""As many features of a frame, at most."""
BLACK: Final = 0.004
"""A frame whose brightest hundredth stays under this share of what clips shows nothing."""
STEPPED: Final = 0.8
"""From so many stops on two exposures differ on purpose."""


@dataclass(frozen=True)
class Features:
    """points (n, 2) in source coordinates; descriptors (n, 128), unit length after their roots are taken (Arandjelović &
    Zisserman 2012), strongest first."""

    points: F64
    descriptors: F32


@dataclass(frozen=True)
class InputFrame:
    """A frame that may be joined. key: names it in the document; name: what people call it."""

    key: str
    name: str
    info: FrameInfo
    raster: Raster

    @cached_property
    def lens(self) -> LensShape:
        """What is known of its lens."""
        return lens_as_it_is(self.info)

    @cached_property
    def geometry(self) -> Geometry:
        """The map to its upright plane, freed of the lens's faults."""
        return Geometry(self.info.width, self.info.height, self.info.orientation, self.lens)

    @property
    def exposure(self) -> float | None:
        """Stops of light let in, over 1 s at f/1 and ISO 100; None where the file does not say."""
        info = self.info
        if not info.exposure_s:
            return None
        return float(np.log2(info.exposure_s * (info.iso or 100) / 100 / (info.f_number or 1.0) ** 2))

    @property
    def camera(self) -> tuple[str, str]:
        """Maker and model."""
        return self.info.maker, self.info.model

    def small(self, long_edge: int) -> F32:
        """Camera RGB planes of all of it, as captured, at about a long edge of so many px: never enlarged."""
        fit = [k for k in self.raster.levels if max(self.raster.shape(k)) >= long_edge]
        planes = whole(self.raster, max(fit, default=min(self.raster.levels)))
        k = long_edge / max(planes.shape[1:])
        if k >= 1:
            return planes
        size = (max(1, round(planes.shape[2] * k)), max(1, round(planes.shape[1] * k)))
        return np.stack([cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in planes])

    @cached_property
    def dark(self) -> bool:
        """Whether it shows nothing."""
        return float(np.percentile(self.small(256)[1], 99)) < BLACK

    def features(self, long_edge: int) -> Features:
        """Scale-invariant features (Lowe 2004) of its lightness, looked for at so many px."""
        go_on()
        grey = lightness(self.small(long_edge))
        sift: Any = cv2.SIFT.create(nfeatures=FEATURES, contrastThreshold=0.012, enable_precise_upscale=True)
        points, found = sift.detectAndCompute(grey, None)
        if found is None or not len(points):
            return Features(np.zeros((0, 2)), np.zeros((0, 128), np.float32))
        order = np.argsort([-p.response for p in points], kind="stable")
        at = (np.array([p.pt for p in points])[order] + 0.5) / max(grey.shape)
        roots = np.sqrt(found[order] / np.maximum(found[order].sum(1, keepdims=True), 1e-9))
        return Features(at, roots.astype(np.float32))


def lightness(planes: F32) -> U8:
    """Camera RGB in 8 bits of its stops, its range spread."""
    light = np.tensordot(np.array([0.25, 0.5, 0.25], np.float32), planes, 1)
    stops = np.log2(np.maximum(light, 1e-4))
    low, high = np.percentile(stops, (0.5, 99.5))
    return np.asarray(np.clip((stops - low) / max(high - low, 0.5), 0, 1) * 255).astype(np.uint8)
