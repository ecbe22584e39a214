"""The ladder: how much of the picture lies on which rung, as light enters Rendering."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour.tones import lightness, tone_curve
from ..ledger import Latch
from ..render import SCREEN, Development
from ..running.cache import key_of
from ..sensor.kernels import read_stops

LOW, HIGH, PER_STOP = -14, 8, 3
"""Histogram bars: thirds of a stop from −14 to +8."""
METER_LONG_EDGE = 640
_FINE = 24


class LatchLight(BaseModel):
    """The light under one latch. bars: share of the whole picture per third of a stop. centre:
    weighted median in stops, None where the latch holds nothing. share: of the picture, 0–1."""

    latch: str
    name: str
    bars: list[float]
    centre: float | None
    share: float


class Ladder(BaseModel):
    """Everything the ladder shows. Stops around middle grey; shares of the whole picture, 0–1."""

    low: int = LOW
    high: int = HIGH
    per_stop: int = PER_STOP
    bars: list[float]
    centre: float
    wings: list[LatchLight]
    meeting: float | None
    """Stops from the second wing's centre up to the first's."""
    tones: list[float]
    """Printed lightness (L*/100) at every rung from `low` to `high`."""
    black: float
    white: float
    clipped_in_frame: list[float]
    """Share of photosites that clipped, per channel."""
    clipped_in_file: float
    """Share of pixels where a channel prints at full."""
    black_in_file: float
    """Share of pixels that print black."""


def _median(histogram: NDArray[np.float64], edges: NDArray[np.float64]) -> float:
    total = np.concatenate([[0.0], np.cumsum(histogram)])
    return float(np.interp(total[-1] / 2, total, edges))


def _clipped_in_frame(development: Development) -> list[float]:
    """Share of photosites that clipped, per channel; counted once for a frame."""
    clipped = development.raster.clipped
    if clipped is None:
        return [0.0, 0.0, 0.0]
    key = key_of("clipped in frame", development.raster.identity)
    shares = development.context.models.remember(key, lambda: np.asarray(clipped.mean((0, 1)) / 255))
    return [float(v) for v in shares]


def read_ladder(development: Development, wings: list[Latch]) -> Ladder:
    """Read the ladder of a scene, with up to two latches as wings."""
    view = development.geometry.fit(METER_LONG_EDGE)
    rgb = development.light_planes(view, keep=True)  # it is read again and again while something is dragged
    stops = np.empty(rgb.shape[1:], np.float32)
    read_stops(rgb, np.array([0.2627, 0.6780, 0.0593], np.float32), stops)
    held = np.clip(stops, LOW + 1e-3, HIGH - 1e-3)
    count = (HIGH - LOW) * _FINE
    index = ((held - LOW) * _FINE).astype(np.int64).ravel()
    edges = LOW + np.arange(count + 1) / _FINE
    beyond = development.ground.beyond(view)
    seen = (
        np.ones(index.size) if beyond is None else (~beyond).ravel().astype(float)
    )  # what is nothing is no light
    n = max(float(seen.sum()), 1.0)

    def bars(fine: NDArray[np.float64]) -> list[float]:
        coarse = fine.reshape(-1, _FINE // PER_STOP).sum(1) / n
        return [round(float(v), 6) for v in coarse]

    fine = np.bincount(index, seen, minlength=count).astype(float)
    lights = []
    for latch in wings[:2]:
        mask = development.latches.mask(latch, view).ravel().astype(float) * seen
        weighed = np.bincount(index, mask, minlength=count).astype(float)
        share = float(mask.sum() / n)
        centre = _median(weighed, edges) if share > 1e-5 else None
        lights.append(
            LatchLight(latch=latch.id, name=latch.name, bars=bars(weighed), centre=centre, share=share)
        )
    meeting = None
    if len(lights) == 2 and lights[0].centre is not None and lights[1].centre is not None:
        meeting = lights[0].centre - lights[1].centre
    black, white = development.ground.ends()
    rungs = np.arange(LOW, HIGH + 1, dtype=float)
    over = dark = 0

    def take(band: NDArray[np.float32], r: int, e: int) -> None:
        nonlocal over, dark
        there = seen.reshape(view.size[1], -1)[r:e] > 0
        over += int((there & (band.max(0) >= 0.9995)).sum())
        dark += int((there & (band.max(0) <= 0.0005)).sum())

    # one band: counting must not race
    development.display(view, SCREEN, take, keep=False, band_rows=view.size[1])
    return Ladder(
        bars=bars(fine),
        centre=_median(fine, edges),
        wings=lights,
        meeting=meeting,
        tones=[float(v) for v in lightness(tone_curve(rungs, development.ground.tone(), black, white))],
        black=black,
        white=white,
        clipped_in_frame=_clipped_in_frame(development),
        clipped_in_file=over / n,
        black_in_file=dark / n,
    )
