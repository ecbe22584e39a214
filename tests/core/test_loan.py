"""Loans: the dark twin's light in the sky of the bright one, and nowhere else."""

import dataclasses

import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from sunlatch.colour import LUMA
from sunlatch.errors import DocumentError, JoinError
from sunlatch.frame import FrameStore, hash_file
from sunlatch.frame.grouping import trait_of
from sunlatch.layers import lend, lender, where_wanted
from sunlatch.ledger import Latch, Scene, Source, new_ingredient, parse_scene
from sunlatch.registration import InputFrame
from sunlatch.render import Engine
from tests.coast import shoot

WIDTH = 1200


@pytest.fixture(scope="module")
def frames(tmp_path_factory: pytest.TempPathFactory, store: FrameStore) -> dict[str, InputFrame]:
    folder = tmp_path_factory.mktemp("twins")
    out = {}
    for name in ("twin-dark", "twin-bright", "heath"):
        path = folder / f"{name}.dng"
        shoot(smaller(find_any(name), WIDTH), path)
        raster = store.whole(hash_file(path), path)
        out[name] = InputFrame(name, path.name, raster.info, raster)
    return out


def source(name: str) -> Source:
    return Source(id=name, sha256=("a" if "dark" in name else "b") * 64, path=f"{name}.dng")


@pytest.fixture(scope="module")
def scene(frames: dict[str, InputFrame], engine: Engine) -> Scene:
    made = Scene(sources=[source("twin-bright")])
    bare = engine.develop(Scene(sources=made.sources[:1]), frames["twin-bright"].raster)
    ramp = new_ingredient("ramp", params={"full": {"x": 0.5, "y": 0.1}, "none": {"x": 0.5, "y": 0.3}})
    made.latches.append(Latch(name="Top", ingredients=[ramp], read_at=bare.ground.read_at()))
    line = lend(made, [frames["twin-bright"]], frames["twin-bright"].raster, frames["twin-dark"], engine)
    line.latch = made.latches[0].id
    made.sources.append(source("twin-dark"))
    made.loans.append(line)
    return parse_scene(made.model_dump(mode="json"))


def lent(frames: dict[str, InputFrame]):  # type: ignore[no-untyped-def]
    return lambda s: frames[s.id].raster


def test_it_is_aligned_and_its_exposure_told(scene: Scene) -> None:
    loan = scene.loans[0]
    assert loan.ev == pytest.approx(np.log2(30 / 250), abs=0.05)
    assert loan.params.stops == pytest.approx(loan.ev, abs=0.01)
    assert np.degrees(np.linalg.norm(loan.rotation)) < 0.02


def test_it_is_let_in_where_it_is_latched_and_nowhere_else(
    scene: Scene, frames: dict[str, InputFrame], engine: Engine
) -> None:
    raster = frames["twin-bright"].raster
    with_it = engine.develop(scene, raster, lent=lent(frames))
    view = with_it.geometry.fit(600)
    light = with_it.light_planes(view)
    alone = engine.develop(Scene(sources=scene.sources[:1]), raster).light_planes(view)
    own = engine.develop(Scene(sources=[source("twin-dark")]), frames["twin-dark"].raster).light_planes(view)
    h = view.size[1]
    assert np.allclose(light[:, int(0.6 * h) :], alone[:, int(0.6 * h) :], rtol=1e-4, atol=1e-6)
    top = slice(0, int(0.05 * h))
    # as it was taken: the twin's own picture
    ratio = light[1, top] / np.maximum(own[1, top], 1e-4)
    assert np.median(ratio) == pytest.approx(1, abs=0.06)
    # between the two no step that neither has: the mix of both by the latch
    mask = with_it.latches.mask(scene.latches[0], view)
    between = (mask > 0.2) & (mask < 0.8)
    mixed = alone[1] + mask * (own[1] - alone[1])
    assert np.median(np.abs(light[1] / mixed - 1)[between]) < 0.05


