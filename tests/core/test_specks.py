"""Specks from faint to dark, sharp to soft, laid on frames that have none; and what is dark and round, but no speck."""

from dataclasses import replace

import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any, without
from sunlatch.frame import FrameStore, Pyramid, hash_file
from sunlatch.mend import find_specks
from tests.coast import shoot

WIDE = 2400
APART = 60
"""Px between specks that are laid on."""


@pytest.fixture(scope="module")
def clean(tmp_path_factory: pytest.TempPathFactory, store: FrameStore):  # type: ignore[no-untyped-def]
    """Frames without specks, by name."""
    folder, held = tmp_path_factory.mktemp("clean"), {}

    def made(name: str) -> Pyramid:
        if name not in held:
            path = folder / f"{name}.dng"
            shoot(smaller(without(find_any(name), ["specks"]), WIDE), path)
            held[name] = store.whole(hash_file(path), path)
        return held[name]

    return made


def dusted(raster: Pyramid, seed: int, count: int, depths: tuple[float, float], below: float):  # type: ignore[no-untyped-def]
    """The same with specks over its upper part, down to `below`: (x, y, radius) of each."""
    rng = np.random.default_rng(seed)
    h, w = raster.shape(0)
    spots: list[tuple[float, float, float]] = []
    light = np.array(raster.levels[0], np.float32)
    while len(spots) < count:
        y, x, radius = rng.uniform(APART, below * h), rng.uniform(APART, w - APART), rng.uniform(4, 14)
        depth, sharp = np.exp(rng.uniform(*np.log(depths))), rng.uniform(2, 12)
        if any(np.hypot(x - a, y - b) < APART for a, b, _ in spots):
            continue
        spots.append((x, y, radius))
        reach = int(3 * radius) + 2
        top, left = int(y) - reach, int(x) - reach
        rows, columns = np.mgrid[top : top + 2 * reach, left : left + 2 * reach] + 0.5
        away = (np.square(rows - y) + np.square(columns - x)) / radius**2
        shade = 1 - depth / (1 + np.exp(np.clip((away - 1) * sharp, -30, 30)))
        light[top : top + 2 * reach, left : left + 2 * reach] *= shade[..., None]
    levels = {0: light}
    for k in sorted(raster.levels)[1:]:
        finer = levels[k - 1]
        rows, columns = finer.shape[0] // 2 * 2, finer.shape[1] // 2 * 2
        even = finer[:rows, :columns].reshape(rows // 2, 2, columns // 2, 2, 3).mean((1, 3))
        levels[k] = np.resize(raster.levels[k], raster.levels[k].shape).astype(np.float32)
        levels[k][: even.shape[0], : even.shape[1]] = even
    held = {k: v.astype(np.float16) for k, v in levels.items()}
    return replace(raster, key=f"dust {seed} {depths}", levels=held, folder=None), spots


def told(raster: Pyramid, spots: list[tuple[float, float, float]]) -> tuple[float, int]:
    """The share of specks that are found, and how many others are."""
    found = find_specks(raster)
    near = [[np.hypot(d.x - x, d.y - y) < 1.5 * max(r, 5) for x, y, r in spots] for d in found]
    hit = np.array(near).reshape(-1, len(spots)).any(0) if found else np.zeros(len(spots), bool)
    return float(hit.mean()), sum(not any(n) for n in near)


@pytest.mark.parametrize(
    ("name", "below", "depths", "share"),
    [
        ("heath", 0.3, (0.03, 0.2), 0.95), ("heath", 0.3, (0.2, 0.6), 0.9),
        ("twin-bright", 0.35, (0.2, 0.6), 0.85), ("sky-2", 0.9, (0.2, 0.6), 0.7),
    ],
)  # fmt: skip
def test_specks_are_found_however_deep(clean, name, below, depths, share):
    raster, spots = dusted(clean(name), 1, 40, depths, below)
    found, others = told(raster, spots)
    assert found >= share
    assert others <= 2


@pytest.mark.parametrize("name", ["heath", "boulders", "pool"])
def test_what_is_dark_and_round_on_the_land_is_no_speck(clean, name):
    assert len(find_specks(clean(name))) <= 2


def test_how_sure_it_is_of_specks_is_how_many_are_some(clean):
    """Over frames on which finding them is easy and hard: what is said to be so many is so many, within a few."""
    said = true = 0.0
    for name, below, depths in (
        ("heath", 0.3, (0.03, 0.2)),
        ("sky-2", 0.9, (0.03, 0.2)),
        ("boulders", 0.3, (0.2, 0.6)),
    ):
        raster, spots = dusted(clean(name), 7, 40, depths, below)
        for dust in find_specks(raster):
            said += dust.sure
            true += any(np.hypot(dust.x - x, dust.y - y) < 1.5 * max(r, 5) for x, y, r in spots)
    assert true > 50
    assert abs(said - true) < 0.1 * true
