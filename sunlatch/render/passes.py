"""Light taken through the moves, band by band, each time as far as is known of them by then."""

from collections.abc import Callable
from concurrent.futures import Future, wait
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..ledger import MoveLine
from ..moves import LIGHT_KINDS
from ..running.context import RenderContext
from ..running.patience import go_on
from ..sensor.kernels import bound

F32 = NDArray[np.float32]
Band = Callable[[F32, int, int], None]
"""Receives a finished band: planes (3, rows, w), first row, last row."""
Start = Callable[[int, int], F32]
"""Gives a band (first row, last row) as it enters the first step: planes (3, rows, w), its own."""

BAND_ROWS = 32


@dataclass(frozen=True)
class Step:
    """One Light move, ready to run. key: hash of everything up to and including it."""

    line: MoveLine
    coef: F32
    key: str


class Pass:
    """One picture on its way through some steps. place: u0, v0, du, dv of the view on the canvas. masks: where each
    step applies, None for everywhere; known: what each knows of the whole picture, sooner or later. keep_before: before
    which step the picture is kept, their number for after the last, −1 for nowhere."""

    def __init__(
        self, context: RenderContext, size: tuple[int, int], place: tuple[float, float, float, float],
        steps: list[Step], masks: list[F32 | None], known: list[Future[F32]], keep_before: int = -1,
        band_rows: int = BAND_ROWS,
    ) -> None:  # fmt: skip
        self.context, self.steps, self.masks, self.known = context, steps, masks, known
        self.width, self.height = size
        self.place = place
        self.band_rows = band_rows
        self.kernels = [LIGHT_KINDS[step.line.kind].kernel for step in steps]
        self.keep_before = keep_before
        self.kept = np.empty((3, self.height, self.width), np.float32) if keep_before >= 0 else None
        self._everywhere = np.ones((band_rows, self.width), np.float32)
        self._halfway: dict[int, F32] = {}

    def run(self, start: Start, take: Band) -> None:
        """Every band through every step, and on to `take`. Those that have gone as far as is known wait halfway."""
        first, end = 0, len(self.steps)
        while True:
            if end:
                self.known[first].result()
            last = next((n for n in range(first + 1, end) if not self.known[n].done()), end)
            rows = range(0, self.height, self.band_rows)
            jobs = [self.context.pool.submit(self._band, r, first, last, start, take) for r in rows]
            wait(jobs)
            for job in jobs:
                job.result()
            if last == end:
                return
            first = last

    def _band(self, top: int, first: int, last: int, start: Start, take: Band) -> None:
        """The band that begins at a row, through steps `first` to before `last`."""
        go_on()
        bottom = min(top + self.band_rows, self.height)
        rgb = self._halfway.pop(top) if first else start(top, bottom)
        for n in range(first, last):
            self._step(n, rgb, top, bottom)
        if last < len(self.steps):
            self._halfway[top] = rgb
            return
        if self.kept is not None and self.keep_before == last:
            self.kept[:, top:bottom] = rgb
        take(rgb, top, bottom)

    def _step(self, n: int, rgb: F32, top: int, bottom: int) -> None:
        """One step on a band, in place."""
        if self.kept is not None and self.keep_before == n:
            self.kept[:, top:bottom] = rgb
        kernel, mask, step = self.kernels[n], self.masks[n], self.steps[n]
        assert kernel is not None
        here = self._everywhere[: bottom - top] if mask is None else mask[top:bottom]
        u0, v0, du, dv = self.place
        with self.context.clock.step(f"move: {step.line.kind}"):
            kernel(
                rgb,
                here,
                step.coef,
                self.known[n].result(),
                np.array([u0, v0 + top * dv, du, dv], np.float32),
            )
            bound(rgb)
