"""What finders measure of a picture: lab (3, h, w), OKLab of the reading picture."""

from functools import cache
from typing import Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from ...running.patience import go_on

F32 = NDArray[np.float32]
FINE: Final = 4.0
"""Px, standard deviation, of the smallest copy that a wide blur is made on."""
SOME: Final = 1e-4
"""What is added where a share may be nothing."""
NARROWEST: Final = 0.012
"""Standard deviation, in OKLab, of any colour: two px of one thing differ by as much."""
SOBEL: Final = 0.125
"""Makes a Sobel operator's sum a slope a px."""
SHARP, SOFT, OUTDOES = 0.8, 3.0, 1.7
"""Px, standard deviation, between which an edge is crisp: its slope at the first is so many times that at the second."""
ALL_ALIKE: Final = 0.2
"""From ALIKE on, how much more is a streak whole."""
MEDIAN, KEPT = 5, 0.4
"""Px, a side, of what is no edge of something broad; and how much of an edge must be left without that to count whole."""
COST: Final = 20.0
"""From a slope in OKLab a px to what crossing it costs."""
OVER_GRAIN, CALMEST, LEAST_GRAIN = 1.8, 20, 0.0008
"""Slopes are grain up to so many times that of the calmest px (percent of them), and up to so much."""
DARKEST: Final = 0.03
"""Lightness under which streaks are not looked for."""
STREAK_NOISE, BLURS, STREAK_SOBEL = 10, (0.7, 1.5), 0.09
"""Percent of px whose texture is noise; px, standard deviation, of the blur at CALM and at NOISY; and what makes its slopes a px's."""
CELLS: Final = (56, 24, 24, 8)
"""Of a table over lightness, both colour axes, and a fourth thing."""
PER_COLOUR, NEUTRAL = 60, 12
"""Cells of colour a unit of OKLab, and the one of grey."""
SMOOTHED: Final = (1.2, 1.0, 1.0, 0.7)
"""Cells, standard deviation, by which a table is smoothed."""


def smaller(x: F32, long_edge: int) -> F32:
    """A plane (h, w) or planes (n, h, w), reduced by area to a long edge at most."""
    h, w = x.shape[-2:]
    k = min(1.0, long_edge / max(h, w))
    size = (max(1, round(w * k)), max(1, round(h * k)))
    if x.ndim == 2:
        return np.asarray(cv2.resize(x, size, interpolation=cv2.INTER_AREA), np.float32)
    return np.stack([smaller(p, long_edge) for p in x])


