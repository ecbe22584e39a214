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

from .spaces import D65, PRIMARIES, adaptation, decode, rgb_to_xyz

F32 = NDArray[np.float32]
D50: Final = np.array([0.34567, 0.35850])
NAMES: Final = {
    "srgb": "sRGB (Sun Latch)",
    "p3": "Display P3 (Sun Latch)",
    "rec2020": "Rec. 2020 (Sun Latch)",
    "linear": "Linear Rec. 2020 (Sun Latch)",
}


def _s15(value: float) -> bytes:
    return struct.pack(">i", round(value * 65536))


def _xyz(values: NDArray[np.float64]) -> bytes:
    return b"XYZ \0\0\0\0" + b"".join(_s15(float(v)) for v in values)


def _text(text: str) -> bytes:
    return b"text\0\0\0\0" + text.encode("ascii") + b"\0"


def _description(text: str) -> bytes:
    raw = text.encode("ascii") + b"\0"
    return b"desc\0\0\0\0" + struct.pack(">I", len(raw)) + raw + b"\0" * (4 + 4 + 2 + 1 + 67)


def _curve(space: str) -> bytes:
    if space == "linear":
        return b"curv\0\0\0\0" + struct.pack(">I", 0)
    table = np.rint(decode(np.linspace(0, 1, 4096), space) * 65535).astype(">u2")
    return b"curv\0\0\0\0" + struct.pack(">I", table.size) + table.tobytes()


@cache
def output_profile(space: str) -> bytes:
    """The ICC profile of an output space ("srgb", "p3", "rec2020", "linear")."""
    primaries = "rec2020" if space == "linear" else space
    if primaries not in PRIMARIES:
        raise ValueError(f"unknown output space {space!r}")
    columns = adaptation(D65, D50) @ rgb_to_xyz(primaries)
    white = np.array([0.9642, 1.0, 0.8249])
    curve = _curve(space)
    tags = [
        (b"desc", _description(NAMES[space])),
        (b"cprt", _text("No copyright, use freely")),
        (b"wtpt", _xyz(white)),
        (b"rXYZ", _xyz(columns[:, 0])),
        (b"gXYZ", _xyz(columns[:, 1])),
        (b"bXYZ", _xyz(columns[:, 2])),
        (b"rTRC", curve),
        (b"gTRC", curve),
        (b"bTRC", curve),
    ]
    at = 128 + 4 + 12 * len(tags)
    table, data, placed = struct.pack(">I", len(tags)), b"", {}
    for name, raw in tags:
        if raw not in placed:
            placed[raw] = at + len(data)
            data += raw + b"\0" * (-len(raw) % 4)
        table += name + struct.pack(">II", placed[raw], len(raw))
    size = at + len(data)
    header = struct.pack(">I4sI4s4s4s", size, b"\0\0\0\0", 0x02400000, b"mntr", b"RGB ", b"XYZ ")
    header += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + b"\0" * 28
    header += b"".join(_s15(float(v)) for v in white)
    return header.ljust(128, b"\0") + table + data


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
