"""The field camera on its cable: answers JSON lines on standard input with JSON lines.

{"do": "offer"}                                   → {"offer": what can be set, and how far}
{"do": "look", "settings": …, "file": path}       → {"file": path}: a small raw frame for the viewfinder
{"do": "release", "settings": …, "folder": path}  → {"frame": path, "number": n, "of": m} each, then {"done": m}
Whatever cannot be set is answered with {"error": sentence}. Whoever holds the cable knows this much
of the camera and nothing of the coast.
"""

import json
import sys
import time
from dataclasses import replace
from pathlib import Path
from typing import Any, Final

import numpy as np

from .camera import LIMITS, CameraError, Exposure, Shot, develop, smaller, within_limits
from .optics import SENSOR_MM
from .outing import BLUE, BRIGHT, DULL, EVENING, GOLDEN, MORNING, NOON, SIDE
from .seen import Viewpoint
from .world import Scenery

VIEWPOINTS: Final[dict[str, tuple[str, Viewpoint]]] = {
    "stack": ("Stack with its arch", Viewpoint(figures=("gull",))),
    "pool": ("Tide pool", Viewpoint("pool", 1.35, 4.0, -9.0, 0.0, 20.0, figures=("boat",))),
    "boulders": ("Boulder beach", Viewpoint("boulders", 1.3, -4.0, -4.0, 0.0, 18.0)),
    "path": ("Path over the heath", Viewpoint("path", 1.7, 2.0, -3.0, 0.0, 28.0, figures=("walker", "reeds", "grass"))),
    "birches": ("Birches on the heath", Viewpoint("heath", 1.6, 0.0, 5.0, 0.0, 32.0, figures=("birches", "reeds", "grass", "cable"))),
    "beacon": ("White beacon", Viewpoint("knoll", 1.5, 3.0, 17.0, 0.0, 24.0, figures=("beacon", "cable", "grass"))),
}  # fmt: skip
TIMES: Final = {
    "morning": ("Early morning", MORNING), "forenoon": ("Forenoon", SIDE), "noon": ("Noon", NOON), "dull": ("Overcast", DULL),
    "afternoon": ("Late afternoon", BRIGHT), "evening": ("Evening", EVENING), "sundown": ("Sundown", GOLDEN),
    "blue": ("Blue hour", BLUE),
}  # fmt: skip
MODES: Final = {"single": "Single", "bracket": "Bracket", "sweep": "Sweep", "long": "Long exposure"}
FRAMES: Final = {"single": 1, "bracket": 5, "sweep": 5, "long": 1}
"""How many frames a mode takes unless told otherwise."""
OVERLAP: Final = 0.30
SENSOR: Final = (3504, 2336)
LOOK_PX: Final = 420
WIDEST_SWEEP: Final = 200.0
"""Degrees a sweep may turn through."""


def offer() -> dict[str, Any]:
    """What can be set, and how far."""
    return {
        "model": "Field One",
        "viewpoints": {k: label for k, (label, _) in VIEWPOINTS.items()},
        "focal": {k: view.focal_mm for k, (_, view) in VIEWPOINTS.items()},
        "times": {k: label for k, (label, _) in TIMES.items()},
        "modes": MODES,
        "frames": FRAMES,
        "limits": {k: {"low": low, "high": high, "unit": unit} for k, (low, high, unit) in LIMITS.items()},
    }


def _chosen(settings: dict[str, Any], key: str, known: dict[str, Any]) -> Any:
    if settings.get(key) not in known:
        raise CameraError(
            f"The field camera knows no {key} {settings.get(key)!r}; it knows {', '.join(known)}."
        )
    return known[settings[key]]


def _number(settings: dict[str, Any], key: str, default: float) -> float:
    value = settings.get(key, default)
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not np.isfinite(value):
        raise CameraError(f"The field camera cannot read {value!r} as its {key}.")
    return float(value)


