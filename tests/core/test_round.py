"""What goes all the way round has no edge: cut elsewhere, it is the same picture. Every stage at the cut against the same raster
cut half a turn away, where that place is its middle."""

import numpy as np
import pytest

from sunlatch.blocks import Block, going_round, reader
from sunlatch.frame import FrameInfo, whole
from sunlatch.ledger import Scene, Source
from sunlatch.render import Engine

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
