"""Refocus gives back what a softness took, rings no farther than it may, and leaves noise alone; and a latch says where."""

import cv2
import numpy as np
import pytest

from sunlatch.geometry import View
from sunlatch.ledger import BentLine, Latch, PulledPart, ReshapeLine, new_ingredient
from sunlatch.sensor.noise import WEIGHTS, NoiseModel
from sunlatch.sensor.refocus import APRON, ROUNDS, refocus

QUIET = NoiseModel(1e-9, 1e-12, (1.0, 1.0, 1.0))
GRAINY = NoiseModel(4e-5, 1e-7, (1.0, 1.0, 1.0))


@pytest.fixture(scope="module")
def sharp():
    """Rocks of a kind: edges in all directions over three stops."""
    rng = np.random.default_rng(7)
    plane = np.full((300, 400), 0.2, np.float32)
    for _ in range(140):
        centre = rng.integers([0, 0], [400, 300])
        cv2.ellipse(
            plane, [int(v) for v in centre], [int(v) for v in rng.integers(4, 30, 2)], float(rng.uniform(0, 180)), 0, 360,
            float(rng.uniform(0.05, 0.5)), -1,
        )  # fmt: skip
    return cv2.GaussianBlur(plane, (0, 0), 0.6)  # as sharp as a lens draws


def softened(plane, sigma=1.5):
    return cv2.GaussianBlur(plane, (0, 0), sigma)


def drawn_together(plane, model=QUIET, **how):
    camera = np.stack([plane] * 3).astype(np.float32)
    settings = {"amount": 1.0, "radius": 1.5, "ring": 0.1, "floor": 0.0} | how
    refocus(camera, 0, model, **settings)
    return camera


def off(a, b):
    inner = np.s_[20:-20, 20:-20]
    return float(np.sqrt(((a - b)[inner] ** 2).mean()))


def test_what_a_softness_took_comes_back(sharp):
    soft = softened(sharp)
    back = drawn_together(soft)
    assert np.array_equal(back[0], back[2])
    assert off(back[0], sharp) < 0.66 * off(soft, sharp)
    half = drawn_together(soft, amount=0.5)[0]
    assert off(half, (soft + back[0]) / 2) < 1e-5


def test_it_is_the_algorithm(sharp):
    """Richardson and Lucy's as it is written, where it may ring and there is no noise."""
    soft = softened(sharp).astype(np.float64)
    size = 2 * int(np.ceil(4.5)) + 1
    found = soft.copy()

    def blurred(x):
        return cv2.GaussianBlur(x, (size, size), 1.5, borderType=cv2.BORDER_REPLICATE)

    for _ in range(ROUNDS):
        found *= blurred(soft / blurred(found))
    ours = drawn_together(soft.astype(np.float32), ring=1.0)[0]
    assert off(ours, found) < 4e-4


@pytest.mark.parametrize("ring", [0.0, 0.1, 0.5])
def test_edges_ring_no_farther_than_they_may(ring):
    step = softened(np.where(np.arange(200) < 100, 0.05, 0.4).astype(np.float32)[None].repeat(80, 0))
    back = drawn_together(step, radius=2.4, ring=ring)[0]
    assert back.max() <= 0.4 + ring * 0.35 + 1e-4
    assert back.min() >= 0.05 - ring * 0.35 - 1e-4
    if ring == 0.5:
        assert back.max() > 0.41  # too large a radius does ring, where it is let


def test_noise_is_left_alone():
    rng = np.random.default_rng(1)
    flat = 0.2 + rng.normal(0, np.sqrt(GRAINY.mixed(WEIGHTS)[0] * 0.2 * 1.0), (300, 300)).astype(np.float32)
    left = drawn_together(flat, GRAINY, floor=4.0)[0]
    given = drawn_together(flat, GRAINY, floor=0.0, ring=1.0)[0]
    assert left.std() < 1.2 * flat.std()
    assert given.std() > 1.2 * left.std()


def test_tiles_agree_with_the_whole(sharp):
    soft = softened(sharp)
    whole = drawn_together(soft)[0]
    part = drawn_together(soft[60 - APRON : 180 + APRON, 80 - APRON : 240 + APRON])[0]
    inner = part[APRON:-APRON, APRON:-APRON]
    assert np.abs(inner - whole[60:180, 80:240]).max() < 2e-3


def test_a_softness_smaller_than_a_px_of_the_level_changes_nothing(sharp):
    camera = np.stack([sharp] * 3)
    refocus(camera, 3, QUIET, 1.0, 1.5, 0.1, 0.0)
    assert np.array_equal(camera[1], sharp)


def test_it_is_latched_and_stands_in_the_document(coast, engine):
    scene = coast.scene()
    view = View((0.3, 0.3, 0.6, 0.6), (380, 250))
    plain = engine.develop(scene, coast.pyramid).camera(view)
    scene.ground.refocus.params.amount = 1.0
    scene.ground.refocus.params.radius = 2.0
    everywhere = engine.develop(scene, coast.pyramid).camera(view)
    assert np.abs(everywhere - plain).max() > 0.01
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    scene.latches = [Latch(id="l", name="Stretched", read_at=at, ingredients=[new_ingredient("stretched")])]
    scene.ground.refocus.latch = "l"
    straight = engine.develop(scene, coast.pyramid)
    assert np.abs(straight.camera(view) - plain).max() < 1e-6  # nothing is stretched
    # Crispness goes on from what is drawn together
    scene.ground.refocus.latch = None
    scene.ground.crispness.params.amount = 0.5
    both = engine.develop(scene, coast.pyramid).camera(view)
    assert np.abs(both - everywhere).max() > 0.001


def test_a_latch_holds_what_is_stretched(coast, engine):
    """Against what the map says of itself, after a foreground was pulled nearer and a line made straight."""
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    latch = Latch(
        name="Stretched", read_at=at,
        ingredients=[new_ingredient("stretched", params={"least": 1.0, "soft": 1.0})],
    )  # fmt: skip
    latch.edge_true.on = False
    scene.latches = [latch]
    outline = [-0.01, 0.45, 1.01, 0.45, 1.01, 0.68, -0.01, 0.68]
    line = BentLine(points=[0.1, 0.2, 0.5, 0.21, 0.9, 0.2])
    scene.shapes = [ReshapeLine(id="r", pulled=[PulledPart(outline=outline, amount=1.4)], lines=[line])]
    d = engine.develop(scene, coast.pyramid)
    mask = d.latches.mask(latch, d.geometry.fit(900))
    h, w = mask.shape
    true = d.geometry.stretched(9, 6)
    t = np.clip(true - 1, 0, 1)
    wanted = t * t * (3 - 2 * t)
    ys, xs = ((np.arange(6) + 0.5) / 6 * h).astype(int), ((np.arange(9) + 0.5) / 9 * w).astype(int)
    assert np.abs(mask[np.ix_(ys, xs)] - wanted).max() < 0.05
    assert wanted.max() > 0.3
    latch.edge_true.on = True
    d = engine.develop(scene, coast.pyramid)
    edged = d.latches.mask(latch, d.geometry.fit(900))
    assert np.abs(edged - mask).mean() < 0.05
