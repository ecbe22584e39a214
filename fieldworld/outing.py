"""The demo outing: one evening and the morning after on the Ammerlin coast, shot by shot.

Every frame is hard in the way its job is hard; `job` says which. Shots that share a `scene` were
taken of the same thing and belong together (a sweep, a bracket, a twin).
"""

from dataclasses import replace
from typing import Final

import numpy as np

from .camera import Exposure, Shot
from .seen import Viewpoint
from .sky import Daylight

EVENING: Final = Daylight()
LOW_SUN: Final = Daylight(sun_elevation=5.0, sun_azimuth=2.0, cloud_cover=0.50, seed=29, haze=1.2)
MORNING: Final = Daylight(
    sun_elevation=11.0, sun_azimuth=-88.0, cloud_cover=0.46, seed=17, haze=1.6, wind=5.0
)
GOLDEN: Final = Daylight(sun_elevation=3.5, sun_azimuth=38.0, cloud_cover=0.50, seed=23)
SIDE: Final = Daylight(sun_elevation=14.0, sun_azimuth=-75.0, cloud_cover=0.45, seed=5, haze=1.5)
DULL: Final = Daylight(sun_elevation=35.0, sun_azimuth=120.0, cloud_cover=1.6, seed=3, shade=1.0, haze=2.2)
NOON: Final = Daylight(sun_elevation=30.0, sun_azimuth=-112.0, cloud_cover=0.36, seed=61)
BLUE: Final = Daylight(sun_elevation=-3.5, sun_azimuth=30.0, cloud_cover=0.34, seed=71, haze=6.0)
BRIGHT: Final = Daylight(sun_elevation=9.0, sun_azimuth=62.0, cloud_cover=0.47, seed=40)


def clock(day: int, hour: int, minute: int, second: int) -> str:
    """A time of October 2026, as Exif writes it."""
    minute, second = minute + second // 60, second % 60
    return f"2026:10:{day:02d} {hour + minute // 60:02d}:{minute % 60:02d}:{second:02d}"


def _sweep() -> list[Shot]:
    """Five upright frames turned by hand from left to right: tilted a little, exposure drifting."""
    rng = np.random.default_rng(8)
    base = Viewpoint(eye=1.8, pitch=3.0, focal_mm=35.0, light=MORNING, figures=("cable",))
    shots = []
    for n in range(5):
        view = replace(
            base, heading=-50.0 + 26.5 * n + rng.normal(0, 0.5), pitch=3.0 + rng.normal(0, 0.6),
            roll=float(rng.normal(0.4, 0.8)), when=2.1 * n,
        )  # fmt: skip
        shots.append(
            Shot(
                f"sweep-{n + 1}", view, Exposure(1 / 100 * (1 + 0.05 * (n - 2)), 8.0, 100), 3504, 2336, 8,
                clock(4, 8, 12, 3 * n), 200 + n, "a hand-held sweep",
            )
        )  # fmt: skip
    return shots


def _bracket() -> list[Shot]:
    """Five exposures two stops apart into the sun, by hand; the waves move on between them."""
    rng = np.random.default_rng(9)
    base = Viewpoint(eye=1.6, heading=-2.0, pitch=4.0, roll=0.2, focal_mm=20.0, light=LOW_SUN)
    shots = []
    for n, stops in enumerate((-4, -2, 0, 2, 4)):
        view = replace(
            base, heading=-2.0 + rng.normal(0, 0.05), pitch=4.0 + rng.normal(0, 0.05),
            roll=0.2 + float(rng.normal(0, 0.05)), when=0.7 * n,
        )  # fmt: skip
        shots.append(
            Shot(
                f"bracket-{n + 1}", view, Exposure(1 / 125 * 2.0**stops, 11.0, 100), 3504, 2336, 1,
                clock(3, 18, 41, n), 300 + n, "a bracket into the sun",
            )
        )  # fmt: skip
    return shots


