"""Proof over the API: keeps, papers, what a print will look like, files of every kind, the press."""

import io
import json

import cv2
import numpy as np
import pyexiv2
import pytest
import tifffile
from django.contrib.auth.models import User
from django.test import Client
from PIL import Image

from fieldworld.inks import STOCKS
from fieldworld.press_profile import shipped
from studio.models import Keep
from sunlatch.colour.difference import ciede2000, lab_of_working
from sunlatch.colour.spaces import decode_rec2020, decode_srgb, working_to_output
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def at(scene):
    """The scene's address."""
    return f"/api/scenes/{scene['id']}"


def _save(client, at, document, base, words="x"):
    return post(client, f"{at}/revisions", {"base": base, "document": document, "words": words}).json()


@pytest.fixture
def papered(client, scene, at):
    """The scene on matte cotton: its document, saved as revision 2."""
    profile = post(client, "/api/profiles/press", {"paper": "matte"}).json()
    document = scene["revision"]["document"]
    params = {"width": 120, "height": 90, "border": 8, "surface": "matte"}
    document["papers"] = [{"id": "p", "name": "Matte cotton", "profile": profile, "params": params}]
    document["paper"] = "p"
    return _save(client, at, document, 1)["document"]


def _png(answer):
    assert answer.status_code == 200, answer.content[:300]
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"))


def test_a_kept_state_is_gone_back_to_and_nothing_is_lost(client, scene, at):
    first = post(client, f"{at}/keeps", {}).json()
    assert first["name"] == "Keep 1"
    document = scene["revision"]["document"] | {"moves": [{"kind": "exposure", "params": {"ev": -1}}]}
    later = _save(client, at, document, 1, "Exposure")
    back = post(client, f"{at}/keeps/{first['id']}/back", {"base": later["number"]}).json()
    assert back["number"] == 3
    assert back["document"]["moves"] == []
    assert back["undo"] == "Back to Keep 1"
    assert post(client, f"{at}/undo", {"base": 3}).json()["document"]["moves"][0]["params"]["ev"] == -1
    post(client, f"{at}/keeps/{first['id']}/back", {"base": 99}, 409)
    assert client.get(f"{at}/revisions/1").json()["document"]["moves"] == []


def test_keeps_are_renamed_removed_and_taken_back(client, at):
    kept = post(client, f"{at}/keeps", {"name": "darker"}).json()
    post(client, "/api/names", {"what": "keep", "id": kept["id"], "name": "dark land"})
    assert [k["name"] for k in client.get(f"{at}/keeps").json()] == ["dark land"]
    post(client, "/api/removed", {"what": "keep", "id": kept["id"]})
    assert client.get(f"{at}/keeps").json() == []
    assert client.get(at).json()["keeps"] == []
    assert client.delete(f"/api/removed/keep/{kept['id']}").status_code == 204
    assert len(client.get(f"{at}/keeps").json()) == 1
    assert post(client, f"{at}/keeps", {}).json()["name"] == "Keep 2"


def test_two_states_are_told_apart_in_words_and_in_stops(client, scene, at):
    before = scene["revision"]["document"]
    after = before | {"moves": [{"kind": "exposure", "params": {"ev": 1.0}}]}
    told = post(client, f"{at}/changes", {"before": before, "after": after}).json()
    assert told == ["Added: Exposure +1.0 stops"]
    look = {"document": after, "other": before, "width": 90, "height": 60}
    apart = _png(post(client, f"{at}/difference", look))
    assert np.median(apart) > 140  # lighter now
    assert (_png(post(client, f"{at}/difference", look | {"other": after})) == 128).all()


def test_anothers_keeps_and_papers_are_not_there(client, at, papered):
    kept = post(client, f"{at}/keeps", {}).json()
    other = Client()
    other.force_login(User.objects.create_user("ben", password="another coast"))
    look = {"document": papered, "width": 9, "height": 9}
    for path, body in {
        f"{at}/keeps": {}, f"{at}/keeps/{kept['id']}/back": {"base": 1}, f"{at}/changes": {"before": papered, "after": papered},
        f"{at}/difference": look | {"other": papered}, f"{at}/paper": {"document": papered},
        f"{at}/preflight": {"document": papered}, f"{at}/strip": {"document": papered, "settings": [{"of": "exposure", "steps": [0]}]},
        f"{at}/about": {}, f"{at}/press": {}, "/api/removed": {"what": "keep", "id": kept["id"]},
    }.items():  # fmt: skip
        post(other, path, body, 404)
    assert other.get(f"{at}/revisions/1").status_code == 404
    post(other, "/api/exports", {"scenes": [at.rpartition("/")[2]], "files": [{}]}, 404)
    assert Keep.objects.count() == 1


