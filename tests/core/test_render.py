"""Rendering: against the world's truth, and against itself in other pieces and orders."""

from collections import Counter

import cv2
import numpy as np
import pytest

from sunlatch.colour.spaces import decode
from sunlatch.errors import CancelledError, RenderError
from sunlatch.geometry import View
from sunlatch.ledger import Latch, Spare, new_ingredient, new_move
from sunlatch.meters import light_at, read_ladder, read_spot
from sunlatch.render import SCREEN, Engine, Output, bands_of, picture_8
from sunlatch.render.picture import _rest
from sunlatch.running import ByteCache
from sunlatch.running.patience import Patience
from tests.conftest import delta_e


def _worked(coast, engine):
    at = engine.develop(coast.scene(), coast.pyramid).ground.read_at()
    scene = coast.scene()
    sky = Latch(
        name="Sky", read_at=at, ingredients=[new_ingredient("fan"), new_ingredient("ramp", join="keep_only")]
    )
    land = Latch(
        name="Land",
        read_at=at,
        ingredients=[new_ingredient("fan", params={"leaning": "darks", "narrowness": 3})],
    )
    scene.latches = [sky, land]
    scene.moves = [
        new_move("exposure", params={"ev": -0.9}, latch=sky.id),
        new_move(
            "exposure",
            params={"ev": 1.6},
            latch=land.id,
            spare=[Spare(what="highlights", edge=0, read_at=at)],
        ),
        new_move("contrast", params={"amount": 0.2}),
    ]
    return scene


def _whole(development):
    w, h = development.geometry.developed_size
    return View((0, 0, 1, 1), (w, h))


