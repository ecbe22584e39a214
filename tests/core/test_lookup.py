"""A raster of any size is looked up as OpenCV does it in a small one."""

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sunlatch import lookup


@pytest.mark.parametrize("how", [cv2.INTER_LINEAR, cv2.INTER_CUBIC])
@pytest.mark.parametrize("border", [cv2.BORDER_REPLICATE, cv2.BORDER_CONSTANT])
@settings(max_examples=40, deadline=None)
@given(
    size=st.tuples(st.integers(1, 60), st.integers(1, 60)), of=st.tuples(st.integers(2, 70), st.integers(2, 70)),
    planes=st.sampled_from([0, 3]), far=st.floats(0, 2),
)  # fmt: skip
def test_in_parts_it_is_the_same(how, border, size, of, planes, far):
    rng = np.random.default_rng(5)
    source = rng.random((*of, planes) if planes else of).astype(np.float32)
    x, y = (
        (rng.random(size) * (1 + 2 * far) * n - far * n).astype(np.float32).round(2) for n in (of[1], of[0])
    )
    whole = cv2.remap(source, x, y, how, borderMode=border)
    with pytest.MonkeyPatch.context() as small:
        small.setattr(lookup, "LIMIT", 24)
        parts = lookup.looked_up(source, x, y, how, border)
    assert parts.shape == whole.shape
    # OpenCV looks up in steps of 1/32 px: moved by whole px, a place may fall to the next step
    assert np.abs(parts - whole).max() < 0.12


@pytest.mark.parametrize("across", [True, False])
def test_one_of_forty_thousand_px(across):
    row = np.arange(40_000, dtype=np.float32)
    at = np.linspace(-5, 40_005, 36_000, dtype=np.float32)
    source, x, y = row[None] % 100, at[None], np.zeros((1, len(at)), np.float32)
    if not across:
        source, x, y = source.T.copy(), y.T.copy(), x.T.copy()
    found = lookup.looked_up(source, x, y).ravel()
    inside = np.clip(at, 0, 39_999)
    true = np.interp(inside, row, row % 100)
    assert np.abs(found - true).max() < 4  # the saw's own steps, in steps of 1/32 px
    assert np.median(np.abs(found - true)) < 0.02
