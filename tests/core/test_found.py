"""Finding things in a picture, against what is true of the invented coast, and on pictures made for it."""

import cv2
import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.colour import oklab
from sunlatch.frame import hash_file
from sunlatch.geometry import View
from sunlatch.latch.found import find_line, find_sky, lowest_edge, matted_sky
from sunlatch.latch.found.horizon import _Leaned
from sunlatch.latch.found.matte import followed, matte, thin_things
from sunlatch.latch.found.measures import CELLS, SMOOTHED, _counted, texture
from sunlatch.latch.found.mirror import _correlate
from sunlatch.latch.found.ridges import standing, under_ridges
from sunlatch.latch.found.sky import as_it_goes_on
from sunlatch.latch.found.walker import distance, walk
from sunlatch.latch.refine import apply_colour, fit_colour
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient
from tests.coast import shoot

RNG = np.random.default_rng(3)


def _overlap(found, true):
    a, b = found > 0.5, true > 0.5
    return float((a & b).sum() / (a | b).sum())


def _boundary_error(found, true):
    """Median distance in px of the found boundary from the true one."""
    edges = []
    for mask in (found > 0.5, true > 0.5):
        edges.append(mask != (cv2.erode(mask.astype(np.uint8), np.ones((3, 3))) > 0))
    away = cv2.distanceTransform((~edges[1]).astype(np.uint8), cv2.DIST_L2, 5)
    return float(np.median(away[edges[0]]))


FRAMES = [
    "stack-backlit",
    "heath",
    "path",
    "beacon",
    "pool",
    "boulders",
    "twin-dark",
    "twin-bright",
    "sweep-1",
    "sweep-3",
    "grey-card",
    "blue-hour",
    "bracket-3",
    "bracket-5",
]


@pytest.fixture(scope="module", params=FRAMES)
def shot(request, tmp_path_factory, store, engine):
    """A frame of the outing at 1 440 px, one as it was shot (a sharp frame shows more of its clouds), its scene
    with a Sky latch, and the truth."""
    path = tmp_path_factory.mktemp("sky") / f"{request.param}.dng"
    shot = find(request.param)
    truth = shoot(shot if request.param == "stack-backlit" else smaller(shot, 1440), path)
    sha256 = hash_file(path)
    scene = Scene(sources=[Source(sha256=sha256)])
    development = engine.develop(scene, store.whole(sha256, path))
    latch = Latch(
        name="Sky",
        ingredients=[new_ingredient("sky")],
        read_at=development.ground.read_at(),
        edge_true=EdgeTrue(on=False),
    )
    scene.latches.append(latch)
    return request.param, development, latch, truth


def _smeared(found, true):
    """Share of the px away from edges and from what is mixed that are a fifth off: a move latched to these shows
    it."""
    mixed = (true > 0.02) & (true < 0.98)
    edge = cv2.morphologyEx((true > 0.5).astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3))) > 0
    away = cv2.dilate((mixed | edge).astype(np.uint8), np.ones((9, 9))) == 0
    return float((away & (np.abs(found - true) > 0.2)).mean())


def test_sky_is_the_sky(shot):
    name, development, latch, truth = shot
    mask = development.latches.mask(latch, development.geometry.fit(10**6))
    assert mask.shape == truth.sky.shape
    assert _overlap(mask, truth.sky) >= 0.985, name
    assert _boundary_error(mask, truth.sky) <= 2.0, name
    assert _smeared(mask, truth.sky) <= 0.005, name


@pytest.mark.parametrize("shot", ["heath"], indirect=True)
def test_twigs_before_the_sky_are_kept(shot):
    name, development, latch, truth = shot
    twigs = (truth.twigs > 0.9) & (cv2.blur(truth.sky, (15, 15)) > 0.3)
    assert twigs.sum() > 50
    mask = development.latches.mask(latch, development.geometry.fit(10**6))
    assert mask[twigs].mean() < 0.25, name
    gaps = (truth.sky > 0.9) & (cv2.dilate(twigs.astype(np.uint8), np.ones((5, 5))) > 0)
    assert mask[gaps].mean() > 0.75, name