def test_the_papers_of_the_press_are_offered_and_taken_in(client):
    assert [p["name"] for p in client.get("/api/papers").json()] == ["matte", "lustre", "metallic"]
    taken = post(client, "/api/profiles/press", {"paper": "lustre"}).json()
    assert taken["name"] == "Lustre, proof press"
    assert taken["channels"] == 3
    assert "no paper" in post(client, "/api/profiles/press", {"paper": "vellum"}, 422).json()["detail"]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no ICC profile"),
        (shipped(STOCKS["matte"])[:5000], "damaged"),
        (shipped(STOCKS["matte"])[:12] + b"scnr" + shipped(STOCKS["matte"])[16:], "scanner"),
    ],
    ids=["nothing", "cut", "input"],
)
def test_a_profile_that_is_none_is_refused(client, data, said):
    answer = client.put("/api/profiles?name=x.icc", data, content_type="application/octet-stream")
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_a_profile_of_four_inks_is_taken_in(client):
    data = shipped(STOCKS["lustre"], True)
    got = client.put("/api/profiles?name=inks.icc", data, content_type="application/octet-stream").json()
    assert got["channels"] == 4


def test_a_paper_says_what_it_holds(client, at, papered):
    told = post(client, f"{at}/paper", {"document": papered}).json()
    assert told["sheet"] == [120, 90]
    assert told["sentence"].startswith(f"{told['ppi']:.0f} ppi")
    assert told["ink"] < -1 < 1 < told["paper"]
    assert told["holds"] == pytest.approx(told["paper"] - told["ink"])
    assert told["holds"] < told["has"]
    wide = json.loads(json.dumps(papered))
    wide["papers"][0]["params"]["border"] = 60
    assert "leaves nothing" in post(client, f"{at}/paper", {"document": wide}).json()["problem"]
    gone = json.loads(json.dumps(papered))
    gone["papers"][0]["profile"]["blob"] = "0" * 64
    assert "missing" in post(client, f"{at}/paper", {"document": gone}).json()["problem"]


def test_the_screen_shows_the_paper_and_the_scene_stays(client, at, papered):
    look = {"document": papered, "width": 120, "height": 80, "full": True}
    plain, screen, paper, gamut = (
        _png(post(client, f"{at}/picture", look | {"proof": kind})) for kind in ("", "plain", "look", "gamut")
    )
    assert np.array_equal(plain, screen)
    assert paper.min() > 40  # no ink is black
    assert paper.max() < plain.max()
    grey = np.abs(gamut.astype(int) - gamut[..., :1]).max(2) <= 1
    assert 0.3 < grey.mean() <= 1
    bright = json.loads(json.dumps(papered))
    bright["papers"][0]["moves"] = [{"kind": "exposure", "params": {"ev": 1.0}}]
    assert np.array_equal(_png(post(client, f"{at}/picture", look | {"document": bright})), plain)
    assert (
        _png(post(client, f"{at}/picture", look | {"document": bright, "proof": "look"})).mean()
        > paper.mean() + 5
    )


def test_grey_is_lightness_alone(client, at, papered):
    look = {"document": papered, "width": 60, "height": 40, "show": "grey"}
    px = _png(post(client, f"{at}/picture", look))
    assert (px[..., 0] == px[..., 2]).all()


def test_preflight_and_strip(client, at, papered):
    told = post(client, f"{at}/preflight", {"document": papered, "bits": 8}).json()
    assert told["well"]
    assert all(f["description"] for f in told["to_look_at"])
    asked = {"document": papered, "settings": [{"of": "exposure", "steps": [-1, 0, 1]}], "wide": 80}
    answer = post(client, f"{at}/strip", asked)
    pieces = json.loads(answer["X-Strip"])
    assert _png(answer).shape[:2] == tuple(pieces["size"][::-1])
    assert [p["steps"] for p in pieces["pieces"]] == [[-1], [0], [1]]
    wrong = asked | {"settings": [{"of": "moon", "steps": [1]}]}
    assert "no line" in post(client, f"{at}/strip", wrong, 422).json()["detail"]
    assert (
        "inside the picture"
        in post(client, f"{at}/strip", asked | {"piece": [0, 0, 2, 1]}, 422).json()["detail"]
    )


def _file(client, job, settings):
    assert job["state"] == "done", job["message"]
    told = client.get(f"/api/jobs/{job['id']}").json()
    path = settings.EXPORT_FOLDER / job["id"] / job["file_name"]
    assert told["bytes"] == path.stat().st_size
    assert client.get(f"/api/jobs/{job['id']}/preview").status_code == 200
    return path


