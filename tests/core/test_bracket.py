"""Brackets: light over all its range against the truth, what moved, and what cannot be merged."""

from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
import pytest

from fieldworld.camera import _flare, _glass, smaller
from fieldworld.lent import find_any
from fieldworld.optics import turning
from fieldworld.world import Scenery
from sunlatch.binding.maps import rotation_matrix
from sunlatch.blocks import Block
from sunlatch.errors import JoinError
from sunlatch.frame import FrameStore, hash_file
from sunlatch.ledger import Bracket, BracketMember, Painted, Scene, Source
from sunlatch.merging import (
    Joined,
    JoinStore,
    description_of,
    input_frames,
    plan_bracket,
    scene_of_bracket,
    seams_over,
)
from sunlatch.merging.bracket import _merged, bands
from sunlatch.merging.exposures import exposures_of
from sunlatch.merging.moved import _small, decide
from sunlatch.render import Engine
from tests.coast import shoot

WIDTH = 2336


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("bracket")


def source(folder: Path, name: str, width: int = WIDTH, **changed: object) -> Source:
    path = folder / f"{name}-{width}{'-'.join(str(v) for v in changed.values())}.dng"
    if not path.exists():
        shoot(replace(smaller(find_any(name), width), **changed), path)  # type: ignore[arg-type]
    return Source(id=path.stem, sha256=hash_file(path), path=path.name)


@pytest.fixture(scope="module")
def opener(folder: Path, store: FrameStore):  # type: ignore[no-untyped-def]
    return lambda s: store.whole(s.sha256, folder / s.path)


@pytest.fixture(scope="module")
def gulls(folder: Path, opener, engine: Engine) -> Scene:  # type: ignore[no-untyped-def]
    sources = [source(folder, f"gulls-{n}") for n in range(1, 6)]
    return scene_of_bracket(plan_bracket(input_frames(sources, opener), engine), sources)


@pytest.fixture(scope="module")
def merged(gulls: Scene, opener, engine: Engine, tmp_path_factory: pytest.TempPathFactory) -> Joined:  # type: ignore[no-untyped-def]
    return JoinStore(tmp_path_factory.mktemp("joins")).whole(gulls, opener, engine)


def test_it_lies_on_its_middle_exposure(gulls: Scene) -> None:
    base = gulls.base
    assert base.anchor == f"gulls-3-{WIDTH}"
    home = turning(*(getattr(find_any("gulls-3").view, k) for k in ("heading", "pitch", "roll"))).T
    t = np.linspace(-0.5, 0.5, 7)
    places = np.stack(np.meshgrid(t * WIDTH, t * WIDTH * 2 / 3, [base.focal]), -1).reshape(-1, 3)

    def px(turn: np.ndarray) -> np.ndarray:
        seen = places @ turn.T
        return np.asarray(seen[:, :2] / seen[:, 2:] * base.focal)

    for n, member in enumerate(base.members, 1):
        view = find_any(f"gulls-{n}").view
        true = turning(view.heading, view.pitch, view.roll).T @ home.T
        off = px(rotation_matrix(member.rotation)) - px(true)
        assert np.abs(off.mean(0)).max() < 0.25
        assert member.ev == pytest.approx(2.0 * (n - 3), abs=0.03)
    assert base.headroom == pytest.approx(4.0, abs=0.05)
    without = base.model_copy(deep=True)
    without.members[0].on = False  # the shortest: light clips where the next one does
    assert without.headroom == pytest.approx(2.0, abs=0.05)
    assert description_of(gulls)[0] == [f"gulls-{n}-{WIDTH}" for n in range(1, 6)]


def true_light(name: str) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """What a sensor without noise or end would hold of a shot (3, h, w), where nothing moves, and where there is sky."""
    shot = smaller(find_any(name), WIDTH)
    scenery = Scenery(replace(shot.view, figures=()), shot.lens, 2)
    seen = scenery.look()
    rgb = _glass(seen.radiance)
    _flare(rgb, scenery)
    still = cv2.dilate((seen.water > 0.01).astype(np.uint8), np.ones((9, 9))) == 0
    sky = cv2.erode((seen.sky > 0.99).astype(np.uint8), np.ones((25, 25))) > 0
    return np.moveaxis(rgb, -1, 0) * shot.exposure.level(), still, sky


