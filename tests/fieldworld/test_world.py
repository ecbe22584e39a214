"""The invented coast and its camera against what they state of themselves."""

import hashlib
from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from fieldworld.camera import (
    BLACK,
    FULL_WELL,
    READ_NOISE,
    VIGNETTING,
    WHITE,
    CameraError,
    Exposure,
    Shot,
    _glass,
    _radius2,
    expose,
    shoot,
    smaller,
    specks,
)
from fieldworld.cli import app
from fieldworld.figures import BEACON_AT, BEACON_M
from fieldworld.optics import Lens, project, turning
from fieldworld.outing import OUTING, find
from fieldworld.seen import Viewpoint
from fieldworld.terrain import height
from fieldworld.truth import read_truth, truth_of
from fieldworld.world import Scenery, photograph

SPAN = WHITE - BLACK


@pytest.fixture(scope="module")
def outing(tmp_path_factory):
    """Every frame of the outing, small, with its truth."""
    folder = tmp_path_factory.mktemp("outing")
    done = CliRunner().invoke(app, ["shoot", "-o", str(folder), "--truth", "--width", "480"])
    assert done.exit_code == 0, done.output
    return folder


def test_every_job_of_the_outing_is_there(outing):
    assert {p.stem for p in outing.glob("*.dng")} == {s.name for s in OUTING}
    jobs = {s.job for s in OUTING}
    assert len(OUTING) >= 20
    assert len(jobs) >= 11
    assert max(s.width * s.height for s in OUTING) == 24_000_000
    assert all(s.width * s.height >= 8_000_000 for s in OUTING if s.name != "grey-card")


def test_every_frame_develops_to_a_picture(outing, store, engine):
    """With the defaults none is black or white, and each has light and dark."""
    from sunlatch.frame import hash_file
    from sunlatch.ledger import Scene, Source
    from sunlatch.render import picture_8

    for shot in OUTING:
        path = outing / f"{shot.name}.dng"
        sha256 = hash_file(path)
        development = engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path))
        picture = picture_8(development, development.geometry.fit(400), full=True).astype(float)
        assert development.geometry.developed_size == (
            smaller(shot, 480).lens.width,
            smaller(shot, 480).lens.height,
        )
        grey = picture.mean(-1)
        # a bracket's outer steps are dark and bright on purpose, but they are pictures
        bracket = "bracket" in shot.job
        low, high, spread = (4, 245, 20) if bracket else (25, 225, 40)
        assert low < grey.mean() < high, shot.name
        assert np.ptp(np.percentile(grey, (2, 98))) > spread, shot.name


def test_the_grey_card_is_neutral(outing, store, engine):
    """The default development of the card is within ΔE2000 3 of neutral."""
    from sunlatch.colour.spaces import decode
    from sunlatch.frame import hash_file
    from sunlatch.ledger import Scene, Source
    from sunlatch.render import picture_8
    from tests.conftest import delta_e

    path = outing / "grey-card.dng"
    truth = read_truth(outing / "grey-card.truth.npz")
    sha256 = hash_file(path)
    development = engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path))
    picture = decode(picture_8(development, development.geometry.fit(480), full=True) / 255, "srgb")
    card = (
        cv2.erode((truth.subject > 0.99).astype(np.uint8), np.ones((9, 9)))[
            : picture.shape[0], : picture.shape[1]
        ]
        > 0
    )
    card[int(card.shape[0] * 0.62) :] = False
    mean = picture[card].mean(0)
    assert card.sum() > 2000
    assert delta_e(mean, np.full(3, mean @ [0.2126, 0.7152, 0.0722])) <= 3.0


def test_truth_is_whole_and_says_what_is_where(outing):
    for shot in OUTING:
        truth = read_truth(outing / f"{shot.name}.truth.npz")
        total = truth.sky + truth.water + truth.land
        assert truth.radiance.min() >= 0
        assert total.max() < 1.03
        inside = cv2.erode((truth.sky > 0.999).astype(np.uint8), np.ones((5, 5))) > 0
        assert np.all(truth.depth[inside] >= 2e3), shot.name
        assert len(truth.specks) == 9
        assert truth.pose["focal_mm"] == shot.view.focal_mm
    heath = read_truth(outing / "heath.truth.npz")
    assert heath.twigs.max() > 0.5
    assert heath.wires.max() > 0.1
    assert read_truth(outing / "path.truth.npz").subject.max() > 0.5
    assert read_truth(outing / "beacon.truth.npz").subject.sum() > 500
    assert read_truth(outing / "pool.truth.npz").water.mean() > 0.15


