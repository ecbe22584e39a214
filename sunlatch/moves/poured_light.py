"""Poured light: light that was not there, all over, from a side or from a place, in a colour of its own.

It is unbounded and linear. Whatever the blend, `light` says by how many stops middle grey is lifted where it
falls whole.
"""

from typing import Final

import numpy as np

from ..compiled import part
from ..fastmath import exp2, log2
from ..parameters import Params, Point, choice, number, point, typed_colour
from .base import F32, Lay, MoveKind, move_kernel
from .rows import of_one_light

FROM: Final = {"all": "all over", "side": "from a side", "place": "from a place"}
BLENDS: Final = {"adds": "adds", "soaks": "soaks", "glints": "glints"}


class PouredLightParams(Params):
    """`start` is the place, or where the side begins; `end` is as far as it reaches."""

    light: float = number(
        "Light", default=0.0, low=-3.0, high=4.0, step=0.05, unit="stops", signed=True, decimals=2,
        hint="How much lighter middle grey becomes where it falls",
    )  # fmt: skip
    where: str = choice("Comes", "place", FROM)
    blend: str = choice("It", "adds", BLENDS)
    colour: str = typed_colour("Colour", "#ffd9a0")
    other: str = typed_colour("Fading to", "#ffd9a0")
    depth: float = number(
        "Colour strength", default=1.0, low=0.0, high=2.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="From white light to the colour, and past it",
    )  # fmt: skip
    soft: float = number(
        "Softness", default=1.0, low=0.05, high=1.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the way it takes to fade",
    )  # fmt: skip
    start: Point = point("Start", 0.5, 0.25)
    end: Point = point("End", 0.8, 0.4)


_ZERO, _ONE, _THREE, _GREY = np.float32(0), np.float32(1), np.float32(3), np.float32(0.18)


@part
def _row_falls(mask, place, wide, x0, y, ax, ay, where, soft, falls, way):  # type: ignore[no-untyped-def]
    """How much falls on each px of a row, 0–1, and how far it is on the way from the first colour to the other."""
    for c in range(mask.size):
        x = (place[0] + np.float32(c) * place[2]) * wide - x0
        t = x * ax + y * ay
        far = np.sqrt((x * x + y * y) * (ax * ax + ay * ay))
        t = min(max(_ZERO, far if where > np.float32(1.5) else t), _ONE)
        q = min(max(_ZERO, (t - (_ONE - soft)) / soft), _ONE)
        from_somewhere = where > np.float32(0.5)
        falls[c] = mask[c] * (_ONE - q * q * (_THREE - q - q) if from_somewhere else _ONE)
        way[c] = t if from_somewhere else _ZERO


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Adds: + grey·(2^light − 1)·colour. Soaks: times 2^light·colour. Glints: light is added in proportion to
    what is there, and to how bright it is. All times how much falls, 0–1."""
    lift, blend, where, soft = coef[0], coef[1], coef[2], coef[3]
    x0, y0, ax, ay, wide, tall = coef[10], coef[11], coef[12], coef[13], coef[14], coef[15]
    more = exp2(lift) - _ONE
    w = rgb.shape[2]
    falls, way, much = np.empty(w, np.float32), np.empty(w, np.float32), np.empty(w, np.float32)
    for r in range(rgb.shape[1]):
        y = (place[1] + np.float32(r) * place[3]) * tall - y0
        _row_falls(mask[r], place, wide, x0, y, ax, ay, where, soft, falls, way)
        a, b, d = rgb[0, r], rgb[1, r], rgb[2, r]
        if blend > np.float32(1.5):
            for c in range(w):
                luma = max(
                    np.float32(0.2627) * a[c] + np.float32(0.6780) * b[c] + np.float32(0.0593) * d[c], _ZERO
                )
                much[c] = falls[c] * more * (luma + luma) / (luma + _GREY)
        for k in range(3):
            one, low, rise = rgb[k, r], coef[4 + k], coef[7 + k] - coef[4 + k]
            if blend < np.float32(0.5):
                for c in range(w):
                    one[c] += falls[c] * _GREY * more * (low + rise * way[c])
            elif blend < np.float32(1.5):
                for c in range(w):
                    one[c] *= exp2(falls[c] * (lift + log2(low + rise * way[c])))
            else:
                for c in range(w):
                    one[c] += much[c] * (low + rise * way[c]) * one[c]


def _tone(typed: str, depth: float) -> F32:
    """Working RGB (3,) of a luminance of 1, from white (0) to a colour (1) and past it."""
    tone = np.maximum(of_one_light(typed), 0.02) ** depth
    return np.asarray(tone / (0.2627 * tone[0] + 0.6780 * tone[1] + 0.0593 * tone[2]), np.float32)


def coefficients(params: PouredLightParams, strength: float) -> F32:
    """[light, blend, where, softness, both colours]; at no strength no colour soaks in either."""
    depth = params.depth * (min(strength, 1.0) if params.light == 0 else strength)
    both = [_tone(params.colour, depth), _tone(params.other, depth)]
    head = [params.light * strength, list(BLENDS).index(params.blend), list(FROM).index(params.where)]
    return np.concatenate([head, [params.soft], *both]).astype(np.float32)


def located(params: PouredLightParams, lay: Lay) -> F32:
    """[start x, y; the axis over its length squared; the canvas's width and height], in long edges."""
    ends = np.array([[params.start.x, params.start.y], [params.end.x, params.end.y]])
    start, end = lay.to_canvas(ends)
    axis = end - start
    length2 = max(float(axis @ axis), 1e-6)
    return np.concatenate([start, axis / length2, lay.aspect]).astype(np.float32)


MOVE = MoveKind(
    kind="poured_light",
    revision=1,
    band="light",
    label="Poured light",
    says="pours light from a side or a place",
    question="Where does the eye go?",
    sentence="Poured light {light}, {where}",
    params=PouredLightParams,
    verbs=("pour", "light"),
    first="light",
    place=52,
    kernel=kernel,
    coefficients=coefficients,
    located=located,
)
