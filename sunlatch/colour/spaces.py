"""RGB spaces by their primaries; the working space is linear ITU-R BT.2020, D65, float32.

Sources: ITU-R BT.2020-2, BT.709-6, SMPTE EG 432-1 (Display P3), IEC 61966-2-1 (sRGB), ISO 22028-2 (ROMM RGB).
"""

from functools import cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]

MIDDLE_GREY: Final = 0.18
"""Linear luminance that lies at 0 stops on the ladder."""

LUMA: Final = np.array([0.2627, 0.6780, 0.0593])
"""Luminance weights of the working space (ITU-R BT.2020)."""
DISPLAY_LUMA: Final = np.array([0.2126, 0.7152, 0.0722], np.float32)
"""What red, green and blue of a screen (BT.709 primaries) count in its light."""

D65: Final = np.array([0.3127, 0.3290])
D50: Final = np.array([0.34567, 0.35850])

PRIMARIES: Final = {
    "srgb": np.array([[0.640, 0.330], [0.300, 0.600], [0.150, 0.060]]),
    "p3": np.array([[0.680, 0.320], [0.265, 0.690], [0.150, 0.060]]),
    "rec2020": np.array([[0.708, 0.292], [0.170, 0.797], [0.131, 0.046]]),
    "romm": np.array([[0.7347, 0.2653], [0.1596, 0.8404], [0.0366, 0.0001]]),
}
OUTPUT_SPACES: Final = ("srgb", "p3", "rec2020", "romm", "grey", "linear")
"""What a file can be written in; "grey" is lightness alone, "linear" the working space itself, scene light unrendered."""

BRADFORD: Final = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
CAT16: Final = np.array(
    [[0.401288, 0.650173, -0.051461], [-0.250268, 1.204414, 0.045854], [-0.002079, 0.048952, 0.953127]]
)  # fmt: skip


def xy_to_xyz(xy: F64) -> F64:
    """Chromaticity (2,) to XYZ (3,) with Y = 1."""
    x, y = float(xy[0]), float(xy[1])
    return np.array([x / y, 1.0, (1 - x - y) / y])


def white_of(space: str) -> F64:
    """The white (2,) of a space, as xy."""
    return D50 if space == "romm" else D65


def rgb_to_xyz(space: str) -> F64:
    """3×3 matrix from linear RGB of a space in PRIMARIES to XYZ (its own white, Y = 1)."""
    columns = np.stack([xy_to_xyz(p) for p in PRIMARIES[space]], axis=1)
    scale = np.linalg.solve(columns, xy_to_xyz(white_of(space)))
    return np.asarray(columns * scale)


XYZ_TO_WORKING: Final = np.linalg.inv(rgb_to_xyz("rec2020"))


@cache
def working_to_output(space: str) -> F64:
    """3×3 matrix from the working space to an output space's linear RGB; not to be changed."""
    m = np.eye(3)
    if space not in ("linear", "rec2020", "grey"):
        to_white = adaptation(D65, white_of(space)) if space == "romm" else np.eye(3)
        m = np.linalg.inv(rgb_to_xyz(space)) @ to_white @ rgb_to_xyz("rec2020")
    m.flags.writeable = False
    return m


def adaptation(white_from: F64, white_to: F64, cone: F64 = BRADFORD) -> F64:
    """3×3 von Kries adaptation in XYZ between two whites given as xy (2,)."""
    a, b = cone @ xy_to_xyz(white_from), cone @ xy_to_xyz(white_to)
    return np.asarray(np.linalg.inv(cone) @ np.diag(b / a) @ cone)


def encode_srgb(linear: F64) -> F64:
    """Linear display light in [0, 1] to the sRGB curve (IEC 61966-2-1), also that of Display P3."""
    return np.where(
        linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    )


def decode_srgb(encoded: F64) -> F64:
    """Inverse of encode_srgb, on [0, 1]."""
    return np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)


def working_of_srgb(encoded: F64) -> F64:
    """sRGB (3,) as it is typed, 0–1, to working RGB (3,)."""
    return np.asarray(np.linalg.solve(working_to_output("srgb"), decode_srgb(np.asarray(encoded))))


REC2020_A, REC2020_B = 1.09929682680944, 0.018053968510807
ROMM_TOE = 1 / 512


def encode_rec2020(linear: F64) -> F64:
    """Linear display light to the BT.2020 curve."""
    return np.where(
        linear < REC2020_B, 4.5 * linear, REC2020_A * np.maximum(linear, 1e-9) ** 0.45 - (REC2020_A - 1)
    )


def decode_rec2020(encoded: F64) -> F64:
    """Inverse of encode_rec2020."""
    return np.where(
        encoded < 4.5 * REC2020_B, encoded / 4.5, ((encoded + REC2020_A - 1) / REC2020_A) ** (1 / 0.45)
    )


def encode_romm(linear: F64) -> F64:
    """Linear display light to the curve of ROMM RGB."""
    return np.where(linear < ROMM_TOE, 16 * linear, np.maximum(linear, 1e-9) ** (1 / 1.8))


def decode_romm(encoded: F64) -> F64:
    """Inverse of encode_romm."""
    return np.where(encoded < 16 * ROMM_TOE, encoded / 16, np.maximum(encoded, 1e-9) ** 1.8)


def encode(linear: F64, space: str) -> F64:
    """Encode display light for an output space; "linear" passes through."""
    if space == "linear":
        return linear
    if space == "romm":
        return encode_romm(linear)
    return encode_rec2020(linear) if space == "rec2020" else encode_srgb(linear)


def decode(encoded: F64, space: str) -> F64:
    """Inverse of encode."""
    if space == "linear":
        return encoded
    if space == "romm":
        return decode_romm(encoded)
    return decode_rec2020(encoded) if space == "rec2020" else decode_srgb(encoded)
