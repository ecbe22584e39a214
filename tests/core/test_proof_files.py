"""Every kind of file, read back by readers that are not ours."""

import numpy as np
import OpenEXR
import pikepdf
import pillow_jxl  # noqa: F401
import pyexiv2
import pytest
import tifffile
from PIL import Image

from fieldworld.inks import STOCKS
from fieldworld.press_profile import shipped
from sunlatch.colour import output_profile
from sunlatch.colour.printing import Printing, Profile
from sunlatch.errors import ExportError
from sunlatch.geometry import View
from sunlatch.ledger import PaperParams
from sunlatch.proof import KINDS, About, laid_out, write_picture
from sunlatch.render import Output, Sharpness, bands_of

PAPER = Printing(Profile(shipped(STOCKS["matte"])))
INKS = Printing(Profile(shipped(STOCKS["lustre"], True)))


@pytest.fixture
def made(development, tmp_path, coast):
    """A file of the picture, 240 px wide, and the px it was made of."""

    def make(name, output, **more):
        view = more.pop("view", development.geometry.fit(240))
        path = tmp_path / name
        write_picture(
            development,
            path,
            view=view,
            output=output,
            about=About(coast.path, "Dusk", "Ana", "© Ana"),
            **more,
        )
        return path, np.concatenate(list(bands_of(development, view, output)))

    return make


@pytest.mark.parametrize(
    "output",
    [Output("srgb", 8), Output("romm", 16), Output("grey", 16), Output(bits=16, printing=PAPER), Output(bits=8, printing=INKS)],
    ids=["srgb", "romm", "grey", "paper", "inks"],
)  # fmt: skip
def test_a_tiff_holds_px_profile_density_and_words(made, output):
    path, px = made("a.tif", output, ppi=300)
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        read = page.asarray()
        assert np.array_equal(read if read.ndim == 3 else read[..., None], px)
        assert page.tags["InterColorProfile"].value == output.profile
        assert page.tags["XResolution"].value == (300, 1)
        assert page.tags["Compression"].value == 8
        assert page.photometric.name == {1: "MINISBLACK", 3: "RGB", 4: "SEPARATED"}[output.channels]
    _says(path)


def _says(path):
    image = pyexiv2.Image(str(path))
    tags = image.read_exif()
    image.close()
    assert tags["Exif.Photo.DateTimeOriginal"].startswith("20")
    assert tags["Exif.Image.ImageDescription"] == "Dusk"
    assert tags["Exif.Image.Copyright"] == "© Ana"
    assert tags["Exif.Photo.LensModel"]
    assert not [name for name in tags if "GPS" in name]


@pytest.mark.parametrize(("name", "output"), [("a.png", Output("p3", 16)), ("g.png", Output("grey", 8))])
def test_a_png_holds_the_same(made, name, output):
    path, px = made(name, output, ppi=240)
    with Image.open(path) as image:
        assert image.info["icc_profile"] == output.profile
        assert image.info["dpi"] == pytest.approx((240, 240), abs=0.1)
        if output.bits == 8:
            assert np.array_equal(np.asarray(image), px[..., 0])
    _says(path)


@pytest.mark.parametrize(
    ("name", "output", "near"),
    [("a.jpg", Output("srgb", 8), 2.5), ("p.jpg", Output(bits=8, printing=PAPER), 3), ("g.jpg", Output("grey", 8), 2.5),
     ("a.webp", Output("p3", 8), 4)],
)  # fmt: skip
def test_kinds_that_lose_a_little_lose_little(made, name, output, near):
    path, px = made(name, output, ppi=300)
    with Image.open(path) as image:
        read = np.asarray(image)
        assert image.info["icc_profile"] == output.profile
        assert image.getexif()[33432].encode("latin-1").decode() == "© Ana"
    read = read if read.ndim == 3 else read[..., None]
    assert np.abs(read.astype(int) - px).mean() < near
    if name.endswith("jpg"):
        _says(path)


@pytest.mark.parametrize("output", [Output("srgb", 8), Output("grey", 8)])
def test_a_jpeg_xl_holds_nearly_the_same(made, output):
    path, px = made("a.jxl", output)
    with Image.open(path) as image:
        read = np.asarray(image)
        assert image.getexif()[33432].encode("latin-1").decode() == "© Ana"
    assert np.abs((read if read.ndim == 3 else read[..., None]).astype(int) - px).mean() < 3


