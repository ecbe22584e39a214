"""Frames: what arrives from raw and rendered files, and what is refused, in a sentence."""

import struct

import cv2
import numpy as np
import pytest
import tifffile

from fieldworld.camera import BLACK, MATRIX_A, MATRIX_D65, WHITE, Exposure, as_shot_neutral, expose
from fieldworld.dng import write_dng
from sunlatch.colour import output_profile
from sunlatch.colour.spaces import decode, working_to_output
from sunlatch.errors import FrameError
from sunlatch.frame import Decoder, FrameStore, hash_file
from sunlatch.frame.binning import bin_mosaic, halve
from sunlatch.frame.metadata import read_exif
from sunlatch.frame.raw import RawFile


def _dng(path, mosaic, orientation=1):
    write_dng(
        path, mosaic, maker="Ammerlin Works", model="Field One", black=BLACK, white=WHITE,
        matrices=[(17, MATRIX_A), (21, MATRIX_D65)], neutral=as_shot_neutral(), noise_profile=(2e-5, 4e-9),
        orientation=orientation, taken="2026:10:03 18:21:40", exposure_s=1 / 30, f_number=8, iso=100, focal_mm=26, lens="",
    )  # fmt: skip


def test_the_files_own_colour_arrives(coast):
    """LibRaw does not hand over the matrices of a camera it has never met; the tags do."""
    info = coast.pyramid.info
    assert [k for k, _ in info.matrices] == [2856.0, 6504.0]
    assert np.allclose(np.reshape(info.matrices[1][1], (3, 3)), MATRIX_D65, atol=1e-5)
    assert np.allclose(info.neutral, as_shot_neutral(), atol=1e-5)
    assert info.colour_source == "file"
    assert info.colour.as_shot().kelvin == pytest.approx(6502, rel=0.01)


def test_metadata_arrives(coast):
    info = coast.pyramid.info
    assert (info.maker, info.model, info.iso, info.f_number) == ("Ammerlin Works", "Field One", 100, 8.0)
    assert info.exposure_s == pytest.approx(1 / 250)
    assert info.focal_mm == pytest.approx(26)
    assert info.taken == "2026:10:03 18:21:40"


