"""The parts the coast is built from, against plain NumPy and against brute force."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fieldworld.figures import _draw
from fieldworld.optics import Lens, turning
from fieldworld.rock import BOX, stack_distance, stack_meet, stack_normal
from fieldworld.seen import Viewpoint
from fieldworld.sky import DISC_DEGREES, DISC_RADIANCE, Daylight, sky_table, sun_disc
from fieldworld.terrain import PLACES, height, meet, rings, survey
from fieldworld.textures import SIZE, sample, sea_slopes, textures
from fieldworld.world import INLAND, photograph

TEX = textures()


@given(st.integers(0, 5), st.floats(-40, 40), st.floats(-40, 40))
def test_a_texture_is_bilinear_and_repeats(layer, u, v):
    x, y = (u * SIZE) % SIZE, (v * SIZE) % SIZE
    i, j = int(np.floor(x)) % SIZE, int(np.floor(y)) % SIZE
    fx, fy = x - np.floor(x), y - np.floor(y)
    t = TEX[layer].astype(float)
    i1, j1 = (i + 1) % SIZE, (j + 1) % SIZE
    wanted = (t[j, i] * (1 - fx) + t[j, i1] * fx) * (1 - fy) + (t[j1, i] * (1 - fx) + t[j1, i1] * fx) * fy
    assert sample(TEX, layer, u, v) == pytest.approx(wanted, abs=2e-3 * np.abs(t).max())
    assert sample(TEX, layer, u + 3, v - 2) == pytest.approx(
        sample(TEX, layer, u, v), abs=5e-3 * np.abs(t).max()
    )


def test_textures_have_their_stated_range():
    for layer in (0, 1, 5):
        assert abs(TEX[layer].mean()) < 0.01
        assert TEX[layer].std() == pytest.approx(1, abs=0.01)
    for layer in (2, 3, 4):
        assert TEX[layer].min() >= 0
        assert TEX[layer].max() <= 1
    assert np.array_equal(textures(), TEX)


def test_textures_join_at_their_edges():
    """No seam: the step across the edge is like any other step."""
    for layer in TEX:
        inside = np.abs(np.diff(layer, axis=1)).mean()
        across = np.abs(layer[:, 0] - layer[:, -1]).mean()
        assert across < 2 * inside


def test_a_stronger_wind_makes_longer_waves():
    """Slopes have deviation 1; with more wind their energy lies at lower frequencies."""

    def middle(wind):
        power = np.abs(np.fft.fft2(sea_slopes(wind)[1])) ** 2
        f = np.hypot(*np.meshgrid(np.fft.fftfreq(SIZE), np.fft.fftfreq(SIZE)))
        return (power * f).sum() / power.sum()

    assert sea_slopes(6.0).std(axis=(1, 2)) == pytest.approx([1, 1], abs=1e-3)
    assert middle(9.0) < middle(3.0)


@pytest.fixture(scope="module", params=sorted(PLACES))
def surveyed(request):
    """A place surveyed along a few headings."""
    place = PLACES[request.param]
    ring, headings = rings(), np.linspace(-0.4, 0.4, 9)
    eye = max(height(0.0, 0.0, place, 0.1, TEX), 0.0) + 1.6
    ground = np.empty((headings.size, ring.size), np.float32)
    rise = np.empty_like(ground)
    survey(0, headings.size, headings, ring, place, eye, 0.001, TEX, ground, rise)
    return ring, headings, eye, ground, rise


def test_the_rise_never_falls(surveyed):
    *_, rise = surveyed
    assert np.all(np.diff(rise, axis=1) >= 0)


def test_bisection_finds_what_marching_finds(surveyed):
    """Every ray: the first ring from which the surveyed ground stands over it."""
    ring, headings, eye, ground, rise = surveyed
    for i in range(headings.size):
        for slope in np.linspace(-0.6, 0.3, 40):
            over = np.nonzero(ground[i] - (eye + slope * ring) >= 0)[0]
            found = meet(float(slope), i, ring, eye, ground, rise)
            if over.size == 0:
                assert found < 0
                continue
            k = over[0]
            assert ring[max(k - 1, 0)] - 1e-3 <= found <= ring[k] + 1e-3


def test_far_ground_leaves_fine_relief_out():
    """A pixel that sees ten metres sees smoother ground than one that sees a centimetre."""
    x = np.linspace(3, 5, 400)
    for place in PLACES.values():
        fine = np.array([height(v, 6.0, place, 0.002, TEX) for v in x])
        coarse = np.array([height(v, 6.0, place, 10.0, TEX) for v in x])
        assert np.abs(np.diff(coarse, 2)).mean() < 0.75 * np.abs(np.diff(fine, 2)).mean()


@settings(max_examples=40)
@given(st.floats(-0.42, 0.42), st.floats(-0.02, 0.32))
def test_the_stack_is_met_at_its_surface(heading, elevation):
    d = np.array(
        [np.sin(heading) * np.cos(elevation), np.sin(elevation), np.cos(heading) * np.cos(elevation)]
    )
    t = stack_meet(0.0, 1.8, 0.0, *d, 0.0004, 0.0)
    if t > 0:
        p = np.array([0, 1.8, 0]) + d * t
        assert stack_distance(*p, np.int32(0)) < 0.0004 * t + 1e-6
        assert all(low - 0.1 <= v <= high + 0.1 for v, low, high in zip(p, *BOX, strict=True))
        near = stack_meet(0.0, 1.8, 0.0, *d, 0.0004, t - 5)
        if abs(near - t) > 0.25:  # a ray that grazes a bump may be met a little before or behind it
            there = np.array([0, 1.8, 0]) + d * near
            assert abs(near - t) < 1.0
            assert stack_distance(*there, np.int32(0)) < 0.0004 * near + 1e-6
        n = np.empty(3)
        stack_normal(*p, 0.05, n)
        assert np.linalg.norm(n) == pytest.approx(1, abs=1e-6)


def test_rays_away_from_the_stack_miss_it():
    assert stack_meet(0.0, 1.8, 0.0, 0.0, 0.0, -1.0, 0.0004, 0.0) == -1.0
    assert stack_meet(0.0, 1.8, 0.0, 0.0, 1.0, 0.0, 0.0004, 0.0) == -1.0


def test_the_sun_is_as_bright_however_it_is_sampled():
    """Radiance times solid angle of the disc is the same at any resolution."""
    light = Daylight(sun_elevation=20.0, sun_azimuth=0.0, cloud_cover=-2.0)
    flux = []
    for size in (400, 800, 1600):
        lens = Lens(size, size, 300.0, 0.0)
        rays = lens.rays() @ turning(0.0, 20.0, 0.0).T
        flux.append(float(sun_disc(rays.astype(np.float32), light, lens.pitch).sum()) * lens.pitch**2)
    wanted = DISC_RADIANCE * np.pi * np.radians(DISC_DEGREES) ** 2
    assert flux == pytest.approx([wanted] * 3, rel=0.05)
    assert sun_disc(rays.astype(np.float32), Daylight(sun_elevation=-2.0), lens.pitch).max() == 0


def test_the_sky_reddens_and_dims_as_the_sun_sinks():
    high, low = (sky_table(Daylight(sun_elevation=e))[1] for e in (40.0, 2.0))
    assert high.sum() > low.sum()
    assert low[0] / low[2] > 3 * high[0] / high[2]
    blue = [sky_table(Daylight(sun_elevation=e))[0].mean() for e in (10.0, -1.0, -4.0, -8.0)]
    assert all(a > 2 * b for a, b in pairwise(blue))


def test_haze_hides_what_is_far():
    """The far hills of the heath come closer to the sky's own light in thicker air."""
    lens = Lens(240, 160, 32.0)
    contrast = []
    for haze in (0.5, 4.0, 12.0):
        seen = photograph(Viewpoint("heath", light=Daylight(sun_elevation=30, haze=haze)), lens)
        far = (seen.land > 0.99) & (seen.depth > 1500)
        above = seen.sky > 0.99
        contrast.append(abs(np.log(seen.radiance[far].mean() / seen.radiance[above][-2000:].mean())))
    assert contrast[0] > contrast[1] > contrast[2]


