"""Papers by their profiles: what is sent, what will be seen, what is missed; against LittleCMS itself and against the press."""

import contextlib
import io
import struct

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageCms

from fieldworld.inks import STOCKS
from fieldworld.press import papers
from fieldworld.press_profile import profile_of, shipped
from fieldworld.sheet import measured
from sunlatch.colour import output_profile, working_to_output
from sunlatch.colour.difference import ciede2000, delta_e, lab_of_working
from sunlatch.colour.icc import PCS_WHITE, description, file_of, xyz
from sunlatch.colour.printing import INTENTS, Printing, Profile, screen_table
from sunlatch.colour.spaces import D50, D65, XYZ_TO_WORKING, adaptation, decode_srgb
from sunlatch.errors import ProfileError
from sunlatch.render import Output, Proof, Sharpness

NAMES = ["matte", "lustre", "metallic"]


def _profile(name: str, inks: bool = False) -> Profile:
    return Profile(shipped(STOCKS[name], inks), name)


def _light(n: int = 120, seed: int = 4) -> np.ndarray:
    """Colours a photograph may have: all of sRGB, as working light (n, n, 3)."""
    srgb = decode_srgb(np.random.default_rng(seed).random((n, n, 3)))
    return np.clip(srgb @ np.linalg.inv(working_to_output("srgb")).T, 0, 1).astype(np.float32)


def _pressed(name: str, codes: np.ndarray) -> np.ndarray:
    """What the press measures, as working light."""
    return measured(STOCKS[name], codes) @ (XYZ_TO_WORKING @ adaptation(D50, D65)).T


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("inks", [False, True])
def test_the_proof_is_what_comes_out_of_the_press(name, inks):
    if inks and name != "lustre":
        pytest.skip("the press takes inks for one paper")
    printing, light = Printing(_profile(name, inks)), _light()
    printed = _pressed(name, printing.codes(light, quick=True))
    apart = ciede2000(lab_of_working(printing.seen(light).astype(float)), lab_of_working(printed))
    assert apart.mean() < 0.6  # 1.5 is asked for
    assert np.percentile(apart, 95) < 1.5  # 4


@pytest.mark.parametrize("intent", INTENTS)
def test_the_table_for_drags_is_littlecms_to_a_third_of_what_can_be_seen(intent):
    printing, light = Printing(_profile("lustre"), intent), _light(200)
    for white, black in ((True, True), (False, True), (False, False)):
        proof = Proof(printing=printing, paper_white=white, ink_black=black)
        table = proof.through(np.ascontiguousarray(light.transpose(2, 0, 1)))[..., :3]
        true = np.clip(printing.seen(light, white, black).astype(float) @ working_to_output("srgb").T, 0, 1)
        apart = delta_e(decode_srgb(np.clip(table.astype(float), 0, 1)), true)
        assert apart.mean() < 0.06
        assert np.percentile(apart, 99) < 0.3


def test_the_proof_is_that_of_the_librarys_own_proofing_transform():
    """Pillow asks LittleCMS for a proof in one step, from 8-bit sRGB."""
    printing = Printing(_profile("matte"), "relative", False)
    px = np.random.default_rng(1).integers(0, 256, (64, 64, 3)).astype(np.uint8)
    srgb = ImageCms.ImageCmsProfile(io.BytesIO(output_profile("srgb")))
    paper = ImageCms.ImageCmsProfile(io.BytesIO(printing.profile.data))
    way = ImageCms.buildProofTransform(
        srgb, srgb, paper, "RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC,
        ImageCms.Intent.ABSOLUTE_COLORIMETRIC, ImageCms.Flags.SOFTPROOFING | ImageCms.Flags.NOOPTIMIZE,
    )  # fmt: skip
    theirs = decode_srgb(np.asarray(ImageCms.applyTransform(Image.fromarray(px), way)) / 255)
    light = np.clip(decode_srgb(px / 255) @ np.linalg.inv(working_to_output("srgb")).T, 0, 1).astype(
        np.float32
    )
    ours = np.empty(px.shape, np.uint8)
    Proof(printing=printing).encode(np.ascontiguousarray(light.transpose(2, 0, 1)), ours)
    apart = delta_e(decode_srgb(ours / 255), theirs)
    assert apart.mean() < 0.3


@pytest.mark.parametrize("name", NAMES)
def test_the_quick_way_for_files_is_the_exact_one(name):
    printing, light = Printing(_profile(name)), _light()
    exact, quick = (printing.profile._lab(printing.codes(light, q), 1).astype(float) for q in (False, True))
    apart = ciede2000(exact, quick)
    assert apart.mean() < 0.04
    assert np.percentile(apart, 99) < 0.3


def test_what_ships_is_what_the_code_builds():
    """The way there, node for node; of the way back the same colours."""
    made, there = profile_of(STOCKS["metallic"]), shipped(STOCKS["metallic"])
    light = _light(60)
    one, other = (Printing(Profile(p)).lab(light).astype(float) for p in (made, there))
    assert ciede2000(one, other).max() < 0.05


def test_a_paper_says_where_its_ends_lie():
    ends = {name: _profile(name).ends for name in NAMES}
    for paper, ink in ends.values():
        assert 0.6 < paper < 0.95
        assert 0 < ink < 0.05
    assert ends["matte"][1] > 3 * ends["lustre"][1]  # cotton has no black


@given(st.lists(st.floats(0, 1), min_size=3, max_size=3))
@settings(max_examples=40)
def test_what_is_missed_is_least_for_greys_and_never_negative(rgb):
    printing = Printing(_profile("lustre"))
    grey = np.full((1, 1, 3), float(np.mean(rgb)), np.float32)
    colour = np.asarray(rgb, np.float32).reshape(1, 1, 3)
    assert printing.missed(colour)[0, 0] >= 0
    assert printing.missed(grey)[0, 0] < 2.5