def shots(settings: dict[str, Any], now: float | None = None) -> list[Shot]:
    """The frames that a release with these settings takes. Raises CameraError."""
    _, view = _chosen(settings, "viewpoint", VIEWPOINTS)
    _, light = _chosen(settings, "time", TIMES)
    _chosen(settings, "mode", MODES)
    mode = settings["mode"]
    exposure = Exposure(
        _number(settings, "seconds", 1 / 125),
        _number(settings, "f_number", 8.0),
        round(_number(settings, "iso", 100)),
    )
    focal = _number(settings, "focal_mm", view.focal_mm)
    turn, tilt = _number(settings, "turn", 0.0), _number(settings, "tilt", 0.0)
    step = _number(settings, "step", 2.0)
    within_limits(turn=turn, tilt=tilt, step=step)
    frames = round(_number(settings, "frames", FRAMES[mode]))
    if mode in ("single", "long"):
        frames = 1
    within_limits(
        focal_mm=focal, seconds=exposure.seconds, f_number=exposure.f_number, iso=exposure.iso, frames=frames
    )
    start = time.time() if now is None else now
    seed = int(start * 10) % 2_000_000_000
    rng = np.random.default_rng(seed)
    moment = (start % 3600.0) * 0.37
    view = replace(
        view, light=light, focal_mm=focal, when=moment, water_s=exposure.seconds if exposure.seconds > 0.05 else 0.0,
        heading=view.heading + turn, pitch=view.pitch + tilt,
    )  # fmt: skip
    stem = f"{settings['viewpoint']}-{time.strftime('%H%M%S', time.gmtime(start))}"

    def shot(n: int, view: Viewpoint, exposure: Exposure, orientation: int = 1) -> Shot:
        taken = time.strftime("%Y:%m:%d %H:%M:%S", time.gmtime(start + n * (1 + exposure.seconds)))
        name = stem if frames == 1 else f"{stem}-{n + 1}"
        return Shot(name, view, exposure, *SENSOR, orientation, taken, seed + n)

    if mode == "bracket":
        made = []
        for n in range(frames):
            seconds = exposure.seconds * 2.0 ** (step * (n - (frames - 1) / 2))
            within_limits(seconds=seconds)
            shaken = replace(
                view, heading=view.heading + rng.normal(0, 0.04), pitch=view.pitch + rng.normal(0, 0.04),
                roll=view.roll + float(rng.normal(0, 0.04)), when=moment + 0.7 * n,
            )  # fmt: skip
            made.append(shot(n, shaken, replace(exposure, seconds=seconds)))
        return made
    if mode == "sweep":
        across = 2 * np.degrees(np.arctan(SENSOR_MM * SENSOR[1] / SENSOR[0] / 2 / focal))
        apart = across * (1 - OVERLAP)
        if apart * (frames - 1) > WIDEST_SWEEP:
            most = int(WIDEST_SWEEP / apart) + 1
            raise CameraError(
                f"A sweep of {frames} frames at {focal:g} mm would turn through {apart * (frames - 1):.0f}°; "
                f"the field camera turns through {WIDEST_SWEEP:.0f}° at most, {most} frames there."
            )
        return [
            shot(
                n,
                replace(
                    view, heading=view.heading + apart * (n - (frames - 1) / 2) + rng.normal(0, 0.4),
                    pitch=view.pitch + rng.normal(0, 0.5), roll=float(rng.normal(0.3, 0.7)), when=moment + 2.0 * n,
                ),
                replace(exposure, seconds=exposure.seconds * float(1 + rng.normal(0, 0.04))),
                8,
            )
            for n in range(frames)
        ]  # fmt: skip
    return [shot(0, view, exposure)]


def _say(**message: Any) -> None:
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


def _answer(request: dict[str, Any]) -> None:
    do, settings = request.get("do"), request.get("settings", {})
    if do == "offer":
        _say(offer=offer())
    elif do == "look":
        taken = shots(settings)
        one = smaller(taken[len(taken) // 2], LOOK_PX)
        scenery = Scenery(one.view, one.lens, 2)
        develop(one, scenery.look(), scenery, Path(request["file"]))
        _say(file=request["file"])
    elif do == "release":
        taken = shots(settings)
        for n, one in enumerate(taken, 1):
            scenery = Scenery(one.view, one.lens, 2)
            path = Path(request["folder"]) / f"{one.name}.dng"
            develop(one, scenery.look(), scenery, path)
            _say(frame=str(path), number=n, of=len(taken))
        _say(done=len(taken))
    else:
        _say(error=f"The field camera does not know what {do!r} means.")


def main() -> None:
    """Answer until the cable is pulled."""
    for line in sys.stdin:
        try:
            _answer(json.loads(line))
        except CameraError as error:
            _say(error=str(error))
        except OSError as error:
            _say(error=f"The frame could not be handed over: {error.strerror}.")


if __name__ == "__main__":
    main()
