"""What the light may have been: three estimates, each named by what it takes for granted."""

from typing import Final

import cv2
import numpy as np
from pydantic import BaseModel

from ..colour import light_of_neutral
from ..render.develop import Development

ESTIMATE_LONG_EDGE: Final = 640
ASSUMPTIONS: Final = {
    "grey": "all averages to grey",
    "edges": "edges are neutral",
    "brightest": "the brightest is white",
}


class Estimate(BaseModel):
    """A light that would make the assumption true. kelvin and tint (Duv × 1000); None, with the reason
    in `trouble`, where no light does."""

    method: str
    assumes: str
    kelvin: float | None
    tint: float | None
    trouble: str = ""


def estimate_lights(development: Development) -> list[Estimate]:
    """Grey world (Buchsbaum 1980), grey edge (van de Weijer 2007) and brightest regions, from what did
    not clip, of the whole frame."""
    base = development.geometry.base
    camera = development.ground.reading_camera(base.look(ESTIMATE_LONG_EDGE), base).astype(float)
    whole = camera.max(0) < 0.85
    # beside clipped light glare has the upper hand
    whole = cv2.erode(whole.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(bool)
    whole &= camera.min(0) > 0.0015
    found: dict[str, np.ndarray] = {}  # type: ignore[type-arg]
    if whole.sum() > 200:
        found["grey"] = camera[:, whole].mean(1)
        smooth = np.stack([cv2.GaussianBlur(c, (0, 0), 1.0) for c in camera])
        steps = np.hypot(np.gradient(smooth, axis=1), np.gradient(smooth, axis=2))
        found["edges"] = (steps[:, whole] ** 5).mean(1) ** 0.2
        light = camera.sum(0)
        bright = whole & (light >= np.quantile(light[whole], 0.98))
        found["brightest"] = camera[:, bright].mean(1)
    out = []
    for method, assumes in ASSUMPTIONS.items():
        try:
            if method not in found:
                raise ValueError("hardly anything in this frame is neither clipped nor black")
            light_found = light_of_neutral(development.raster.info.colour, found[method])
        except ValueError as error:
            out.append(Estimate(method=method, assumes=assumes, kelvin=None, tint=None, trouble=str(error)))
            continue
        out.append(
            Estimate(
                method=method,
                assumes=assumes,
                kelvin=round(light_found.kelvin),
                tint=round(light_found.duv * 1000, 1),
            )
        )
    return out
