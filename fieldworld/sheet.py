"""What the proof press prints, measured."""

from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from sunlatch.colour.profiles import output_profile
from sunlatch.colour.spaces import D50, D65, XYZ_TO_WORKING, adaptation, encode
from sunlatch.errors import SunLatchError
from sunlatch.proof.writers import png

from .inks import Stock
from .press_profile import shipped

F64 = NDArray[np.float64]


def codes_of(path: Path) -> tuple[NDArray[np.uint8 | np.uint16], bytes]:
    """The numbers of a file (h, w, 3 or 4) and its profile. Raises SunLatchError."""
    try:
        if path.suffix.lower() in (".tif", ".tiff"):
            with tifffile.TiffFile(path) as file:
                page = file.pages[0]
                tag = page.tags.get(34675)
                return page.asarray(), bytes(tag.value) if tag else b""
        with Image.open(path) as image:
            return np.asarray(image), image.info.get("icc_profile", b"")
    except (OSError, ValueError, IndexError, tifffile.TiffFileError) as error:
        raise SunLatchError(f"the press cannot read {path.name} ({error})") from error


def measured(paper: Stock, codes: NDArray[np.uint8 | np.uint16]) -> F64:
    """XYZ for D50 (h, w, 3) of a print, read off it with a colour once: prints hold few."""
    deep = float(np.iinfo(codes.dtype).max)
    out = np.empty((*codes.shape[:2], 3))
    for r in range(0, codes.shape[0], 64):
        band = codes[r : r + 64].reshape(-1, codes.shape[2]) / deep
        out[r : r + 64] = paper.of_codes(band).reshape(-1, codes.shape[1], 3)
    return out


def print_file(path: Path, paper: Stock, out: Path) -> dict[str, Any]:
    """Print a file and write what is measured as 16-bit PNG of Rec. 2020 light, paper white as white as it is. Raises
    SunLatchError where the file is not for this paper."""
    codes, profile = codes_of(path)
    if codes.ndim != 3 or codes.shape[2] not in (3, 4):
        raise SunLatchError(f"{path.name} has neither three colours nor four inks; the press prints those")
    if profile != shipped(paper, codes.shape[2] == 4):
        raise SunLatchError(f"{path.name} is not made for {paper.label}; export it with that paper's profile")
    to_light = XYZ_TO_WORKING @ adaptation(D50, D65)
    light = np.clip(measured(paper, codes) @ to_light.T, 0, 1)
    px = np.rint(encode(light, "rec2020") * 65535).astype(np.uint16)
    h, w = px.shape[:2]
    bands = (px[r : r + 256] for r in range(0, h, 256))
    png(
        out,
        bands,
        (w, h),
        16,
        output_profile("rec2020"),
        f"Printed on {paper.label} by the proof press, measured for D50.",
    )
    white = paper.printed(np.zeros((1, 4)))[0]
    return {"paper": paper.label, "size": [w, h], "white": [round(float(v), 4) for v in white]}
