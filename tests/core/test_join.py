"""Sweeps: how frames lie, against the truth of the invented coast; what found no place, and why."""

import os
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest

from fieldworld.camera import FILTERS, smaller
from fieldworld.lent import find_any
from fieldworld.optics import turning
from sunlatch.binding.maps import master_of, outline_of, rotation_matrix
from sunlatch.blobs import Blobs
from sunlatch.blocks import Block
from sunlatch.errors import DocumentError, JoinError
from sunlatch.frame import FrameStore, hash_file, whole
from sunlatch.geometry import View, mesh_of, solve_on_sphere
from sunlatch.layers import lend
from sunlatch.ledger import Area, Painted, Scene, Source, parse_scene
from sunlatch.mend import regrow_of
from sunlatch.merging import Joined, JoinStore, input_frames, key_of_join, order_of, plan_sweep, scene_of
from sunlatch.registration.solve import _worst
from sunlatch.render import Engine
from tests.coast import ideal, shoot, truth_of

WIDTH = 1800
"""Of these the world casts a whole number of rays each way: it is true to its own focal length to the last digit."""


class Shots:
    """Frames made once, by name."""

    def __init__(self, folder: Path, store: FrameStore) -> None:
        self.folder, self.store = folder, store

    def source(self, name: str, width: int = WIDTH, **changed: object) -> Source:
        """A frame as a source; changed: of its shot."""
        path = self.folder / f"{name}-{width}{'-'.join(str(v) for v in changed.values())}.dng"
        if not path.exists():
            shoot(replace(smaller(find_any(name), width), **changed), path)  # type: ignore[arg-type]
        return Source(id=path.stem, sha256=hash_file(path), path=path.name)

    def open(self, source: Source):  # type: ignore[no-untyped-def]
        """Its raster."""
        return self.store.whole(source.sha256, self.folder / source.path)


@pytest.fixture(scope="module")
def shots(tmp_path_factory: pytest.TempPathFactory, store: FrameStore) -> Shots:
    return Shots(tmp_path_factory.mktemp("shots"), store)


@pytest.fixture(scope="module")
def sources(shots: Shots) -> list[Source]:
    return [shots.source(f"sweep-{n}") for n in range(1, 6)]


@pytest.fixture(scope="module")
def sweep(shots: Shots, sources: list[Source], engine: Engine) -> Scene:
    return scene_of(plan_sweep(input_frames(sources, shots.open), engine), sources)


@pytest.fixture(scope="module")
def joined(shots: Shots, sweep: Scene, engine: Engine, tmp_path_factory: pytest.TempPathFactory) -> Joined:
    return JoinStore(tmp_path_factory.mktemp("joins")).whole(sweep, shots.open, engine)


def true_turn(name: str) -> np.ndarray:
    """World to camera of a shot: x right, y down, z ahead; the world's y up."""
    view = find_any(name).view
    return np.asarray(turning(view.heading, view.pitch, view.roll).T)


def angle(a: np.ndarray, b: np.ndarray) -> float:
    return float(np.degrees(np.arccos(np.clip((np.trace(a @ b.T) - 1) / 2, -1, 1))))


def test_turns_focal_and_horizon_are_those_of_the_world(sweep: Scene) -> None:
    turns = [rotation_matrix(m.rotation) for m in sweep.base.members]
    true = [true_turn(f"sweep-{n}") for n in range(1, 6)]
    for a, b, p, q in zip(turns, turns[1:], true, true[1:], strict=False):
        assert angle(b @ a.T, q @ p.T) < 0.05
    assert abs(sweep.base.focal / (35 / 36 * WIDTH) - 1) < 0.005
    for turn, truth in zip(turns, true, strict=True):
        up, held = turn @ [0.0, -1.0, 0.0], truth @ [0.0, 1.0, 0.0]
        assert np.degrees(np.arccos(np.clip(up @ held, -1, 1))) < 0.1
    assert max(m.residual for m in sweep.base.members) < 0.5


def test_exposure_that_drifted_is_told_and_undone(sweep: Scene) -> None:
    for n, member in enumerate(sweep.base.members):
        assert member.gain == pytest.approx(np.log2(1 / (1 + 0.05 * (n - 2))), abs=0.03)


