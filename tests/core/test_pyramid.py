"""A pyramid is written in bands of any height, and is the same as one made of the whole."""

import tracemalloc

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sunlatch.frame.binning import halve
from sunlatch.frame.metadata import FrameInfo
from sunlatch.frame.pyramid import SMALLEST, Pyramid, in_bands, write_pyramid


def _info(width, height):
    return FrameInfo(width=width, height=height, kind="rendered", bits=16, colour_source="profile")


@settings(max_examples=12, deadline=None)
@given(st.integers(1, 1300), st.integers(1, 900), st.integers(1, 400), st.integers(0, 1))
def test_levels_are_halves_of_the_whole(tmp_path_factory, width, height, rows, first):
    folder = tmp_path_factory.mktemp("pyramid") / "whole"
    pixels = np.random.default_rng(width).random((height, width, 3)).astype(np.float16)
    bands = (pixels[r : r + rows] for r in range(0, height, rows))
    write_pyramid(folder, _info(width, height), (height, width), bands, first_level=first)
    opened, level = Pyramid.open(folder, "key"), first
    while True:
        assert np.array_equal(opened.levels[level], pixels)
        if max(pixels.shape[:2]) <= SMALLEST:
            break
        pixels, level = halve(pixels), level + 1
    assert max(opened.levels) == level
    assert opened.complete == (first == 0)


def test_what_breaks_off_leaves_nothing(tmp_path):
    def broken():
        yield np.zeros((10, 50, 3), np.float16)
        raise OSError("gone")

    with pytest.raises(OSError, match="gone"):
        write_pyramid(tmp_path / "whole", _info(50, 40), (40, 50), broken())
    assert not list(tmp_path.iterdir())


def test_a_pyramid_that_lacks_rows_is_none(tmp_path):
    with pytest.raises(AssertionError, match="fewer rows"):
        write_pyramid(
            tmp_path / "whole", _info(50, 40), (40, 50), in_bands(np.zeros((39, 50, 3), np.float16))
        )
    assert not list(tmp_path.iterdir())


def test_no_more_than_bands_are_held(tmp_path):
    band = np.ones((128, 3000, 3), np.float16)
    tracemalloc.start()
    write_pyramid(tmp_path / "whole", _info(3000, 2560), (2560, 3000), (band for _ in range(20)))
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert most < 3 * band.nbytes
    assert Pyramid.open(tmp_path / "whole", "key").shape(0) == (2560, 3000)
