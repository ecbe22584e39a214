"""Whole pictures from a development: for the screen in 8 bits, for files band by band."""

import math
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry import View, taps
from ..sensor.kernels import reduce_light
from .develop import Development
from .output import SCREEN, Output

F32 = NDArray[np.float32]
Progress = Callable[[float], None]
"""Told the share done, 0–1; may raise CancelledError."""

EXPORT_BAND = 256
"""Rows of a file that are made at a time."""
FINE_PIXELS = 12_500_000
"""The most px a view is rendered from at rest."""
STRIP_PIXELS = 2_000_000
SURROUND_LIGHT, PATTERN, STRIPE = 0.216, (122, 134), 6
"""The grey around a picture, as display light; and the two greys of the stripes, so many px wide, that stand for nothing."""


def finer(development: Development, view: View, most: float = FINE_PIXELS) -> View:
    """The view as it is rendered at rest: at the frame's own px, or at so many if it has more."""
    w, h = development.geometry.developed_size
    x0, y0, x1, y1 = view.region
    width, height = (x1 - x0) * w, (y1 - y0) * h
    scale = min(1.0, math.sqrt(most / (width * height)))
    return View(view.region, (max(1, round(width * scale)), max(1, round(height * scale))))


def _rest(
    development: Development,
    view: View,
    span: tuple[int, int],
    output: Output,
    take: Any,
    nothing: float = 1.0,
    most: float = FINE_PIXELS,
) -> None:
    """Display light of rows `span` of a view, from all the px there are (`most` at the most), reduced by area in linear
    light, strip by strip, so that the screen shows what the file holds."""
    large = finer(development, view, most)
    w, h = view.size
    if large.size[0] <= w or large.size[1] <= h:
        development.display(view.rows(*span), output, take, keep=False, nothing=nothing)
        return
    ratio = large.size[1] / h
    xi, xw = taps(0.0, large.size[0] / w, w, large.size[0])
    rows = max(1, int(STRIP_PIXELS / (large.size[0] * ratio)))
    for top in range(*span, rows):
        bottom = min(top + rows, span[1])
        first, last = int(top * ratio), min(math.ceil(bottom * ratio), large.size[1])
        light = np.empty((3, last - first, large.size[0]), np.float32)

        def hold(band: F32, r: int, e: int, light: F32 = light) -> None:
            light[:, r:e] = band

        with development.ground.passing():
            development.display(large.rows(first, last), output, hold, keep=False, nothing=nothing)
        yi, yw = taps(top * ratio - first, ratio, bottom - top, last - first)
        small = np.empty((3, bottom - top, w), np.float32)

        def reduce(
            a: int, b: int, light: F32 = light, small: F32 = small, yi: Any = yi, yw: Any = yw
        ) -> None:
            with development.context.clock.step("reduce"):
                reduce_light(light, xi, xw, yi[a:b], yw[a:b], small[:, a:b])

        development.ground.each(bottom - top, reduce)
        take(small, top - span[0], bottom - span[0])


def picture_8(development: Development, view: View, full: bool, output: Output = SCREEN) -> NDArray[np.uint8]:
    """The rendered view (h, w, channels) uint8. `full`: the answer at rest; else the one for a drag. Where the picture shows nothing
    stands a quiet pattern about the grey that surrounds it."""
    out = np.empty((view.size[1], view.size[0], output.channels), np.uint8)

    light = None if output.sharpness is None else np.empty((3, *out.shape[:2]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        if light is None:
            output.encode(band, out[r:e])
        else:
            light[:, r:e] = band

    if full and finer(development, view).size != view.size:
        _rest(development, view, (0, view.size[1]), output, take, SURROUND_LIGHT)
    else:
        development.display(view, output, take, keep=True, nothing=SURROUND_LIGHT)
    if light is not None and output.sharpness is not None:
        output.encode(output.sharpness.sharpened(light), out)
    beyond = development.ground.beyond(view)
    if beyond is not None:
        rows, columns = np.nonzero(beyond)
        out[rows, columns] = np.where((rows + columns) // STRIPE % 2, *PATTERN)[:, None]
    return out


def shown_light(development: Development, view: View, output: Output = SCREEN) -> F32:
    """Display light of the view at rest (3, h, w), linear, before it is encoded for a screen."""
    out = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        out[:, r:e] = band

    _rest(development, view, (0, view.size[1]), output, take)
    return out


def bands_of(
    development: Development, view: View, output: Output, progress: Progress | None = None
) -> Iterator[NDArray[Any]]:
    """The rendered view as bands of rows (≤ EXPORT_BAND, w, channels) of the output's px, top to bottom: a file's own way, from
    all the px there are."""
    w, h = view.size
    apron = output.sharpness.apron if output.sharpness is not None else 0
    for start in range(0, h, EXPORT_BAND):
        stop = min(start + EXPORT_BAND, h)
        first, last = max(0, start - apron), min(h, stop + apron)
        out = np.empty((stop - start, w, output.channels), output.dtype)
        light = np.empty((3, last - first, w), np.float32) if output.gathers else None

        def take(band: F32, r: int, e: int, out: NDArray[Any] = out, light: F32 | None = light) -> None:
            if light is None:
                output.encode(band, out[r:e])
            else:
                light[:, r:e] = band

        with development.ground.passing():
            _rest(development, view, (first, last), output, take, most=math.inf)
        if light is not None:
            if output.sharpness is not None:
                light = output.sharpness.sharpened(light)
            _encoded(development, output, light[:, start - first : stop - first], out)
        if progress is not None:
            progress(stop / h)
        yield out


def _encoded(development: Development, output: Output, light: F32, out: NDArray[Any]) -> None:
    """A band of display light as px, in halves on two threads: a paper's numbers take their time, and each call its own."""
    half = (len(out) + 1) // 2
    spans = [(0, half), (half, len(out))]
    list(
        development.context.pool.map(
            lambda span: output.encode(np.ascontiguousarray(light[:, slice(*span)]), out[slice(*span)]), spans
        )
    )
