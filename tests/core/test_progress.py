"""How far work is, as it is told."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.mend.patches import complete
from sunlatch.running.progress import phase, report, telling


def test_parts_of_parts_are_told_of_the_whole():
    heard = []
    with telling(heard.append), phase(0.2, 0.6):
        report(0.5)
        with phase(0.5, 1.0):
            report(0.5)
    assert np.allclose(heard, [0.2, 0.4, 0.4, 0.5, 0.6, 0.6])


@given(st.lists(st.floats(-1, 2), min_size=2, max_size=2).map(sorted), st.floats(-3, 3))
def test_nothing_is_told_outside_its_part(part, share):
    begin, end = (min(max(v, 0.0), 1.0) for v in part)
    heard = []
    with telling(heard.append), phase(begin, end):
        report(share)
    assert all(begin - 1e-9 <= h <= end + 1e-9 for h in heard)


def test_nobody_hears_it_outside():
    report(0.5)
    with phase(0, 1):
        report(0.5)


def test_what_is_grown_tells_how_far_it_is():
    rng = np.random.default_rng(0)
    picture = rng.normal(size=(120, 120, 3)).astype(np.float32)
    hole = np.zeros((120, 120), bool)
    hole[40:80, 40:80] = True
    heard = []
    with telling(heard.append):
        complete(picture, hole, np.ones_like(hole), seed=1)
    assert heard == sorted(heard)
    assert heard[-1] == 1.0
    assert len([h for h in heard if 0.05 < h < 0.95]) > 3
