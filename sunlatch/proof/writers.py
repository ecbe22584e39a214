"""Pictures into files band by band: no more than a band of one is ever held."""

import io
import struct
import zlib
from collections.abc import Iterator
from itertools import chain
from pathlib import Path
from typing import Any, Final

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

Bands = Iterator[NDArray[Any]]
QUALITY: Final = 95
"""JPEG's quality, without subsampling of colour."""


def tiff(
    path: Path,
    bands: Bands,
    size: tuple[int, int],
    bits: int,
    profile: bytes,
    description: str = "",
    ppi: float = 0,
) -> None:
    """TIFF with a strip to a band, packed without loss (ZIP) where its px are whole numbers. size: (width, height)."""
    first = next(bands)
    width, height = size
    channels = first.shape[2]
    packed: dict[str, Any] = {"compression": "zlib", "predictor": True} if bits < 32 else {}
    more: dict[str, Any] = {"resolution": (ppi, ppi), "resolutionunit": "INCH"} if ppi else {}
    every: Iterator[Any] = chain([first], bands)
    tifffile.imwrite(
        path, map(_strip, every) if packed else every,
        shape=(height, width) if channels == 1 else (height, width, channels), dtype=first.dtype,
        photometric={1: "minisblack", 3: "rgb", 4: "separated"}[channels],
        rowsperstrip=first.shape[0], iccprofile=profile, metadata=None, software="Sun Latch",
        description=description or None,
        bigtiff=width * height * channels * (bits // 8) > 3_900_000_000,
        **packed, **more,
    )  # fmt: skip


def _strip(band: NDArray[Any]) -> bytes:
    """A band as it stands in a TIFF: each number less its left neighbour's, packed."""
    return bytes(
        imagecodecs.deflate_encode(imagecodecs.delta_encode(band, axis=-2).tobytes(), level=1, raw=False)
    )


def png(
    path: Path,
    bands: Bands,
    size: tuple[int, int],
    bits: int,
    profile: bytes = b"",
    description: str = "",
    ppi: float = 0,
) -> None:
    """PNG (ISO/IEC 15948) of colour bands (rows, w, 3) or grey ones (rows, w) or (rows, w, 1). Each row is kept as what differs from its
    left neighbours or from the row above, whichever is less; packed by runs only, which for px is twice as quick as to look for
    what was there before, and not larger."""
    first = next(bands)
    channels = first.shape[2] if first.ndim == 3 else 1
    px = channels * bits // 8
    packer = zlib.compressobj(1, zlib.DEFLATED, 15, 9, zlib.Z_RLE)
    with path.open("wb") as file:

        def chunk(name: bytes, body: bytes) -> None:
            file.write(struct.pack(">I", len(body)) + name + body)
            file.write(struct.pack(">I", zlib.crc32(name + body)))

        file.write(b"\x89PNG\r\n\x1a\n")
        chunk(b"IHDR", struct.pack(">IIBBBBB", *size, bits, 2 if channels == 3 else 0, 0, 0, 0))
        if profile:
            chunk(b"iCCP", b"Sun Latch\0\0" + zlib.compress(profile))
        if ppi:
            metre = round(ppi / 0.0254)
            chunk(b"pHYs", struct.pack(">IIB", metre, metre, 1))
        if description:
            chunk(b"tEXt", b"Description\0" + description.encode("latin-1"))
        above = np.zeros(size[0] * px, np.uint8)
        for band in chain([first], bands):
            rows = np.ascontiguousarray(band, f">u{bits // 8}").view(np.uint8).reshape(len(band), -1)
            body = packer.compress(_filtered(rows, above, px))
            if body:
                chunk(b"IDAT", body)
            above = rows[-1]
        chunk(b"IDAT", packer.flush())
        chunk(b"IEND", b"")


def _filtered(rows: NDArray[np.uint8], above: NDArray[np.uint8], px: int) -> bytes:
    """Rows of bytes under filter 1 (less its left neighbour) or 2 (less the row above), each with its filter's number
    before it. above: the row before the first; px: bytes per px."""
    out = np.empty((2, len(rows), rows.shape[1] + 1), np.uint8)
    out[0, :, 0], out[1, :, 0] = 1, 2
    out[0, :, 1 : 1 + px] = rows[:, :px]
    np.subtract(rows[:, px:], rows[:, :-px], out=out[0, :, 1 + px :])
    np.subtract(rows[0], above, out=out[1, 0, 1:])
    np.subtract(rows[1:], rows[:-1], out=out[1, 1:, 1:])
    much = np.abs(out[:, :, 1:].view(np.int8)).view(np.uint8).sum(2, dtype=np.uint32)
    return bytes(out[much.argmin(0), np.arange(len(rows))].data)


def jpeg(
    path: Path, bands: Bands, size: tuple[int, int], profile: bytes, description: str = "", ppi: float = 0
) -> None:
    """JPEG (ITU-T T.81), baseline. Every band but the last must have a multiple of 64 rows: each is encoded by itself,
    with a restart after each of its rows of blocks, and what was encoded is put together under one head; restarts
    are counted to eight, so that the count goes on from band to band.
    """
    with path.open("wb") as file:
        for n, band in enumerate(bands):
            made = io.BytesIO()
            Image.fromarray(band[..., 0] if band.shape[2] == 1 else band).save(
                made,
                "JPEG",
                quality=QUALITY,
                subsampling=0,
                icc_profile=profile,
                restart_marker_rows=1,
                **({"dpi": (round(ppi), round(ppi))} if ppi else {}),
                **({"comment": description} if description and n == 0 else {}),
            )
            raw = made.getvalue()
            frame, scan = _segment(raw, 0xC0), _segment(raw, 0xDA)
            begin = scan + 2 + int.from_bytes(raw[scan + 2 : scan + 4], "big")
            if n == 0:
                at = frame + 5  # past marker, length and precision stands the height
                file.write(raw[:at] + struct.pack(">H", size[1]) + raw[at + 2 : begin])
            else:
                file.write(b"\xff\xd7")
            file.write(raw[begin:-2])
        file.write(b"\xff\xd9")


def _segment(raw: bytes, wanted: int) -> int:
    """Where a segment of a JPEG's head begins."""
    at = 2
    while raw[at + 1] != wanted:
        at += 2 + int.from_bytes(raw[at + 2 : at + 4], "big")
    return at
