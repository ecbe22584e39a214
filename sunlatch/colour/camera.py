"""From camera RGB to the working space, for a stated colour of light.

The Digital Negative specification's model: ColorMatrix maps XYZ to camera RGB under a standard
light; between two of them the matrix is interpolated in 1/kelvin. The camera's white is the
matrix times the light's XYZ; the picture is then adapted (Bradford) to D65.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .light import DUV_REACH, LightColour, kelvin_duv_to_xy, xy_to_kelvin_duv
from .spaces import CAT16, D65, XYZ_TO_WORKING, adaptation, rgb_to_xyz, xy_to_xyz

F64 = NDArray[np.float64]


@dataclass(frozen=True)
class CameraColour:
    """How a frame's numbers relate to colour.

    matrices: (kelvin of the standard light, XYZ→camera as nine numbers), one or two; none for a
    rendered frame, whose numbers already are linear working RGB. neutral: camera RGB (3) of the
    as-shot white. source: "file", "decoder", "none" (no matrix known) or "profile" (rendered).
    """

    matrices: tuple[tuple[float, tuple[float, ...]], ...]
    neutral: tuple[float, float, float]
    source: str

    @property
    def rendered(self) -> bool:
        """True when the frame came with an RGB profile instead of a sensor."""
        return not self.matrices

    def matrix(self, kelvin: float) -> F64:
        """XYZ→camera (3×3) for a light of this temperature."""
        mats = [(k, np.array(m).reshape(3, 3)) for k, m in sorted(self.matrices)]
        if len(mats) == 1:
            return np.asarray(mats[0][1])
        (k0, m0), (k1, m1) = mats
        share = np.clip((1 / k0 - 1 / kelvin) / (1 / k0 - 1 / k1), 0, 1)
        return np.asarray(m0 * (1 - share) + m1 * share)

    def as_shot(self) -> LightColour:
        """The light the camera recorded as white."""
        return _as_shot(self)


@lru_cache(64)
def _as_shot(colour: CameraColour) -> LightColour:
    if colour.rendered:
        return xy_to_kelvin_duv(D65)
    return light_of_neutral(colour, np.array(colour.neutral))


def light_of_neutral(colour: CameraColour, neutral: F64) -> LightColour:
    """The light under which camera RGB `neutral` (3,) would be white.

    Solved by fixed-point iteration, since the matrix depends on the answer. For rendered frames
    `neutral` is linear working RGB. Raises ValueError where no light in range fits.
    """
    if not (np.all(np.isfinite(neutral)) and np.all(neutral > 0)):
        raise ValueError("nothing can be read there: a channel is empty")
    xy: F64 = np.asarray(D65, float)
    if colour.rendered:
        xyz = rgb_to_xyz("rec2020") @ neutral
        xy = np.asarray(xyz[:2] / xyz.sum(), float)
    else:
        for _ in range(40):
            xyz = np.asarray(np.linalg.solve(colour.matrix(xy_to_kelvin_duv(xy).kelvin), neutral), float)
            new = xyz[:2] / xyz.sum()
            if not np.all(np.isfinite(new)) or new.min() <= 0.02:
                raise ValueError("no light makes that place neutral")
            if np.abs(new - xy).max() < 1e-9:
                break
            xy = np.asarray((xy + new) / 2, float)
    light = xy_to_kelvin_duv(xy)
    if abs(light.duv) > DUV_REACH:
        raise ValueError("no light makes that place neutral: it is too strongly coloured")
    return light


@lru_cache(256)
def camera_to_working(colour: CameraColour, light: LightColour) -> F64:
    """3×3 matrix from camera RGB to working RGB such that this light's white is neutral.

    Scaled so that the level where the first channel of that white clips becomes 1. The answer is
    remembered and shared: do not change it.
    """
    white = kelvin_duv_to_xy(light)
    if colour.rendered:
        xyz = rgb_to_xyz("rec2020")
        return np.asarray(XYZ_TO_WORKING @ adaptation(white, D65, CAT16) @ xyz)
    matrix = colour.matrix(light.kelvin)
    neutral = matrix @ xy_to_xyz(white)
    to_working = XYZ_TO_WORKING @ adaptation(white, D65) @ np.linalg.inv(matrix)
    return np.asarray(to_working * neutral.max())
