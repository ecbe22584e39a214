"""Work stops when nobody waits for it, and is given up when it takes too long; each latch is made once."""

import threading
import time

import numpy as np
import pytest

from sunlatch.errors import CancelledError, RenderError, TooLongError
from sunlatch.frame import FrameStore
from sunlatch.geometry import View
from sunlatch.latch.refine import softened
from sunlatch.ledger import Latch, new_ingredient, new_move
from sunlatch.masking.masks import _widened
from sunlatch.render import Engine, picture_8
from sunlatch.running.patience import Patience, doing_of, go_on, patience

WHOLE = View((0, 0, 1, 1), (320, 213))


def test_without_patience_work_goes_on():
    assert patience() is None
    go_on()


def test_patience_counts_only_the_time_inside():
    held = Patience(lambda: False, seconds=0.2)
    with held:
        time.sleep(0.05)
    time.sleep(0.3)
    assert 0.1 < held.left() <= 0.15
    with held:
        go_on()
        time.sleep(0.2)
        with pytest.raises(TooLongError):
            go_on()
    assert patience() is None


def test_waiting_for_a_frame_to_be_decoded_is_not_counted(coast, tmp_path, monkeypatch):
    """Six large frames side by side are decoded for longer than a picture may take to compute."""
    store = FrameStore(tmp_path)
    real = store.decoder.decode
    monkeypatch.setattr(store.decoder, "decode", lambda *a, **k: (time.sleep(1.2), real(*a, **k)))
    try:
        with Patience(lambda: False, seconds=1.0):
            store.first_look(coast.sha256, coast.path)
            go_on()
            store.whole(coast.sha256, coast.path)
            go_on()
    finally:
        store.decoder.close()


def test_patience_reaches_the_engines_threads():
    engine, wanted = Engine(threads=2), threading.Event()
    with Patience(wanted.is_set):
        engine.pool.submit(go_on).result()
        wanted.set()
        with pytest.raises(CancelledError):
            engine.pool.submit(go_on).result()
    engine.pool.submit(go_on).result()


def _chain(scene, at, count, each=2, **finish):
    """`count` latches, each made `each` times of the one before."""
    for n in range(count):
        lines = [new_ingredient("fan")]
        if n:
            lines = [new_ingredient("another", params={"latch": scene.latches[-1].id}) for _ in range(each)]
        scene.latches.append(Latch(name=f"latch {n}", read_at=at, ingredients=lines, **finish))
    scene.moves = [new_move("exposure", params={"ev": -1.0}, latch=scene.latches[-1].id)]
    return scene


@pytest.mark.parametrize("edge_true", [False, True])
def test_latches_made_of_one_another_are_each_made_once(coast, edge_true, monkeypatch):
    """Twenty-one latches, each made twice of the next: two million masks, were they not kept."""
    engine = Engine(threads=2)
    scene = _chain(coast.scene(), engine.develop(coast.scene(), coast.pyramid).ground.read_at(), 21)
    for latch in scene.latches:
        latch.edge_true.on = edge_true
    development, joined = engine.develop(scene, coast.pyramid), []
    real = development.latches._joined
    monkeypatch.setattr(development.latches, "_joined", lambda *a: (joined.append(a[0].name), real(*a))[1])
    picture_8(development, WHOLE, full=False)
    assert len(joined) <= 3 * 21


def test_two_hundred_latches_deep_are_rendered(coast):
    engine = Engine(threads=2)
    at = engine.develop(coast.scene(), coast.pyramid).ground.read_at()
    scene = _chain(coast.scene(), at, 200, each=1)
    shown = picture_8(engine.develop(scene, coast.pyramid), WHOLE, full=False)
    assert shown.shape == (213, 320, 3)


def test_nested_feathers_do_not_widen_a_view_without_end():
    view = View((0.0, 0.0, 1.0, 1.0), (300, 200))
    for _ in range(40):
        view, _ = _widened(view, 50)
    assert view.size == (400, 300)
    inside, (left, top) = _widened(View((0.25, 0.25, 0.5, 0.5), (300, 200)), 50)
    assert (left, top) == (50, 50)
    assert inside.size == (400, 300)
    assert inside.region == pytest.approx(
        (0.25 - 50 / 1200, 0.25 - 50 / 800, 0.5 + 50 / 1200, 0.5 + 50 / 800)
    )


@pytest.mark.parametrize("sigma", [20.0, 60.0, 150.0])
def test_a_wide_feather_made_on_a_small_copy_is_a_gaussian(sigma):
    mask = np.zeros((500, 700), np.float32)
    mask[200:, 300:] = 1
    mask[50:90, 60:100] = 1
    import cv2

    ideal = cv2.GaussianBlur(mask.astype(np.float64), (0, 0), sigma)
    off = np.abs(softened(mask, 0, 2 * sigma) - ideal)
    assert off[100:-100, 100:-100].max() < 0.012
    assert off.max() < 0.03


def test_a_mask_that_nobody_waits_for_is_left(coast):
    engine = Engine(threads=2)
    at = engine.develop(coast.scene(), coast.pyramid).ground.read_at()
    rng = np.random.default_rng(1)
    strokes = [
        {"points": np.column_stack([rng.random((300, 2)), np.ones(300)]).ravel().tolist(),
         "radius": 0.01, "soft": 0.5, "flow": 0.5}
        for _ in range(300)
    ]  # fmt: skip
    hand = Latch(name="Hand", read_at=at, ingredients=[new_ingredient("hand", params={"strokes": strokes})])
    scene = coast.scene()
    scene.latches = [hand]
    development = engine.develop(scene, coast.pyramid)
    # in seconds of our own work, of some forty that the whole mask takes: what others do on the machine is not ours
    start = time.process_time()
    with Patience(lambda: time.process_time() > start + 0.2), pytest.raises(CancelledError):
        development.latches.mask(hand, WHOLE)
    assert time.process_time() < start + 2
    with Patience(lambda: False, seconds=0.2), pytest.raises(TooLongError, match="too long"):
        development.latches.mask(hand, WHOLE)


def _too_long(seconds, work):
    """The line that is named when so much time is over."""

    def on():
        while True:
            work()
            go_on()

    with Patience(lambda: False, seconds), pytest.raises(TooLongError) as told:
        on()
    return told.value.line


def test_of_what_takes_too_long_the_line_that_took_the_longest_is_named():
    def inner(line, seconds):
        with doing_of(line):
            time.sleep(seconds)

    def work():
        inner("long", 0.03)
        inner("short", 0.002)
        time.sleep(0.01)

    assert _too_long(0.1, work) == "long"
    # also where it is at work by then, and where somebody has his turn meanwhile
    with doing_of("outer"):
        assert _too_long(0.1, lambda: inner("inner", 0.002)) == "outer"
    with Patience(lambda: False):
        inner("before", 0.2)
        assert _too_long(0.05, work) == "before"
    assert _too_long(0.01, lambda: None) == ""


def test_whose_doing_a_refusal_is_the_innermost_says():
    with pytest.raises(RenderError) as told, doing_of("outer"), doing_of("inner"):
        raise RenderError("no")
    assert told.value.line == "inner"
