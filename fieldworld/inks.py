"""Ink on paper: what the proof press's inks come to on its three papers.

After Neugebauer's equations with Yule and Nielsen's factor for light that spreads in the paper (Yule and Nielsen 1951; Viggiano
1985); inks after Beer. Spectra are invented, 400 to 700 nm.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sunlatch.colour.spaces import D50, adaptation
from sunlatch.errors import SunLatchError

F64 = NDArray[np.float64]
NM = np.arange(400.0, 701.0, 10.0)
EQUAL = np.array([1 / 3, 1 / 3])
SPREAD = 2.0
"""Yule and Nielsen's factor."""
TRAPPED = 0.92
"""How much of an ink holds on another."""


def _lobe(at: float, below: float, above: float) -> F64:
    return np.exp(-0.5 * ((NM - at) / np.where(at > NM, below, above)) ** 2)


# CIE 1931's observer, after Wyman, Sloan and Shirley 2013 (Simple analytic approximations to the CIE XYZ colour matching functions)
OBSERVER = np.stack(
    [
        1.056 * _lobe(599.8, 37.9, 31.0)
        + 0.362 * _lobe(442.0, 16.0, 26.7)
        - 0.065 * _lobe(501.1, 20.4, 26.2),
        0.821 * _lobe(568.8, 46.9, 40.5) + 0.286 * _lobe(530.9, 16.3, 31.1),
        1.217 * _lobe(437.0, 11.8, 36.0) + 0.681 * _lobe(459.0, 26.0, 13.8),
    ]
)
INKS = np.stack(
    [
        1.55 * _lobe(650, 62, 70) + 0.05,
        1.50 * _lobe(545, 42, 34) + 0.10 * _lobe(430, 40, 40) + 0.02,
        1.45 * _lobe(430, 40, 48) + 0.02,
        np.full(NM.size, 2.1),
    ]
)
"""Densities of cyan, magenta, yellow and black, laid on solid."""


@dataclass(frozen=True)
class Stock:
    """A paper of the press. white: how much it reflects; warm: how much less of that at 400 nm; veil: what its surface throws
    back, whatever ink lies on it; ink: how much it takes; gain: how much a dot of a half grows."""

    name: str
    label: str
    surface: str
    white: float
    warm: float
    veil: float
    ink: float
    gain: float

    @cached_property
    def solids(self) -> F64:
        """Roots of the XYZ (16, 3) of every way to lay inks over each other, for D50."""
        sheet = self.white - self.warm * ((700 - NM) / 300) ** 2
        out = []
        for n in range(16):
            laid = [k for k in range(4) if n >> k & 1]
            density = sum(
                (self.ink * INKS[k] * (TRAPPED if i else 1.0) for i, k in enumerate(laid)), np.zeros(NM.size)
            )
            light = self.veil + (1 - self.veil) * sheet * 10.0**-density
            out.append(OBSERVER @ light / OBSERVER[1].sum())
        xyz = np.array(out) @ adaptation(EQUAL, D50).T
        return np.maximum(xyz, 1e-6) ** (1 / SPREAD)

    def printed(self, inks: F64) -> F64:
        """XYZ for D50 (n, 3), 1 for a perfect white, of what inks (n, 4), 0–1, come to on paper."""
        dots = inks + 4 * self.gain * inks * (1 - inks)
        shares = np.ones((len(inks), 1))
        for k in range(4):
            c = dots[:, k : k + 1]
            shares = np.concatenate([shares * (1 - c), shares * c], axis=1)
        return (shares @ self.solids) ** SPREAD

    def of_codes(self, codes: F64) -> F64:
        """The same of a file's numbers, 0–1: of three (n, 3) the press makes inks itself, four (n, 4) are inks."""
        return self.printed(codes if codes.shape[1] == 4 else inked(codes))


def inked(rgb: F64) -> F64:
    """Inks (n, 4) that the press lays for red, green and blue (n, 3), 0–1: black takes over from the darks on."""
    cmy = 1 - rgb
    grey = np.clip((cmy.min(1, keepdims=True) - 0.35) / 0.65, 0, 1)
    black = 0.96 * grey**1.7
    return np.concatenate([np.clip(cmy - 0.25 * black * grey, 0, 1), black], axis=1)


STOCKS = {
    s.name: s
    for s in (
        Stock("matte", "Matte cotton", "matte", 0.90, 0.05, 0.028, 0.82, 0.085),
        Stock("lustre", "Lustre", "lustre", 0.92, -0.02, 0.006, 1.0, 0.06),
        Stock("metallic", "Metallic", "metallic", 0.84, -0.03, 0.0025, 1.12, 0.05),
    )
}


def stock(name: str) -> Stock:
    """A paper by name. Raises SunLatchError."""
    if name not in STOCKS:
        raise SunLatchError(f"the press has no paper {name!r}; it has {', '.join(STOCKS)}")
    return STOCKS[name]