def test_scene_light_is_the_worlds(coast, development):
    """Developed light against true radiance, where the lens is near its centre and nothing clips."""
    from fieldworld.camera import Exposure

    rgb = development.light_planes(_whole(development))
    truth = coast.truth.radiance * Exposure().level() * 0.982
    from sunlatch.colour.spaces import working_to_output

    ours = np.tensordot(working_to_output("srgb"), rgb, 1).transpose(1, 2, 0)
    h, w = ours.shape[:2]
    middle = np.zeros((h, w), bool)
    middle[h // 3 : 2 * h // 3, w // 3 : 2 * w // 3] = True
    fit = middle & (coast.truth.sky > 0.99) & (truth.max(-1) < 0.6) & (truth.min(-1) > 0.02)
    assert fit.sum() > 5000
    ratio = ours[fit].mean(0) / truth[fit].mean(0)
    # one common factor (vignetting, exposure scale), the same in all channels
    assert np.abs(ratio / ratio.mean() - 1).max() < 0.03
    spread = np.median(np.abs(np.log2(ours[fit].sum(-1) / (truth[fit].sum(-1) * ratio.mean()))))
    assert spread < 0.08


def test_developed_colour_against_truth_in_delta_e(coast, engine):
    """The colour bar: straight rendering, noise averaged out, mean ΔE2000 at most 2."""
    from fieldworld.camera import VIGNETTING, Exposure, _radius2

    scene = coast.scene()
    scene.ground.rendering.params.setting = "straight"
    scene.ground.ends.params.black = -14.0
    scene.ground.ends.params.white = 6.0
    development = engine.develop(scene, coast.pyramid)
    lin = np.empty((3, *_whole(development).size[::-1]), np.float32)

    def take(band, r, e):
        lin[:, r:e] = band

    development.display(_whole(development), SCREEN, take)
    ours = lin.transpose(1, 2, 0)
    h, w = ours.shape[:2]
    r2 = _radius2(h, w)
    fall = 1 + VIGNETTING[0] * r2 + VIGNETTING[1] * r2 * r2
    truth = coast.truth.radiance * (Exposure().level() * fall)[..., None] * 1.0235 * 0.99
    fit = (coast.truth.sky > 0.99) & (truth.max(-1) < 0.4) & (truth.min(-1) > 0.01)

    # 12 px blocks: noise is not what is judged here
    def blocks(x):
        x = x[: h // 12 * 12, : w // 12 * 12]
        return x.reshape(h // 12, 12, w // 12, 12, -1).mean((1, 3))

    inside = blocks(fit.astype(float)[..., None])[..., 0] == 1
    difference = delta_e(blocks(ours)[inside], blocks(truth)[inside])
    assert inside.sum() > 500
    assert difference.mean() <= 2.0


def test_pieces_agree_with_the_whole(coast, engine):
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    view = _whole(development)
    whole = picture_8(development, view, full=False).astype(int)
    w, h = view.size
    box = (200, 100, 520, 300)
    part = View((box[0] / w, box[1] / h, box[2] / w, box[3] / h), (box[2] - box[0], box[3] - box[1]))
    tile = picture_8(development, part, full=False).astype(int)
    assert np.abs(tile - whole[box[1] : box[3], box[0] : box[2]]).max() <= 1


def test_bands_of_a_file_agree_with_the_screen(coast, engine):
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    view = development.geometry.fit(600)
    screen = picture_8(development, view, full=True).astype(int)
    file = np.concatenate(list(bands_of(development, view, Output("srgb", 16))))
    assert file.dtype == np.uint16
    assert np.abs(file / 257 - screen).max() <= 1.1


@pytest.mark.parametrize("long_edge", [230, 300, 420])
def test_the_screen_shows_what_the_file_holds(coast, engine, long_edge):
    """The fidelity bar: a fitted view at rest against the full export reduced to the same size."""
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    view = development.geometry.fit(long_edge)
    shown = np.empty((view.size[1], view.size[0], 3), np.float32)

    def take(band, r, e):
        shown[r:e] = band.transpose(1, 2, 0)

    _rest(development, view, (0, view.size[1]), SCREEN, take)
    file = np.concatenate(list(bands_of(development, development.geometry.fit(10**6), Output("srgb", 16))))
    light = decode(file / 65535, "srgb").astype(np.float32)
    difference = delta_e(shown, cv2.resize(light, view.size, interpolation=cv2.INTER_AREA))
    assert difference.mean() <= 0.3
    assert np.percentile(difference, 99) <= 2.5


def test_a_rest_picture_leaves_the_drag_its_cache(coast):
    """The large picture at rest is made in strips that are not kept."""
    engine = Engine(threads=2)
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    view = development.geometry.fit(300)
    picture_8(development, view, full=False)
    before = engine.views.bytes
    picture_8(development, view, full=True)
    assert engine.views.bytes == before


def test_overtaken_work_stops(coast, engine):
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    with Patience(lambda: True), pytest.raises(CancelledError):
        picture_8(development, development.geometry.fit(300), full=True)


def test_a_kept_prefix_gives_the_same_answer(coast, engine):
    """Dragging the last move, from what the cache kept, equals rendering from nothing."""
    scene = _worked(coast, engine)
    view = engine.develop(scene, coast.pyramid).geometry.fit(500)
    for amount in (0.1, 0.2, 0.3):
        scene.moves[2].params.amount = amount
        dragged = picture_8(engine.develop(scene, coast.pyramid), view, full=False)
    fresh = picture_8(Engine(threads=1).develop(scene, coast.pyramid), view, full=False)
    assert np.array_equal(dragged, fresh)


def test_changing_an_earlier_move_is_seen(coast, engine):
    scene = _worked(coast, engine)
    view = engine.develop(scene, coast.pyramid).geometry.fit(400)
    picture_8(engine.develop(scene, coast.pyramid), view, full=False)
    scene.moves[0].params.ev = -2.5
    changed = picture_8(engine.develop(scene, coast.pyramid), view, full=False)
    fresh = picture_8(Engine(threads=1).develop(scene, coast.pyramid), view, full=False)
    assert np.array_equal(changed, fresh)


def test_off_is_as_if_it_were_not_there(coast, engine):
    scene = _worked(coast, engine)
    view = engine.develop(scene, coast.pyramid).geometry.fit(300)
    for move in scene.moves:
        move.on = False
    off = picture_8(engine.develop(scene, coast.pyramid), view, full=False)
    plain = picture_8(engine.develop(coast.scene(), coast.pyramid), view, full=False)
    assert np.array_equal(off, plain)


def test_holding_the_sky_spares_the_rock(coast, engine):
    """By the world's own truth: the sky darkens, the rock does not."""
    scene = _worked(coast, engine)
    scene.moves = scene.moves[:1]
    development = engine.develop(scene, coast.pyramid)
    now, start = (development.light_planes(_whole(development), n)[1] for n in (1, 0))
    change = np.log2(np.maximum(now, 1e-6) / np.maximum(start, 1e-6))
    rock = coast.truth.land > 0.99
    upper = np.zeros_like(rock)
    upper[: rock.shape[0] // 4] = True
    assert change[(coast.truth.sky > 0.99) & upper].mean() < -0.3
    assert np.abs(change[rock]).mean() < 0.03


def test_no_magenta_where_the_frame_clipped(coast, engine):
    scene = coast.scene()
    scene.ground.ends.params.white = 5.0
    development = engine.develop(scene, coast.pyramid)
    picture = picture_8(development, development.geometry.fit(636), full=False).astype(int)
    clipped = np.asarray(coast.pyramid.clipped)[..., 1] > 200
    near = picture[: clipped.shape[0], : clipped.shape[1]][clipped]
    assert len(near) > 50
    # green never lies below both others by more than a little
    assert (np.minimum(near[:, 0], near[:, 2]) - near[:, 1]).max() < 12


def test_ladder_counts_the_whole_picture_and_reads_the_meeting(coast, engine):
    scene = _worked(coast, engine)
    development = engine.develop(scene, coast.pyramid)
    ladder = read_ladder(development, scene.latches)
    assert sum(ladder.bars) == pytest.approx(1, abs=1e-3)
    assert ladder.meeting == pytest.approx(ladder.wings[0].centre - ladder.wings[1].centre)
    assert len(ladder.tones) == ladder.high - ladder.low + 1
    assert ladder.tones[-ladder.low] == pytest.approx(0.5, abs=1e-3)
    scene.moves = []
    before = read_ladder(engine.develop(scene, coast.pyramid), scene.latches)
    assert ladder.meeting < before.meeting - 0.5
    assert before.meeting > 3.0


def test_spot_and_neutral(coast, engine, development):
    spot = read_spot(development, 0.9, 0.1)
    assert spot.start == pytest.approx(spot.now)
    light = light_at(development, 0.15, 0.2)
    scene = coast.scene()
    scene.ground.colour_of_light.params.kelvin = light.kelvin
    scene.ground.colour_of_light.params.tint = light.duv * 1000
    size = float(scene.ground.colour_of_light.params.patch)
    from sunlatch.meters.spot import patch

    picked = engine.develop(scene, coast.pyramid)
    mean = picked.light_planes(patch(picked, 0.15, 0.2, size)).mean((1, 2))
    assert np.abs(mean / mean.mean() - 1).max() < 0.01


def test_a_clipped_place_names_no_light(development, coast):
    ys, xs = np.nonzero(np.asarray(coast.pyramid.clipped).min(-1) > 250)
    if not len(ys):
        ys, xs = np.nonzero(np.asarray(coast.pyramid.clipped)[..., 1] > 250)
    h, w = coast.pyramid.clipped.shape[:2]
    with pytest.raises(RenderError, match="Nothing was changed"):
        light_at(development, float(xs[len(xs) // 2] / w), float(ys[len(ys) // 2] / h))
    with pytest.raises(RenderError, match="outside"):
        light_at(development, 1.5, 0.5)


def test_cache_is_bounded_and_forgets_the_oldest():
    cache = ByteCache(3000)
    for n in range(5):
        cache.put(str(n), np.zeros(1000, np.uint8))
        cache.get("0")
    assert cache.bytes <= 3000
    assert cache.get("0") is not None
    assert cache.get("1") is None
    cache.put("huge", np.zeros(9999, np.uint8))
    assert cache.get("huge") is None


def test_what_is_learned_and_laid_pushes_out_no_view(coast):
    """Views, tiles and models are each bounded by themselves."""
    engine = Engine(threads=2, cache_bytes=48 << 20)
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    view = development.geometry.fit(400)
    picture_8(development, view, full=False)
    held = engine.views.bytes
    assert held > 0
    for n in range(240):
        engine.models.put(f"stroke {n}", np.zeros((512, 512), np.float32))
    assert engine.views.bytes == held
    assert engine.models.bytes <= 192 << 20
    again = engine.develop(development.scene, coast.pyramid)
    assert again.light_planes(view) is development.light_planes(view)


def test_a_file_learns_of_the_whole_once(coast, monkeypatch):
    """Not anew for every band, with as little memory as a file's engine has."""
    engine = Engine(threads=2, cache_bytes=8 << 20)
    development = engine.develop(_worked(coast, engine), coast.pyramid)
    learned, real = [], engine.models.put
    monkeypatch.setattr(engine.models, "put", lambda key, value: (learned.append(key), real(key, value)))
    for _ in bands_of(development, development.geometry.fit(10**6), Output("srgb", 8)):
        pass
    assert learned
    # surveys and bands may learn one thing side by side, at the beginning
    assert max(Counter(learned).values()) <= 2
