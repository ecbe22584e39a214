"""Ingredients against NumPy references; how latches are made of latches."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.errors import DocumentError
from sunlatch.geometry import View
from sunlatch.latch import INGREDIENT_KINDS, Reading
from sunlatch.latch.base import Sight, stop_axis
from sunlatch.latch.refine import softened
from sunlatch.ledger import EdgeTrue, Latch, new_ingredient, parse_scene

H, W = 60, 90
Y, X = (np.mgrid[0:H, 0:W] + 0.5) / W
"""Where the px of a view of the whole frame lie, in long edges."""


def _reading(stops=None, lab=None, span=W):
    frame = np.stack([X, Y * W / H]).astype(np.float32)
    kept = {}
    whole = np.zeros((3, H, W), np.float32) if lab is None else lab.astype(np.float32)
    light = np.zeros((H, W), np.float32) if stops is None else stops.astype(np.float32)

    def part(region=(0, 0, 1, 1), long_edge=0):
        x0, y0, x1, y1 = (v * n for v, n in zip(region, (W, H, W, H), strict=True))
        w, h = max(1, round(x1 - x0)), max(1, round(y1 - y0))
        x, y = np.meshgrid(
            x0 + (x1 - x0) * (np.arange(w) + 0.5) / w, y0 + (y1 - y0) * (np.arange(h) + 0.5) / h
        )
        at = (np.float32(x - 0.5), np.float32(y - 0.5), cv2.INTER_LINEAR)
        return np.stack([cv2.remap(p, *at, borderMode=cv2.BORDER_REPLICATE) for p in whole])

    return Reading(
        stops=light,
        lightness=np.clip((stop_axis() + 8) / 12, 0, 1),
        place=(0.5 / W, 0.5 / H, 1 / W, 1 / H),
        aspect=(1.0, H / W),
        to_developed=lambda p: p,
        lab=lambda: whole,
        frame=lambda: frame,
        span=span,
        sight=Sight(part, (1.0, H / W), lambda p: p, lambda: light, "made"),
        kept=kept.get,
        keep=kept.__setitem__,
    )


def _mask(kind, reading, **params):
    return INGREDIENT_KINDS[kind].evaluate(new_ingredient(kind, params=params).params, reading)


def _smooth(t):
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


@given(st.floats(0.02, 0.3), st.floats(0.05, 1.0), st.floats(0, 1.5))
def test_colour_is_a_soft_ellipsoid_around_its_samples(reach, softness, light):
    rng = np.random.default_rng(2)
    lab = rng.uniform(-0.2, 0.6, (3, H, W))
    samples = [
        {"at": {"x": 0, "y": 0}, "l": 0.3, "a": 0.1, "b": 0.2},
        {"at": {"x": 0, "y": 0}, "l": 0.1, "a": 0.3, "b": 0.1},
        {"at": {"x": 0, "y": 0}, "l": 0.2, "a": 0.2, "b": 0.2, "take": False},
    ]
    got = _mask("colour", _reading(lab=lab), samples=samples, reach=reach, softness=softness, light=light)

    def like(s):
        d = np.sqrt(((lab[0] - s["l"]) * light) ** 2 + (lab[1] - s["a"]) ** 2 + (lab[2] - s["b"]) ** 2)
        inner, outer = reach * (1 - softness), reach * (1 + softness)
        return _smooth((outer - d) / (outer - inner))

    want = np.maximum(like(samples[0]), like(samples[1])) * (1 - like(samples[2]))
    assert np.allclose(got, want, atol=2e-3)
    assert _mask("colour", _reading(lab=lab)).max() == 0


@given(st.floats(0, 1), st.floats(0.2, 3), st.floats(0, 6.28), st.booleans())
def test_a_pool_is_its_ellipse(softness, across, turn, hollow):
    centre, length = np.array([0.45, 0.3]), 0.2
    edge = centre + length * np.array([np.cos(turn), np.sin(turn)])
    got = _mask(
        "pool", _reading(), centre={"x": centre[0], "y": centre[1]}, edge={"x": edge[0], "y": edge[1]},
        across=across, softness=softness, hollow=hollow,
    )  # fmt: skip
    dx, dy = X - centre[0], Y - centre[1]
    p = (dx * np.cos(turn) + dy * np.sin(turn)) / length
    q = (-dx * np.sin(turn) + dy * np.cos(turn)) / (length * across)
    want = 1 - _smooth((np.hypot(p, q) - (1 - softness)) / max(softness, 1e-4))
    near = np.abs(np.hypot(p, q) - 1) > 0.02  # a hard edge falls on either side of a px
    assert np.allclose(got[near], (1 - want if hollow else want)[near], atol=5e-3)


def _stroke(*points, **more):
    flat = [v for x, y in points for v in (x, y, 1.0)]
    return {"points": flat, "radius": 0.08, "soft": 0.5, "flow": 1.0} | more


def _hand(reading, *strokes):
    return _mask("hand", reading, strokes=list(strokes))


def test_a_stroke_covers_its_radius_and_ends_softly():
    mask = _hand(_reading(span=1280), _stroke((0.2, 0.33), (0.7, 0.33)))
    away = np.abs(Y - 0.33)
    middle = (X > 0.25) & (X < 0.65)
    assert mask[middle & (away < 0.03)].min() > 0.97
    assert mask[middle & (away > 0.09)].max() < 0.01
    assert mask[middle & (np.abs(away - 0.06) < 0.006)].mean() == pytest.approx(0.5, abs=0.25)
    assert np.allclose(
        mask, _hand(_reading(span=1280), _stroke((0.2, 0.33), (0.5, 0.33), (0.7, 0.33))), atol=0.01
    )


def test_strokes_add_up_and_the_eraser_takes_away():
    line = ((0.2, 0.33), (0.7, 0.33))
    one = _hand(_reading(), _stroke(*line, flow=0.4))
    two = _hand(_reading(), _stroke(*line, flow=0.4), _stroke(*line, flow=0.4))
    assert np.allclose(two, 1 - (1 - one) ** 2, atol=2e-3)
    crossing = _hand(_reading(), _stroke(*line, *line[::-1], flow=0.4))
    assert np.allclose(crossing, one, atol=2e-3)  # it counts once
    gone = _hand(_reading(), _stroke(*line), _stroke(*line, erase=True))
    assert gone.max() < 0.26  # 1 − c of the soft edge of what was c


def test_one_more_stroke_is_laid_on_what_was_drawn_before():
    reading, strokes = _reading(), [_stroke((0.1 * n, 0.2), (0.1 * n, 0.5)) for n in range(1, 8)]
    _hand(reading, *strokes)
    drawn = []
    wide = reading.__class__(**{**vars(reading), "keep": lambda name, mask: drawn.append(name)})
    again = _hand(wide, *strokes)
    assert not drawn  # nothing new to draw
    more = _hand(wide, *strokes, _stroke((0.3, 0.1), (0.8, 0.5)))
    assert len(drawn) == 2, "two tiles"
    assert np.allclose(more, _hand(_reading(), *strokes, _stroke((0.3, 0.1), (0.8, 0.5))), atol=1e-6)
    assert (more >= again - 1e-6).all()


def test_an_edge_seeking_stroke_keeps_to_what_it_went_over():
    lab = np.zeros((3, H, W))
    lab[0] = np.where(Y < 0.33, 0.7, 0.3)
    stroke = _stroke((0.3, 0.3), (0.6, 0.3), radius=0.12)
    plain, seeking = (_hand(_reading(lab=lab), stroke | {"seek": s}) for s in (False, True))
    under = (Y > 0.34) & (Y < 0.37) & (X > 0.35) & (X < 0.55)
    above = (Y > 0.27) & (Y < 0.32) & (X > 0.35) & (X < 0.55)
    assert plain[under].mean() > 0.8
    assert seeking[under].mean() < 0.05
    assert seeking[above].mean() > 0.9


def test_pressure_narrows_a_stroke_and_one_outside_does_nothing():
    soft = {"points": [0.2, 0.33, 0.2, 0.7, 0.33, 1.0], "radius": 0.08, "soft": 0.3, "flow": 1.0}
    mask = _hand(_reading(), soft)
    column = lambda x: float((mask[:, int(x * W)] > 0.5).sum())  # noqa: E731
    assert column(0.65) > 2 * column(0.25)
    assert _hand(_reading(), _stroke((3.0, 3.0), (4.0, 3.0))).max() == 0


def test_ten_thousand_strokes_are_still_a_mask_and_the_next_is_quick():
    rng = np.random.default_rng(5)
    strokes = [
        _stroke(
            *((rng.random(2) + rng.random((3, 2)) * 0.1) * [1, H / W]),
            radius=0.01,
            flow=0.3,
            erase=bool(n % 3 == 0),
        )
        for n in range(10_000)
    ]
    reading, laid = _reading(), []
    mask = _hand(reading, *strokes)
    assert 0 <= mask.min() <= mask.max() <= 1
    import sunlatch.latch.hand as module

    real = module._drawn
    try:
        module._drawn = lambda *a: (laid.append(1), real(*a))
        _hand(reading, *strokes, _stroke((0.3, 0.3), (0.4, 0.4)))
    finally:
        module._drawn = real
    assert len(laid) == 1


def test_detail_is_where_texture_is():
    rng = np.random.default_rng(4)
    stops = np.where(X < 0.5, 0.6 * rng.normal(0, 1, (H, W)), 0.01 * rng.normal(0, 1, (H, W)))
    texture = _mask("detail", _reading(stops), size=0.01)
    assert texture[:, :38].mean() > 0.9
    assert texture[:, 55:].mean() < 0.05
    assert np.allclose(texture + _mask("detail", _reading(stops), size=0.01, what="none"), 1, atol=1e-6)


def _latches(**made_of):
    at = {"kelvin": 5500, "duv": 0, "base_exposure": 0}
    return [
        {
            "id": name, "name": name.title(), "read_at": at,
            "ingredients": [{"kind": "another", "params": {"latch": other}} for other in others] or [{"kind": "fan"}],
        }
        for name, others in made_of.items()
    ]  # fmt: skip


def test_a_latch_made_of_itself_is_refused_and_the_circle_is_named():
    def scene(**made_of):
        return parse_scene(
            {"schema_version": 2, "sources": [{"sha256": "0" * 64}], "latches": _latches(**made_of)}
        )

    assert len(scene(sky=[], land=["sky"], both=["sky", "land"]).latches) == 3
    with pytest.raises(DocumentError, match="Sky → Land → Rock → Sky"):
        scene(sky=["land"], land=["rock"], rock=["sky"])
    with pytest.raises(DocumentError, match="Sky → Sky"):
        scene(sky=["sky"])
    with pytest.raises(DocumentError, match="not in the document"):
        scene(sky=["moon"])
    many = {f"n{n}": [f"n{n - 1}"] * 2 if n else [] for n in range(60)}
    assert len(scene(**many).latches) == 60


@pytest.mark.parametrize("edge_true", [False, True])
def test_another_latch_is_that_latch(coast, engine, edge_true):
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    sky = Latch(
        name="Sky", read_at=at, edge_true=EdgeTrue(on=edge_true),
        ingredients=[new_ingredient("fan", params={"narrowness": 3}), new_ingredient("ramp", join="keep_only")],
    )  # fmt: skip
    land = Latch(
        name="Land", read_at=at, edge_true=EdgeTrue(on=False),
        ingredients=[new_ingredient("another", invert=True, params={"latch": sky.id})],
    )  # fmt: skip
    scene.latches += [sky, land]
    development = engine.develop(scene, coast.pyramid)
    view = View((0.1, 0.2, 0.9, 0.8), (320, 160))
    assert np.allclose(
        development.latches.mask(land, view), 1 - development.latches.mask(sky, view), atol=1e-6
    )
    before = development.latches.mask(land, view)
    sky.ingredients[0].params.narrowness = 9
    changed = engine.develop(scene, coast.pyramid).latches.mask(land, view)
    assert np.abs(changed - before).max() > 0.05


def test_painting_stays_on_its_rock_through_lens_plumb_and_crop(coast, engine):
    """The px a dab was put on keep it, within a px, however the picture is bent afterwards."""
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    spot = (0.52, 0.31)
    dab = _stroke(spot, (spot[0] + 1e-4, spot[1]), radius=0.02)
    hand = Latch(
        name="Hand", read_at=at, edge_true=EdgeTrue(on=False),
        ingredients=[new_ingredient("hand", params={"strokes": [dab]})],
    )  # fmt: skip
    scene.latches.append(hand)
    lens, plumb, trim = scene.ground.lens.params, scene.ground.plumb.params, scene.ground.trim.params
    lens.known, lens.radial = "hand", -0.05
    plumb.lean, plumb.roll = 8.0, 2.0
    trim.level = -3.0
    development = engine.develop(scene, coast.pyramid)
    w, h = development.geometry.developed_size
    mask = development.latches.mask(hand, development.geometry.fit(10**6))
    weight = mask / mask.sum()
    found = np.array(
        [(weight.sum(0) * (np.arange(w) + 0.5)).sum(), (weight.sum(1) * (np.arange(h) + 0.5)).sum()]
    )
    wanted = development.geometry.to_developed(np.array(spot)) * development.geometry.long_edge
    assert np.hypot(*(found - wanted)) < 1.0
    assert cv2.countNonZero((mask > 0.5).astype(np.uint8)) > 500


def _ring(n=40, radius=0.2, centre=(0.5, 0.33)):
    angle = np.linspace(0, 2 * np.pi, n, endpoint=False)
    return [{"x": centre[0] + radius * np.cos(a), "y": centre[1] + radius * np.sin(a)} for a in angle]


@pytest.mark.parametrize("n", [8, 40])
def test_an_outline_through_a_circles_points_is_the_disc(n):
    got = _mask("outline", _reading(), points=_ring(n), soft=0.1)
    far = np.hypot(X - 0.5, Y - 0.33) - 0.2
    assert np.abs(got - _smooth(0.5 - far / 0.1)).max() < (0.06 if n == 8 else 0.02)
    hollow = _mask("outline", _reading(), points=_ring(n), soft=0.1, hollow=True)
    assert np.allclose(hollow, 1 - got, atol=1e-6)


def test_a_sharp_outline_is_its_polygon_and_fades_from_its_first_point():
    corners = [{"x": x, "y": y, "sharp": True} for x, y in ((0.2, 0.1), (0.8, 0.1), (0.8, 0.5), (0.2, 0.5))]
    got = _mask("outline", _reading(), points=corners, soft=0)
    inside = (X > 0.2) & (X < 0.8) & (Y > 0.1) & (Y < 0.5)
    away = np.minimum.reduce([abs(X - 0.2), abs(X - 0.8), abs(Y - 0.1), abs(Y - 0.5)]) > 0.02
    assert np.abs(got - inside)[away].max() < 0.02
    faded = _mask("outline", _reading(), points=corners, soft=0, fade=1.0)
    want = inside * (1 - np.hypot(X - 0.2, Y - 0.1) / np.hypot(0.6, 0.4))
    assert np.abs(faded - want)[away].max() < 0.02


def test_an_outline_that_crosses_itself_holds_all_it_goes_around_and_says_so():
    star = [0.5 + 0.3 * np.exp(2j * np.pi * (2 * k / 5)) for k in range(5)]
    corners = [{"x": p.real, "y": p.imag, "sharp": True} for p in star]
    kind = INGREDIENT_KINDS["outline"]
    params = new_ingredient("outline", params={"points": corners}).params
    assert "crosses itself" in kind.remark(params)
    assert kind.evaluate(params, _reading())[np.hypot(X - 0.5, Y - 0.0) < 0.03].min() > 0.99
    simple = new_ingredient("outline", params={"points": _ring(12)}).params
    assert kind.remark(simple) == ""
    two = new_ingredient("outline", params={"points": _ring(12)[:2]}).params
    assert "three" in kind.remark(two)
    assert not kind.evaluate(two, _reading()).any()


def test_kin_falls_off_with_tone_colour_texture_and_way():
    lab = np.zeros((3, H, W))
    lab[0] = 0.4
    lab[1, :, 45:] = 0.04
    place = [{"x": 0.2, "y": 0.3}]
    got = _mask("kin", _reading(lab=lab), places=place, colour=0.04, within=0.5)
    way = np.hypot(X - 0.2, Y - 0.3) / 0.5
    off = np.where(X > 0.5, 1.0, 0.0)
    quiet = np.abs(X - 0.5) > 0.15  # the edge itself is texture
    assert np.abs(got - 2.0 ** -(way**2 + off))[quiet].max() < 0.03
    nowhere = _mask("kin", _reading(lab=lab))
    assert not nowhere.any()
    kind = INGREDIENT_KINDS["kin"]
    assert "Point at" in kind.remark(new_ingredient("kin").params)
    assert "no reach" in kind.remark(new_ingredient("kin", params={"places": place, "tone": 0}).params)


def test_a_mask_grows_shrinks_and_is_feathered_by_px():
    disc = (np.hypot(*np.mgrid[-60:61, -60:61]) < 30).astype(np.float32)
    far = np.hypot(*np.mgrid[-60:61, -60:61])
    for grow in (12.0, -12.0):
        got = softened(disc, grow, 0)
        assert got[far < 30 + grow - 1.5].min() == 1
        assert got[far > 30 + grow + 1.5].max() == 0
    half = softened(disc, 0.5, 0)
    assert disc.sum() < half.sum() < softened(disc, 1.0, 0).sum()
    soft = softened(disc, 0, 8.0)
    assert soft[far < 30 - 12].min() > 0.99
    assert soft[far > 30 + 12].max() < 0.01
    assert 0.35 < soft[60, 90] < 0.65
    assert softened(disc, 0, 0) is disc


@pytest.mark.parametrize("seek", [False, True])
def test_strokes_are_laid_where_one_looks_and_lie_there_as_in_the_whole(seek):
    """At the closest look a plane of the whole frame would be a quarter of a gigabyte."""
    rng = np.random.default_rng(8)
    lab = cv2.resize(rng.uniform(0, 0.3, (H // 20, W // 20, 3)).astype(np.float32), (W, H)).transpose(2, 0, 1)
    strokes = [
        _stroke(*(rng.random((4, 2)) * [1, H / W]), radius=0.03, flow=0.6, seek=seek, erase=n == 5)
        for n in range(8)
    ]

    def looked(reading, x0, y0, x1, y1, w, h):
        x, y = np.meshgrid(
            x0 + (x1 - x0) * (np.arange(w) + 0.5) / w, y0 + (y1 - y0) * (np.arange(h) + 0.5) / h
        )
        places = np.stack([x, y]).astype(np.float32)
        return _hand(reading.__class__(**{**vars(reading), "frame": lambda: places}), *strokes)

    reading, kept = _reading(lab=lab, span=5120), []
    whole = looked(reading, 0, 0, 1, 1, 1280, 853)
    close = _reading(lab=lab, span=5120)
    close = close.__class__(**{**vars(close), "keep": lambda name, mask: kept.append(mask.nbytes)})
    x, y, w, h = 500, 300, 256, 200
    part = looked(close, x / 1280, y / 853, (x + w) / 1280, (y + h) / 853, w, h)
    assert 0.05 < part.mean() < 0.95
    assert np.abs(part - whole[y : y + h, x : x + w]).max() < 0.02
    assert sum(kept) <= 9 * 1024 * 1024 * 4
    if not seek:  # the whole's tiles meet without a step; a look from far away has no edges of tiles
        far = looked(_reading(lab=lab, span=1280), 0, 0, 1, 1, 1280, 853)
        assert np.abs(far - whole).mean() < 0.004
    assert looked(reading, 1.2, 1.2, 1.4, 1.4, 20, 20).max() == 0
