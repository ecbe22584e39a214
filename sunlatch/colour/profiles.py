"""ICC profiles: ours for output, anybody's for input (LittleCMS through imagecodecs).

Our profiles are version 2.4 matrix/TRC profiles (ICC.1:2001-04), written here because they must
be identical byte for byte on every machine.
"""

import struct
from functools import cache
from typing import Any, Final

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from .icc import PCS_WHITE, description, file_of, text, xyz
from .spaces import D50, PRIMARIES, adaptation, decode, rgb_to_xyz, white_of

F32 = NDArray[np.float32]
NAMES: Final = {
    "srgb": "sRGB (Sun Latch)",
    "p3": "Display P3 (Sun Latch)",
    "rec2020": "Rec. 2020 (Sun Latch)",
    "romm": "ROMM RGB (Sun Latch)",
    "grey": "Grey, sRGB curve (Sun Latch)",
    "linear": "Linear Rec. 2020 (Sun Latch)",
}


def _curve(space: str) -> bytes:
    if space == "linear":
        return b"curv\0\0\0\0" + struct.pack(">I", 0)
    table = np.rint(decode(np.linspace(0, 1, 4096), space) * 65535).astype(">u2")
    return b"curv\0\0\0\0" + struct.pack(">I", table.size) + table.tobytes()


@cache
def output_profile(space: str) -> bytes:
    """The ICC profile of an output space, of OUTPUT_SPACES."""
    if space == "grey":
        tags = [
            (b"desc", description(NAMES[space])),
            (b"cprt", text("No copyright, use freely")),
            (b"wtpt", xyz(PCS_WHITE)),
            (b"kTRC", _curve("srgb")),
        ]
        return file_of(tags, b"mntr", b"GRAY", b"XYZ ")
    primaries = "rec2020" if space == "linear" else space
    if primaries not in PRIMARIES:
        raise ValueError(f"unknown output space {space!r}")
    columns = adaptation(white_of(primaries), D50) @ rgb_to_xyz(primaries)
    curve = _curve(space)
    tags = [
        (b"desc", description(NAMES[space])),
        (b"cprt", text("No copyright, use freely")),
        (b"wtpt", xyz(PCS_WHITE)),
        (b"rXYZ", xyz(columns[:, 0])),
        (b"gXYZ", xyz(columns[:, 1])),
        (b"bXYZ", xyz(columns[:, 2])),
        (b"rTRC", curve),
        (b"gTRC", curve),
        (b"bTRC", curve),
    ]
    return file_of(tags, b"mntr", b"RGB ", b"XYZ ")


def to_linear_working(data: NDArray[Any], profile: bytes | None) -> F32:
    """Linear working RGB (h, w, 3) float32 of pixels (h, w, 3): uint8, uint16 or float.

    Without a profile integers are taken as sRGB and floats as linear working light.
    Raises ValueError when the profile is damaged or not of RGB.
    """
    if data.dtype.kind == "f":
        if profile is None:
            return data.astype(np.float32)
        source = data.astype(np.float32)
    else:
        source = data
    try:
        out = imagecodecs.cms_transform(
            source,
            profile if profile is not None else output_profile("srgb"),
            output_profile("linear"),
            colorspace="rgb",
            outcolorspace="rgb",
            outdtype=np.float32,
            intent=1,
        )
    except Exception as error:
        raise ValueError(str(error) or "LittleCMS refused it") from error
    return np.asarray(out, np.float32)