@pytest.mark.parametrize("place", sorted(PLACES))
def test_every_place_has_sky_over_land(place):
    seen = photograph(Viewpoint(place, roll=0.0, pitch=0.0), Lens(240, 160, 24.0))
    assert seen.sky[:20].mean() > 0.5
    assert seen.sky[-20:].mean() < 0.01
    assert seen.land[-20:].mean() + seen.water[-20:].mean() == pytest.approx(1, abs=0.02)
    assert (seen.water.max() < 0.01) == (place in INLAND)
    assert np.isfinite(seen.radiance).all()
    near = (seen.land > 0.99) & (seen.depth < 100)
    assert seen.depth[-30:][near[-30:]].mean() < seen.depth[86:100][near[86:100]].mean()


def _stroke(width, square):
    """A level stroke of this width in px across the middle of a 200 × 100 px raster, 10 m away."""
    lens = Lens(200, 100, 50.0, 0.0)
    size = width * lens.pitch * 10
    half = 60 * lens.pitch * 10
    stroke = np.array([[-half, 0.0, 10.0, half, 0.0, 10.0, size, size, 0.1, 0.1, 0.1, square]])
    cover, rgb = np.zeros((100, 200), np.float32), np.ones((100, 200, 3), np.float32)
    turn = turning(0.0, 0.0, 0.0)
    far = np.full((100, 200), 1e6, np.float32)
    _draw(stroke, 0.0, turn, lens.packed(), np.array([1, 1, 1, 0, 0, 0, 1.0]), far, rgb, cover)
    return cover, rgb


@pytest.mark.parametrize("width", [0.2, 0.5, 1.0, 3.0, 8.0])
def test_a_stroke_covers_its_area(width):
    """Thinner than a pixel or thicker: what is covered adds up to the stroke's own area."""
    cover, rgb = _stroke(width, 1.0)
    assert cover[:, 60:140].sum(0).mean() == pytest.approx(width, rel=0.12)
    assert np.allclose(rgb[..., 0], 1 - 0.9 * cover, atol=1e-5)


def test_square_ends_are_square():
    square, rounded = (_stroke(20.0, s)[0] for s in (1.0, 0.0))
    assert square[50, 38] == 0
    assert rounded[50, 34] > 0.9
    assert np.abs(square[42, 45:155] - square[50, 45:155]).max() < 1e-5


def test_what_stands_in_front_hides_a_stroke():
    lens = Lens(200, 100, 50.0, 0.0)
    stroke = np.array([[-1.0, 0.0, 10.0, 1.0, 0.0, 10.0, 0.2, 0.2, 0.1, 0.1, 0.1, 0.0]])
    depth = np.full((100, 200), 1e6, np.float32)
    depth[:, :100] = 5.0
    cover, rgb = np.zeros((100, 200), np.float32), np.ones((100, 200, 3), np.float32)
    _draw(stroke, 0.0, turning(0, 0, 0), lens.packed(), np.array([1, 1, 1, 0, 0, 0, 1.0]), depth, rgb, cover)
    assert cover[:, :100].max() == 0
    assert cover[:, 100:].max() == 1