def test_an_openexr_holds_light(made):
    path, px = made("a.exr", Output("linear", 32))
    with OpenEXR.File(str(path)) as file:
        light = file.channels()["RGB"].pixels
        head = dict(file.header())
    assert np.allclose(light, px, rtol=1e-3, atol=1e-6)
    assert head["chromaticities"][0] == pytest.approx(0.708)
    assert head["comments"] == "Dusk"
    assert head["owner"] == "© Ana"


def test_a_pdf_has_the_size_of_the_paper(made, development):
    layout = laid_out(
        PaperParams(width=210, height=297, border=20, line=1), development.geometry.developed_size
    )
    view = View(layout.region, (120, 80))
    path, px = made("a.pdf", Output(bits=16, printing=INKS), layout=layout, view=view)
    with pikepdf.open(path) as document:
        page = document.pages[0]
        assert [float(v) for v in page.MediaBox] == pytest.approx(
            [0, 0, 210 / 25.4 * 72, 297 / 25.4 * 72], abs=0.01
        )
        image = page.Resources.XObject.Picture
        held = np.frombuffer(image.read_bytes(), ">u2").reshape(80, 120, 4)
        assert image.ColorSpace[1].read_bytes() == INKS.profile.data
        with document.open_metadata() as about:
            assert about["dc:description"] == "Dusk"
    assert np.array_equal(held, px)


def test_with_its_border_a_file_is_the_whole_sheet(made, development):
    layout = laid_out(PaperParams(width=300, height=200, border=30), development.geometry.developed_size)
    sheet = layout.at_density(50)
    path, px = made(
        "a.tif", Output("srgb", 16), layout=layout, ppi=50, view=View(layout.region, sheet.picture)
    )
    read = tifffile.imread(path)
    assert read.shape[:2] == (sheet.size[1], sheet.size[0])
    x, y = sheet.at
    assert np.array_equal(read[y : y + sheet.picture[1], x : x + sheet.picture[0]], px)
    assert (read[0] == 65535).all()


def test_sharpening_in_bands_is_that_of_the_whole(development):
    """Rows of a band look at those of its neighbours."""
    sharp = Sharpness(200, "matte")
    view = development.geometry.fit(10**6)
    output = Output("rec2020", 16)
    made = np.concatenate(list(bands_of(development, view, Output("rec2020", 16, sharpness=sharp))))
    light = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band, r, e):
        light[:, r:e] = band

    development.display(view, output, take, keep=False)
    whole = np.empty_like(made)
    output.encode(sharp.sharpened(light), whole)
    assert np.abs(made.astype(int) - whole).max() <= 2
    plain = np.concatenate(list(bands_of(development, view, output)))
    assert np.abs(made.astype(int) - plain).max() > 500  # and it does something


@pytest.mark.parametrize(
    ("name", "output", "said"),
    [("a.jpg", Output(bits=8, printing=INKS), "four inks"), ("a.webp", Output("grey", 8), "grey alone"),
     ("a.exr", Output("p3", 32), "written in linear"), ("a.jxl", Output("p3", 8), "written in srgb"), ("a.png", Output("linear", 32), "holds 8 or 16"), ("a.bmp", Output(), "not written here")],
)  # fmt: skip
def test_what_a_kind_cannot_hold_is_said_and_nothing_is_left(made, tmp_path, name, output, said):
    with pytest.raises(ExportError, match=said):
        made(name, output)
    assert not list(tmp_path.iterdir())


def test_every_kind_says_what_it_holds():
    assert {bits for kind in KINDS.values() for bits in kind.bits} == {8, 16, 32}
    assert all(
        len(output_profile(space)) > 100 for space in ("srgb", "p3", "rec2020", "romm", "grey", "linear")
    )


def test_words_with_control_characters_are_refused():
    with pytest.raises(ExportError, match="control characters"):
        About(caption="a\x07b")
    with pytest.raises(ExportError, match="letters"):
        About(rights="x" * 3000)


def test_what_is_said_is_told_before(coast):
    said = About(coast.path, caption="Dusk").lines()
    assert any(line.startswith("Taken: 20") for line in said)
    assert "Caption: Dusk" in said
    assert said[-1] == "Place: the frame says none"
