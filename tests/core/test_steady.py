"""What a mask does not depend on: the crop, Noise, how much of the frame was there when it was opened, what was looked
at before."""

import os
import threading

import numpy as np
import pytest

from fieldworld.camera import Shot, smaller
from fieldworld.seen import Viewpoint
from sunlatch.frame import FrameStore, hash_file
from sunlatch.frame.store import shelf_name
from sunlatch.geometry import View
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient
from sunlatch.render import Engine
from sunlatch.running.shelf import Used, keep_quota
from tests.coast import shoot


@pytest.mark.parametrize("edge_true", [False, True])
@pytest.mark.parametrize("inner", [{"grow": 40.0}, {"feather": 120.0}, {"grow": -25.0, "feather": 60.0}])
def test_a_crop_changes_no_mask_made_of_a_grown_or_feathered_one(coast, edge_true, inner):
    engine, scene = Engine(threads=2), coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    edge = EdgeTrue(on=edge_true)
    one = Latch(name="One", read_at=at, edge_true=EdgeTrue(on=False), **inner,
                ingredients=[new_ingredient("fan", params={"narrowness": 3})])  # fmt: skip
    two = Latch(name="Two", read_at=at, edge_true=edge,
                ingredients=[new_ingredient("another", params={"latch": one.id})])  # fmt: skip
    scene.latches = [one, two]
    whole = engine.develop(scene, coast.pyramid)
    w, h = whole.geometry.developed_size
    cropped = scene.model_copy(deep=True)
    cropped.ground.trim.params = type(cropped.ground.trim.params)(
        format="free", width=0.5, height=0.5 * h / w, centre={"x": 0.5, "y": 0.5 * h / w}
    )
    box, canvas = engine.develop(cropped, coast.pyramid).geometry.box, whole.geometry.canvas
    across, down = (np.array([box.x0, box.x1]) - canvas.x0, np.array([box.y0, box.y1]) - canvas.y0)
    (x0, x1), (y0, y1) = across / canvas.width, down / canvas.height
    assert 0.2 < x0 < x1 < 0.8
    before = whole.latches.mask(two, View((x0, y0, x1, y1), (w // 2, h // 2)))
    for fresh in (engine, Engine(threads=2)):  # whatever was rendered first
        development = fresh.develop(cropped, coast.pyramid)
        after = development.latches.mask(development.scene.latches[1], View((0, 0, 1, 1), (w // 2, h // 2)))
        off = np.abs(after - before)[20:-20, 20:-20]
        assert off.mean() < 1e-3
        assert off.max() < 0.05


def test_noise_moves_no_mask_where_the_lens_drew_colours_apart(coast):
    scene = coast.scene()
    scene.ground.lens.params = type(scene.ground.lens.params)(known="hand", red=3.0, blue=-3.0, radial=0.02)
    latch = Latch(
        name="Lights", read_at=Engine(threads=1).develop(scene, coast.pyramid).ground.read_at(),
        edge_true=EdgeTrue(on=False), ingredients=[new_ingredient("fan", params={"narrowness": 2})],
    )  # fmt: skip
    scene.latches = [latch]
    view = View((0, 0, 1, 1), (500, 333))
    plain = Engine(threads=2).develop(scene, coast.pyramid).latches.mask(latch, view)
    scene.ground.noise.params = type(scene.ground.noise.params)(light=1.0, colour=1.0)
    smooth = Engine(threads=2).develop(scene, coast.pyramid).latches.mask(latch, view)
    assert np.abs(plain - smooth).max() < 1e-5


def test_what_was_found_in_the_first_look_is_not_kept_for_the_whole_frame(tmp_path):
    """Opened early or late, a scene holds the same sky."""
    path = tmp_path / "stack.dng"
    shoot(smaller(Shot("stack", Viewpoint()), 1000), path)
    sha256, sky = hash_file(path), new_ingredient("sky")
    scene, stores = (
        Scene(sources=[Source(sha256=sha256)]),
        [FrameStore(tmp_path / n) for n in ("early", "late")],
    )
    _, first = stores[0].first_look(sha256, path)
    assert not first.complete
    engine = Engine(threads=2)
    early = engine.develop(scene, first).reader.finding(sky).mask
    found = [engine.develop(scene, stores[0].whole(sha256, path)).reader.finding(sky).mask]
    found.append(Engine(threads=2).develop(scene, stores[1].whole(sha256, path)).reader.finding(sky).mask)
    for store in stores:
        store.decoder.close()
    assert np.array_equal(*found)
    assert not (early.shape == found[0].shape and np.array_equal(early, found[0]))


def test_the_quota_drops_what_was_used_the_longest_ago(tmp_path):
    """A frame that is open, though it was brought in first, stays; what nobody looked at goes."""
    shoot(smaller(Shot("stack", Viewpoint()), 320), tmp_path / "0.dng")
    data = (tmp_path / "0.dng").read_bytes()
    frames = []
    for n in range(3):
        path = tmp_path / f"{n}.dng"
        path.write_bytes(data + bytes([n]))
        frames.append((hash_file(path), path))
    store = FrameStore(tmp_path / "pyramids")
    store.first_look(*frames[0])
    store.first_look(*frames[1])
    one = sum(f.stat().st_size for f in store.shelf.home(shelf_name(frames[0][0])).rglob("*") if f.is_file())
    for n, (sha256, _) in enumerate(frames[:2]):  # brought in long ago, the first before the second
        os.utime(store.shelf.home(shelf_name(sha256)), (1e9 + n, 1e9 + n))
    store.shelf.used = Used()
    assert store.best(frames[0][0]) is not None  # looked at now
    store.shelf._quota = int(2.5 * one)
    store.first_look(*frames[2])
    store.decoder.close()
    assert [store.shelf.home(shelf_name(sha256)).exists() for sha256, _ in frames] == [True, False, True]


def _bent(coast):
    scene = coast.scene()
    scene.ground.lens.params = type(scene.ground.lens.params)(known="hand", radial=0.05)
    scene.ground.trim.params = type(scene.ground.trim.params)(level=3.0)
    return scene


def test_a_shape_read_on_the_upright_frame_lies_where_it_is_looked_at(coast):
    scene, engine = _bent(coast), Engine(threads=2)
    development = engine.develop(scene, coast.pyramid)
    scene.latches = [
        Latch(name="Ramp", ingredients=[new_ingredient("ramp")], read_at=development.ground.read_at(),
              edge_true=EdgeTrue(on=False))
    ]  # fmt: skip
    base = development.geometry.base
    whole = development.latches.mask(scene.latches[0], View((0, 0, 1, 1), (240, 160)), base)
    parts = [
        development.latches.mask(scene.latches[0], View((0, y, 1, y + 0.5), (240, 80)), base)
        for y in (0.0, 0.5)
    ]
    assert whole.std() > 0.2
    assert np.abs(np.concatenate(parts) - whole).max() < 0.01


def test_places_on_the_frame_are_those_of_the_map_asked_for(coast):
    development = Engine(threads=2).develop(coast.scene(), coast.pyramid)
    other = Engine(threads=2).develop(_bent(coast), coast.pyramid)
    view = View((0, 0, 1, 1), (60, 40))
    own = other.reader.frame_places(view, other.geometry)
    assert np.abs(development.reader.frame_places(view, development.geometry) - own).max() > 0.01
    assert (development.reader.frame_places(view, other.geometry) == own).all()


def test_a_store_trimmed_by_several_at_once_fails_nobody(tmp_path):
    """As the studio and its worker do; what is newest, and what is being written, stays."""
    newest, writing = tmp_path / "newest", tmp_path / "writing"
    for home in (newest, writing / "whole.part7"):
        home.mkdir(parents=True)
        (home / "L0.npy").write_bytes(bytes(100))
    failed, stop = [], threading.Event()

    def fill():
        for n in range(400):
            if stop.is_set():
                return
            home = tmp_path / f"{threading.get_ident()}-{n}" / "whole"
            home.mkdir(parents=True)
            for k in range(6):
                (home / f"L{k}.npy").write_bytes(bytes(200))

    def trim():
        try:
            for _ in range(60):
                keep_quota(tmp_path, 5000, newest)
        except OSError as error:
            failed.append(error)

    threads = [threading.Thread(target=trim) for _ in range(3)]
    filling = threading.Thread(target=fill)
    for one in (filling, *threads):
        one.start()
    for one in threads:
        one.join()
    stop.set()
    filling.join()
    assert failed == []
    assert (newest / "L0.npy").exists()
    assert (writing / "whole.part7" / "L0.npy").exists()
    keep_quota(tmp_path, 2000, newest)
    assert sum(f.stat().st_size for f in tmp_path.rglob("*.npy")) <= 2000
