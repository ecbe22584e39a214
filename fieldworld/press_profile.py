"""Profiles of the press's papers: ICC.1:2001-04, version 2.4, look-up tables in both directions (`mft2`), made from what
the press prints. They take their time, so they ship in `papers/`, built by `python -m fieldworld.press build`."""

import json
from functools import cache
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from sunlatch.colour.icc import PCS_WHITE, description, file_of, table, text, xyz
from sunlatch.errors import SunLatchError

from .inks import STOCKS, Stock, inked

F64 = NDArray[np.float64]
WHITE = PCS_WHITE
FORTH, FORTH_INKS, BACK = 25, 11, 33
"""Nodes of a side: of the table from numbers to Lab, of three and of four, and of that from Lab to numbers."""
STEPS = 14


def lab_of(xyz: F64) -> F64:
    """CIE Lab (n, 3) of XYZ with respect to D50's white."""
    t = xyz / WHITE
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)


def _grid(side: int, dimensions: int) -> F64:
    axis = np.linspace(0, 1, side)
    return np.stack(np.meshgrid(*[axis] * dimensions, indexing="ij"), -1).reshape(-1, dimensions)


def _seen(paper: Stock, codes: F64) -> F64:
    """Lab against the paper's own white."""
    white = paper.printed(np.zeros((1, 4)))
    return lab_of(paper.of_codes(codes) * (WHITE / white))


def _codes_for(paper: Stock, lab: F64) -> F64:
    """Red, green and blue (n, 3) whose print comes nearest to Lab: from the nearest of many down the slope (Levenberg 1944)."""
    start = _grid(41, 3)
    seen = _seen(paper, start)
    near = cKDTree(seen).query(lab)[1]
    codes, error = start[near].copy(), ((seen[near] - lab) ** 2).sum(1)
    damp = np.full(len(lab), 1e-2)
    for _ in range(STEPS):
        at = _seen(paper, codes)
        slope = np.empty((len(lab), 3, 3))
        for k in range(3):
            step = np.where(codes[:, k] > 0.5, -1e-3, 1e-3)
            moved = codes.copy()
            moved[:, k] += step
            slope[:, :, k] = (_seen(paper, moved) - at) / step[:, None]
        square = np.einsum("nij,nik->njk", slope, slope)
        square += damp[:, None, None] * np.eye(3) * (np.einsum("nii->n", square)[:, None, None] + 1e-9)
        down = np.linalg.solve(square, np.einsum("nij,ni->nj", slope, lab - at)[..., None])[..., 0]
        tried = np.clip(codes + down, 0, 1)
        found = ((_seen(paper, tried) - lab) ** 2).sum(1)
        better = found < error
        codes[better], error[better] = tried[better], found[better]
        damp = np.where(better, damp * 0.3, damp * 5)
    return codes


def _drawn_in(lab: F64, black: float, keep: float) -> F64:
    """Lab as a perceptual table asks for it: all lightness on the paper, and colour drawn in the more the more of it there is;
    keep: the chroma from which it is."""
    lightness = black + lab[:, 0] * (100 - black) / 100
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    over = np.maximum(chroma - keep, 0)
    less = np.where(chroma > keep, (keep + over / (1 + over / 60)) / np.maximum(chroma, 1e-9), 1.0)
    return np.stack([lightness, lab[:, 1] * less, lab[:, 2] * less], axis=1)


def _lab_16(lab: F64) -> NDArray[np.uint16]:
    """Lab as version 2 writes it in 16 bits."""
    scaled = np.stack([lab[:, 0] * 652.8, (lab[:, 1] + 128) * 256, (lab[:, 2] + 128) * 256], axis=1)
    return np.rint(np.clip(scaled, 0, 65535)).astype(np.uint16)


def profile_of(paper: Stock, inks: bool = False) -> bytes:
    """The profile of a paper: for red, green and blue, or for its four inks themselves."""
    channels = 4 if inks else 3
    side = FORTH_INKS if inks else FORTH
    forth = table(channels, 3, side, _lab_16(_seen(paper, _grid(side, channels))))
    nodes = _grid(BACK, 3)
    lab = nodes * [65535 / 652.8, 65535 / 256, 65535 / 256] - [0, 128, 128]
    black = float(_seen(paper, np.zeros((1, 3)))[0, 0])
    back = []
    for asked in (_drawn_in(lab, black, 30.0), lab, _drawn_in(lab, black, 60.0)):
        codes = _codes_for(paper, asked)
        numbers = inked(codes) if inks else codes
        back.append(table(3, channels, BACK, np.rint(numbers * 65535).astype(np.uint16)))
    white = paper.printed(np.zeros((1, 4)))[0]
    name = f"{paper.label}, proof press" + (" (inks)" if inks else "")
    tags = [
        (b"desc", description(name)),
        (b"cprt", text("No copyright, use freely")),
        (b"wtpt", xyz(white)),
        (b"A2B0", forth),
        (b"A2B1", forth),
        (b"A2B2", forth),
        (b"B2A0", back[0]),
        (b"B2A1", back[1]),
        (b"B2A2", back[2]),
    ]
    return file_of(tags, b"prtr", b"CMYK" if inks else b"RGB ", b"Lab ")


FOLDER: Final = Path(__file__).with_name("papers")


def _file(paper: Stock, inks: bool) -> Path:
    return FOLDER / f"{paper.name}{'-inks' if inks else ''}.icc"


@cache
def shipped(paper: Stock, inks: bool = False) -> bytes:
    """The profile that ships with a paper. Raises SunLatchError."""
    try:
        return _file(paper, inks).read_bytes()
    except FileNotFoundError as error:
        raise SunLatchError(f"the press takes no file of inks for {paper.label}") from error


def build() -> list[str]:
    """Make the profiles that ship."""
    FOLDER.mkdir(exist_ok=True)
    wanted = [(paper, False) for paper in STOCKS.values()] + [(STOCKS["lustre"], True)]
    for paper, inks in wanted:
        _file(paper, inks).write_bytes(profile_of(paper, inks))
    listed = [{"name": p.name, "label": p.label, "surface": p.surface} for p in STOCKS.values()]
    (FOLDER / "papers.json").write_text(json.dumps(listed, indent=1) + "\n")
    return [_file(*one).name for one in wanted]
