"""Relief: detail at three scales made stronger or weaker, each with its share in darks, midtones and lights.

Detail is what guided filters (He, Sun & Tang 2013) of log light leave out: they keep strong edges, so these are
not overshot. What is kept rises steeply with the spread, so that rough rock is still detail where a ridge
against the sky is an edge. Their models are made on a small picture and applied to each px's own light. Where a
scale shows no more than noise in the whole picture its detail is left asleep.
"""

from typing import Final

import cv2
import numpy as np

from .. import compiled
from ..fastmath import smooth
from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel
from .grid import row_stops, stops_of
from .rows import row_by_stops
from .sampling import columns, row_sampled

SCALES: Final = {"fine": 1 / 300, "middle": 1 / 80, "coarse": 1 / 20}
"""Radii of the three, in long edges."""
EDGE: Final = {"fine": 0.8, "middle": 1.0, "coarse": 1.1}
"""Spreads of light, in stops, that are halfway to being an edge and no detail."""
LIMIT: Final = 0.8
"""Stops of detail beyond which it grows no more than half."""
QUIET: Final = 0.05
"""Rms detail, in stops, that counts as noise at a guard of 100 %."""


def _amount(label: str) -> float:
    made: float = number(
        label, default=0.0, low=-1.0, high=2.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    return made


def _share() -> float:
    made: float = number(
        "Share", default=1.0, low=0.0, high=2.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    return made


class ReliefParams(Params):
    """Amounts, and for each its shares in darks, midtones and lights."""

    coarse: float = _amount("Coarse")
    middle: float = _amount("Middle")
    fine: float = _amount("Fine")
    guard: float = number(
        "Protect from noise", default=0.5, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="Leaves alone what is hardly more than noise, in skies and shadows",
    )  # fmt: skip
    coarse_darks: float = _share()
    coarse_midtones: float = _share()
    coarse_lights: float = _share()
    middle_darks: float = _share()
    middle_midtones: float = _share()
    middle_lights: float = _share()
    fine_darks: float = _share()
    fine_midtones: float = _share()
    fine_lights: float = _share()


_ZERO, _ONE, _THREE = np.float32(0), np.float32(1), np.float32(3)


@compiled.kernel("void(float32[:, ::1], float32[:, :, ::1])")
def _with_squares(stops, pairs):  # type: ignore[no-untyped-def]
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            pairs[r, c, 0] = stops[r, c]
            pairs[r, c, 1] = stops[r, c] * stops[r, c]


@compiled.kernel("void(float32[:, :, ::1], float32)")
def _slope_and_offset(means, edge):  # type: ignore[no-untyped-def]
    """Means of light and its squares → a and b, in place. edge: the spread that is halfway to one, squared."""
    for r in range(means.shape[0]):
        for c in range(means.shape[1]):
            around = means[r, c, 0]
            steep = max(means[r, c, 1] - around * around, _ZERO) / edge
            steep *= steep
            steep *= steep
            keeps = steep / (steep + _ONE)
            means[r, c, 0] = keeps
            means[r, c, 1] = (_ONE - keeps) * around


@compiled.kernel("void(float32[:, ::1], float32[:, :, ::1], float32[:, ::1], float32[:, :, ::1])")
def _left_out(stops, model, finer, out):  # type: ignore[no-untyped-def]
    """out: a, b and the square of what a scale leaves out of `finer`, which becomes its base."""
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            base = model[r, c, 0] * stops[r, c] + model[r, c, 1]
            left = finer[r, c] - base
            out[0, r, c], out[1, r, c], out[2, r, c] = model[r, c, 0], model[r, c, 1], left * left
            finer[r, c] = base


def survey(rgb: F32, params: ReliefParams) -> F32:
    """(9, h, w, 1): for each scale, fine first, a and b of its base a·stops + b, and its rms detail."""
    _, h, w = rgb.shape
    stops = np.maximum(stops_of(rgb), np.float32(-12))  # below lies nothing but noise
    finer = stops.copy()
    pairs, means, model = (np.empty((h, w, 2), np.float32) for _ in range(3))
    _with_squares(stops, pairs)
    out = np.empty((9, h, w, 1), np.float32)
    for n, (name, radius) in enumerate(SCALES.items()):
        side = (2 * max(2, round(radius * max(h, w))) + 1,) * 2
        cv2.blur(pairs, side, means, borderType=cv2.BORDER_REFLECT)
        _slope_and_offset(means, EDGE[name] ** 2)
        cv2.blur(means, side, model, borderType=cv2.BORDER_REFLECT)
        planes = out[3 * n : 3 * n + 3, :, :, 0]
        _left_out(stops, model, finer, planes)
        np.sqrt(cv2.blur(planes[2], side, borderType=cv2.BORDER_REFLECT), out=planes[2])
    return out


@compiled.part
def _row_zones(stops, dark, bright):  # type: ignore[no-untyped-def]
    """How far each px counts among the darks and the lights; stops are held above noise."""
    for c in range(stops.size):
        stops[c] = max(stops[c], np.float32(-12))
        dark[c] = _ONE - smooth((stops[c] + np.float32(5)) / _THREE)
        bright[c] = smooth((stops[c] + _ONE) / np.float32(2.5))


@compiled.part
def _row_scale(stops, a, b, rms, dark, bright, much, quiet, finer, detail, total):  # type: ignore[no-untyped-def]
    """Add one scale's detail, as much of it as is asked for in each zone, softly limited; `finer` becomes its
    base. much: (3,) for darks, midtones, lights. detail: to work in. Few arrays a loop: see `row_by_stops`."""
    for c in range(stops.size):
        base = a[c] * stops[c] + b[c]
        detail[c] = finer[c] - base
        finer[c] = base
    for c in range(stops.size):
        loud = rms[c] * rms[c]
        detail[c] *= loud / ((loud + quiet) * (_ONE + abs(detail[c]) / np.float32(LIMIT)))
    darks, middle, lights = much[0], much[1], much[2]
    for c in range(stops.size):
        total[c] += (dark[c] * darks + (_ONE - dark[c] - bright[c]) * middle + bright[c] * lights) * detail[c]


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Times 2^(m·Σ amount·share·awake·detail). Row by row in loops that run in vector registers."""
    w = rgb.shape[2]
    rows = np.empty((9, w), np.float32)
    stops, dark, bright, finer, total = rows[0], rows[1], rows[2], rows[3], rows[4]
    pairs, held = np.empty((9, 2, w), np.float32), np.full((9, 2), -1)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[2], at, between)
    quiet = coef[0] * coef[0] + np.float32(1e-9)
    for r in range(rgb.shape[1]):
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        row_stops(a, b, d, stops)
        _row_zones(stops, dark, bright)
        finer[:] = stops
        total[:] = _ZERO
        for k in range(3):
            much = coef[1 + 3 * k : 4 + 3 * k]
            if k == 2 and not much.any():
                continue  # nothing coarser needs its base
            for n in range(3):
                m = 3 * k + n
                row_sampled(aux[m, :, :, 0], place, r, at, between, pairs[m], held[m], rows[5 + n])
            _row_scale(stops, rows[5], rows[6], rows[7], dark, bright, much, quiet, finer, rows[8], total)
        row_by_stops(total, mask[r], a, b, d)


def coefficients(params: ReliefParams, strength: float) -> F32:
    """[rms that is noise, then for fine, middle, coarse the amount in darks, midtones, lights]"""
    zones = ("darks", "midtones", "lights")
    amounts = [getattr(params, k) * strength * getattr(params, f"{k}_{z}") for k in SCALES for z in zones]
    return np.array([QUIET * params.guard, *amounts], np.float32)


MOVE = MoveKind(
    kind="relief",
    revision=1,
    band="light",
    label="Relief",
    says="local contrast, coarse to fine",
    question="What hangs in the air?",
    sentence="Relief: coarse {coarse}, middle {middle}, fine {fine}",
    params=ReliefParams,
    verbs=("relief", "carve", "soften"),
    signs={"soften": -1},
    first="middle",
    place=40,
    kernel=kernel,
    coefficients=coefficients,
    survey=survey,
    survey_edge=512,
)
