"""What is known of a frame's lens: from a lens database by its metadata, or from the frame's tags.

The database is the one that lensfunpy carries, and the entries in the folder beside this file.
Whatever model an entry uses, it is sampled along a radius and fitted with our polynomials.
"""

import struct
from difflib import SequenceMatcher
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from ..errors import GeometryError
from ..frame import FrameInfo
from ..geometry.lens import LensShape, fit_even

F64 = NDArray[np.float64]

_OWN: Final = Path(__file__).with_name("lenses")
_SAMPLES: Final = 48
FAR: Final = 1000.0
"""Distance to the subject taken for granted, metres: landscapes."""


@cache
def _database() -> Any:
    import lensfunpy  # 20 MB of profiles: only where one is asked for

    texts = [path.read_text(encoding="utf-8") for path in sorted(_OWN.glob("*.xml"))]
    bodies = [t[t.index(">", t.index("<lensdatabase")) + 1 : t.rindex("</lensdatabase>")] for t in texts]
    return lensfunpy.Database(
        xml='<lensdatabase version="1">' + "".join(bodies) + "</lensdatabase>",
        load_common=False,
        load_bundled=True,
    )


def known_lens(info: FrameInfo) -> str:
    """The database's name for this frame's lens; "" when it knows none."""
    found = _lens(info.maker, info.model, info.lens)
    return "" if found is None else str(found[1].model)


def sure_of_lens(info: FrameInfo) -> float:
    """How sure it is that this frame's lens is the one `known_lens` names, 0–1: how alike the two names are; where the frame
    names none, its camera has only that one."""
    named, found = info.lens.lower().split(), known_lens(info).lower().split()
    if not named or not found:
        return float(bool(found))
    return SequenceMatcher(None, sorted(named), sorted(found), autojunk=False).ratio()


@lru_cache(64)
def _lens(maker: str, model: str, lens: str) -> tuple[Any, Any] | None:
    if not maker or not model:
        return None
    cameras = _database().find_cameras(maker, model)
    if not cameras:
        return None
    lenses = _database().find_lenses(cameras[0], None, lens) if lens else []
    if not lens:  # a camera whose lens does not come off
        lenses = _database().find_lenses(cameras[0], None, None)
        if len(lenses) != 1:
            return None
    return (cameras[0], lenses[0]) if lenses else None


def from_database(info: FrameInfo) -> LensShape | None:
    """The lens's shape by the frame's metadata; None when the database does not know it. Raises
    GeometryError for an entry that cannot be."""
    return _from_database(
        info.maker, info.model, info.lens, info.focal_mm or 0.0, info.f_number or 8.0, info.width, info.height
    )


@lru_cache(64)
def _from_database(
    maker: str, model: str, lens: str, focal: float, f_number: float, width: int, height: int
) -> LensShape | None:
    found = _lens(maker, model, lens)
    if found is None or focal <= 0:
        return None
    import lensfunpy

    camera, entry = found
    # a raster small enough to be quick, of the frame's own shape
    w = 720
    h = max(16, round(w * height / width))
    modifier = lensfunpy.Modifier(entry, camera.crop_factor, w, h)
    modifier.initialize(focal, f_number, FAR, scale=1.0, pixel_format=np.float64)
    middle = np.array([w / 2, h / 2])
    half = float(np.hypot(*middle))
    # an ideal px lies where the map was asked: measured from the same middle as its answer
    maps = modifier.apply_subpixel_geometry_distortion()
    plain = modifier.apply_geometry_distortion()
    if maps is None and plain is not None:
        maps = np.repeat(np.asarray(plain)[:, :, None], 3, 2)
    light = np.ones((h, w, 3))
    fades = bool(modifier.apply_color_modification(light))
    ys = np.unique(np.linspace(0, h // 2, _SAMPLES).astype(int))
    xs = np.clip((ys * w / h).astype(int), 0, w - 1)
    # lensfun's middle is that of px numbered from 0: (w − 1) / 2
    true = np.hypot(xs - (w - 1) / 2, ys - (h - 1) / 2) / half
    keep = true > 0.02
    shape = LensShape()
    if maps is not None:
        at = np.asarray(maps, float)[ys, xs]
        seen = np.hypot(at[..., 0] - (w - 1) / 2, at[..., 1] - (h - 1) / 2) / half
        shape = from_radii(true[keep], seen[keep])
    if fades:
        gain = light[ys, xs, 1]
        vignetting = fit_even(true[keep] ** 2, 1 / gain[keep], 3, constant=False)
        shape = shape.plus(
            LensShape(falloff=(float(vignetting[0]), float(vignetting[1]), float(vignetting[2])))
        )
    return shape.check()


def from_radii(true: F64, seen: F64) -> LensShape:
    """A shape from samples along a radius: true (n,), seen (n, 3) in red, green, blue."""
    k = fit_even(true**2, seen[:, 1] / true, 3, constant=True)
    middle = 1 + k[0]  # a magnification of the whole is no fault: taken into the true radius
    k1, k2, k3 = (float(k[n] / middle ** (2 * n + 1)) for n in (1, 2, 3))
    distortion = (0.0, k1, k2, k3)
    sides = []
    for channel in (0, 2):
        q = fit_even(seen[:, 1] ** 2, seen[:, channel] / seen[:, 1], 1, constant=True)
        sides.append((float(q[0]), float(q[1])))
    if np.allclose(distortion, 0, atol=1e-7):
        distortion = (0.0, 0.0, 0.0, 0.0)
    return LensShape(distortion, sides[0], sides[1])


def from_opcodes(block: bytes, width: int, height: int) -> LensShape | None:
    """The shape that a DNG's list of corrections states (DNG 1.4, chapter 6): WarpRectilinear and
    FixVignetteRadial, centred. None when it states neither. Raises GeometryError for absurd ones."""
    shape: LensShape | None = None
    try:
        count = struct.unpack_from(">I", block, 0)[0]
        at = 4
        for _ in range(min(count, 64)):
            code, _, _, size = struct.unpack_from(">IIII", block, at)
            at += 16
            if code == 1:
                planes = struct.unpack_from(">I", block, at)[0]
                values = np.array(struct.unpack_from(f">{planes * 6 + 2}d", block, at + 4))
                table = values[:-2].reshape(planes, 6)
                if planes not in (1, 3) or not np.all(np.isfinite(values)):
                    raise GeometryError("the frame's lens tags make no sense; they were left alone")
                true = np.linspace(0.02, 1.0, 60)
                powers = true[:, None] ** [0, 2, 4, 6]
                each = (powers @ table[:, :4].T) * true[:, None]
                warped = from_radii(true, each if planes == 3 else np.repeat(each, 3, 1))
                shape = (shape or LensShape()).plus(warped)
            elif code == 3:
                k = struct.unpack_from(">7d", block, at)[:5]
                r2 = np.linspace(0, 1, 60) ** 2
                gain = 1 + r2 * (k[0] + r2 * (k[1] + r2 * (k[2] + r2 * (k[3] + r2 * k[4]))))
                if not np.all(np.isfinite(gain)) or gain.min() <= 0.05:
                    raise GeometryError("the frame's vignetting tags make no sense; they were left alone")
                vignetting = fit_even(r2, 1 / gain, 3, constant=False)
                shape = (shape or LensShape()).plus(
                    LensShape(falloff=(float(vignetting[0]), float(vignetting[1]), float(vignetting[2])))
                )
            at += size
    except struct.error as error:
        raise GeometryError("the frame's lens tags are cut short; they were left alone") from error
    return None if shape is None else shape.check()