def test_the_backlit_frames_span_six_stops_and_more():
    for name in ("stack-backlit", "bracket-3", "pool"):
        truth = truth_of(smaller(find(name), 360))
        light = truth.radiance @ np.array([0.2126, 0.7152, 0.0722], np.float32)
        sky, land = np.median(light[truth.sky > 0.99]), np.percentile(light[truth.land > 0.99], 10)
        assert np.log2(sky / land) > 6, name


def test_a_stated_seed_gives_the_same_file(tmp_path):
    shot = smaller(find("twin-dark"), 320)
    sums = []
    for n in range(2):
        shoot(shot, tmp_path / f"{n}.dng", threads=n + 1)
        sums.append(hashlib.sha256((tmp_path / f"{n}.dng").read_bytes()).hexdigest())
    shoot(replace(shot, seed=9), tmp_path / "other.dng")
    assert sums[0] == sums[1]
    assert sums[0] != hashlib.sha256((tmp_path / "other.dng").read_bytes()).hexdigest()


@pytest.mark.parametrize("iso", [100, 800, 6400])
def test_photon_transfer(iso):
    """Variance over signal follows the stated model at every level."""
    exposure = Exposure(1 / 60, 16.0, iso)
    electrons = FULL_WELL * 100 / iso
    for level in (0.002, 0.02, 0.2):
        flat = np.full((300, 300, 3), level / exposure.level(), np.float32)
        a, b = (expose(flat, exposure, seed).astype(float)[120:180, 120:180][::2, 1::2] for seed in (1, 2))
        signal = ((a + b) / 2 - BLACK).mean() / SPAN
        variance = ((a - b) / SPAN).var() / 2
        wanted = signal / electrons + (READ_NOISE / electrons) ** 2 + 1 / 12 / SPAN**2
        assert abs(variance / wanted - 1) < 0.12


def test_vignetting_follows_its_coefficients():
    flat = np.full((240, 360, 3), 0.5, np.float32)
    seen = _glass(flat)[..., 1]
    r2 = _radius2(240, 360)
    wanted = 1 + VIGNETTING[0] * r2 + VIGNETTING[1] * r2 * r2
    assert np.abs(seen / seen.max() - wanted / wanted.max()).max() < 0.01


@given(st.floats(14, 200), st.floats(-60, 60), st.floats(-30, 30), st.floats(-5, 5))
def test_rays_and_places_agree(focal, heading, pitch, roll):
    """What a pixel's ray meets is thrown back onto that pixel, distortion included."""
    lens = Lens(120, 80, focal)
    turn = turning(heading, pitch, roll)
    rays = lens.rays().astype(float) @ turn.T
    out = np.empty(2)
    for y, x in ((0, 0), (40, 60), (79, 119), (13, 88)):
        d = rays[y, x] * 37.0
        assert project(d[0], d[1], d[2], turn, lens.packed(), out)
        assert np.abs(out - (x + 0.5, y + 0.5)).max() < 0.02


def test_distortion_is_as_stated():
    lens = Lens(1000, 800, 20.0)
    rays = lens.rays()
    true = np.hypot(rays[..., 0], rays[..., 1]) / rays[..., 2]
    straight = replace(lens, distortion=0.0).rays()
    seen = np.hypot(straight[..., 0], straight[..., 1]) / straight[..., 2]
    corner = np.sqrt(lens.packed()[4])
    wanted = true * (1 + lens.distortion * (true / corner) ** 2)
    assert np.abs(wanted - seen).max() / corner < 1e-4


def test_specks_stay_where_they_are_on_the_sensor():
    """The same places at every aperture and held upright or on its side; softer when opened up."""
    w, h = 2400, 1600
    exposure = Exposure(1 / 60, 22.0, 50)
    flat = np.full((h, w, 3), 0.6 / exposure.level(), np.float32)
    level = expose(flat, exposure, 1).astype(float)
    turned = expose(np.ascontiguousarray(np.rot90(flat, 1)), exposure, 1, orientation=8).astype(float)
    assert level.shape == turned.shape
    for x, y, radius, depth in specks(22.0, w, h):
        i, j, far = int(y) // 2 * 2, int(x) // 2 * 2 + 1, int(4 * radius) // 2 * 2
        for mosaic in (level, turned):
            around = [
                mosaic[i + u, j + v]
                for u, v in ((far, 0), (-far, 0), (0, far), (0, -far))
                if 0 <= i + u < h and 0 <= j + v < w
            ]
            dip = mosaic[i, j] / np.mean(around)
            assert dip < 1 - depth * 0.5
    assert specks(4.0, 600, 400)[0][2] > specks(22.0, 600, 400)[0][2]
    assert specks(4.0, 600, 400)[0][3] < specks(22.0, 600, 400)[0][3]


