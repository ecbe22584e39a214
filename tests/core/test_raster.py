"""Rasters that are no frame's pyramid go through everything: a repair over a frame, and two frames side by side."""

import dataclasses
import hashlib

import numpy as np
import pytest

from sunlatch.blocks import Block, inside, reader, repeat_edges
from sunlatch.frame import FrameInfo, Raster, level_for, whole
from sunlatch.geometry import View
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient, new_move
from sunlatch.meters import read_ladder
from sunlatch.meters.ground import read_ground
from sunlatch.propose import propose
from sunlatch.render import Engine, picture_8
from sunlatch.render.output import Output
from sunlatch.render.picture import PATTERN, bands_of


class Repaired:
    """Another raster under a repair: a rectangle of one colour, in px of level 0 that halve to whole px."""

    def __init__(self, under: Raster, block: Block, colour, settled: str = "") -> None:
        self.under, self.block, self.colour = under, block, np.array(colour, np.float32)[:, None, None]
        said = f"{block} {list(colour)}".encode()
        self.repair = hashlib.blake2b(said, digest_size=8).hexdigest()
        self.settled = settled
        self.info, self.levels, self.complete = under.info, under.levels, under.complete
        self.clipped, self.home, self.wraps = under.clipped, None, False
        self.noise, self.coverage = under.noise, under.coverage
        self.read = []

    @property
    def identity(self) -> str:
        """While a stroke is under way, what the whole is taken for is what it was before it."""
        return self.settled or f"{self.under.identity} {self.repair}"

    def _at(self, level: int) -> Block:
        return Block(*(v >> level for v in self.block))

    def identity_of(self, level: int, block: Block) -> str:
        own = self.under.identity_of(level, block)
        return f"{own} {self.repair}" if self._at(level).touches(block) else own

    def shape(self, level: int) -> tuple[int, int]:
        return self.under.shape(level)

    def fetch(self, level: int):
        read, (h, w), at = self.under.fetch(level), self.shape(level), self._at(level)

        def fetch(top: int, bottom: int, left: int, right: int):
            self.read.append(level)
            out = read(top, bottom, left, right)
            y0, y1, a, b = inside(top, bottom, h)
            x0, x1, c, d = inside(left, right, w)
            rows = slice(max(at.top, y0) - y0 + a, max(min(at.bottom, y1), y0) - y0 + a)
            columns = slice(max(at.left, x0) - x0 + c, max(min(at.right, x1), x0) - x0 + c)
            out[:, rows, columns] = self.colour
            repeat_edges(out, a, b, c, d)
            return out

        return fetch