def test_what_no_paper_holds_is_missed():
    green = np.array([[[0.0, 1.0, 0.0]]], np.float32)
    assert Printing(_profile("matte")).missed(green)[0, 0] > 10
    marked = np.empty((1, 1, 3), np.uint8)
    Proof(printing=Printing(_profile("matte")), missed=True).encode(green.transpose(2, 0, 1).copy(), marked)
    assert int(marked[0, 0, 0]) - int(marked[0, 0, 2]) > 60  # it stands out of the grey


def _damaged() -> dict[str, tuple[bytes, str]]:
    whole = shipped(STOCKS["matte"])
    return {
        "nothing": (b"", "no ICC profile"),
        "text": (b"not a profile" * 40, "no ICC profile"),
        "half of one": (whole[: len(whole) // 2], "damaged"),
        "of a camera": (whole[:12] + b"scnr" + whole[16:], "input|scanner"),
        "a device link": (whole[:12] + b"link" + whole[16:], "another"),
        "of names": (whole[:12] + b"nmcl" + whole[16:], "names"),
        "of six inks": (whole[:16] + b"6CLR" + whole[20:], "6CLR"),
        "with no way back": (
            file_of([(b"desc", description("x")), (b"wtpt", xyz(PCS_WHITE))], b"prtr", b"RGB ", b"Lab "), "damaged|both ways",
        ),
        "too large": (whole + b"\0" * (17 << 20), "at most"),
    }  # fmt: skip


@pytest.mark.parametrize("what", _damaged())
def test_a_profile_nothing_can_be_printed_with_is_refused_in_a_sentence(what):
    data, said = _damaged()[what]
    with pytest.raises(ProfileError, match=said):
        Profile(data, "p.icc")


@given(st.integers(0, 700_000), st.integers(0, 255))
@settings(max_examples=60)
def test_a_profile_with_a_byte_changed_is_one_or_is_refused(at, byte):
    raw = bytearray(shipped(STOCKS["matte"]))
    raw[at] = byte
    with contextlib.suppress(ProfileError):
        Profile(bytes(raw))


def test_names_of_both_versions_are_read():
    plain = _profile("matte")
    assert plain.name == "Matte cotton, proof press"
    words = "Kaltes Papier".encode("utf-16-be")
    tag = b"mluc\0\0\0\0" + struct.pack(">II2s2sII", 1, 12, b"de", b"DE", len(words), 28) + words
    count = struct.unpack(">I", plain.data[128:132])[0]
    tags = [struct.unpack(">4sII", plain.data[132 + 12 * n : 144 + 12 * n]) for n in range(count)]
    held = [(n, plain.data[at : at + size] if n != b"desc" else tag) for n, at, size in tags]
    assert Profile(file_of(held, b"prtr", b"RGB ", b"Lab ")).name == "Kaltes Papier"


def test_outputs_hold_as_many_numbers_as_their_paper():
    light = np.ascontiguousarray(_light(16).transpose(2, 0, 1))
    for output, channels in (
        (Output("grey", 16), 1), (Output("romm", 16), 3), (Output(bits=8, printing=Printing(_profile("lustre", True))), 4),
    ):  # fmt: skip
        px = np.empty((16, 16, output.channels), output.dtype)
        output.encode(light, px)
        assert px.shape[2] == channels
    assert Output(bits=16, printing=Printing(_profile("lustre", True))).white.tolist() == [0, 0, 0, 0]


def test_sharpening_leaves_what_is_smooth_and_rings_nowhere():
    rng = np.random.default_rng(2)
    step = np.where(np.arange(200) < 100, 0.1, 0.6).astype(np.float32)
    light = np.repeat(np.tile(step, (80, 1))[None], 3, 0)
    sky = np.full((3, 80, 200), 0.4, np.float32) * (1 + rng.normal(0, 0.01, (1, 80, 200)).astype(np.float32))
    sharp = Sharpness(300, "matte")
    assert np.abs(sharp.sharpened(sky) / sky - 1).max() < 0.004
    made = sharp.sharpened(light)
    assert made[0, 40, 95:100].min() < 0.1
    assert made.max() <= 1
    beyond = np.abs(made[0, 40] - light[0, 40])
    assert beyond[: 100 - sharp.apron].max() < 1e-4
    assert np.array_equal(sharp.by(0).sharpened(light), light)


def test_a_table_is_kept_by_what_made_it():
    printing = Printing(_profile("matte"))
    assert screen_table(printing, True, True) is screen_table(Printing(_profile("matte")), True, True)
    assert screen_table(printing, True, True) is not screen_table(printing, False, True)


def test_the_press_lists_the_papers_it_has():
    told = papers()
    assert [(p["name"], p["label"], p["surface"]) for p in told] == [
        (s.name, s.label, s.surface) for s in STOCKS.values()
    ]
    for paper in told:
        assert Profile(shipped(STOCKS[paper["name"]])).name.startswith(paper["label"])


@pytest.mark.parametrize(("space", "channels"), [("grey", 1), ("p3", 3), ("romm", 3)])
def test_profiles_of_curves_alone_print_too(space, channels):
    printing, light = Printing(Profile(output_profile(space))), _light(30)
    assert printing.codes(light).shape == printing.codes(light, quick=True).shape == (30, 30, channels)
    greys = np.linspace(0, 1, 30, dtype=np.float32)[None, :, None].repeat(3, 2)
    assert np.abs(printing.seen(greys, False, True) - greys).max() < 0.004
    assert printing.profile.ends == pytest.approx((1, 0), abs=1e-3)