def test_the_beacon_leans_four_degrees():
    """Its axis is upright in the world and leans in the frame, as a camera tilted up makes it."""
    shot = smaller(find("beacon"), 900)
    scenery = Scenery(shot.view, shot.lens, 1)
    ends = []
    for y in (0.0, BEACON_M):
        out = np.empty(2)
        x, z = BEACON_AT
        ground = float(height(x, z, scenery.place, 0.2, scenery.tex))
        assert project(x, ground + y - scenery.eye, z, scenery.turn, shot.lens.packed(), out)
        ends.append(out)
    lean = np.degrees(np.arctan2(ends[1][0] - ends[0][0], ends[0][1] - ends[1][1]))
    assert 3.5 < abs(lean) < 4.6
    assert all(0 < e[0] < shot.lens.width and 0 < e[1] < shot.lens.height for e in ends)


def test_a_reflection_is_darker_than_what_it_mirrors():
    truth = truth_of(smaller(find("stack-backlit"), 480))
    light = truth.radiance @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    h = light.shape[0]
    low_sky = (truth.sky > 0.99) & (np.arange(h)[:, None] > h * 0.35)
    assert np.median(light[truth.water > 0.99]) < np.median(light[low_sky])


def test_land_is_mirrored_all_along_its_shore():
    """Under the headland beyond the pool the water is as dark as the headland, left and right alike."""
    truth = truth_of(smaller(find("pool"), 600))
    light = truth.radiance @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    h, w = light.shape
    rows = slice(int(h * 0.375), int(h * 0.40))
    found = []
    for left in (0.02, 0.12, 0.25, 0.35):
        part = (rows, slice(int(w * left), int(w * (left + 0.1))))
        on = truth.water[part] > 0.99
        assert on.sum() > 100
        found.append(np.median(light[part][on]))
    hill = np.median(
        light[int(h * 0.3) : int(h * 0.36), : w // 3][
            truth.land[int(h * 0.3) : int(h * 0.36), : w // 3] > 0.99
        ]
    )
    assert max(found[:3]) < 3 * hill, (found, hill)


def test_a_long_exposure_smooths_the_water():
    view = find("sweep-3").view
    lens = Lens(480, 320, 24.0)
    short, long = (photograph(replace(view, water_s=s), lens) for s in (0.0, 8.0))
    on = cv2.erode((short.water > 0.99).astype(np.uint8), np.ones((5, 5))) > 0
    rough = [
        np.abs(cv2.Laplacian(np.log(x.radiance[..., 1] + 1e-3), cv2.CV_32F))[on].mean() for x in (short, long)
    ]
    assert rough[1] < 0.7 * rough[0]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"exposure": Exposure(0.0)}, "shutter of 0 s"),
        ({"exposure": Exposure(iso=-1)}, "ISO of -1"),
        ({"exposure": Exposure(f_number=0.9)}, "aperture of 0.9"),
        ({"view": Viewpoint(focal_mm=600)}, "focal length of 600 mm"),
    ],
)
def test_the_camera_says_which_limit_was_met(tmp_path, change, said):
    with pytest.raises(CameraError, match="field camera cannot set"):
        shoot(replace(Shot("no", Viewpoint()), **change), tmp_path / "no.dng")
    with pytest.raises(CameraError) as met:
        shoot(replace(Shot("no", Viewpoint()), **change), tmp_path / "no.dng")
    assert said in str(met.value)
    assert not list(tmp_path.iterdir())


def test_the_command_line_lists_and_refuses(tmp_path, capsys, monkeypatch):
    from fieldworld.cli import main

    listed = CliRunner().invoke(app, ["list"])
    assert "stack-backlit" in listed.output
    monkeypatch.setattr("sys.argv", ["sunlatch-field", "shoot", "nothing", "-o", str(tmp_path)])
    with pytest.raises(SystemExit) as stop:
        main()
    assert stop.value.code == 2
    assert "no shot 'nothing'" in capsys.readouterr().err
    assert not list(tmp_path.iterdir())
