"""Files written band by band hold what was given, and no more than a band is held meanwhile."""

import io
import tracemalloc

import cv2
import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from sunlatch.colour import output_profile
from sunlatch.errors import ExportError
from sunlatch.proof import check
from sunlatch.proof.writers import QUALITY, jpeg, png, tiff
from sunlatch.render import Output

PROFILE = output_profile("p3")


def _picture(width, height, bits, seed=0):
    """Something smooth with a little noise, and the extremes."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[:height, :width] / max(width, height)
    light = np.stack([x, y, (x + y) / 2], -1) + rng.normal(0, 0.02, (height, width, 3))
    light[: height // 3, : width // 3] = rng.integers(0, 2, (height // 3, width // 3, 3))
    top = 2**bits - 1
    return np.rint(np.clip(light, 0, 1) * top).astype(f"u{bits // 8}")


def _banded(picture, rows):
    return (picture[r : r + rows] for r in range(0, len(picture), rows))


@settings(max_examples=25, deadline=None)
@given(
    st.integers(1, 70),
    st.integers(1, 200),
    st.sampled_from([8, 16]),
    st.sampled_from([1, 7, 64]),
    st.booleans(),
)
def test_a_png_holds_every_px(tmp_path_factory, width, height, bits, rows, grey):
    path = tmp_path_factory.mktemp("png") / "a.png"
    picture = _picture(width, height, bits)
    picture = picture[..., 0] if grey else picture
    png(path, _banded(picture, rows), (width, height), bits, b"" if grey else PROFILE)
    read = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert read.dtype == picture.dtype
    assert np.array_equal(read if grey else read[..., ::-1], picture)
    assert Image.open(path).info.get("icc_profile", b"") == (b"" if grey else PROFILE)


@settings(max_examples=25, deadline=None)
@given(st.integers(1, 90), st.integers(1, 700), st.sampled_from([64, 128, 256]))
def test_a_jpeg_in_bands_is_the_jpeg_of_the_whole(tmp_path_factory, width, height, rows):
    path = tmp_path_factory.mktemp("jpeg") / "a.jpg"
    picture = _picture(width, height, 8)
    jpeg(path, _banded(picture, rows), (width, height), PROFILE)
    whole = io.BytesIO()
    Image.fromarray(picture).save(whole, "JPEG", quality=QUALITY, subsampling=0)
    read = Image.open(path)
    assert read.size == (width, height)
    assert read.info["icc_profile"] == PROFILE
    assert np.array_equal(np.asarray(read), np.asarray(Image.open(whole)))
    other = cv2.imread(str(path))[..., ::-1].astype(int)
    assert np.abs(other - np.asarray(read)).max() <= 4


def test_a_jpeg_too_long_is_refused(tmp_path):
    with pytest.raises(ExportError, match="65500 px a side"):
        check(tmp_path / "a.jpg", Output("srgb", 8), (70_000, 10))


@pytest.mark.parametrize("bits", [8, 16, 32])
def test_a_tiff_holds_every_px(tmp_path, bits):
    picture = _picture(50, 130, 16).astype({8: np.uint8, 16: np.uint16, 32: np.float32}[bits])
    tiff(tmp_path / "a.tif", _banded(picture, 64), (50, 130), bits, PROFILE)
    assert np.array_equal(tifffile.imread(tmp_path / "a.tif"), picture)


@pytest.mark.parametrize("kind", ["png", "jpg"])
def test_no_more_than_a_few_bands_are_held(tmp_path, kind):
    band = _picture(2000, 64, 8)
    bands = (np.roll(band, 31 * n, 1) for n in range(40))
    tracemalloc.start()
    if kind == "png":
        png(tmp_path / "a.png", bands, (2000, 2560), 8)
    else:
        jpeg(tmp_path / "a.jpg", bands, (2000, 2560), PROFILE)
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert most < 12 * band.nbytes
    assert Image.open(tmp_path / f"a.{kind}").convert("RGB").size == (2000, 2560)


def test_an_output_says_what_it_cannot_be():
    with pytest.raises(ExportError, match="no colour space 'cmyk'"):
        Output("cmyk")
    with pytest.raises(ExportError, match="not 12"):
        Output("srgb", 12)


@pytest.mark.parametrize("space", ["srgb", "p3", "rec2020", "linear"])
def test_an_output_encodes_alike_in_all_its_bits(space):
    light = np.linspace(-0.1, 1.1, 3 * 8 * 40, dtype=np.float32).reshape(3, 8, 40)
    made = {}
    for bits in (8, 16, 32):
        output = Output(space, bits)
        made[bits] = np.empty((8, 40, 3), output.dtype)
        output.encode(light, made[bits])
    if space == "linear":
        assert np.array_equal(made[32], light.transpose(1, 2, 0))
    held = np.clip(made[32], 0, 1)
    assert np.abs(made[16] / 65535 - held).max() < 2e-4
    assert np.abs(made[8] / 255 - held).max() < 0.6 / 255 + 1e-3


def test_a_file_says_what_it_was_made_of(tmp_path, coast, development):
    from sunlatch.proof import write_picture

    view = development.geometry.fit(200)
    for name in ("a.tif", "a.png", "a.jpg"):
        write_picture(development, tmp_path / name, view=view, output=Output(bits=8))
        read = Image.open(tmp_path / name)
        said = (
            read.tag_v2[270]
            if name == "a.tif"
            else read.info.get("Description") or read.info["comment"].decode()
        )
        assert said.startswith("Frame unnamed, ")
        assert said.endswith(" degrees.")
        assert np.asarray(read).shape[1] == 200
    across = int(said.split(", ")[1].split(" x ")[0])
    # 26 mm before 36
    assert across == pytest.approx(np.degrees(2 * np.arctan(18 / 26)), abs=1)


def test_a_join_names_its_frames_and_its_range():
    from types import SimpleNamespace as Some

    from sunlatch.ledger import Bracket, Scene, Source
    from sunlatch.proof.description import described

    sources = [Source(id=str(n), sha256=f"{n}" * 64, path=f"night/b-{n}.dng") for n in range(3)]
    members = [{"source": str(n), "rotation": [0.0, 0.0, 0.0], "ev": 2.0 * (n - 1)} for n in range(3)]
    base = Bracket(anchor="1", focal=2000.0, members=members)
    shown = Some(
        scene=Scene(sources=sources, base=base), raster=Some(info=Some(focal=1.0)),
        geometry=Some(box=Some(width=1.0, height=2 / 3)),
    )  # fmt: skip
    assert described(shown) == (
        "Bracket of 3 frames (b-0.dng, b-1.dng, b-2.dng), 4.0 stops from the darkest to the lightest, light clips"
        " 2.0 stops further up, 53 x 37 degrees."
    )
