"""What ICC profiles are made of (ICC.1:2001-04, version 2.4): tags, and a file of them, the same byte for byte on every
machine."""

import struct
from typing import Final

import numpy as np
from numpy.typing import NDArray

PCS_WHITE: Final = np.array([0.9642, 1.0, 0.8249])
"""D50 as profiles write it, XYZ."""


def s15(value: float) -> bytes:
    """A number of 15 bits before the point and 16 after it."""
    return struct.pack(">i", round(value * 65536))


def xyz(values: NDArray[np.float64]) -> bytes:
    """A colour (3,) as a tag."""
    return b"XYZ \0\0\0\0" + b"".join(s15(float(v)) for v in values)


def text(plain: str) -> bytes:
    """Plain letters as a tag."""
    return b"text\0\0\0\0" + plain.encode("ascii") + b"\0"


def description(plain: str) -> bytes:
    """A profile's name as a tag."""
    raw = plain.encode("ascii") + b"\0"
    return b"desc\0\0\0\0" + struct.pack(">I", len(raw)) + raw + b"\0" * (4 + 4 + 2 + 1 + 67)


def table(into: int, out: int, side: int, values: NDArray[np.uint16]) -> bytes:
    """A look-up table of 16 bits (`mft2`) with straight curves. values (side ** into, out), the first number slowest."""
    head = b"mft2\0\0\0\0" + struct.pack(">BBBB", into, out, side, 0)
    head += b"".join(s15(v) for v in (1, 0, 0, 0, 1, 0, 0, 0, 1))
    straight = struct.pack(">HH", 0, 65535)
    return head + struct.pack(">HH", 2, 2) + straight * into + values.astype(">u2").tobytes() + straight * out


def file_of(tags: list[tuple[bytes, bytes]], kind: bytes, space: bytes, between: bytes) -> bytes:
    """A profile of tags. kind: its device class; space: of its numbers; between: of what these mean, "XYZ " or "Lab "."""
    at = 128 + 4 + 12 * len(tags)
    listed, data, placed = struct.pack(">I", len(tags)), b"", {}
    for name, raw in tags:
        if raw not in placed:
            placed[raw] = at + len(data)
            data += raw + b"\0" * (-len(raw) % 4)
        listed += name + struct.pack(">II", placed[raw], len(raw))
    size = at + len(data)
    header = struct.pack(">I4sI4s4s4s", size, b"\0\0\0\0", 0x02400000, kind, space, between)
    header += struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + b"acsp" + b"\0" * 28
    header += b"".join(s15(float(v)) for v in PCS_WHITE)
    return header.ljust(128, b"\0") + listed + data