def test_pyramid_halves_to_a_small_one(coast):
    levels = coast.pyramid.levels
    for k in range(len(levels) - 1):
        assert levels[k + 1].shape[0] == -(-levels[k].shape[0] // 2)
    assert max(levels[max(levels)].shape[:2]) <= 400


def test_halving_is_the_mean():
    picture = np.random.default_rng(0).random((33, 41, 3)).astype(np.float16)
    out = halve(picture)
    block = picture[4:6, 8:10].astype(np.float32).mean((0, 1))
    assert np.allclose(out[2, 4], block, atol=1e-3)
    assert out.shape == (17, 21, 3)


@pytest.mark.parametrize("block", [((0, 1), (1, 2)), ((2, 1), (1, 0)), ((1, 0), (2, 1)), ((1, 2), (0, 1))])
def test_the_first_look_bins_each_block(block):
    """Against NumPy, for every way a 2×2 block can lie, with a level of black per colour."""
    colours = np.array(block)
    mosaic = np.random.default_rng(2).integers(0, 16384, (36, 52)).astype(np.uint16)
    black = np.array([500, 520, 510], np.float32)
    mosaic[4:10] = 16383
    out, clipped = bin_mosaic(mosaic, colours, black, 16383.0)
    wanted = np.zeros((18, 26, 3))
    for i in range(2):
        for j in range(2):
            k = colours[i, j]
            wanted[..., k] += (mosaic[i::2, j::2] - black[k]) / (2 if k == 1 else 1)
    assert np.abs(out - wanted / (16383 - black.mean())).max() <= 2**-11
    for k in range(3):
        sites = [mosaic[i::2, j::2] for i in range(2) for j in range(2) if colours[i, j] == k]
        assert clipped[k] == pytest.approx(np.mean(np.array(sites) >= 16381))


def test_the_first_look_agrees_with_the_decoders_half_size(coast):
    raw = RawFile(coast.path)
    first = raw.first_pixels().astype(np.float32)
    assert not raw.spent
    seen = coast.pyramid.clipped
    assert np.allclose(raw.info.clipped, seen.mean((0, 1)) / 255, atol=2e-3)
    assert np.abs(first - np.concatenate(list(raw.bands(half=True)))).max() <= 2**-10
    assert raw.spent


def test_metadata_that_lies_or_is_missing_still_opens(tmp_path, store):
    """Nonsense in the exposure data is left out; the picture is whole, and grouping copes."""
    from sunlatch.frame.grouping import group_frames, trait_of

    mosaic = np.full((400, 600), 4000, np.uint16)
    path = tmp_path / "liar.dng"
    write_dng(
        path, mosaic, maker="", model="", black=BLACK, white=WHITE, matrices=[(21, MATRIX_D65)],
        neutral=as_shot_neutral(), noise_profile=(2e-5, 4e-9), orientation=1, taken="yesterday, I think",
        exposure_s=0, f_number=0, iso=0, focal_mm=0, lens="",
    )  # fmt: skip
    info, pyramid = store.first_look(hash_file(path), path)
    assert (info.exposure_s, info.f_number, info.iso, info.focal_mm) == (None, None, None, None)
    assert "no exposure data." in info.notes
    assert pyramid.levels[1].shape[:2] == (200, 300)
    trait = trait_of("liar", info, pyramid)
    assert trait.taken is None
    assert group_frames([trait, trait]) == []


def test_noise_below_black_survives(tmp_path, store):
    """A lens cap frame: its mean must be black, not the mean of clipped noise."""
    rng = np.random.default_rng(1)
    mosaic = np.clip(rng.normal(BLACK, 40, (400, 600)), 0, WHITE).astype(np.uint16)
    _dng(tmp_path / "cap.dng", mosaic)
    pyramid = store.whole(hash_file(tmp_path / "cap.dng"), tmp_path / "cap.dng")
    level = pyramid.levels[0].astype(np.float32)
    assert abs(level.mean()) < 0.15 * 40 / (WHITE - BLACK)
    assert level.min() < 0


def test_levels_are_where_the_file_says(tmp_path, store):
    """Flat mosaics: halfway between black and white reads as one half, white as one."""
    for name, level, expected in (("half.dng", (BLACK + WHITE) // 2, 0.5), ("full.dng", WHITE, 1.0)):
        _dng(tmp_path / name, np.full((200, 300), level, np.uint16))
        pyramid = store.whole(hash_file(tmp_path / name), tmp_path / name)
        assert np.abs(pyramid.levels[0].astype(float) - expected).max() < 1e-3


def test_clipping_is_read_from_the_mosaic(tmp_path, store):
    mosaic = np.full((200, 300), 3000, np.uint16)
    mosaic[0:100:2, 0:100:2] = WHITE  # red photosites of one corner
    _dng(tmp_path / "clip.dng", mosaic)
    clipped = store.whole(hash_file(tmp_path / "clip.dng"), tmp_path / "clip.dng").clipped
    assert clipped.shape == (100, 150, 3)
    assert clipped[:50, :50, 0].min() == 255
    assert clipped[:, :, 1:].max() == 0
    assert clipped[50:].max() == 0


@pytest.mark.parametrize(
    ("orientation", "size"), [(1, (600, 400)), (6, (400, 600)), (8, (400, 600)), (3, (600, 400))]
)
def test_orientation_is_kept_and_honoured(tmp_path, store, engine, orientation, size):
    from sunlatch.ledger import Scene, Source
    from sunlatch.render import picture_8

    mosaic = np.full((400, 600), 1200, np.uint16)
    mosaic[:60, :60] = 9000  # the sensor's first corner
    path = tmp_path / f"o{orientation}.dng"
    _dng(path, mosaic, orientation)
    sha256 = hash_file(path)
    pyramid = store.whole(sha256, path)
    assert pyramid.info.orientation == orientation
    development = engine.develop(Scene(sources=[Source(sha256=sha256)]), pyramid)
    assert development.geometry.developed_size == size
    picture = picture_8(development, development.geometry.fit(300), full=False)[..., 1]
    corner = {1: (0, 0), 3: (-1, -1), 6: (0, -1), 8: (-1, 0)}[orientation]
    assert picture[corner] > 2 * np.median(picture)


@pytest.mark.parametrize("space", ["srgb", "p3"])
def test_a_rendered_file_is_read_through_its_profile(tmp_path, store, space):
    picture = (np.random.default_rng(4).random((48, 64, 3)) * 65535).astype(np.uint16)
    path = tmp_path / f"{space}.tif"
    tifffile.imwrite(path, picture, photometric="rgb", iccprofile=output_profile(space))
    pyramid = store.whole(hash_file(path), path)
    expected = decode(picture / 65535, space) @ np.linalg.inv(working_to_output(space)).T
    assert np.abs(pyramid.levels[0].astype(float) - expected).max() < 1e-3
    assert pyramid.info.kind == "rendered"


def test_png_and_jpeg_open(tmp_path, store):
    ramp = np.tile(np.linspace(0, 255, 64).astype(np.uint8)[None, :, None], (48, 1, 3))
    for name in ("a.png", "a.jpg"):
        cv2.imwrite(str(tmp_path / name), ramp)
        pyramid = store.whole(hash_file(tmp_path / name), tmp_path / name)
        assert pyramid.info.bits == 8
        assert pyramid.info.notes
        assert (
            np.abs(pyramid.levels[0][20, :, 1].astype(float) - decode(ramp[0, :, 1] / 255, "srgb")).max()
            < 0.02
        )


def _truncated(good):
    return good[: len(good) // 2]


def _giant(good):
    """Claims 300 000 × 300 000 px."""
    data = bytearray(good)
    count = struct.unpack_from("<H", data, 8)[0]
    for n in range(count):
        at = 10 + 12 * n
        if struct.unpack_from("<H", data, at)[0] in (256, 257):
            struct.pack_into("<I", data, at + 8, 300_000)
    return bytes(data)


BROKEN = {
    "empty.dng": (lambda g: b"", "empty"),
    "cut.dng": (_truncated, "cut short"),
    "header.dng": (lambda g: g[:200], "damaged|cut short"),
    "giant.dng": (_giant, "megapixels"),
    "noise.dng": (lambda g: np.random.default_rng(8).bytes(50_000), "recognises"),
    "words.jpg": (lambda g: b"Dear diary, the light was good. " * 50, "recognises"),
    "cut.png": (lambda g: b"\x89PNG\r\n\x1a\n" + b"\0" * 99, "damaged|no picture"),
    "cut.jpg": (lambda g: b"\xff\xd8\xff\xe0" + b"\0" * 99, "damaged|no picture"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_broken_files_are_refused_in_a_sentence(tmp_path, coast, store, name):
    spoil, said = BROKEN[name]
    path = tmp_path / name
    path.write_bytes(spoil(coast.path.read_bytes()))
    sha256 = hash_file(path)
    with pytest.raises(FrameError, match=said) as refusal:
        store.first_look(sha256, path)
    assert str(refusal.value).startswith(f"{name} cannot be opened: ")
    assert store.best(sha256) is None
    assert not list(store.folder.glob(f"{sha256[:32]}*"))


def test_a_raw_file_by_another_name_opens(tmp_path, coast, store):
    path = tmp_path / "renamed.jpg"
    path.write_bytes(coast.path.read_bytes())
    assert store.first_look(hash_file(path), path)[0].kind == "raw"


def test_damage_in_the_middle_never_kills_the_parent(tmp_path, coast):
    """Thirty files with random bytes overwritten in their headers: each opens or is refused."""
    good = coast.path.read_bytes()
    rng = np.random.default_rng(11)
    store = FrameStore(tmp_path / "p", decoder=Decoder(time_limit_s=60))
    outcomes = set()
    for n in range(30):
        data = bytearray(good)
        for at in rng.integers(0, 900, 6):
            data[at] = rng.integers(0, 256)
        path = tmp_path / f"{n}.dng"
        path.write_bytes(data)
        try:
            store.first_look(hash_file(path), path)
            outcomes.add("opened")
        except FrameError:
            outcomes.add("refused")
        path.unlink()
    store.decoder.close()
    assert "refused" in outcomes


def test_a_killed_child_is_replaced(tmp_path, coast):
    decoder = Decoder()
    decoder.warm()
    decoder._child.kill()
    decoder._child.wait()
    decoder.decode(coast.path, tmp_path, ["first"])
    assert (tmp_path / "first" / "meta.json").exists()
    decoder.close()


def test_too_slow_is_said(tmp_path, coast):
    decoder = Decoder(time_limit_s=0.01)
    with pytest.raises(FrameError, match="longer than"):
        decoder.decode(coast.path, tmp_path, ["first"])
    decoder.close()


def test_the_field_cameras_noise_follows_its_model():
    """Photon transfer: variance over signal is the stated line."""
    from fieldworld.camera import FULL_WELL, READ_NOISE

    for level in (0.02, 0.1, 0.4):
        flat = np.full((256, 256, 3), level, np.float32)
        a, b = (expose(flat, Exposure(), seed).astype(float) for seed in (1, 2))
        centre = (slice(97, 159, 2), slice(96, 160, 2))  # green photosites, away from vignetting
        signal = (a[centre].mean() - BLACK) / (WHITE - BLACK)
        variance = (a - b)[centre].var() / 2 / (WHITE - BLACK) ** 2
        expected = signal / FULL_WELL + (READ_NOISE / FULL_WELL) ** 2
        assert variance == pytest.approx(expected, rel=0.2)


def test_the_same_shot_is_the_same_file(tmp_path):
    from fieldworld.camera import Shot, smaller
    from fieldworld.seen import Viewpoint
    from tests.coast import shoot

    shot = smaller(Shot("s", Viewpoint()), 160)
    for name in ("a.dng", "b.dng"):
        shoot(shot, tmp_path / name)
    assert hash_file(tmp_path / "a.dng") == hash_file(tmp_path / "b.dng")


def test_exposure_in_the_first_directory_is_read(tmp_path):
    """As TIFF/EP has it."""
    path = tmp_path / "ep.tif"
    exposure = [(33434, "2I", 1, (1, 250), True), (33437, "2I", 1, (8, 1), True), (34855, "H", 1, 400, True),
                (37386, "2I", 1, (35, 1), True), (36867, "s", 0, "2026:05:01 06:10:00", True)]  # fmt: skip
    tifffile.imwrite(path, np.full((40, 60, 3), 900, np.uint16), photometric="rgb", extratags=exposure)
    facts = read_exif(path)
    assert (facts["exposure_s"], facts["f_number"], facts["iso"], facts["focal_mm"]) == (
        0.004,
        8.0,
        400,
        35.0,
    )
    assert facts["taken"] == "2026:05:01 06:10:00"
