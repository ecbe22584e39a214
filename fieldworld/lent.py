"""Shots that are made when they are asked for: joins that are harder than the outing's, and the world as an ideal camera
would see it, to compare joins with."""

from dataclasses import replace
from typing import Final

import numpy as np

from .camera import CameraError, Exposure, Shot
from .optics import Lens
from .outing import LOW_SUN, MORNING, SIDE, clock, find
from .seen import Seen, Viewpoint
from .world import Scenery

EXPOSURE: Final = Exposure(1 / 100, 8.0, 100)


def _rows() -> list[Shot]:
    """Two rows of three upright frames, the upper one from right to left."""
    rng = np.random.default_rng(21)
    base = Viewpoint(eye=1.8, focal_mm=35.0, light=MORNING)
    shots = []
    for n, (row, column) in enumerate([(0, 0), (0, 1), (0, 2), (1, 2), (1, 1), (1, 0)]):
        view = replace(
            base, heading=-25.0 + 26.0 * column + rng.normal(0, 0.4), pitch=-3.0 + 30.0 * row + rng.normal(0, 0.4),
            roll=float(rng.normal(0, 0.5)), when=2.0 * n,
        )  # fmt: skip
        shots.append(
            Shot(
                f"rows-{n + 1}",
                view,
                EXPOSURE,
                3504,
                2336,
                8,
                clock(5, 8, 1, 3 * n),
                600 + n,
                "a sweep of two rows",
            )
        )
    return shots


def _round() -> list[Shot]:
    """All the way round, in twelve lying frames."""
    base = Viewpoint(eye=1.8, pitch=2.0, roll=0.0, focal_mm=28.0, light=MORNING)
    return [
        Shot(f"round-{n + 1}", replace(base, heading=-180.0 + 30.0 * n, pitch=2.0 + 0.4 * (n % 3)), EXPOSURE, 3504, 2336, 1,
             clock(5, 8, 20, 3 * n), 620 + n, "a full turn")
        for n in range(12)
    ]  # fmt: skip


def _crossing() -> list[Shot]:
    """Three frames that a walker crosses: in each overlap he is seen by one frame here, and by the next there."""
    base = Viewpoint("path", 1.7, 0.0, -3.0, 0.0, 35.0, SIDE, figures=("walker",))
    return [
        Shot(f"crossing-{n + 1}", replace(base, heading=-24.0 + 25.0 * n, walked=walked), EXPOSURE, 3504, 2336, 8,
             clock(5, 9, 1, 3 * n), 640 + n, "a walker across the seams")
        for n, walked in enumerate((-5.5, 4.5, 7.5))
    ]  # fmt: skip


def _gulls() -> list[Shot]:
    """Five exposures by hand, with a gull that flies on and waves that roll on."""
    rng = np.random.default_rng(33)
    base = Viewpoint(
        eye=1.6, heading=-8.0, pitch=9.0, roll=0.2, focal_mm=24.0, light=LOW_SUN, figures=("gull",)
    )
    shots = []
    for n, stops in enumerate((-4, -2, 0, 2, 4)):
        view = replace(
            base, heading=-8.0 + rng.normal(0, 0.05), pitch=9.0 + rng.normal(0, 0.05),
            roll=0.2 + float(rng.normal(0, 0.05)), when=0.7 * n,
        )  # fmt: skip
        shots.append(
            Shot(f"gulls-{n + 1}", view, Exposure(1 / 125 * 2.0**stops, 11.0, 100), 3504, 2336, 1, clock(5, 18, 40, n),
                 660 + n, "a bracket with a gull in it")
        )  # fmt: skip
    return shots


def _stair() -> list[Shot]:
    """Three upright views by the cove against the low sun, each at three exposures, by hand."""
    rng = np.random.default_rng(44)
    base = Viewpoint(eye=1.7, pitch=4.0, roll=0.0, focal_mm=35.0, light=LOW_SUN)
    shots = []
    for n in range(9):
        view = replace(
            base, heading=-32.0 + 24.0 * (n // 3) + rng.normal(0, 0.04), pitch=4.0 + rng.normal(0, 0.04),
            roll=float(rng.normal(0, 0.04)), when=0.8 * n,
        )  # fmt: skip
        shots.append(
            Shot(f"stair-{n + 1}", view, Exposure(1 / 30 * 2.0 ** (-3, 0, 3)[n % 3], 11.0, 100), 3504, 2336, 8,
                 clock(5, 18, 50, 2 * n), 720 + n, "a sweep of brackets")
        )  # fmt: skip
    return shots


def _large() -> list[Shot]:
    """Twelve upright frames of 24 megapixels."""
    base = Viewpoint(eye=1.8, pitch=3.0, roll=0.0, focal_mm=50.0, light=MORNING)
    return [
        Shot(f"large-{n + 1}", replace(base, heading=-95.0 + 17.5 * n), EXPOSURE, 6000, 4000, 8, clock(5, 8, 40, 3 * n),
             680 + n, "twelve large frames")
        for n in range(12)
    ]  # fmt: skip


def _specked() -> list[Shot]:
    """A wide sky through a narrow aperture, after a day in the dunes: 30 specks on 24 megapixels."""
    view = Viewpoint(eye=1.8, heading=-30.0, pitch=32.0, roll=0.0, focal_mm=35.0, light=MORNING)
    return [
        Shot("specked", view, Exposure(1 / 100, 14.0, 100), 6000, 4000, 1, clock(5, 10, 2, 11), 700,
             "a sky with 30 specks in it", dust=30)
    ]  # fmt: skip


LENT: Final[list[Shot]] = [*_rows(), *_round(), *_crossing(), *_gulls(), *_stair(), *_large(), *_specked()]


def without(shot: Shot, names: list[str]) -> Shot:
    """The same shot with things left out, by name: one of its figures, or "specks". What is behind them is then there to be
    seen. Raises CameraError."""
    for name in names:
        if name == "specks":
            shot = replace(shot, dust=0)
        elif name in shot.view.figures:
            kept = tuple(f for f in shot.view.figures if f != name)
            shot = replace(shot, view=replace(shot.view, figures=kept))
        else:
            has = ", ".join([*shot.view.figures, "specks"])
            raise CameraError(f"{shot.name} has no {name} that could be left out; it has {has}.")
    return shot


def under(shot: Shot, sky: str) -> Shot:
    """The same shot under the sky of another, and in its light. Raises KeyError."""
    return replace(shot, view=replace(shot.view, light=find_any(sky).view.light))


def find_any(name: str) -> Shot:
    """A shot of the outing, or one that is lent, by its name. Raises KeyError."""
    lent = {shot.name: shot for shot in LENT}
    return lent[name] if name in lent else find(name)


def ideal(view: Viewpoint, size: tuple[int, int], threads: int = 2) -> Seen:
    """What a lens without faults would see of (width, height) px: the truth of any part of a join."""
    return Scenery(view, faultless(view, size), threads).look()


def faultless(view: Viewpoint, size: tuple[int, int]) -> Lens:
    """A lens without faults, of (width, height) px."""
    return Lens(*size, view.focal_mm, distortion=0.0)
