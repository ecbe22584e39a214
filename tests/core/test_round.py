"""What goes all the way round has no edge: cut elsewhere, it is the same picture. Every stage at the cut against the same raster
cut half a turn away, where that place is its middle."""

import numpy as np
import pytest

from sunlatch.blocks import Block, going_round, reader
from sunlatch.frame import FrameInfo, whole
from sunlatch.latch import Stroke
from sunlatch.ledger import Area, Scene, Source, SpecksRepair, Take
from sunlatch.mend import Mended, clone_of, heal_of, regrow_of, spot_of, wire_of
from sunlatch.render import Engine
from tests.core.mending import keep_all

W, H = 1024, 384


class Round:
    """A picture all the way round, cut at `cut` px: the coast and its mirror image, so that it meets itself."""

    wraps, complete, home, clipped = True, True, None, None

    def __init__(self, coast, cut: int = 0) -> None:
        half = whole(coast.pyramid, 0)[:, 300 : 300 + H, 200 : 200 + W // 2]
        full = np.roll(np.concatenate([half, half[:, :, ::-1]], axis=2), -cut, axis=2)
        self._levels = [full]
        for _ in range(3):
            last = self._levels[-1]
            self._levels.append(last.reshape(3, last.shape[1] // 2, 2, last.shape[2] // 2, 2).mean((2, 4)))
        info = coast.pyramid.info.model_dump()
        self.info = FrameInfo.model_validate(
            info | {"width": W, "height": H, "orientation": 1, "clipped": None, "rescued": True, "unit": W}
        )
        self.levels, self.identity = [0, 1, 2, 3], f"round {cut}"

    def identity_of(self, level: int, block: Block) -> str:
        return self.identity

    def shape(self, level: int) -> tuple[int, int]:
        return H >> level, W >> level

    def noise(self, level: int, block: Block):
        return 2e-5 / 4**level, 1e-7 / 4**level

    def coverage(self, level: int):
        return None

    def fetch(self, level: int):
        return going_round(reader(self._levels[level].transpose(1, 2, 0)), W >> level)


@pytest.fixture(scope="module")
def both(coast):
    """Cut where it is looked at, and half a turn away."""
    return Round(coast, 0), Round(coast, W // 2)


def across(raster_fetch, at: int, reach: int = 40):
    """What lies around a column, over all rows."""
    return raster_fetch(0, H, at - reach, at + reach)


@pytest.mark.parametrize("from_", [-1500, -1, 700, 1020, 5000])
def test_blocks_are_read_all_the_way_round(both, from_):
    one = both[0].fetch(0)
    columns = np.arange(from_, from_ + 60) % W
    assert np.array_equal(one(0, H, from_, from_ + 60), whole(both[0], 0)[:, :, columns])


@pytest.mark.parametrize(
    "settings",
    [
        {"noise": {"light": 0.8, "colour": 0.5}},
        {"crispness": {"amount": 0.8}},
        {"refocus": {"amount": 0.8, "radius": 1.2}},
        {"noise": {"light": 0.5}, "crispness": {"amount": 0.5}, "refocus": {"amount": 0.5}},
    ],
    ids=lambda s: "-".join(s),
)
@pytest.mark.parametrize("level", [0, 1])
def test_what_looks_around_itself_sees_no_edge(both, settings, level):
    made = []
    for raster, at in zip(both, (W, W // 2), strict=True):
        scene = Scene(sources=[Source(sha256="0" * 64)])
        for kind, values in settings.items():
            for name, value in values.items():
                setattr(getattr(scene.ground, kind).params, name, value)
        sensor = Engine(threads=2).develop(scene, raster).ground.sensor
        made.append(sensor.fetch(level, "crisp")(0, H >> level, (at >> level) - 40, (at >> level) + 40))
    plain = across(both[0].fetch(0), W) if level == 0 else None
    # tiles lie elsewhere in both: what they share is held in half floats
    assert np.abs(made[0] - made[1]).max() < 2e-3
    if plain is not None:
        assert np.abs(made[0] - plain).max() > 5e-3  # and something was done


# repairs: one that lies across the cut is the same as where there is none


def _mended(raster, at, blobs, make):
    """The raster with a repair made about a column."""
    scene = Scene(sources=[Source(sha256="0" * 64)], repairs=[make(raster, at)])
    return Mended(raster, scene, keep_all(), blobs)


def _stroke(x: float, y: float, radius: float, long: float = 0.0) -> Area:
    return Area(
        strokes=[Stroke(points=[x - long, y, 1.0, x + long, y, 1.0], radius=radius, soft=0.3, flow=1.0)]
    )


MAKES = {
    "heal": lambda blobs: lambda r, at: heal_of(r, _stroke(at / W, 0.2, 0.012, 0.01)),
    "clone": lambda blobs: lambda r, at: clone_of(r, _stroke(at / W, 0.2, 0.012), take=Take(dx=0.08, dy=0.0)),
    "outline": lambda blobs: (
        lambda r, at: heal_of(
            r,
            Area(
                outline=[
                    v
                    for dx, dy in ((-9, -7), (9, -7), (9, 7), (-9, 7))
                    for v in ((at + dx) / W, (200 + dy) / W)
                ]
            ),
        )
    ),
    "speck": lambda blobs: lambda r, at: SpecksRepair(id="s", spots=[spot_of(r, at + 1.0, 150.0, 6.0)]),
    "regrow": lambda blobs: lambda r, at: regrow_of(r, _stroke(at / W, 0.2, 0.015), blobs, seed=3),
    "long": lambda blobs: (
        lambda r, at: clone_of(r, _stroke(at / W, 0.2, 0.004, 0.45), take=Take(dx=0.0, dy=0.05))
    ),
}


@pytest.mark.parametrize("kind", MAKES)
def test_a_repair_across_the_cut_is_as_anywhere_else(both, blobs, kind):
    seen = []
    for raster, at in zip(both, (W, W // 2), strict=True):
        mended = _mended(raster, at, blobs, MAKES[kind](blobs))
        under = across(raster.fetch(0), at)
        seen.append(
            (
                under,
                across(mended.fetch(0), at),
                across(mended.fetch(0), at - W),
                across(mended.fetch(0), at + W),
            )
        )
        coarse = mended.fetch(1)(0, H // 2, at // 2 - 20, at // 2 + 20)
        halved = seen[-1][1].reshape(3, H // 2, 2, 40, 2).mean((2, 4))
        assert np.abs(coarse - halved).max() < 1e-4
    (under, *turns), (_, there, *_) = seen
    assert np.abs(turns[0] - under).max() > 0.004  # something was mended
    for turn in turns:  # the same on this side of the cut, on the other, and read across it
        assert np.abs(turn - turns[0]).max() < 1e-6
    assert np.abs(turns[0] - there).max() < 1e-5


def test_a_wire_is_followed_across_the_cut(coast, blobs):
    rasters = []
    for cut in (0, W // 2):
        raster = Round(coast, 0)
        rows, columns = np.mgrid[:H, :W]
        round_ = (columns + W // 2) % W - W // 2  # from the cut, to either side
        sag = 90 + 10 * np.cos(round_ / 160)
        line = np.exp(-(((rows - sag) / 1.1) ** 2)) * (np.abs(round_) < 300)
        wired = (raster._levels[0] * (1 - 0.8 * line)).astype(np.float32)
        made = Round(coast, cut)
        made._levels[0] = np.roll(wired, -cut, axis=2)
        for k in range(1, 4):
            last = made._levels[k - 1]
            made._levels[k] = last.reshape(3, last.shape[1] // 2, 2, last.shape[2] // 2, 2).mean((2, 4))
        made.identity = f"wired {cut}"
        rasters.append(made)
    seen = []
    for raster, at in zip(rasters, (W, W // 2), strict=True):
        clicks = (
            np.array([[at - 250, 90 + 10 * np.cos(250 / 160)], [at + 250, 90 + 10 * np.cos(250 / 160)]]) / W
        )
        repair = wire_of(raster, clicks)
        mended = Mended(raster, Scene(sources=[Source(sha256="0" * 64)], repairs=[repair]), keep_all(), blobs)
        seen.append((across(raster.fetch(0), at, 100), across(mended.fetch(0), at, 100)))
    (with_it, out), (_, there) = seen
    assert np.abs(out - with_it)[:, 70:130].max() > 0.02
    assert np.abs(out - there).max() < 1e-4