def _twin() -> list[Shot]:
    """The same view twice from a tripod: once for the sky, once for the land."""
    view = Viewpoint(
        place="boulders", eye=1.3, heading=18.0, pitch=-2.0, roll=0.0, focal_mm=24.0,
        light=replace(BRIGHT, sun_azimuth=12.0, sun_elevation=6.0, seed=33),
    )  # fmt: skip
    return [
        Shot(f"twin-{name}", view, Exposure(seconds, 11.0, 100), 3504, 2336, 1, clock(3, 18, 5, 4 * n), 400 + n,
             "a dark and a bright twin")
        for n, (name, seconds) in enumerate((("dark", 1 / 250), ("bright", 1 / 30)))
    ]  # fmt: skip


def _skies() -> list[Shot]:
    """Three skies kept for a day without one."""
    lights = (
        replace(EVENING, sun_elevation=6.0, sun_azimuth=-80.0, seed=101, cloud_cover=0.55),
        replace(NOON, sun_elevation=32.0, sun_azimuth=140.0, seed=117, cloud_cover=0.48),
        replace(GOLDEN, sun_elevation=2.0, sun_azimuth=-15.0, seed=131, cloud_cover=0.62),
    )
    return [
        Shot(f"sky-{n + 1}", Viewpoint("boulders", heading=-46.0 + 6 * n, pitch=25.0, roll=0.0, focal_mm=28.0, light=light),
             Exposure(seconds, 8.0, 100), 3504, 2336, 1, clock(3, 14 + 2 * n, 30, 11), 500 + n, "a sky to lend")
        for n, (light, seconds) in enumerate(zip(lights, (1 / 400, 1 / 125, 1 / 200), strict=True))
    ]  # fmt: skip


OUTING: Final[list[Shot]] = [
    Shot("stack-backlit", Viewpoint(figures=("gull",)), Exposure(1 / 250), taken=clock(3, 18, 21, 40),
         job="a dull backlit stack under a bright sky"),
    *_twin(), *_bracket(),
    Shot("pool", Viewpoint("pool", 1.35, 4.0, -11.0, 0.0, 20.0, GOLDEN, figures=("boat",)),
         Exposure(1 / 100, 11.0, 100), 3504, 2336, taken=clock(3, 18, 52, 9), seed=11, job="a tide pool that mirrors the sky"),
    Shot("blue-hour", Viewpoint("shore", 2.4, -14.0, 2.0, 0.0, 35.0, BLUE),
         Exposure(1 / 100, 2.8, 3200), 3504, 2336, taken=clock(3, 19, 38, 2), seed=12, job="a smoky blue hour at high ISO"),
    *_sweep(),
    Shot("path", Viewpoint("path", 1.7, 2.0, -3.0, 0.0, 28.0, SIDE, figures=("walker", "reeds", "grass")),
         Exposure(1 / 100, 8.0, 100), 3504, 2336, taken=clock(4, 9, 30, 20), seed=13, job="a walker on a path"),
    Shot("grey-card", Viewpoint("path", 1.7, 2.0, -6.0, 0.0, 50.0, SIDE, figures=("card", "grass")),
         Exposure(1 / 100, 8.0, 100), 1752, 1168, taken=clock(4, 9, 31, 2), seed=14, job="the grey card", white="card"),
    Shot("beacon", Viewpoint("knoll", 1.5, -8.0, 17.0, 0.5, 21.0, NOON, figures=("beacon", "cable", "grass")),
         Exposure(1 / 160, 8.0, 100), 3504, 2336, 8, clock(4, 11, 2, 33), 15, "a beacon shot upwards"),
    Shot("heath", Viewpoint("heath", 1.6, 0.0, 5.0, 0.3, 32.0, DULL, figures=("birches", "reeds", "grass", "cable")),
         Exposure(1 / 100, 8.0, 100), 6000, 4000, taken=clock(4, 13, 15, 48), seed=16, job="birches and a cable under a blank sky"),
    Shot("boulders", Viewpoint("boulders", 1.2, -6.0, -4.0, 0.0, 16.0, BRIGHT, figures=("tripod",)),
         Exposure(1 / 80, 11.0, 100), 3504, 2336, taken=clock(4, 16, 44, 51), seed=17, job="a wide foreground, squashed by the lens"),
    *_skies(),
]  # fmt: skip
"""In the order in which they were taken, day by day."""


def find(name: str) -> Shot:
    """The shot of a name. Raises KeyError."""
    return {shot.name: shot for shot in OUTING}[name]