def test_as_light_as_the_scene_it_cannot_be_told_from_it(
    scene: Scene, frames: dict[str, InputFrame], engine: Engine
) -> None:
    level = scene.model_copy(deep=True)
    level.loans[0].params.stops = 0.0
    level.loans[0].latch = None
    raster = frames["twin-bright"].raster
    lit = engine.develop(level, raster, lent=lent(frames))
    view = lit.geometry.fit(600)
    light = lit.light_planes(view)
    alone = engine.develop(Scene(sources=scene.sources[:1]), raster).light_planes(view)
    unclipped = (alone[1] < 0.5) & (alone[1] > 0.02)
    assert np.median(np.abs(np.log2(light[1][unclipped] / alone[1][unclipped]))) < 0.06


def test_what_clipped_in_the_frame_that_lends_is_not_lent(
    frames: dict[str, InputFrame], engine: Engine
) -> None:
    """The bright twin's white sky does not go over the dark one's; its land does."""
    made = Scene(sources=[source("twin-dark")])
    dark, bright = frames["twin-dark"], frames["twin-bright"]
    made.loans.append(lend(made, [dark], dark.raster, bright, engine))
    made.sources.append(source("twin-bright"))
    shown = engine.develop(parse_scene(made.model_dump(mode="json")), dark.raster, lent=lent(frames))
    view = shown.geometry.fit(600)
    light = shown.light_planes(view)[1]
    alone = engine.develop(Scene(sources=made.sources[:1]), dark.raster).light_planes(view)[1]
    raw = engine.develop(Scene(sources=[source("twin-bright")]), bright.raster)
    camera = np.sort(raw.ground.staged(view, "crisp"), 0)[1]
    burnt, sound = camera > 0.99, camera < 0.85
    assert burnt.mean() > 0.05
    assert np.allclose(light[burnt], alone[burnt], rtol=2e-3)
    # the rest is the bright frame's, at the scene's exposure
    loan = made.loans[0]
    wanted = raw.light_planes(view)[1] * 2.0 ** (loan.params.stops - loan.ev)
    closer = np.abs(light - wanted)[sound] < np.abs(alone - wanted)[sound]
    assert np.median(light[sound] / np.maximum(wanted[sound], 1e-5)) == pytest.approx(1, abs=0.03)
    assert closer.mean() > 0.9


def test_it_turns_and_is_cut_with_the_scene(
    scene: Scene, frames: dict[str, InputFrame], engine: Engine
) -> None:
    """Lens, level and crop: what is lent stays on its place."""
    turned = scene.model_copy(deep=True)
    turned.loans[0].params.stops = 0.0
    turned.loans[0].latch = None
    turned.ground.lens.params.known = "database"
    turned.ground.trim.params.level = 4.0
    raster = frames["twin-bright"].raster
    lit = engine.develop(turned, raster, lent=lent(frames))
    view = lit.geometry.fit(600)
    bare = turned.model_copy(deep=True)
    bare.loans, bare.sources = [], bare.sources[:1]
    light, alone = (d.light_planes(view)[1] for d in (lit, engine.develop(bare, raster)))
    unclipped = (alone < 0.5) & (alone > 0.02)
    assert np.median(np.abs(np.log2(light[unclipped] / alone[unclipped]))) < 0.06


def test_what_cannot_be_lent_is_said(frames: dict[str, InputFrame], engine: Engine, scene: Scene) -> None:
    alone = Scene(sources=[source("twin-dark")])
    with pytest.raises(JoinError, match="own frame"):
        lend(alone, [frames["twin-dark"]], frames["twin-dark"].raster, frames["twin-dark"], engine)
    with pytest.raises(JoinError, match="something else"):
        lend(alone, [frames["twin-dark"]], frames["twin-dark"].raster, frames["heath"], engine)
    with pytest.raises(DocumentError, match="not there"):
        engine.develop(scene, frames["twin-bright"].raster)
    data = scene.model_dump(mode="json")
    data["loans"][0]["source"] = "nobody"
    with pytest.raises(DocumentError, match="not in the document"):
        parse_scene(data)


