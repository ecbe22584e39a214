"""What a lens did to a frame, as even polynomials of the distance from its centre.

All radii are divided by half the frame's diagonal, so that r = 1 at its corners. `true` is where an
ideal lens would have put a point, `seen` where this one put it:

    seen = true · (1 + k0 + k1 r² + k2 r⁴ + k3 r⁶)       r: true radius
    seen in red (blue) = seen · (1 + q0 + q1 s²)         s: seen radius
    light reaching the sensor = 1 + a1 s² + a2 s⁴ + a3 s⁶
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..errors import GeometryError

F64 = NDArray[np.float64]

REACH: Final = 1.45
"""True radii up to this are asked for: a corner that a lens drew in by a third."""


@dataclass(frozen=True)
class LensShape:
    """See the module. The default is an ideal lens."""

    distortion: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    red: tuple[float, float] = (0.0, 0.0)
    blue: tuple[float, float] = (0.0, 0.0)
    falloff: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def bends(self) -> bool:
        """True when the lens moves anything."""
        return any(self.distortion) or self.lateral

    @property
    def lateral(self) -> bool:
        """True when the three colours lie apart."""
        return any(self.red) or any(self.blue)

    def factor(self, r2: F64) -> F64:
        """seen / true at a squared true radius."""
        k0, k1, k2, k3 = self.distortion
        return np.asarray(1 + k0 + r2 * (k1 + r2 * (k2 + r2 * k3)))

    def apart(self, s2: F64, colour: tuple[float, float]) -> F64:
        """How many times further from the middle a colour lies (`red` or `blue`) at a squared seen radius."""
        return np.asarray(1 + colour[0] + colour[1] * s2)

    def undo(self, seen: F64) -> F64:
        """The true radius of a seen one, by Newton's method."""
        k0, k1, k2, k3 = self.distortion
        r = np.minimum(np.asarray(seen, float), REACH)
        for _ in range(12):
            r2 = r * r
            slope = 1 + k0 + r2 * (3 * k1 + r2 * (5 * k2 + r2 * 7 * k3))
            r = np.clip(r - (r * self.factor(r2) - seen) / np.maximum(slope, 0.05), 0, 2 * REACH)
        return np.asarray(r)

    def transmitted(self, s2: F64) -> F64:
        """Share of the light that reaches the sensor at a squared seen radius."""
        a1, a2, a3 = self.falloff
        return np.asarray(1 + s2 * (a1 + s2 * (a2 + s2 * a3)))

    def check(self) -> "LensShape":
        """Itself. Raises GeometryError when it folds the picture over itself, or loses all light."""
        r = np.linspace(0, REACH, 200)
        seen = r * self.factor(r * r)
        inside = np.concatenate([[True], seen[:-1] < 1.0])
        if not np.all(np.isfinite(seen)) or np.any(np.diff(seen)[inside[1:]] <= 1e-4) or seen.max() < 1.0:
            raise GeometryError("this lens correction would fold the picture over itself; it was left off")
        spread = max(abs(self.red[0]) + abs(self.red[1]), abs(self.blue[0]) + abs(self.blue[1]))
        if not spread <= 0.02:
            raise GeometryError("this lens correction sets the colours absurdly far apart; it was left off")
        light = self.transmitted(np.linspace(0, 1, 100) ** 2)
        if not (np.all(light > 0.04) and np.all(light < 3)):
            raise GeometryError(
                "this lens correction says that no light reaches the corners; it was left off"
            )
        return self

    def times(self, distortion: float, falloff: float, lateral: float) -> "LensShape":
        """The same with shares of its three faults."""

        def each(values: tuple[float, ...], share: float) -> tuple[float, ...]:
            return tuple(v * share for v in values)

        return LensShape(
            each(self.distortion, distortion),  # type: ignore[arg-type]
            each(self.red, lateral),  # type: ignore[arg-type]
            each(self.blue, lateral),  # type: ignore[arg-type]
            each(self.falloff, falloff),  # type: ignore[arg-type]
        )

    def plus(self, other: "LensShape") -> "LensShape":
        """Both together, coefficient by coefficient: exact to first order."""

        def add(a: tuple[float, ...], b: tuple[float, ...]) -> tuple[float, ...]:
            return tuple(x + y for x, y in zip(a, b, strict=True))

        return LensShape(
            add(self.distortion, other.distortion),  # type: ignore[arg-type]
            add(self.red, other.red),  # type: ignore[arg-type]
            add(self.blue, other.blue),  # type: ignore[arg-type]
            add(self.falloff, other.falloff),  # type: ignore[arg-type]
        )


def fit_even(r2: F64, values: F64, terms: int, constant: bool) -> F64:
    """Least-squares coefficients of values ≈ 1 + [c0 +] c1 r² + c2 r⁴ …; `terms` counts the powers."""
    powers = np.arange(0 if constant else 1, terms + 1)
    design = r2[:, None] ** powers
    return np.asarray(np.linalg.lstsq(design, values - 1, rcond=None)[0])