def test_light_is_that_of_the_world_over_all_its_range_and_nobody_flies_twice(
    merged: Joined, opener, gulls: Scene
) -> None:  # type: ignore[no-untyped-def]
    truth, still, sky = true_light("gulls-3")
    h, w = merged.shape(0)
    light = merged.fetch(0)(0, h, 0, w)[1]
    off = np.abs(light / truth[1] - 1)
    stops = np.log2(truth[1])
    assert np.ptp(stops[still]) > 8
    assert np.median(off[still]) < 0.03
    lone = opener(gulls.anchor).fetch(0)(0, h, 0, w)[1]
    bright = still & (truth[1] > 1.2)
    assert bright.sum() > 200
    assert np.median(off[bright]) < 0.08 < np.median(np.abs(lone / truth[1] - 1)[bright])
    # of the gull there is at most one: what is darker than the sky behind it, in one place
    dark = (sky & (light / truth[1] < 0.8)).astype(np.uint8)
    dark = cv2.morphologyEx(dark, cv2.MORPH_CLOSE, np.ones((15, 15)))
    count = sum(area > 150 for area in cv2.connectedComponentsWithStats(dark)[2][1:, cv2.CC_STAT_AREA])
    assert count <= 1


def test_it_is_less_noisy_than_one_exposure(merged: Joined, opener, gulls: Scene, engine: Engine) -> None:  # type: ignore[no-untyped-def]
    from sunlatch.blocks import Block

    h, w = merged.shape(0)
    dark = Block(int(0.8 * h), h, 0, int(0.3 * w))
    one, all_ = (r.noise(0, dark) for r in (opener(gulls.anchor), merged))
    assert one is not None
    assert all_ is not None
    assert all_[1] < one[1] / 50
    development = engine.develop(gulls, merged)
    assert development.ground.ends()[1] == pytest.approx(np.log2(1 / 0.18) + 4, abs=0.1)


