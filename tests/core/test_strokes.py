"""Strokes: what they cover is their formula, and costs what they touch."""

import time

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sunlatch.errors import CancelledError, TooLongError
from sunlatch.latch.base import Sight
from sunlatch.latch.stroke import Stroke
from sunlatch.latch.strokes import covered, marked
from sunlatch.running.patience import Patience


def _look(aspect=(1.0, 2 / 3)):
    return Sight(lambda *a: None, aspect, lambda p: p, lambda: None, "frame")


def _formula(stroke, shape):
    """Every px against every segment, in float64."""
    h, w = shape
    points = np.array(stroke.points).reshape(-1, 3)
    if len(points) == 1:
        points = np.repeat(points, 2, 0)
    radius, k = stroke.radius * w, np.zeros(shape)
    y, x = np.mgrid[0:h, 0:w] + 0.5
    for (ax, ay, ap), (bx, by, bp) in zip(points[:-1] * [w, w, 1], points[1:] * [w, w, 1], strict=True):
        dx, dy = bx - ax, by - ay
        length2 = dx * dx + dy * dy
        t = np.clip(((x - ax) * dx + (y - ay) * dy) / length2, 0, 1) if length2 > 0 else 0 * x
        away = np.hypot(x - ax - t * dx, y - ay - t * dy)
        reach = np.maximum(radius * (ap + (bp - ap) * t), 0.35)
        k = np.maximum(
            k, np.clip((reach + 0.5 * (1 - stroke.soft) - away) / np.maximum(reach * stroke.soft, 1), 0, 1)
        )
    return k * k * (3 - 2 * k)


# to a millionth, as strokes are drawn: points nearer to each other than a float32 tells are one
POINT = st.tuples(
    *(st.floats(*ends).map(lambda v: round(v, 6)) for ends in ((-0.2, 1.2), (-0.2, 0.9), (0, 1)))
)


@settings(max_examples=60)
@given(
    st.lists(POINT, min_size=1, max_size=9),
    st.sampled_from([0.002, 0.03, 0.3, 1.0]),
    st.sampled_from([0, 0.4, 1]),
)
def test_a_stroke_is_its_formula_however_it_is_cut_into_squares(points, radius, soft):
    stroke = Stroke(points=[v for p in points for v in p], radius=radius, soft=soft, flow=1)
    shape = (360, 540)
    laid, found = covered(stroke, _look(), shape), np.zeros(shape)
    if laid is not None:
        cover, left, top = laid
        found[top : top + cover.shape[0], left : left + cover.shape[1]] = cover
    assert np.abs(found - _formula(stroke, shape)).max() < 2e-3


def test_a_long_stroke_of_a_wide_brush_costs_what_it_touches():
    """3 000 points under a brush as wide as the frame cover all of it: about what a short one costs, not 3 000 times."""
    rng = np.random.default_rng(3)

    def taken(points):
        flat = np.column_stack([rng.random((points, 2)) * [1, 0.66], np.ones(points)]).ravel()
        stroke = Stroke(points=flat.tolist(), radius=1, soft=0.5, flow=1)
        start = time.perf_counter()
        covered(stroke, _look(), (1700, 2560))
        return time.perf_counter() - start

    taken(3)
    assert taken(3000) < 60 * taken(30)


def test_strokes_ask_whether_they_are_still_wanted():
    stroke = Stroke(points=[0.1, 0.1, 1, 0.9, 0.5, 1], radius=0.02, soft=0.5, flow=1)
    with Patience(lambda: True), pytest.raises(CancelledError):
        marked([stroke] * 400, _look(), (850, 1280))
    with Patience(lambda: False, seconds=-1), pytest.raises(TooLongError):
        covered(stroke, _look(), (850, 1280))
