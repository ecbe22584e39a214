"""A sweep of brackets in one action: recognised by its exposures, merged, then joined; and found again."""

from dataclasses import replace

import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from fieldworld.optics import turning
from sunlatch.binding.maps import rotation_matrix
from sunlatch.errors import JoinError
from sunlatch.frame import hash_file
from sunlatch.ledger import Scene, Source, parse_scene
from sunlatch.merging import JoinStore, description_of, input_frames, solved
from sunlatch.merging.kinds import exposed_again
from tests.coast import shoot

WIDTH = 1314
"""Px: at two thirds of it chance decides how they lie, by .1° either way."""


@pytest.fixture(scope="module")
def stair(tmp_path_factory, store):
    """Nine frames as sources, and how they are opened."""
    folder = tmp_path_factory.mktemp("stair")
    sources = []
    for n in range(1, 10):
        path = folder / f"stair-{n}.dng"
        shoot(smaller(find_any(path.stem), WIDTH), path)
        sources.append(Source(id=path.stem, sha256=hash_file(path), path=path.name))
    return sources, lambda source: store.whole(source.sha256, folder / source.path)


@pytest.fixture(scope="module")
def joins(tmp_path_factory):
    return JoinStore(tmp_path_factory.mktemp("joins"))


@pytest.fixture(scope="module")
def scene(stair, engine, joins) -> Scene:
    sources, opened = stair
    made = solved(
        "sweep",
        input_frames(sources, opened),
        sources,
        engine,
        merge=lambda one: joins.whole(one, opened, engine),
    )
    return parse_scene(made.model_dump(mode="json"))


def test_each_place_is_a_bracket_and_they_lie_as_they_were_turned(scene: Scene) -> None:
    base = scene.base
    assert [len(m.bracket.members) for m in base.members] == [3, 3, 3]
    assert [m.source for m in base.members] == ["stair-2", "stair-5", "stair-8"]
    assert scene.made_from == {s.id for s in scene.sources}
    assert base.headroom == pytest.approx(3, abs=0.05)
    turns = [rotation_matrix(m.rotation) for m in base.members]
    views = [find_any(m.source).view for m in base.members]
    true = [np.asarray(turning(v.heading, v.pitch, v.roll).T) for v in views]
    for a, b, p, q in zip(turns, turns[1:], true, true[1:], strict=False):
        between = (b @ a.T) @ (q @ p.T).T
        assert np.degrees(np.arccos(np.clip((np.trace(between) - 1) / 2, -1, 1))) < 0.1
    assert "Each of 3 exposures; light clips 3.0 stops further up." in description_of(scene)[1]


def test_its_light_goes_on_beyond_what_one_frame_holds(scene: Scene, stair, engine, joins) -> None:
    _, opened = stair
    raster = joins.whole(scene, opened, engine)
    assert raster.info.headroom == pytest.approx(3, abs=0.05)
    shown = engine.develop(scene, raster)
    light = shown.camera(shown.geometry.fit(700))
    assert np.isfinite(light).all()
    assert np.percentile(light, 99.5) > 1.5
    # one bracket less far is another join, and the same is found again
    assert joins.best(scene) is raster
    fewer = scene.model_copy(deep=True)
    fewer.base.members[1].bracket.members[0].on = False
    assert joins.best(fewer) is None


def test_what_is_no_sweep_of_brackets_is_none(stair) -> None:
    sources, opened = stair
    frames = input_frames(sources, opened)
    sets = exposed_again(frames)
    assert sets is not None
    assert [[f.key for f in one] for one in sets][1] == ["stair-4", "stair-5", "stair-6"]
    assert exposed_again(frames[:3]) is None  # one bracket
    assert exposed_again([*frames[:6], frames[8], frames[7], frames[6]]) is None
    assert exposed_again([frames[1], frames[4], frames[7]]) is None
    silent = replace(frames[0], info=frames[0].info.model_copy(update={"exposure_s": None}))
    assert exposed_again([silent, *frames[1:]]) is None


def test_exposures_of_different_places_are_told_by_name(stair, engine, joins) -> None:
    sources, opened = stair
    mixed = [sources[k] for k in (0, 4, 8, 3, 7, 2)]
    with pytest.raises(JoinError, match="stair-1"):
        solved(
            "sweep",
            input_frames(mixed, opened),
            mixed,
            engine,
            merge=lambda one: joins.whole(one, opened, engine),
        )


def test_a_document_names_every_frame_once(scene: Scene) -> None:
    data = scene.model_dump(mode="json")
    data["base"]["members"][0]["bracket"]["members"][0]["source"] = "stair-5"
    with pytest.raises(Exception, match="twice"):
        parse_scene(data)