def test_noise_is_that_of_the_frames_that_are_shown(sweep: Scene, joined: Joined) -> None:
    """Each frame's own, by as much as it was made lighter; where two meet, between theirs."""
    stated, (height, width), names = joined.info.noise_profile, joined.shape(0), joined.seams
    assert stated is not None
    per = height / names.shape[0], width / names.shape[1]
    for n, member in enumerate(sweep.base.enabled):
        rows, columns = np.nonzero(cv2.erode((names == n).astype(np.uint8), np.ones((5, 5), np.uint8)))
        r, c = rows[len(rows) // 2], columns[len(columns) // 2]
        block = Block(int(r * per[0]), int((r + 1) * per[0]), int(c * per[1]), int((c + 1) * per[1]))
        times = 2.0**member.gain
        assert joined.noise(0, block) == pytest.approx((stated[0] * times, stated[1] * times**2), rel=1e-6)
    whole = joined.noise(0, Block(0, height, 0, width))
    gains = [2.0**m.gain for m in sweep.base.enabled]
    assert stated[0] * min(gains) < whole[0] < stated[0] * max(gains)


@pytest.mark.parametrize("heading", [-36.5, -10.0, 16.5, 43.0])
def test_across_its_seams_it_is_what_an_ideal_camera_sees(
    sweep: Scene, joined: Joined, engine: Engine, heading: float
) -> None:
    """A view straight at a seam, against the world as it is there."""
    shot = find_any("sweep-3")
    anchor = rotation_matrix(sweep.base.members[2].rotation)
    faces = np.degrees(np.arctan2(anchor[2, 0], anchor[2, 2]))
    scene = sweep.model_copy(deep=True)
    scene.ground.projection.params.kind = "rectilinear"
    scene.ground.projection.params.facing = heading - shot.view.heading + faces
    size = (400, 300)
    focal = sweep.base.focal
    wide = 420 / focal  # half width of what is looked at, in px per radian at the middle
    development = engine.develop(scene, joined, untrimmed=True)
    box, unit = development.geometry.box, sweep.base.unit
    half = np.array([wide, wide * size[1] / size[0]]) * focal / unit
    region = tuple(
        float(v)
        for v in (
            (-half[0] - box.x0) / box.width, (-half[1] - box.y0) / box.height,
            (half[0] - box.x0) / box.width, (half[1] - box.y0) / box.height,
        )
    )  # fmt: skip
    planes = development.camera(View(region, size))  # type: ignore[arg-type]
    mm = 36.0 / (2 * wide)  # the focal length that sees as much over a long edge of 36 mm
    view = replace(shot.view, heading=heading, pitch=0.0, roll=0.0, focal_mm=mm)
    true = ideal(view, (size[0] * 3, size[1] * 3))  # the world is cast at half the density, and softly
    small = [cv2.resize(x, size, interpolation=cv2.INTER_AREA) for x in (true.radiance, true.water, true.sky)]
    light = (small[0] @ FILTERS[1].astype(np.float32)) * shot.exposure.level()
    # what is finer than a few px the world draws anew for every density
    light, seen = (cv2.GaussianBlur(x, (0, 0), 6) for x in (light, planes[1]))
    ratio = np.log2(np.maximum(seen, 1e-4)) - np.log2(np.maximum(light, 1e-4))
    still = (cv2.dilate(small[1], np.ones((13, 13))) < 0.02) & (seen < 0.6) & (seen > 0.01)
    off = ratio[still] - np.median(ratio[still])
    assert still.mean() > 0.15
    assert np.percentile(np.abs(off), 75) < 0.2
    sky = (small[2] > 0.98) & (seen < 0.6)
    if sky.mean() > 0.05:  # no step of light where one frame gives way to the next
        columns = [
            np.median(ratio[:, c : c + 20][sky[:, c : c + 20]])
            for c in range(0, 400, 20)
            if sky[:, c : c + 20].sum() > 200
        ]
        assert np.abs(np.diff(columns)).max() < 0.06


def test_a_first_look_is_the_whole_made_small(
    shots: Shots, sweep: Scene, joined: Joined, engine: Engine, tmp_path: Path
) -> None:
    first = JoinStore(tmp_path).first_look(sweep, shots.open, engine)
    level = min(first.levels)
    assert not first.complete
    assert level > 0
    h, w = first.shape(level)
    assert joined.shape(level) == (h, w)
    a, b = (r.fetch(level)(0, h, 0, w) for r in (first, joined))
    off = np.abs(np.log2(np.maximum(a, 0.01)) - np.log2(np.maximum(b, 0.01)))
    assert np.median(off) < 0.01
    assert np.percentile(off, 85) < 0.2


def test_a_frame_left_out_changes_what_is_covered_and_no_coordinate(
    sweep: Scene, joined: Joined, engine: Engine, shots: Shots, tmp_path: Path
) -> None:
    without = sweep.model_copy(deep=True)
    without.base.members[4].on = False
    assert key_of_join(without) != key_of_join(sweep)
    told = sweep.model_copy(deep=True)
    told.base.members[0].residual = 9.0
    assert key_of_join(told) == key_of_join(sweep)
    raster = JoinStore(tmp_path).first_look(without, shots.open, engine)
    a, b = engine.develop(sweep, joined).geometry, engine.develop(without, raster).geometry
    place = np.array([[0.6, 0.5]])
    assert a.box.width > b.box.width
    assert np.allclose(a.to_turned(place), b.to_turned(place))


def test_what_is_latched_stays_on_its_thing_in_every_projection(
    sweep: Scene, joined: Joined, engine: Engine
) -> None:
    rng = np.random.default_rng(2)
    base = sweep.base
    places = rng.uniform(0.3, 0.7, (20, 2)) * np.array(base.size) / base.unit
    for kind in ("rectilinear", "panini", "cylindrical", "mercator", "equirectangular", "stereographic"):
        scene = sweep.model_copy(deep=True)
        scene.ground.projection.params.kind = kind
        scene.ground.projection.params.facing = 8.0
        scene.ground.plumb.params.roll = 3.0
        geometry = engine.develop(scene, joined).geometry
        back = geometry.turned_to_source(geometry.to_turned(places))
        assert np.abs(back - places).max() < 1e-6
        mesh = mesh_of(geometry)
        assert np.abs(mesh.at(geometry.to_turned(places)) - places).max() * base.unit < 1.0


def test_the_largest_crop_has_no_empty_corner(sweep: Scene, joined: Joined, engine: Engine) -> None:
    for kind in ("cylindrical", "panini", "equirectangular"):
        scene = sweep.model_copy(deep=True)
        scene.ground.projection.params.kind = kind
        development = engine.develop(scene, joined)
        box = development.geometry.box
        t = np.linspace(0, 1, 60)
        rim = np.concatenate(
            [np.stack([box.x0 + t * box.width, t * 0 + y], -1) for y in (box.y0, box.y1)]
            + [np.stack([t * 0 + x, box.y0 + t * box.height], -1) for x in (box.x0, box.x1)]
        )
        directions = development.geometry.sphere.master.directions(  # type: ignore[union-attr]
            development.geometry.turned_to_source(rim) * sweep.base.unit
        )
        assert development.geometry.sphere.outline.depth(directions).min() > -1  # type: ignore[union-attr]


def test_a_horizon_drawn_along_makes_it_level(sweep: Scene) -> None:
    tilt = rotation_matrix([0.03, 0.0, 0.05])
    a, b = (tilt @ np.array([np.sin(t), 0.0, np.cos(t)]) for t in (-0.7, 0.6))
    lean, _, roll = solve_on_sphere([(a, b, "level")])
    from sunlatch.geometry import rotation

    after = [rotation(lean, 0.0, roll) @ v for v in (a, b)]
    assert max(abs(v[1]) for v in after) < 1e-4


def test_two_rows_in_any_order(shots: Shots, engine: Engine) -> None:
    names = [f"rows-{n}" for n in (4, 1, 6, 2, 5, 3)]
    some = [shots.source(n, 1200) for n in names]
    base = plan_sweep(input_frames(some, shots.open), engine)
    assert len(base.members) == 6
    assert not base.left_out
    order, overlap = order_of(base)
    assert [s.split("-1200")[0] for s in order] == [
        "rows-6",
        "rows-5",
        "rows-4",
        "rows-1",
        "rows-2",
        "rows-3",
    ]
    assert 0.1 < overlap < 0.6
    assert abs(base.focal / (35 / 36 * 1200) - 1) < 0.005


def test_a_full_turn_closes(shots: Shots, engine: Engine, tmp_path: Path) -> None:
    some = [shots.source(f"round-{n}", 1000) for n in range(1, 13)]
    base = plan_sweep(input_frames(some, shots.open), engine, quick=True)
    assert len(base.members) == 12
    scene = scene_of(base, some)
    raster = JoinStore(tmp_path).first_look(scene, shots.open, engine)
    assert base.size[0] == pytest.approx(2 * np.pi * base.density, abs=0.5)
    # past its right edge its left goes on
    level = min(raster.levels)
    h, w = raster.shape(level)
    over = raster.fetch(level)(0, h, w - 5, w + 5)
    assert np.array_equal(over[..., 5:], raster.fetch(level)(0, h, 0, 5))
    assert np.array_equal(raster.fetch(level)(0, h, -5, 3)[..., :5], over[..., :5])
    # a view that faces away from the anchor shows no edge: what lies at its middle is not where anything ends
    scene.ground.projection.params.facing = 180.0
    geometry = engine.develop(scene, raster).geometry
    row = np.stack([np.linspace(-0.5, 0.5, 200), np.zeros(200)], -1)
    steps = np.diff(geometry.turned_to_source(row)[:, 0])
    assert np.abs(steps - steps.mean()).max() < 1e-6


def test_a_full_turn_is_blended_across_its_cut(shots: Shots, engine: Engine, tmp_path: Path) -> None:
    """Frames that were lightened by .3 stops too much and too little in turn: the cut shows no more of it than any place."""
    some = [shots.source(f"round-{n}", 1000) for n in range(1, 13)]
    base = plan_sweep(input_frames(some, shots.open), engine, quick=True)
    for n, member in enumerate(base.members):
        member.gain += 0.15 if n % 2 else -0.15
    assert base.revision == 4
    at_cut = {}
    for revision in (2, 3):
        scene = scene_of(base.model_copy(update={"revision": revision}), some)
        raster = JoinStore(tmp_path / str(revision)).first_look(scene, shots.open, engine)
        level = min(raster.levels)
        h = raster.shape(level)[0]
        light = raster.fetch(level)(int(0.15 * h), int(0.4 * h), -100, 100)
        stops = np.log2(np.maximum(light, 1e-4)).mean(0)
        steps = [
            abs(float(np.median(stops[:, c : c + 4].mean(1) - stops[:, c - 4 : c].mean(1))))
            for c in range(10, 190, 5)
        ]
        at_cut[revision] = steps[18], float(np.percentile(steps, 90))
    assert at_cut[3][0] <= at_cut[3][1]
    assert at_cut[2][0] > 2 * at_cut[3][0]


def test_a_frame_that_does_not_fit_is_named_and_left_out(
    shots: Shots, sources: list[Source], engine: Engine
) -> None:
    other = shots.source("heath")
    dark = shots.source(
        "sweep-2",
        exposure=replace(find_any("sweep-2").exposure, seconds=1 / 8000, f_number=22.0, iso=50),
        seed=9,
    )
    twice = sources[0].model_copy(update={"id": "twice", "path": "again.dng"})
    base = plan_sweep(input_frames([*sources[:3], other, dark, twice], shots.open), engine)
    assert [m.source for m in base.members] == [s.id for s in sources[:3]]
    said = {left.name: left.why for left in base.left_out}
    assert "does not overlap" in said[other.path]
    assert "black" in said[dark.path]
    assert f"the same file as {sources[0].path}" in said["again.dng"]


@pytest.mark.parametrize(
    ("names", "said"),
    [(["sweep-1"], "two frames at least"), (["sweep-1", "sweep-5"], "None of these frames overlap"),
     (["sweep-1", "heath"], "None of these frames overlap")],
)  # fmt: skip
def test_what_cannot_be_joined_is_said(shots: Shots, engine: Engine, names: list[str], said: str) -> None:
    with pytest.raises(JoinError, match=said):
        plan_sweep(input_frames([shots.source(n) for n in names], shots.open), engine)


def test_two_sweeps_mixed_the_larger_is_joined(shots: Shots, sources: list[Source], engine: Engine) -> None:
    others = [shots.source(f"crossing-{n}") for n in (1, 2)]
    base = plan_sweep(input_frames([*sources[:3], *others], shots.open), engine)
    assert len(base.members) == 3
    assert all("another scene" in left.why for left in base.left_out)


def test_a_document_of_a_sweep_goes_out_and_comes_back(sweep: Scene) -> None:
    assert parse_scene(sweep.model_dump_json()) == sweep
    data = sweep.model_dump(mode="json")
    data["base"]["members"][0]["source"] = "nobody"
    with pytest.raises(Exception, match="not in the document"):
        parse_scene(data)
    data = sweep.model_dump(mode="json")
    for member in data["base"]["members"]:
        member["on"] = False
    with pytest.raises(Exception, match="all left out"):
        parse_scene(data)


def test_killed_in_the_middle_nothing_half_is_left(
    shots: Shots, sweep: Scene, engine: Engine, tmp_path: Path
) -> None:
    store = JoinStore(tmp_path)

    class Killed(BaseException):
        pass

    def stop(step: str, done: float) -> None:
        if done > 0.6:
            raise Killed

    with pytest.raises(Killed):
        store.whole(sweep, shots.open, engine, stop)
    assert store.best(sweep) is None
    assert store.whole(sweep, shots.open, engine).complete


def test_truth_holds_for_a_shot(shots: Shots) -> None:
    """The ideal camera and the field camera stand in the same world."""
    shot = smaller(find_any("sweep-2"), 300)
    seen = truth_of(shot)
    true = ideal(shot.view, (shot.lens.width, shot.lens.height))
    middle = np.s_[140:160, 95:105]
    assert np.allclose(seen.radiance[middle].mean(), true.radiance[middle].mean(), rtol=0.05)


def _stroke(at: list[float], radius: float) -> dict[str, object]:
    return {"points": [*at, 1.0], "radius": radius, "soft": 0.0, "flow": 1.0}


def test_a_seam_goes_where_it_is_painted(
    shots: Shots, sweep: Scene, joined: Joined, engine: Engine, tmp_path: Path
) -> None:
    """A frame is shown where it was painted, as far as it reaches; elsewhere nothing has changed."""
    base = sweep.base
    assert base.kind == "sweep"
    names = joined.seams
    # a place near the middle of a seam, shown by the second frame, that the third sees too
    row = names.shape[0] // 2
    column = int(np.flatnonzero((names[row, :-1] == 1) & (names[row, 1:] == 2))[0])
    per = base.size[0] / base.unit / names.shape[1]
    at = [(column - 3 + 0.5) * per, (row + 0.5) * per]
    painted = sweep.model_copy(deep=True)
    assert painted.base.kind == "sweep"
    painted.base.painted = [Painted(source=base.enabled[2].source, stroke=_stroke(at, 5 * per))]  # type: ignore[arg-type]
    painted = parse_scene(painted.model_dump(mode="json"))
    assert key_of_join(painted) != key_of_join(sweep)
    after = JoinStore(tmp_path).whole(painted, shots.open, engine).seams
    assert names[row, column - 3] == 1
    assert after[row, column - 3] == 2
    moved = np.argwhere(after != names)
    assert np.hypot(moved[:, 0] - row, moved[:, 1] - (column - 3)).max() < 8
    # where it does not reach, the stroke says nothing; and one that is left out neither
    far = [(0.02 * names.shape[1]) * per, (row + 0.5) * per]
    painted.base.painted = [Painted(source=base.enabled[4].source, stroke=_stroke(far, 5 * per))]  # type: ignore[arg-type, union-attr]
    assert np.array_equal(JoinStore(tmp_path).first_look(painted, shots.open, engine).seams,
                          JoinStore(tmp_path / "bare").first_look(sweep, shots.open, engine).seams)  # fmt: skip


def test_a_stroke_names_a_frame_of_the_join(sweep: Scene) -> None:
    data = sweep.model_dump(mode="json")
    data["base"]["painted"] = [{"source": "nobody", "stroke": _stroke([0.5, 0.5], 0.1)}]
    with pytest.raises(DocumentError, match="not among the members"):
        parse_scene(data)


def test_a_frame_is_lent_to_a_sweep(shots: Shots, sweep: Scene, joined: Joined, engine: Engine) -> None:
    """A darker one that looks a little elsewhere: it is aligned to the sweep's world, and lies on its things."""
    shot = smaller(find_any("sweep-3"), WIDTH)
    view = replace(shot.view, heading=shot.view.heading + 6, pitch=shot.view.pitch - 2)
    dark = replace(
        shot,
        view=view,
        exposure=replace(shot.exposure, seconds=shot.exposure.seconds / 4),
        name="dark",
        seed=77,
    )
    path = shots.folder / "dark.dng"
    shoot(dark, path)
    source = Source(id="dark", sha256=hash_file(path), path=path.name)
    *own, other = input_frames([*sweep.sources, source], shots.open)
    line = lend(sweep, own, joined, other, engine)
    assert line.ev == pytest.approx(-2, abs=0.1)
    turn = rotation_matrix(line.rotation) @ rotation_matrix(sweep.base.members[2].rotation).T
    true = np.asarray(turning(view.heading, view.pitch, view.roll).T) @ true_turn("sweep-3").T
    assert angle(turn, true) < 0.05
    lent = sweep.model_copy(deep=True)
    line.params.stops = 0.0
    lent.sources.append(source)
    lent.loans = [line]
    shown = engine.develop(parse_scene(lent.model_dump(mode="json")), joined, lent=shots.open)
    bare = engine.develop(sweep, joined)
    looked = View((0.35, 0.3, 0.7, 0.7), (700, 330))
    # waves have moved on, and grain is another
    light, alone = (cv2.GaussianBlur(d.light_planes(looked)[1], (0, 0), 3) for d in (shown, bare))
    there = shown.loans[0].frame.inside(looked, 40.0) > 0.99
    assert there.mean() > 0.5
    calm = there & (alone < 0.5) & (alone > 0.02)
    off = np.log2(np.maximum(light[calm], 1e-4) / alone[calm])
    assert np.median(np.abs(off)) < 0.12
    assert abs(np.median(off)) < 0.1
    # what is brought is read, over the whole of the sweep
    read_at = bare.ground.read_at()
    assert np.isfinite(shown.reader.stops(looked, read_at)).all()
    apart = np.abs(shown.reader.stops(looked, read_at) - bare.reader.stops(looked, read_at))
    assert np.median(apart[~there]) < 1e-4
    with pytest.raises(JoinError, match="own frame"):
        lend(sweep, own, joined, own[1], engine)


def test_the_worst_place_of_a_pair_lies_in_both_its_frames(sweep: Scene) -> None:
    base = sweep.base
    looks = dict(zip([m.source for m in base.enabled], outline_of(base).members, strict=True))
    for pair in base.pairs:
        assert pair.worst is not None
        assert pair.residual <= pair.apart < 6
        direction = master_of(base).directions(np.array(pair.worst) * base.unit)
        for key in (pair.a, pair.b):
            assert looks[key].sees(direction[None], -8.0).all()


def test_of_distances_the_worst_place_is_where_several_are_large() -> None:
    rng = np.random.default_rng(2)
    points = rng.random((120, 2))
    off = 0.1 + 0.02 * rng.random(120)
    off[5] = 9.0  # one that is false
    off[np.linalg.norm(points - [0.8, 0.2], axis=1) < 0.15] = 0.5
    place, apart = _worst(points, off)
    assert np.linalg.norm(place - [0.8, 0.2]) < 0.2
    assert apart == pytest.approx(0.5, abs=0.15)


def test_a_ragged_corner_is_grown_from_what_is_beside_it(
    sweep: Scene, joined: Joined, engine: Engine, tmp_path: Path
) -> None:
    blobs = Blobs(tmp_path)
    own = Engine(blobs=blobs)
    ragged = sweep.model_copy(deep=True)
    ragged.ground.trim.params.empty = True
    shown = own.develop(ragged, joined)
    view = shown.geometry.fit(900)
    empty = shown.ground.beyond(view)
    assert empty is not None
    # a strip along the upper edge, over the middle of which something is missing
    rows, columns = np.nonzero(empty[: empty.shape[0] // 4])
    at = int(np.median(columns))
    deep = int(rows[columns == at].max()) + 6
    box = [(at - 60, 0), (at + 60, 0), (at + 60, deep), (at - 60, deep)]
    px = (
        np.array(box, float)
        / [view.size[0], view.size[1]]
        * [shown.geometry.box.width, shown.geometry.box.height]
    )
    area = Area(outline=shown.geometry.to_source(px).ravel().tolist())
    repair = regrow_of(shown.raster, area, blobs)
    ragged.repairs = [repair]
    grown = own.develop(parse_scene(ragged.model_dump(mode="json")), joined)
    left = grown.ground.beyond(view)
    inside = np.s_[2 : deep - 2, at - 50 : at + 50]
    assert empty[inside].mean() > 0.2
    assert left is not None
    assert left[inside].mean() < 0.02
    light = grown.light_planes(view)[1]
    beside = light[deep + 4 : deep + 40, at - 50 : at + 50]
    filled = light[inside][empty[inside]]
    assert abs(np.log2(np.median(filled) / np.median(beside))) < 0.7
    assert np.percentile(filled, 2) > 0.2 * np.median(beside)


def test_a_join_that_is_held_open_counts_as_used(sweep: Scene, tmp_path: Path) -> None:
    """So that it is not the first to be dropped where there is no room."""
    store = JoinStore(tmp_path)
    home = tmp_path / key_of_join(sweep)
    home.mkdir()
    os.utime(home, (1e9, 1e9))
    store.shelf._open[f"{key_of_join(sweep)}-whole"] = object()
    assert store.best(sweep) is not None
    assert home.stat().st_mtime > 1.5e9


@pytest.mark.parametrize("stops", [2, 3])
def test_a_frame_that_clips_in_the_overlap_is_told_by_the_rest(
    shots: Shots, engine: Engine, stops: int
) -> None:
    """Half of what two frames share clips in the longer one; its gain is that of its shutter."""
    shot = smaller(find_any("sweep-2"), 1000)
    longer = replace(shot.exposure, seconds=shot.exposure.seconds * 2.0**stops)
    some = [shots.source("sweep-2", 1000, exposure=longer), shots.source("sweep-3", 1000)]
    raster = shots.open(some[0])
    assert (whole(raster, max(raster.levels)).max(0) > 0.98).mean() > 0.25
    base = plan_sweep(input_frames(some, shots.open), engine)
    long, other = (next(m.gain for m in base.members if m.source == s.id) for s in some)
    told = np.log2(find_any("sweep-3").exposure.seconds / longer.seconds)
    assert long - other == pytest.approx(told, abs=0.12)


def test_a_frame_is_lent_to_a_sweep_whose_anchor_is_left_out(
    shots: Shots, sweep: Scene, joined: Joined, engine: Engine
) -> None:
    without = sweep.model_copy(deep=True)
    for member in without.base.members:
        member.on = member.source != without.base.anchor
    shot = find_any("sweep-2")
    darker = shots.source(
        "sweep-2", WIDTH, exposure=replace(shot.exposure, seconds=shot.exposure.seconds / 2)
    )
    own = [without.source(m.source) for m in without.base.enabled]
    *taken, other = input_frames([*own, darker], shots.open)
    line = lend(without, taken, joined, other, engine)
    anchor = find_any(without.base.anchor.split(f"-{WIDTH}")[0])
    told = np.log2(shot.exposure.seconds / 2 / anchor.exposure.seconds)
    assert line.ev == pytest.approx(told, abs=0.12)