def test_a_file_for_the_paper_and_what_the_press_makes_of_it(client, at, papered, settings):
    """The press's sheet, measured, is what the screen showed."""
    wanted = {
        "kind": "tif",
        "space": "paper",
        "paper": "p",
        "caption": "Dusk",
        "rights": "© Ana",
        "name": "{scene} {paper}",
    }
    path = _file(client, post(client, f"{at}/exports", wanted).json(), settings)
    assert path.name.endswith("Matte cotton.tif")
    with tifffile.TiffFile(path) as file:
        assert file.pages[0].tags["InterColorProfile"].value == shipped(STOCKS["matte"])
        assert file.pages[0].tags["XResolution"].value[0] / file.pages[0].tags["XResolution"].value[1] > 200
    image = pyexiv2.Image(str(path))
    assert image.read_exif()["Exif.Image.Copyright"] == "© Ana"
    image.close()
    job = post(client, f"{at}/press", {"long_edge": 300}).json()
    sheet = _file(client, job, settings)
    measured = cv2.imread(str(sheet), cv2.IMREAD_UNCHANGED)[..., ::-1] / 65535
    h, w = measured.shape[:2]
    look = {"document": papered, "width": w, "height": h, "proof": "look"}
    shown = (
        decode_srgb(_png(post(client, f"{at}/picture", look)) / 255)
        @ np.linalg.inv(working_to_output("srgb")).T
    )
    apart = ciede2000(lab_of_working(shown), lab_of_working(decode_rec2020(measured)))
    assert apart.mean() < 1.5
    assert np.percentile(apart, 95) < 4


def test_a_strip_goes_to_the_press(client, at, papered, settings):
    job = post(client, f"{at}/press", {"strip": [{"of": "exposure", "steps": [-0.5, 0, 0.5]}]}).json()
    assert _file(client, job, settings).name.endswith("strip.png")


def test_the_press_takes_only_its_own_papers(client, at, papered):
    own = json.loads(json.dumps(papered))
    own["papers"][0]["profile"] = None
    _save(client, at, own, 2)
    job = post(client, f"{at}/press", {}).json()
    assert job["state"] == "failed"
    assert "not a paper of the proof press" in job["message"]


def test_several_files_of_a_scene_in_one_go(client, scene, at, papered, settings):
    files = [
        {"kind": "jpg", "bits": 8, "long_edge": 200, "name": "{scene} {width}"},
        {"kind": "pdf", "bits": 8, "space": "paper", "paper": "p", "border": True, "name": "{scene} {paper}"},
        {"kind": "exr", "bits": 32, "space": "linear", "name": "{scene} light"},
    ]
    jobs = post(client, "/api/exports", {"scenes": [scene["id"]], "files": files}).json()
    assert [_file(client, job, settings).suffix for job in jobs] == [".jpg", ".pdf", ".exr"]
    twice = {"scenes": [scene["id"]], "files": [files[0], files[0]]}
    assert "two files would be called" in post(client, "/api/exports", twice, 422).json()["detail"]
    assert len(client.get("/api/jobs").json()) == 3  # none of the two was begun


@pytest.mark.parametrize(
    ("wanted", "said"),
    [
        ({"kind": "jpg", "bits": 16}, "holds 8 bits"),
        ({"kind": "webp", "bits": 8, "space": "grey"}, "grey alone"),
        ({"kind": "tif", "space": "paper"}, "no profile"),
        ({"name": "../{scene}"}, "leads out"),
        ({"name": "{moon}"}, "moon"),
        ({"caption": "a\x01b"}, "control characters"),
        ({"paper": "p", "border": True, "ppi": 4800, "space": "srgb"}, "megapixels"),
        ({"paper": "gone"}, "not in the scene"),
    ],
)
def test_what_cannot_be_is_said_before_anything_is_begun(client, at, papered, wanted, said):
    large = json.loads(json.dumps(papered))
    large["papers"][0]["params"] |= {"width": 5000, "height": 4000}
    _save(client, at, large, 2)
    assert said in post(client, f"{at}/exports", wanted, 422).json()["detail"]
    assert client.get("/api/jobs").json() == []


def test_what_a_file_will_say_is_told_before(client, at):
    said = post(client, f"{at}/about", {"caption": "Dusk", "place": True}).json()
    assert "Caption: Dusk" in said
    assert any(line.startswith("Taken: ") for line in said)


def test_the_winner_of_a_strip_is_taken_by_the_paper(client, at, papered):
    taken = {"document": papered, "taken": [{"of": "exposure", "step": 0.25}, {"of": "warmth", "step": 300}]}
    after = post(client, f"{at}/strip/winner", taken).json()
    assert after["moves"] == []
    assert after["papers"][0]["moves"][0]["params"]["ev"] == 0.25
    assert after["ground"]["colour_of_light"]["params"]["kelvin"] > 2000
    wrong = taken | {"taken": [{"of": "sharpness", "step": 900}]}
    assert "sharpness" in post(client, f"{at}/strip/winner", wrong, 422).json()["where"]