def test_where_something_moved_one_exposure_is_told(merged: Joined, gulls: Scene, engine: Engine) -> None:
    development = engine.develop(gulls, merged)
    shown = seams_over(development.ground, merged, development.geometry.fit(400))
    assert len(merged.shown) == 5
    assert 0.01 < (shown >= 0).mean() < 0.7
    assert (shown[: shown.shape[0] // 6] >= 0).mean() < 0.2


def test_weights_are_those_of_least_variance() -> None:
    """Against NumPy: inverse variances, where nothing clips and nothing moves."""
    rng = np.random.default_rng(4)
    times = np.array([0.25, 1.0, 4.0], np.float32)
    noise = np.array([[2e-4, 4e-7]] * 3, np.float32)
    truth = rng.uniform(0.01, 0.15, (3, 6, 8)).astype(np.float32)
    light = np.stack([truth * t * rng.uniform(0.98, 1.02, truth.shape) for t in times]).astype(np.float32)
    out = np.empty_like(truth)
    nothing = np.zeros((6, 8), np.float32)
    _merged(
        light, times, noise, nothing, np.zeros((3, 6, 8), np.float32), np.array([True, False, False]), out
    )
    # what the light is believed to be, by exposure time
    believed = light[:, 1].sum(0) / times.sum()
    variance = np.stack([(n[0] * believed * t + n[1]) / t**2 for n, t in zip(noise, times, strict=True)])
    weights = 1 / variance
    wanted = sum(w * x / t for w, x, t in zip(weights, light, times, strict=True)) / weights.sum(0)
    assert np.allclose(out, wanted, rtol=1e-4)
    # what moved is taken from the one that is chosen
    chosen = np.zeros((3, 6, 8), np.float32)
    chosen[1] = 1
    _merged(light, times, noise, nothing + 1, chosen, np.array([True, False, False]), out)
    assert np.allclose(out, light[1], rtol=1e-5)


@dataclass(frozen=True)
class Shown:
    """An exposure of a made-up view, on the anchor's px already."""

    light: np.ndarray
    time: float
    shortest: bool
    noise: tuple[float, float] = (2e-5, 4e-8)

    def draw(self, block: Block, level: int, size: tuple[int, int], pool: object) -> np.ndarray:
        return np.stack([self.light[block.top : block.bottom, block.left : block.right] * self.time] * 3)


TIMES = (0.5, 1.0, 2.0)


def _soft_thing_that_moved(size: tuple[int, int]) -> tuple[list[Shown], list[np.ndarray]]:
    """A cloud without an edge before an even sky, that is gone elsewhere in the longest of three exposures; and the light of
    each."""
    w, h = size
    y, x = np.mgrid[:h, :w]
    rng = np.random.default_rng(5)
    exposures, lights = [], []
    for time, across in zip(TIMES, (0.25 * w, 0.25 * w, 0.72 * w), strict=True):
        light = 0.1 * 2.0 ** np.exp(-((x - across) ** 2 + (y - h / 2) ** 2) / (2 * 55.0**2))
        noise = rng.normal(0, 1, light.shape) * np.sqrt(2e-5 * light * time + 4e-8) / time
        exposures.append(Shown((light + noise).astype(np.float32), time, time == TIMES[0]))
        lights.append(light)
    return exposures, lights


@pytest.mark.parametrize("size", [(1100, 600), (1102, 603)])
def test_the_soft_rim_of_what_moved_is_one_exposures_too(size: tuple[int, int]) -> None:
    """And as it was in scenes of an earlier revision."""
    exposures, lights = _soft_thing_that_moved(size)
    members = [
        BracketMember(source=f"s{n}", rotation=[0, 0, 0], ev=float(n - 1), residual=0) for n in range(3)
    ]
    worst = {}
    for revision in (1, 2):
        base = Bracket(revision=revision, anchor="s1", focal=800, members=members)
        merging = decide(exposures, base, 0, size)  # type: ignore[arg-type]
        out = np.concatenate(list(bands(exposures, merging, 0, size)))[..., 1].astype(np.float32)  # type: ignore[arg-type]
        off = [cv2.GaussianBlur(np.log2(out / light).astype(np.float32), (0, 0), 6) for light in lights]
        worst[revision] = float(np.abs(off).min(0).max())
    assert worst[2] < 0.02 < 0.04 < worst[1], worst


def test_what_moved_is_seen_in_bands_as_in_the_whole() -> None:
    """Against OpenCV's reduction of the whole, whatever the size."""
    for size in ((841, 603), (1000, 1027), (64, 50)):
        rng = np.random.default_rng(6)
        light = rng.random(size[::-1]).astype(np.float32)
        small = (size[0] // 4, size[1] // 4)
        seen, clips = _small(Shown(light, 1.0, False), 0, size, small, None)  # type: ignore[arg-type]
        assert np.allclose(seen, cv2.resize(light, small, interpolation=cv2.INTER_AREA), atol=1e-5)
        whole = cv2.resize((light > 0.94).astype(np.float32), small, interpolation=cv2.INTER_AREA)
        assert ((whole > 0) == clips).mean() > 0.999


def test_what_cannot_be_merged_is_said(folder: Path, opener, engine: Engine) -> None:  # type: ignore[no-untyped-def]
    sources = [source(folder, f"gulls-{n}") for n in (2, 3)]
    alike = [source(folder, "gulls-3"), source(folder, "gulls-3", seed=77)]
    with pytest.raises(JoinError, match="of one exposure"):
        plan_bracket(input_frames(alike, opener), engine)
    with pytest.raises(JoinError, match="different sizes"):
        plan_bracket(input_frames([sources[0], source(folder, "gulls-4", 900)], opener), engine)
    with pytest.raises(JoinError, match="up to 9 frames"):
        plan_bracket(input_frames(sources * 5, opener), engine)
    other = source(folder, "heath")
    base = plan_bracket(input_frames([*sources, other], opener), engine)
    assert [m.source for m in base.members] == [s.id for s in sources]
    assert any("different" in left.why or "nothing in it" in left.why for left in base.left_out)


def test_an_exposure_is_believed_where_it_is_painted(
    gulls: Scene, merged: Joined, opener, engine: Engine, tmp_path: Path
) -> None:  # type: ignore[no-untyped-def]
    """The light of the painted exposure, in the anchor's numbers, and of no other."""
    painted = gulls.model_copy(deep=True)
    first = painted.base.members[0]
    stroke = {"points": [0.3, 0.5, 1.0], "radius": 0.04, "soft": 0.0, "flow": 1.0}
    painted.base.painted = [Painted(source=first.source, stroke=stroke)]
    after = JoinStore(tmp_path).whole(painted, opener, engine)
    x, y = round(0.3 * WIDTH), round(0.5 * WIDTH)
    block = (y - 20, y + 20, x - 20, x + 20)
    frames = {t.key: t for t in input_frames([gulls.source(m.source) for m in gulls.base.members], opener)}
    height = merged.shape(0)[0]
    alone = exposures_of(gulls.base, frames, engine)[0]
    drawn = alone.draw(Block(*block), 0, (WIDTH, height), engine.pool) / alone.time
    scale = np.abs(drawn).mean()
    assert np.abs(after.fetch(0)(*block) - drawn).mean() < 0.01 * scale
    assert np.abs(merged.fetch(0)(*block) - drawn).mean() > 0.02 * scale
    far = (y - 20, y + 20, x + 400, x + 440)
    assert np.allclose(after.fetch(0)(*far), merged.fetch(0)(*far), atol=1e-3)