def blurred(x: F32, sigma: float, down: float | None = None) -> F32:
    """Gaussian blur of a plane; `down`: another sigma for the columns. A wide one is made on a small copy."""
    go_on()
    down = down or sigma
    step = int(min(sigma, down) / FINE)
    if step < 2:
        return np.asarray(cv2.GaussianBlur(x, (0, 0), sigmaX=sigma, sigmaY=down), np.float32)
    h, w = x.shape
    small = cv2.resize(x, (max(1, w // step), max(1, h // step)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), sigmaX=sigma / step, sigmaY=down / step)
    return np.asarray(cv2.resize(small, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def texture(lab: F32, sigma: float = 1.2, window: int = 7) -> F32:
    """How much the picture changes from px to px, root of the mean square within a window."""
    squares = sum(np.square(p - blurred(p, sigma)) for p in lab)
    mean = np.asarray(cv2.blur(squares, (window, window)), np.float32)
    return np.sqrt(np.maximum(mean, np.float32(0)))  # its running sums can fall below nothing


def unlike(lab: F32, sure: F32, across: float, down: float, widest: float = 0.03) -> tuple[F32, F32]:
    """How far a px's colour is, squared and in standard deviations, from what is `sure` (weights, (h, w))
    around it, within Gaussian windows of `across` and `down` px; and how much of that there is. widest: a
    standard deviation counts for no more than this."""
    weight = blurred(sure, across, down) + np.float32(SOME)
    off = np.zeros_like(sure)
    for plane in lab:
        mean = blurred(sure * plane, across, down) / weight
        spread = np.clip(blurred(sure * plane * plane, across, down) / weight - mean * mean, 0, widest**2)
        off += np.square(plane - mean) / (spread + np.float32(NARROWEST**2))
    return off, weight


def _slope(plane: F32, sigma: float) -> F32:
    p = blurred(plane, sigma)
    across = cv2.Sobel(p, cv2.CV_32F, 1, 0, scale=SOBEL)
    down = cv2.Sobel(p, cv2.CV_32F, 0, 1, scale=SOBEL)
    return np.asarray(cv2.magnitude(across, down), np.float32)


def _crisp(lab: F32) -> F32:
    squares = [np.square(np.maximum(_slope(p, SHARP) - OUTDOES * _slope(p, SOFT), 0)) for p in lab]
    return np.asarray(np.sqrt(np.sum(squares, 0)), np.float32)


STREAK: Final = 0.013
"""Height, in long edges, up to which something level is a streak."""


ALIKE: Final = 0.6
"""How much of what is thin must be the same along the row to be a streak; grain is not."""


def _without_streaks(plane: F32) -> F32:
    """A plane without its flat level streaks (clouds low in the sky): what upright opening and closing take
    away, where it is alike along the row."""
    tall = max(3, round(STREAK * max(plane.shape)))
    upright = np.ones((tall, 1), np.uint8)
    flat = cv2.morphologyEx(cv2.morphologyEx(plane, cv2.MORPH_OPEN, upright), cv2.MORPH_CLOSE, upright)
    off = plane - flat
    row = (tall | 1, 1)
    alike = np.abs(cv2.blur(off, row)) / (cv2.blur(np.abs(off), row) + np.float32(SOME))
    return np.asarray(plane - off * np.clip((alike - ALIKE) / ALL_ALIKE, 0, 1), np.float32)


def crisp_edges(lab: F32) -> F32:
    """Edges as sharp as the lens draws them, so not those of clouds or light; without thin lines (a cable
    does not part the sky) and flat streaks: what a median filter takes away is not an edge of something
    broad."""
    edges = _crisp(lab)
    broad = _crisp(np.stack([_without_streaks(cv2.medianBlur(p, MEDIAN)) for p in np.ascontiguousarray(lab)]))
    broad = np.asarray(cv2.dilate(broad, np.ones((MEDIAN, MEDIAN))), np.float32)
    return np.asarray(edges * np.clip(broad / (KEPT * edges + 1e-6), 0, 1), np.float32)


GRAIN: Final = 0.006
"""Noise, in OKLab; what is rougher everywhere is not noise."""


def across_edges(lab: F32, size: tuple[int, int]) -> F32:
    """What a way along the picture costs at each px of a smaller one (w, h), the more the crisper it is there; 0
    in noise. It has no unit: all the way across a crisp step of 0.05 in OKLab it comes to about 0.2."""
    edges = np.asarray(cv2.dilate(crisp_edges(lab), np.ones((3, 3))), np.float32)
    edges = smaller(edges, max(size))
    grain = min(max(OVER_GRAIN * float(np.percentile(edges, CALMEST)), LEAST_GRAIN), 2 * GRAIN)
    return np.asarray(COST * np.maximum(edges - grain, 0), np.float32)


WINDOWS: Final = ((3.2, 22.0, 0.02, 0.006), (9.0, 16.0, 0.04, 0.012))
"""What level streaks speak for water, and a lean against it, in windows so wide and high; in long edges."""
CALM, NOISY = 0.003, 0.0045
"""Noise, in log of lightness, that streaks are seen through as they are, and from which they are blurred most."""


def level_streaks(fine: F32, size: tuple[int, int]) -> F32:
    """How much more level than leaning a picture's streaks are around each px, at a size (w, h): from the mean
    direction of its gradient, turned twice as far so that up and down are one, however steep."""
    log = np.log(np.maximum(fine[0], np.float32(DARKEST)))
    noise = float(np.percentile(texture(log[None], 1.0), STREAK_NOISE))
    log = blurred(log, float(np.interp(noise, (CALM, NOISY), BLURS)))
    across = cv2.Sobel(log, cv2.CV_32F, 1, 0, scale=STREAK_SOBEL)
    down = cv2.Sobel(log, cv2.CV_32F, 0, 1, scale=STREAK_SOBEL)
    steep = across * across + down * down + np.float32(1e-6)
    level, lean = (down * down - across * across) / steep, 2 * across * down / steep
    span = max(fine.shape[1:])
    evidence = np.zeros(fine.shape[1:], np.float32)
    for speaks, against, wide, tall in WINDOWS:
        evidence += speaks * blurred(level, wide * span, tall * span)
        evidence -= against / 2 * np.abs(blurred(lean, wide * span, tall * span))
    return np.asarray(cv2.resize(evidence, size, interpolation=cv2.INTER_AREA), np.float32)


def table_of(lab: F32, fourth: F32) -> tuple[NDArray[np.int64], tuple[int, ...]]:
    """Which cell of a table over lightness, both colour axes and a fourth thing (0–7) each px falls into."""
    parts = (lab[0] * CELLS[0], lab[1] * PER_COLOUR + NEUTRAL, lab[2] * PER_COLOUR + NEUTRAL, fourth)
    index = [np.clip(p.astype(np.int64), 0, n - 1) for p, n in zip(parts, CELLS, strict=True)]
    return np.ravel_multi_index(tuple(index), CELLS), CELLS


def likeness(where: NDArray[np.int64], cells: tuple[int, ...], one: F32, other: F32) -> F32:
    """How much more a px looks like `one` than like `other` (weights, (h, w)): the log of the ratio of
    how often its cell is met in either; the tables are smoothed a little."""
    ratio = np.log(_counted(where, cells, one) / _counted(where, cells, other))
    return np.asarray(ratio.ravel()[where], np.float32)


def often(where: NDArray[np.int64], cells: tuple[int, ...]) -> F32:
    """How often a px's cell is met in the picture (h, w): the log of its share."""
    return np.asarray(
        np.log(_counted(where, cells, np.ones(where.shape, np.float32)).ravel()[where]), np.float32
    )


@cache
def _evening(n: int, sigma: float) -> NDArray[np.float64]:
    """What a row of n cells is multiplied by to be smoothed (n, n): in so small a table quicker than any filter."""
    return np.asarray(scipy.ndimage.gaussian_filter1d(np.eye(n), sigma, axis=0, mode="constant"))


def _counted(where: NDArray[np.int64], cells: tuple[int, ...], weight: F32) -> NDArray[np.float64]:
    counted = np.bincount(where.ravel(), weight.ravel(), int(np.prod(cells)))
    table = np.asarray(counted, np.float64).reshape(cells)
    for axis, (n, sigma) in enumerate(zip(cells, SMOOTHED, strict=True)):
        table = np.moveaxis(_evening(n, sigma) @ np.moveaxis(table, axis, -2), -2, axis)
    return np.asarray(table / max(float(table.sum()), 1e-9) + 1e-6)