def test_a_found_mask_is_the_same_in_every_view_and_is_found_once(shot, monkeypatch):
    import sunlatch.latch.sky as module

    _, development, latch, _ = shot
    whole = development.latches.mask(latch, development.geometry.fit(10**6))
    h, w = whole.shape
    x, y = w // 4, h // 4
    part = View((x / w, y / h, (w - x) / w, (h - y) / h), (w - 2 * x, h - 2 * y))
    monkeypatch.setattr(module, "matted_sky", None)  # asked again, it would fail
    assert np.abs(development.latches.mask(latch, part) - whole[y : h - y, x : w - x]).max() < 0.02


@pytest.mark.parametrize("shot", ["heath", "beacon", "bracket-5"], indirect=True)
def test_a_mask_found_anew_is_the_same(shot):
    _, development, latch, _ = shot
    fresh = type(development.context)(threads=2).develop(development.scene, development.raster)
    assert np.allclose(
        fresh.latches.mask(latch, fresh.geometry.fit(300)),
        development.latches.mask(latch, development.geometry.fit(300)),
    )


def test_a_frame_without_land_is_all_sky_and_one_without_sky_has_none():
    y, x = np.mgrid[0:300, 0:420] / 300
    clouds = cv2.GaussianBlur(RNG.normal(0, 1, (300, 420)), (0, 0), 18) * 1.5
    sky = np.stack([0.25 + 0.1 * y, 0.3 + 0.1 * y, 0.42 + 0 * x], -1) * (1.3 + clouds[..., None])
    lab = oklab(np.maximum(sky, 0.01)).transpose(2, 0, 1).astype(np.float32)
    assert find_sky(lab).min() > 0.9
    scree = 0.1 * np.exp(cv2.GaussianBlur(RNG.normal(0, 2.0, (300, 420)), (0, 0), 1.0))
    lab = oklab(np.repeat(scree[..., None], 3, 2)).transpose(2, 0, 1).astype(np.float32)
    assert find_sky(lab).max() < 0.2


@pytest.mark.parametrize("shot", ["heath", "path", "twin-dark"], indirect=True)
@pytest.mark.parametrize("spread", [3, 6])
def test_land_out_of_focus_is_no_sky(shot, spread):
    """No edge of land is crisp where all of the picture is spread over so many px of 1 280."""
    name, development, _, truth = shot
    lab = np.stack([cv2.GaussianBlur(p, (0, 0), spread) for p in development.reader.sight().lab()])
    found = cv2.resize(find_sky(lab), truth.sky.shape[::-1], interpolation=cv2.INTER_LINEAR)
    assert _overlap(found, truth.sky) > 0.97, name


def _lake(h=426, w=640):
    """An evening sky over a still lake that mirrors it; a thin dark shore in between, nothing else."""
    y, x = np.mgrid[0:h, 0:w]
    shore = 0.6 * h
    way = np.abs(y - shore) / shore
    light = np.stack([0.2 + 0.5 * np.exp(-3 * way), 0.22 + 0.3 * np.exp(-3 * way), 0.45 - 0.1 * way], -1)
    light[y > shore] *= 0.8
    rise = 5 + 3 * np.sin(x / 70)
    light[np.abs(y - shore) < rise] *= 0.35
    light = np.stack([cv2.GaussianBlur(p, (0, 0), 1.5) for p in light.transpose(2, 0, 1)], -1)
    lab = oklab(np.maximum(light + RNG.normal(0, 0.001, light.shape), 1e-3))
    return lab.transpose(2, 0, 1).astype(np.float32), (y < shore - rise).astype(float)


def test_a_lake_that_mirrors_the_sky_is_not_sky():
    lab, true = _lake()
    assert _overlap(matted_sky(lab), true) > 0.97


