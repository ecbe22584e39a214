"""Write a Bayer mosaic as a DNG 1.4 file (the Digital Negative specification, a TIFF/EP dialect).

TIFF entries are written here by hand because the EXIF block must be a sub-directory, which
general TIFF writers only do for the image itself.
"""

import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

BYTE, ASCII, SHORT, LONG, RATIONAL, UNDEFINED, SRATIONAL = 1, 2, 3, 4, 5, 7, 10
_SIZE = {BYTE: 1, ASCII: 1, SHORT: 2, LONG: 4, RATIONAL: 8, UNDEFINED: 1, SRATIONAL: 8, 12: 8}
DOUBLE = 12

Entry = tuple[int, int, Any]


def _payload(kind: int, value: Any) -> tuple[int, bytes]:
    if kind == ASCII:
        raw = value.encode("ascii") + b"\0"
        return len(raw), raw
    if kind in (BYTE, UNDEFINED):
        return len(value), bytes(value)
    values = value if isinstance(value, (list, tuple)) else [value]
    if kind in (RATIONAL, SRATIONAL):
        code = "<II" if kind == RATIONAL else "<ii"
        parts = [Fraction(v).limit_denominator(1_000_000) for v in values]
        return len(values), b"".join(struct.pack(code, p.numerator, p.denominator) for p in parts)
    code = {SHORT: "H", LONG: "I", DOUBLE: "d"}[kind]
    return len(values), struct.pack(f"<{len(values)}{code}", *values)


def _directory(entries: list[Entry], offset: int) -> bytes:
    """One directory with its out-of-line values, to stand at `offset` in the file."""
    entries = sorted(entries)
    head = struct.pack("<H", len(entries))
    data = b""
    at = offset + 2 + 12 * len(entries) + 4
    for tag, kind, value in entries:
        count, raw = _payload(kind, value)
        if len(raw) <= 4:
            head += struct.pack("<HHI", tag, kind, count) + raw.ljust(4, b"\0")
        else:
            if len(raw) % 2:
                raw += b"\0"
            head += struct.pack("<HHII", tag, kind, count, at + len(data))
            data += raw
    return head + struct.pack("<I", 0) + data


def write_dng(
    path: Path,
    mosaic: NDArray[np.uint16],
    *,
    maker: str,
    model: str,
    black: int,
    white: int,
    matrices: list[tuple[int, NDArray[np.float64]]],
    neutral: NDArray[np.float64],
    noise_profile: tuple[float, float],
    orientation: int,
    taken: str,
    exposure_s: float,
    f_number: float,
    iso: int,
    focal_mm: float,
    lens: str,
    description: str = "",
    lens_tags: bytes = b"",
) -> None:
    """Write `mosaic` (h, w), RGGB, as an uncompressed DNG.

    `matrices`: (illuminant code, XYZ→camera 3×3), one or two. `neutral`: camera RGB of the
    as-shot white. `noise_profile`: scale and offset of variance over the 0–1 signal. `taken`:
    "YYYY:MM:DD HH:MM:SS". `lens_tags`: OpcodeList3, as it stands in the file.
    """
    h, w = mosaic.shape
    exif: list[Entry] = [
        (0x829A, RATIONAL, Fraction(exposure_s).limit_denominator(100_000)),
        (0x829D, RATIONAL, f_number),
        (0x8827, SHORT, iso),
        (0x9000, UNDEFINED, b"0230"),
        (0x9003, ASCII, taken),
        (0x9004, ASCII, taken),
        (0x920A, RATIONAL, focal_mm),
        (0xA405, SHORT, round(focal_mm)),
        (0xA434, ASCII, lens),
    ]
    main: list[Entry] = [
        (254, LONG, 0),
        (256, LONG, w),
        (257, LONG, h),
        (258, SHORT, 16),
        (259, SHORT, 1),
        (262, SHORT, 32803),
        (270, ASCII, description),
        (271, ASCII, maker),
        (272, ASCII, model),
        (274, SHORT, orientation),
        (277, SHORT, 1),
        (278, LONG, h),
        (279, LONG, mosaic.nbytes),
        (284, SHORT, 1),
        (305, ASCII, "Sun Latch field camera"),
        (306, ASCII, taken),
        (33421, SHORT, [2, 2]),
        (33422, BYTE, [0, 1, 1, 2]),
        (50706, BYTE, [1, 4, 0, 0]),
        (50707, BYTE, [1, 1, 0, 0]),
        (50708, ASCII, f"{maker} {model}"),
        (50710, BYTE, [0, 1, 2]),
        (50711, SHORT, 1),
        (50714, SHORT, black),
        (50717, LONG, white),
        (50728, RATIONAL, [float(v) for v in neutral]),
        (51041, DOUBLE, list(noise_profile) * 3),
    ]
    for i, (illuminant, matrix) in enumerate(matrices):
        main.append((50721 + i, SRATIONAL, [float(v) for v in matrix.ravel()]))
        main.append((50778 + i, SHORT, illuminant))
    if lens_tags:
        main.append((51022, UNDEFINED, lens_tags))
    # sizes first: pointers do not change a directory's length
    exif_at = 8 + len(_directory([*main, (273, LONG, 0), (34665, LONG, 0)], 8))
    pixels_at = exif_at + len(_directory(exif, exif_at))
    pixels_at += -pixels_at % 16
    main += [(273, LONG, pixels_at), (34665, LONG, exif_at)]
    body = b"II*\0" + struct.pack("<I", 8) + _directory(main, 8) + _directory(exif, exif_at)
    part = path.with_name(path.name + ".part")
    with part.open("wb") as out:
        out.write(body.ljust(pixels_at, b"\0"))
        out.write(np.ascontiguousarray(mosaic, "<u2").tobytes())
    part.replace(path)
