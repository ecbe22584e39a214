"""A move's kernel run over a small picture, as the renderer runs it."""

import numpy as np

from sunlatch.colour import from_oklab, oklab
from sunlatch.moves import MOVE_KINDS
from sunlatch.moves.base import NO_AUX, Lay

LAY = Lay((1.0, 2 / 3), (0.0, 0.0, 1.0, 2 / 3), lambda points: points)


def place_of(h, w):
    """The whole canvas at (h, w) px."""
    return np.array([0.5 / w, 0.5 / h, 1 / w, 1 / h], np.float32)


def moved(kind, rgb, mask=1.0, strength=1.0, aux=None, place=None, lay=LAY, **params):
    """rgb (3, h, w) after a move whose settings are `params`; what it must know it learns of rgb itself."""
    move = MOVE_KINDS[kind]
    out = np.ascontiguousarray(rgb, np.float32).copy()
    values = move.params(**params)
    coef = move.coefficients(values, strength)
    if move.located is not None:
        coef = np.concatenate([coef, move.located(values, lay)])
    if aux is None:
        aux = move.survey(out.copy(), values).astype(np.float32) if move.survey else NO_AUX
    held = np.ascontiguousarray(np.broadcast_to(mask, out.shape[1:]), np.float32)
    move.kernel(
        out, held, coef, np.ascontiguousarray(aux), place_of(*out.shape[1:]) if place is None else place
    )
    return out.astype(float)


def lab_of(rgb):
    """OKLab (3, ...) of working RGB (3, ...)."""
    return np.moveaxis(oklab(np.moveaxis(np.asarray(rgb, float), 0, -1)), -1, 0)


def rgb_of(lab):
    """Working RGB (3, ...) of OKLab (3, ...)."""
    return np.moveaxis(from_oklab(np.moveaxis(np.asarray(lab, float), 0, -1)), -1, 0)


def stops_of(rgb):
    """Light in stops."""
    return np.log2(np.maximum(0.2627 * rgb[0] + 0.6780 * rgb[1] + 0.0593 * rgb[2], 1e-6) / 0.18)


def colours(n=400, seed=4, low=-6.0, high=2.0):
    """Many colours (3, n/20, 20) of every hue, from dark to light."""
    rng = np.random.default_rng(seed)
    hue, pure = rng.uniform(0, 2 * np.pi, n), rng.uniform(0, 0.22, n)
    light = np.cbrt(0.18 * 2.0 ** rng.uniform(low, high, n))
    lab = np.stack([light, light * pure * np.cos(hue), light * pure * np.sin(hue)])
    return rgb_of(lab).reshape(3, -1, 20)