def test_moves_go_by_the_light_that_is_seen_and_finders_by_the_bare_frame(
    scene: Scene, frames: dict[str, InputFrame], engine: Engine
) -> None:
    """A Light range over the lent sky holds what is lent; the Sky latch is to the bit what it was."""
    raster = frames["twin-bright"].raster
    read_at = scene.latches[0].read_at
    held = scene.model_copy(deep=True)
    bright = new_ingredient("light_range", params={"low": 1.0, "soft_low": 0.5})
    held.latches.append(Latch(name="Bright", ingredients=[bright], read_at=read_at))
    held.latches[-1].edge_true.on = False
    held.latches.append(Latch(name="Sky", ingredients=[new_ingredient("sky")], read_at=read_at))
    lit = engine.develop(held, raster, lent=lent(frames))
    bare = held.model_copy(deep=True)
    bare.loans, bare.sources = [], bare.sources[:1]
    alone = engine.develop(bare, raster)
    view = lit.geometry.fit(600)
    top = slice(0, int(0.05 * view.size[1]))
    seen, before = (d.latches.mask(held.latches[1], view) for d in (lit, alone))
    assert before[top].mean() > 0.5
    assert seen[top].mean() < 0.5 * before[top].mean()
    light = lit.light_planes(view)
    stops = np.log2(np.maximum(np.tensordot(LUMA, light, 1), 1e-6) / 0.18)
    wanted = np.clip((stops - 0.5) / 0.5, 0, 1)
    off = np.abs(seen - wanted * wanted * (3 - 2 * wanted))
    assert np.median(off) < 0.02
    assert off.mean() < 0.03
    for kept in (held.latches[0], held.latches[2]):
        assert np.array_equal(lit.latches.mask(kept, view), alone.latches.mask(kept, view))
    # true to edges, it is fitted on what is seen as well
    held.latches[1].edge_true.on = True
    edged = engine.develop(held, raster, lent=lent(frames)).latches.mask(held.latches[1], view)
    assert edged[top].mean() < 0.5 * before[top].mean()
    # how it is let in does not depend on it
    held.loans[0].latch = held.latches[1].id
    by_light = engine.develop(held, raster, lent=lent(frames))
    assert np.isfinite(by_light.light_planes(view)).all()


# who lends, and where


def test_lenders_are_offered_as_they_fit(frames: dict[str, InputFrame]) -> None:
    traits = {n: trait_of(n, f.info, f.raster) for n, f in frames.items()}  # type: ignore[arg-type]
    own = traits["twin-bright"]
    same, other = lender(own, traits["twin-dark"]), lender(own, traits["heath"])
    assert (same.lends, same.description) == (True, "the same view")
    assert other.apart > same.apart
    small = lender(own, dataclasses.replace(traits["twin-dark"], size=(600, 400)))
    assert not small.lends
    assert small.description == "it is 600 × 400 px, the scene 1200 × 800"
    assert small.apart > other.apart


def test_a_darker_frame_is_let_in_where_the_scene_clips(
    frames: dict[str, InputFrame], engine: Engine
) -> None:
    bright = frames["twin-bright"]
    development = engine.develop(Scene(sources=[source("twin-bright")]), bright.raster)
    latch = where_wanted(development.ground, development.reader, -3.0, "twin-dark")
    view = development.geometry.fit(600)
    shown = development.again(development.scene.model_copy(update={"latches": [latch]}))
    mask = shown.latches.mask(latch, view)
    clips = development.ground.staged(view, "rescued").max(0) > 0.98
    assert clips.mean() > 0.005
    assert mask[clips].mean() > 0.8
    assert mask[~clips].mean() < 0.4
    assert ((mask > 0.05) & (mask < 0.95)).any()


@pytest.mark.parametrize(
    ("ev", "least", "most"), [(2.0, 0.05, 0.4), (0.0, 0.0, 0.0)], ids=["lighter", "alike"]
)
def test_a_lighter_one_in_the_shadows_and_one_alike_where_it_is_painted(
    frames: dict[str, InputFrame], engine: Engine, ev: float, least: float, most: float
) -> None:
    bright = frames["twin-bright"]
    development = engine.develop(Scene(sources=[source("twin-bright")]), bright.raster)
    latch = where_wanted(development.ground, development.reader, ev, "other")
    shown = development.again(development.scene.model_copy(update={"latches": [latch]}))
    assert least <= shown.latches.mask(latch, shown.geometry.fit(400)).mean() <= most
