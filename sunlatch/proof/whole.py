"""Kinds of file that are written in one piece: the whole picture is held while they are."""

import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pikepdf
import pillow_jxl  # noqa: F401  (teaches Pillow the kind)
from numpy.typing import NDArray
from PIL import Image

from ..colour.spaces import D65, PRIMARIES
from .paper import MM

Bands = Iterator[NDArray[Any]]
WEB_QUALITY = 92
"""WebP's, 0–100."""
FINE_QUALITY = 95
"""JPEG XL's, 0–100: hardly to be told from the original."""


def _held(bands: Bands) -> NDArray[Any]:
    whole = np.concatenate(list(bands))
    return whole[..., 0] if whole.shape[2] == 1 else whole


def webp(path: Path, bands: Bands, profile: bytes, exif: bytes = b"") -> None:
    """WebP (RFC 9649), lossy."""
    Image.fromarray(_held(bands)).save(
        path, "WEBP", quality=WEB_QUALITY, method=4, icc_profile=profile, **({"exif": exif} if exif else {})
    )


def jpeg_xl(path: Path, bands: Bands, exif: bytes = b"") -> None:
    """JPEG XL (ISO/IEC 18181) in sRGB, lossy: its library here takes no other profile."""
    Image.fromarray(_held(bands)).save(
        path, "JXL", quality=FINE_QUALITY, effort=5, **({"exif": exif} if exif else {})
    )


def open_exr(path: Path, bands: Bands, header: dict[str, str], ppi: float = 0) -> None:
    """OpenEXR of linear light of the working space, in half floats, packed by ZIP."""
    light = np.clip(_held(bands), -65504, 65504).astype(np.float16)
    corners = tuple(float(v) for v in (*PRIMARIES["rec2020"].ravel(), *D65))
    head: dict[str, Any] = {
        "compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, "chromaticities": corners,
    } | header  # fmt: skip
    if ppi:
        head["xDensity"] = float(ppi)
    OpenEXR.File(head, {"RGB": np.ascontiguousarray(light)}).write(str(path))


def pdf(
    path: Path,
    bands: Bands,
    size: tuple[int, int],
    bits: int,
    profile: bytes,
    page: tuple[float, float],
    at: tuple[float, float],
    on_page: tuple[float, float],
    line: tuple[float, float] = (0, 0),
    header: dict[str, str] | None = None,
) -> None:
    """PDF of one page at exact size (ISO 32000-1). page: mm; at: the picture's upper left on it, on_page: its size, mm; line:
    how thick, and how far from the picture, mm."""
    points = 72 / MM
    packer = zlib.compressobj(4)
    body = bytearray()
    channels = 3
    for band in bands:
        channels = band.shape[2]
        body += packer.compress(np.ascontiguousarray(band, f">u{bits // 8}").tobytes())
    body += packer.flush()
    plain = {1: "/DeviceGray", 3: "/DeviceRGB", 4: "/DeviceCMYK"}[channels]
    document = pikepdf.new()
    icc = pikepdf.Stream(document, profile, N=channels, Alternate=pikepdf.Name(plain))
    image = pikepdf.Stream(document, b"")
    image.write(bytes(body), filter=pikepdf.Name.FlateDecode)
    for name, value in {
        "/Type": pikepdf.Name.XObject, "/Subtype": pikepdf.Name.Image, "/Width": size[0], "/Height": size[1],
        "/BitsPerComponent": bits, "/ColorSpace": pikepdf.Array([pikepdf.Name.ICCBased, document.make_indirect(icc)]),
    }.items():  # fmt: skip
        image[name] = value
    wide, high = (side * points for side in page)
    w, h = (side * points for side in on_page)
    x, y = at[0] * points, high - at[1] * points - h
    drawn = f"q {w:.5f} 0 0 {h:.5f} {x:.5f} {y:.5f} cm /Picture Do Q"
    if line[0]:
        t, out = line[0] * points, (line[1] + line[0] / 2) * points
        box = f"{x - out:.5f} {y - out:.5f} {w + 2 * out:.5f} {h + 2 * out:.5f}"
        drawn += f" q 0.15 G {t:.5f} w {box} re S Q"
    sheet = pikepdf.Dictionary(
        Type=pikepdf.Name.Page, MediaBox=[0, 0, wide, high],
        Resources=pikepdf.Dictionary(XObject=pikepdf.Dictionary(Picture=document.make_indirect(image))),
        Contents=pikepdf.Stream(document, drawn.encode()),
    )  # fmt: skip
    document.pages.append(pikepdf.Page(document.make_indirect(sheet)))
    with document.open_metadata(set_pikepdf_as_editor=False) as about:
        about["xmp:CreatorTool"] = "Sun Latch"
        for name, text in (header or {}).items():
            about[name] = [text] if name == "dc:creator" else text
    document.save(path, linearize=False)