class SideBySide:
    """Two rasters of one size beside each other."""

    def __init__(self, left: Raster, right: Raster) -> None:
        self.parts = (left, right)
        info = left.info.model_dump()
        self.info = FrameInfo.model_validate(info | {"width": 2 * info["width"], "clipped": None})
        self.levels, self.complete = list(left.levels), left.complete
        self.clipped, self.home, self.wraps = None, None, False

    @property
    def identity(self) -> str:
        return "beside " + " ".join(p.identity for p in self.parts)

    def identity_of(self, level: int, block: Block) -> str:
        return self.identity

    def shape(self, level: int) -> tuple[int, int]:
        h, w = self.parts[0].shape(level)
        return h, 2 * w

    def noise(self, level: int, block: Block):
        side = int(block.left >= self.shape(level)[1] // 2)
        return self.parts[side].noise(level, block)

    def coverage(self, level: int):
        return None

    def fetch(self, level: int):
        both = np.concatenate([whole(p, level) for p in self.parts], axis=2)
        return reader(both.transpose(1, 2, 0))


RED = (0.30, 0.05, 0.04)


def _block(coast, u0, v0, u1, v1) -> Block:
    """Fractions of the frame in px that stay whole through the levels."""
    h, w = coast.pyramid.shape(0)
    return Block(*(int(f * n) // 16 * 16 for f, n in ((v0, h), (v1, h), (u0, w), (u1, w))))


def _scene(coast) -> Scene:
    scene = coast.scene()
    scene.ground.noise.params.light = 0.3
    scene.ground.crispness.params.amount = 0.5
    at = Engine(threads=2).develop(scene, coast.pyramid).ground.read_at()
    kinds = [new_ingredient("fan"), new_ingredient("sky", join="take_away")]
    scene.latches = [Latch(id="a", name="A", ingredients=kinds, read_at=at)]
    scene.moves = [
        new_move("exposure", params={"ev": 0.5}, latch="a"),
        new_move("rungs", params={"rungs": [{"at": -3.0, "by": 0.5, "reach": 2.0}]}),
        new_move("contrast", params={"amount": 0.2}),
    ]
    return scene


def test_the_levels_of_a_repair_agree(coast):
    one = Repaired(coast.pyramid, _block(coast, 0.2, 0.6, 0.4, 0.8), RED)
    for level in list(one.levels)[1:3]:
        fine, coarse = whole(one, level - 1), whole(one, level)
        at = one._at(level)
        inner = (slice(None), slice(at.top + 1, at.bottom - 1), slice(at.left + 1, at.right - 1))
        h, w = (n // 2 for n in fine.shape[1:])
        halved = fine[:, : 2 * h, : 2 * w].reshape(3, h, 2, w, 2).mean((2, 4))
        assert np.allclose(halved[inner], coarse[:, :h, :w][inner], atol=1e-3)


@pytest.mark.parametrize("bent", [False, True])
def test_a_repair_is_in_the_picture_the_masks_the_ladder_and_the_file(coast, bent):
    """And the rest is as it was."""
    scene, engine = _scene(coast), Engine(threads=2)
    if bent:
        scene.ground.lens.params = type(scene.ground.lens.params)(known="hand", radial=0.03)
    one = Repaired(coast.pyramid, _block(coast, 0.1, 0.55, 0.45, 0.95), RED)
    plain, mended = engine.develop(scene, coast.pyramid), engine.develop(scene, one)
    view = plain.geometry.fit(600)
    h, w = view.size[1], view.size[0]
    inner = (slice(int(0.62 * h), int(0.88 * h)), slice(int(0.17 * w), int(0.38 * w)))
    for full in (False, True):
        before, after = (picture_8(d, view, full).astype(int) for d in (plain, mended))
        assert np.abs(after - before)[inner].mean() > 20
        red = after[inner].reshape(-1, 3).mean(0)
        assert red[0] > red[1] + 40
        far = (slice(0, int(0.3 * h)), slice(int(0.6 * w), w))
        assert np.abs(after - before)[far].mean() < 4, "what surveys learn of the whole is a little different"
    masks = [d.latches.mask(scene.latches[0], view) for d in (plain, mended)]
    assert np.abs(masks[0] - masks[1])[inner].mean() > 0.02
    assert read_ladder(plain, []).model_dump() != read_ladder(mended, []).model_dump()
    file = np.concatenate(list(bands_of(mended, mended.geometry.fit(600), Output("srgb", 8))))
    assert np.abs(file.astype(int) - after).mean() < 0.5
    assert read_ground(mended).size == read_ground(plain).size
    assert {p.kind for p in propose(mended)[1]} <= set(type(scene.ground).model_fields)
    assert min(one.read) == 0
    assert max(one.read) > 0


def test_a_stroke_of_repair_makes_its_own_blocks_anew_and_no_others(coast):
    """While it is under way the whole is taken for what it was; at its end the wide things are renewed."""
    scene, engine = _scene(coast), Engine(threads=2)
    scene.latches, scene.moves = [], []
    first = engine.develop(scene, coast.pyramid)
    w, h = first.geometry.developed_size
    left, right = (
        View((0.0, 0.5, 0.25, 0.75), (w // 4, h // 4)),
        View((0.75, 0.0, 1.0, 0.25), (w // 4, h // 4)),
    )
    before = [picture_8(first, v, True) for v in (left, right)]
    under_way = Repaired(
        coast.pyramid, _block(coast, 0.05, 0.55, 0.15, 0.65), RED, settled=coast.pyramid.identity
    )
    now = engine.develop(scene, under_way)
    assert (picture_8(now, right, True) == before[1]).all()
    assert under_way.read == [], "nothing that the stroke does not touch is read again"
    assert np.abs(picture_8(now, left, True).astype(int) - before[0]).mean() > 5
    assert set(under_way.read) == {0}
    done = Repaired(coast.pyramid, under_way.block, RED)
    scene.moves = [new_move("contrast", params={"amount": 0.3})]
    steps = [engine.develop(scene, r) for r in (coast.pyramid, under_way, done)]
    surveys = [d.band._aux(0) for d in steps]
    assert surveys[0] is surveys[1]
    assert surveys[2] is not surveys[1]


def test_two_frames_side_by_side_are_one_picture(coast):
    dark = dataclasses.replace(
        coast.pyramid,
        key="dark",
        levels={k: np.asarray(v) * np.float16(0.5) for k, v in coast.pyramid.levels.items()},
        folder=None,
    )
    both, engine = SideBySide(coast.pyramid, dark), Engine(threads=2)
    scene = Scene(sources=[Source(sha256="0" * 64)])
    development = engine.develop(scene, both)
    w, _ = development.geometry.developed_size
    assert w == 2 * coast.pyramid.info.developed_size[0]
    at = development.ground.read_at()
    ramp = new_ingredient("ramp", params={"full": {"x": 0.3, "y": 0.2}, "none": {"x": 0.7, "y": 0.2}})
    scene.latches = [Latch(id="r", name="R", ingredients=[ramp], read_at=at, edge_true=EdgeTrue(on=False))]
    scene.moves = [new_move("exposure", params={"ev": 1.0}, latch="r")]
    scene.ground.noise.params.light = 0.5
    development = engine.develop(scene, both)
    view = development.geometry.fit(800)
    shown = picture_8(development, view, True)
    half = shown.shape[1] // 2
    assert shown[:, :half].mean() > 1.3 * shown[:, half:].mean()
    mask = development.latches.mask(scene.latches[0], view)
    assert mask[:, : half // 4].mean() > 0.9
    assert mask[:, -half // 4 :].mean() < 0.1
    ladder = read_ladder(development, scene.latches)
    assert len(ladder.wings) == 1
    assert (
        development.reader.finding(new_ingredient("sky")).mask.shape[1]
        > 1.5 * development.reader.finding(new_ingredient("sky")).mask.shape[0]
    )


class _Torn(SideBySide):
    """The same with nothing in a corner, and twice the noise on the right."""

    def coverage(self, level: int):
        h, w = self.shape(level)
        there = np.ones((h, w, 1), np.float32)
        there[: h // 4, : w // 8] = 0
        return reader(there)

    def noise(self, level: int, block: Block):
        scale, offset = self.parts[0].noise(level, block)
        return (2 * scale, 2 * offset) if block.left >= self.shape(level)[1] // 2 else (scale, offset)


@pytest.mark.parametrize("level", [0.0, 1.5])
def test_where_there_is_nothing_the_paper_shows(coast, level):
    torn, engine = _Torn(coast.pyramid, coast.pyramid), Engine(threads=2)
    scene = Scene(sources=[Source(sha256="0" * 64)])
    scene.ground.trim.params.level = level
    scene.ground.trim.params.empty = True
    development, view = engine.develop(scene, torn), View((0, 0, 1, 1), (400, 130))
    shown = picture_8(development, view, True)
    assert np.isin(shown[15:20, 10:30], PATTERN).all()  # on a screen; the file holds the paper's white
    file = np.concatenate(list(bands_of(development, view, Output("srgb", 8))))
    assert (file[15:20, 10:30] == 255).all()
    whole = picture_8(
        engine.develop(scene, SideBySide(coast.pyramid, coast.pyramid)), View((0, 0, 1, 1), (400, 130)), True
    )
    assert np.abs(shown[60:, 100:].astype(int) - whole[60:, 100:]).max() <= 1


def test_noise_is_that_of_its_block(coast):
    """Of one picture twice, the side that is said to be noisier is smoothed more."""
    torn, engine = _Torn(coast.pyramid, coast.pyramid), Engine(threads=2)
    scene = Scene(sources=[Source(sha256="0" * 64)])
    scene.ground.noise.params.light = 0.4
    sensor = engine.develop(scene, torn).ground.sensor
    h, w = torn.shape(0)
    inner = 400  # px of either side that lie in tiles of their own
    smooth, light = sensor.fetch(0, "smooth"), sensor.fetch(0, "light")
    blocks = [(h // 2, h // 2 + 200, x + inner, x + inner + 100) for x in (0, w // 2)]
    taken = [np.abs(smooth(*block) - light(*block)).mean() for block in blocks]
    assert taken[1] > 1.1 * taken[0]


def test_the_level_for_a_scale_is_never_coarser(coast):
    raster = coast.pyramid
    assert level_for(raster, 1.0) == 0
    assert level_for(raster, 0.5) == 1
    assert level_for(raster, 0.3) == 1
    assert level_for(raster, 1e-9) == max(raster.levels)