def test_land_stands_on_the_ground_and_is_darker_all_the_way_down():
    """What a softer look takes for land in columns of sky: a dark hill over the whole foot of it is land; a
    dark cloud with light under it, a light bank and a narrow thing are not."""
    y, x = np.mgrid[0:300, 0:600]
    sky = y < 200
    softer = np.ones((150, 300), np.float32)
    light = np.full((300, 600), 0.7, np.float32)

    def asked(top, foot, left, right, by):
        soft, lit = softer.copy(), light.copy()
        soft[top // 2 : foot // 2, left // 2 : right // 2] = 0
        lit[top:foot, left:right] += by
        return standing(lit, sky, soft, 2.0)

    hill = asked(120, 200, 100, 400, -0.1)
    inside = (y > 122) & (y < 200) & (x > 110) & (x < 390)
    assert hill[inside].all()
    assert not hill[(y < 116) | (y >= 200) | (x < 90) | (x > 410)].any()
    assert not asked(120, 170, 100, 400, -0.1).any()
    assert not asked(120, 200, 100, 400, 0.1).any()
    assert not asked(120, 200, 100, 150, -0.1).any()
    lit = np.where((y > 150) & (y < 175), np.float32(0.75), light - np.float32(0.1) * (y > 120))
    soft = softer.copy()
    soft[60:100] = 0
    assert not standing(lit, sky, soft, 2.0).any()
    assert standing(lit, np.ones_like(sky), np.where(y[::2, ::2] > 120, 0, softer), 2.0).any()


def test_the_sky_goes_on_behind_what_parts_it():
    """Learned above a bridge from a sky that gets lighter downwards and to the left; a stone of its mean colour
    is not as the sky would be there, nor is anything under the sky's lowest edge."""
    y, x = np.mgrid[0:200, 0:300] / 200
    lab = np.stack([0.5 + 0.2 * y - 0.05 * x, -0.02 + 0 * x, -0.1 + 0.06 * y]).astype(np.float32)
    lab += RNG.normal(0, 0.002, lab.shape).astype(np.float32)
    sure = np.where(y < 0.4, 1, 0).astype(np.float32)
    sure[:, 260:] = y[:, 260:] < 0.9
    stone = (np.hypot(x - 0.6, y - 0.7) < 0.1) & (sure == 0)
    lab[:, stone] = lab[:, :80].mean((1, 2))[:, None]
    said = as_it_goes_on(lab, sure)
    assert (said[(y > 0.45) & (y < 0.88) & ~stone] > 0).mean() > 0.97
    assert (said[stone] < 0).all()
    assert (said[y > 0.93] < 0).all()
    assert (as_it_goes_on(lab, 0 * sure) < 0).all()


def test_a_gap_under_clouds_is_no_sea():
    """A level bank of clouds over a lighter gap, then a crisp dark land: the gap is sky."""
    y, x = np.mgrid[0:426, 0:640]
    light = np.where(y < 150, 0.42, 0.6) + 0.02 * np.sin(x / 50) * np.sin(y / 40)
    light = cv2.GaussianBlur(light, (0, 0), 1.2)
    land = y > 230 + 8 * np.sin(x / 30)
    light = np.where(land, 0.08 * np.exp(RNG.normal(0, 0.4, light.shape)), light)
    light = cv2.GaussianBlur(light, (0, 0), 0.7) + RNG.normal(0, 0.001, light.shape)
    lab = oklab(np.stack([light] * 3, -1).clip(1e-3)).transpose(2, 0, 1).astype(np.float32)
    assert _overlap(find_sky(lab), (~land).astype(float)) > 0.985


def test_texture_is_a_number_beside_what_is_very_light():
    lab = np.zeros((3, 64, 64), np.float32)
    lab[0, :30] = 0.9 + RNG.normal(0, 1e-3, (30, 64))
    lab[:, 10:14, 10:14] = 40.0
    assert np.isfinite(texture(lab)).all()
    assert texture(lab)[50:].max() < 1e-2


def test_a_ridge_nearly_as_light_as_the_haze_behind_it_is_not_sky():
    """A third of a stop at a crisp ridge with a faint grain, a bright soft cloud above it: the cloud is sky."""
    y, x = np.mgrid[0:427, 0:640]
    ridge = 250 + 40 * np.sin(x / 90) + 12 * np.sin(x / 23)
    light = 0.35 - 0.0002 * y + 0.25 * np.exp(-(((x - 200) / 90) ** 2 + ((y - 120) / 40) ** 2))
    grain = cv2.GaussianBlur(RNG.normal(0, 1, light.shape), (0, 0), 1.2) * 0.15
    light = np.where(y > ridge, light * 2 ** (grain - 0.33), light)
    light = np.where(y > ridge + 90, 0.08 * np.exp(RNG.normal(0, 0.4, light.shape)), light)
    light = cv2.GaussianBlur(light, (0, 0), 0.7) + RNG.normal(0, 0.0008, light.shape)
    lab = oklab(np.stack([light, light * 1.02, light * 1.06], -1)).transpose(2, 0, 1).astype(np.float32)
    assert _overlap(matted_sky(lab), (y < ridge).astype(float)) > 0.985


@pytest.mark.parametrize("seed", [3, 4])
def test_a_ridge_lost_in_noise_is_found_along_its_whole_length(seed):
    """Little more than three times the noise darker than the sky behind it; a streak of cloud above it is none, and no ridge is
    found where there is none."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:300, 0:480]
    foot = 220
    top = foot - 26 * np.exp(-(((x - 240) / 90) ** 2)) + 2.5 * np.sin(x / 11)
    cloud = 0.02 * np.exp(-(((y - 130) / 5) ** 2) - ((x - 250) / 80) ** 2)
    noise = rng.normal(0, 0.006, x.shape)
    clear = (0.6 + 0.0001 * y - cloud + noise).astype(np.float32)
    ridge = (y > top) & (y < foot) & (np.abs(x - 240) < 150)
    hazy = np.where(ridge, clear - 0.02, clear).astype(np.float32)
    sky = np.broadcast_to(y < foot, x.shape)
    assert _overlap(under_ridges(hazy, sky, 0.006), ridge) > 0.85
    assert not under_ridges(clear, sky, 0.006).any()


def test_the_walk_is_the_solution_of_its_equations():
    """Against a dense solve of Grady's system."""
    guide = RNG.normal(0, 0.1, (2, 7, 9)).astype(np.float32)
    prior = RNG.random((7, 9)).astype(np.float32)
    got = walk(guide, prior, 0.3, 0.2)
    n = 63
    matrix, flat = np.zeros((n, n)), guide.reshape(2, -1)
    for r in range(7):
        for c in range(9):
            i = r * 9 + c
            for j in ([i + 1] if c < 8 else []) + ([i + 9] if r < 6 else []):
                g = np.exp(-((flat[:, i] - flat[:, j]) ** 2).sum() / (2 * 0.2**2)) + 1e-4
                matrix[[i, j], [j, i]] -= g
                matrix[[i, j], [i, j]] += g
    want = np.linalg.solve(matrix + 0.3 * np.eye(n), 0.3 * prior.ravel())
    assert np.allclose(got.ravel(), want, atol=2e-3)


def test_distance_goes_around_what_is_dear():
    cost = np.ones((9, 9), np.float32)
    cost[:8, 4] = 1000
    start = np.zeros((9, 9), bool)
    start[0, 0] = True
    far = distance(cost, start)
    assert far[0, 3] == pytest.approx(3)
    assert 15 < far[0, 8] < 20


def test_the_line_of_the_sea_is_found_where_it_is():
    y, x = np.mgrid[0:300, 0:400]
    row = 140 + np.tan(np.radians(2.0)) * (x - 200)
    picture = np.where(y > row, 90.0, 150.0) + RNG.normal(0, 2, (300, 400))
    line = find_line(picture.astype(np.float32))
    assert line is not None
    assert line.share > 0.8
    assert line.angle == pytest.approx(2.0, abs=0.15)
    assert line.row == pytest.approx(140, abs=1.5)


def test_matting_gives_an_edge_its_share():
    """A soft edge known only to lie within a band comes back with the shares it was mixed by."""
    x = np.arange(120)
    share = np.clip((x - 55) / 9, 0, 1)
    light = 0.5 * share + 0.02 * (1 - share) + 0 * x
    picture = np.repeat(light[None], 60, 0)
    rgb = np.stack([picture, picture * 0.9, picture * 0.8], -1)
    lab = oklab(rgb).transpose(2, 0, 1).astype(np.float32)
    rough = np.repeat((x > 66)[None], 60, 0).astype(np.float32)
    open_ = np.repeat(((x > 45) & (x < 75))[None], 60, 0)
    got = matte(lab, rough, open_)
    assert np.abs(got - share).mean() < 0.03
    assert np.abs(got - share).mean() < 0.5 * np.abs(rough - share).mean()
    assert (np.diff(got[30]) > -0.02).all()
    assert np.array_equal(got[~open_], rough[~open_])


def test_a_cable_is_a_thin_thing_and_grain_is_not():
    light = np.full((80, 200), 0.5, np.float32) + RNG.normal(0, 0.002, (80, 200)).astype(np.float32)
    light[30:32] -= 0.1
    lab = np.stack([light, light * 0, light * 0])
    thin = thin_things(lab, np.ones((80, 200), bool))
    assert thin[30:32].all()
    assert not thin[:20].any()
    assert not thin[45:].any()


def test_a_mask_fitted_to_colour_follows_a_picture_four_times_as_large():
    """A disc's mask, learned at 100 px, is drawn at 400 px along the disc's own edge."""

    def disc(n):
        y, x = (np.mgrid[0:n, 0:n] + 0.5) / n
        inside = (np.hypot(x - 0.5, y - 0.5) < 0.3).astype(np.float32)
        return inside, np.stack([0.3 + 0.5 * inside, 0.02 * inside, -0.05 + 0.1 * inside])

    full, lab_full = disc(400)
    small = cv2.resize(full, (100, 100), interpolation=cv2.INTER_AREA)
    lab_small = np.stack([cv2.resize(p, (100, 100), interpolation=cv2.INTER_AREA) for p in lab_full])
    model = fit_colour(small, lab_small)
    at = ((np.arange(400) + 0.5) / 400).astype(np.float32)
    places = np.stack(np.broadcast_arrays(at[None], at[:, None]))
    out = np.empty((400, 400), np.float32)
    apply_colour(lab_full.astype(np.float32), model, places, out)
    assert np.abs(out - full).mean() < 0.004
    enlarged = cv2.resize(small, (400, 400), interpolation=cv2.INTER_LINEAR)
    assert np.abs(out - full).mean() < 0.3 * np.abs(enlarged - full).mean()


def test_a_mask_that_lies_off_an_edge_is_brought_to_it_and_a_soft_one_stays_soft():
    y, x = np.mgrid[0:200, 0:300]
    light = np.where(np.hypot(x - 150, y - 100) < 60, 0.7, 0.3) + RNG.normal(0, 0.003, x.shape)
    lab = np.stack([light, 0 * light, 0 * light]).astype(np.float32)
    off = (np.hypot(x - 147, y - 100) < 63).astype(np.float32)
    true = (np.hypot(x - 150, y - 100) < 60).astype(float)
    got = followed(lab, off, 0.03)
    assert _overlap(got, true) > 0.985 > _overlap(off, true)
    ramp = (x / 300).astype(np.float32)
    kept = followed(lab, ramp, 0.02)
    far = np.abs(x - 150) > 20
    assert np.array_equal(kept[far], ramp[far])
    speckled = (RNG.random(x.shape) > 0.5).astype(np.float32)
    assert followed(lab, speckled, 0.02) is speckled


def test_the_skys_lowest_edge():
    sky = np.zeros((100, 50), np.float32)
    sky[:60] = 1
    sky[30:, :20] = 0
    rows, line = lowest_edge(sky)
    assert (rows[:20] == 29).all()
    assert (rows[20:] == 59).all()
    assert line == 59
    assert lowest_edge(np.zeros((9, 9), np.float32))[1] == 0


@pytest.mark.parametrize("angle", [-3.7, 0.0, 2.2])
def test_a_leaned_picture_is_summed_as_if_it_were_drawn(angle):
    """Against OpenCV's own warp, which rounds places to a 32nd of a px."""
    h, w = 90, 140
    marks = np.where(RNG.random((h, w)) > 0.9, RNG.normal(0, 1, (h, w)), 0).astype(np.float32)
    seen = np.zeros((h, w), np.float32)
    seen[10:70, 20:] = 1
    slope = np.tan(np.radians(angle))
    lean = np.array([[1, 0, 0], [slope, 1, -slope * w / 2]])
    drawn = [
        cv2.warpAffine(p, lean, (w, h), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP).sum(1)
        for p in (marks, seen, np.ones_like(seen))
    ]
    sums, covered = _Leaned(marks, seen).sums(angle)
    assert np.abs(sums - drawn[0]).max() < 0.6
    assert np.abs(covered - drawn[1]).max() < 0.6
    assert np.abs(_Leaned(marks).sums(angle)[1] - drawn[2]).max() < 0.6


@pytest.mark.parametrize("row", [40, 55, 63])
def test_a_mirror_is_a_correlation_of_what_is_known_on_both_sides(row):
    level, deep = RNG.normal(0.5, 0.1, (100, 60)).astype(np.float32), 30
    level[row + 1 : row + 31] = level[row - 30 : row][::-1] + RNG.normal(0, 0.05, (30, 60))
    known = RNG.random((100, 60)) > 0.1
    alike = np.zeros(100)
    asked = np.zeros(100, bool)
    asked[row] = True
    _correlate(level, known, asked, deep, alike)
    up, down = level[row - deep : row - 1][::-1], level[row + 2 : row + deep + 1]
    both = known[row - deep : row - 1][::-1] & known[row + 2 : row + deep + 1]
    assert alike[row] == pytest.approx(np.corrcoef(up[both], down[both])[0, 1], abs=1e-6)
    assert not alike[np.arange(100) != row].any()


def test_tables_are_smoothed_as_scipy_smooths_them():
    where = RNG.integers(0, int(np.prod(CELLS)), (80, 90))
    weight = RNG.random((80, 90)).astype(np.float32)
    counts = np.bincount(where.ravel(), weight.ravel(), int(np.prod(CELLS))).reshape(CELLS)
    want = gaussian_filter(counts, SMOOTHED, mode="constant")
    assert np.allclose(_counted(where, CELLS, weight), want / want.sum() + 1e-6, rtol=1e-6)


def test_where_little_is_open_a_matte_is_as_in_a_larger_picture():
    """Only the part that is open is solved: what lies far from it has no say."""
    rgb = np.repeat(np.linspace(0.1, 0.7, 200, dtype=np.float32)[None, :, None], 120, 0) * [1.0, 0.9, 0.8]
    rgb[:, 100:] += 0.2
    lab = oklab(rgb + RNG.normal(0, 0.004, rgb.shape)).transpose(2, 0, 1).astype(np.float32)
    rough = np.repeat((np.arange(200) > 103)[None], 120, 0).astype(np.float32)
    small, large = np.zeros((2, 120, 200), bool)
    small[:30, 90:112] = True
    large[:30, 90:112] = True
    large[119, 199] = True  # one px far away makes the part all of the picture
    one, other = matte(lab, rough, small), matte(lab, rough, large)
    assert np.abs(one - other)[small].max() < 1e-3
    assert np.abs(one - rough)[small].max() > 0.3
    assert np.array_equal(one[~small], rough[~small])
