"""Ground over the API: the map that comes with a picture, the finders, and refusals that keep the scene."""

import json

import numpy as np
import pytest
from PIL import Image

from sunlatch.geometry import Geometry, described
from sunlatch.ledger import SCHEMA_VERSION
from sunlatch.moves import GROUND_KINDS
from sunlatch.render.picture import PATTERN
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def _ask(client, scene, what, document=None, status=200, **more):
    body = {"document": document or scene["revision"]["document"]} | more
    return post(client, f"/api/scenes/{scene['id']}/ground{what}", body, status).json()


def _picture(client, scene, document, **look):
    body = {"document": document, "width": 300, "height": 200, "full": False} | look
    answer = post(client, f"/api/scenes/{scene['id']}/picture", body)
    return answer, json.loads(answer["X-Map"])


def _shape(png):
    import io

    return np.asarray(Image.open(io.BytesIO(png)).convert("RGB"))


def test_every_picture_brings_its_map(client, scene):
    document = scene["revision"]["document"]
    _, before = _picture(client, scene, document)
    assert before == scene["map"] | {"kept": before["box"]} or before["size"] == scene["map"]["size"]
    document["ground"]["trim"]["params"] |= {"level": 2.0, "centre": {"x": 0.4, "y": 0.3}, "width": 0.5}
    document["ground"]["lens"]["params"]["known"] = "database"
    _, after = _picture(client, scene, document)
    assert after["size"][0] < before["size"][0]
    assert after["mesh"]["columns"] > before["mesh"]["columns"]
    _, whole = _picture(client, scene, document, untrimmed=True)
    assert whole["box"] == whole["canvas"]
    assert np.allclose(whole["kept"], after["box"])


def test_untrimmed_shows_nothing_beyond_the_frame(client, scene):
    document = scene["revision"]["document"]
    document["ground"]["trim"]["params"]["level"] = 20.0
    answer, _ = _picture(client, scene, document, untrimmed=True, full=True)
    shown = _shape(answer.content)
    assert np.isin(shown[0, 0], PATTERN).all()
    trimmed, _ = _picture(client, scene, document, full=True)
    corners = _shape(trimmed.content)[[0, 0, -1, -1], [0, -1, 0, -1]]
    assert not np.isin(corners, PATTERN).all(1).all()


def test_pushed_colour_and_checks_change_nothing(client, scene):
    document = scene["revision"]["document"]
    plain = _shape(_picture(client, scene, document, full=True)[0].content).astype(int)
    pushed = _shape(_picture(client, scene, document, full=True, push=4)[0].content).astype(int)
    assert np.ptp(pushed, axis=2).mean() > 1.5 * np.ptp(plain, axis=2).mean()
    for show in ("limits", "squint"):
        assert _picture(client, scene, document, show=show)[0].status_code == 200
    assert client.get(f"/api/scenes/{scene['id']}").json()["revision"]["number"] == 1


def test_plumb_lines_are_solved_and_impossible_ones_refused(client, scene):
    document = scene["revision"]["document"]
    lines = document["ground"]["plumb"]["params"]["lines"]
    for x, top in ((0.3, 0.32), (0.7, 0.68)):
        lines.append({"a": {"x": top, "y": 0.15}, "b": {"x": x, "y": 0.5}, "what": "upright"})
    turn = _ask(client, scene, "/plumb", document)
    assert abs(turn["off"]) <= 0.05
    assert turn["lean"] > 1
    lines[1] = {"a": {"x": 0.28, "y": 0.5}, "b": {"x": 0.36, "y": 0.15}, "what": "upright"}
    said = _ask(client, scene, "/plumb", document, 422)
    assert "cross" in said["detail"]


@pytest.mark.parametrize(
    ("kind", "values", "said"),
    [
        ("lens", {"known": "hand", "radial": -0.25, "distortion": 1.5, "corners": -2.0}, "lens correction"),
        ("trim", {"width": 0.005}, "leave nothing of the picture"),
        ("colour_of_light", {"kelvin": 900}, "kelvin"),
        ("plumb", {"lean": 80}, "lean"),
    ],
)
def test_what_cannot_be_is_refused_and_the_scene_stays(client, scene, kind, values, said):
    document = scene["revision"]["document"]
    document["ground"][kind]["params"] |= values
    body = {"base": 1, "document": document, "words": "no"}
    answer = client.post(
        f"/api/scenes/{scene['id']}/revisions", json.dumps(body), content_type="application/json"
    )
    if kind == "lens" and answer.status_code == 200:
        pytest.skip("this lens can be")
    assert answer.status_code == 422
    assert said in json.dumps(answer.json())
    assert client.get(f"/api/scenes/{scene['id']}").json()["revision"]["number"] == 1


def test_the_finders_answer_or_say_why_not(client, scene):
    state = _ask(client, scene, "")
    assert "lens left off" in state["open"]
    assert state["lens"] == "Field Zoom 12-400"
    assert len(state["stretched"]) == 6
    assert [e["assumes"] for e in _ask(client, scene, "/lights")] == [
        "all averages to grey", "edges are neutral", "the brightest is white",
    ]  # fmt: skip
    ends = _ask(client, scene, "/ends")
    assert ends["black"] < 0 < ends["white"]
    assert "Draw along it instead" in _ask(client, scene, "/horizon", status=422)["detail"]
    assert "No built lines" in _ask(client, scene, "/lines", status=422)["detail"]
    drawn = {"a": {"x": 0.2, "y": 0.3}, "b": {"x": 0.8, "y": 0.32}}
    assert _ask(client, scene, "/level", **drawn)["level"] == pytest.approx(-1.91, abs=0.02)
    assert isinstance(_ask(client, scene, "/borders"), list)
    lights = client.get("/api/lights").json()
    assert {"tungsten", "daylight", "open shade"} <= {light["name"] for light in lights}


def test_a_proposal_says_what_it_looks_at(client, scene, monkeypatch):
    from studio.api import ground

    seen, path = [], f"/api/scenes/{scene['id']}/ground/propose"
    real = ground.propose

    def slowly(development, tell):
        def told(looks):
            tell(looks)
            seen.append((looks, client.get(path).json()["at"]))

        return real(development, told)

    monkeypatch.setattr(ground, "propose", slowly)
    _ask(client, scene, "/propose")
    assert len(seen) == 9
    assert all(said == asked for said, asked in seen)
    assert client.get(path).json() == {"at": ""}


def test_a_proposal_is_not_saved_until_it_is_taken(client, scene):
    got = _ask(client, scene, "/propose")
    assert {"lens", "crispness"} <= {p["kind"] for p in got["proposals"]}
    now = client.get(f"/api/scenes/{scene['id']}").json()["revision"]
    assert now["number"] == 1
    body = {"base": 1, "document": got["document"], "words": "Start for me"}
    saved = post(client, f"/api/scenes/{scene['id']}/revisions", body).json()
    assert saved["document"]["ground"]["lens"]["why"]
    assert saved["undo"] == "Start for me"


def test_a_scene_of_the_first_version_keeps_its_clipped_light(client, scene):
    """Brought forward, Rescue stays as it was made until the newer way is asked for."""
    document = scene["revision"]["document"]
    old = json.loads(json.dumps(document)) | {"schema_version": 1}
    for kind in ("rescue", "lens", "plumb", "trim", "noise", "crispness"):
        del old["ground"][kind]
    body = {"base": 1, "document": old, "words": "from an older file"}
    saved = post(client, f"/api/scenes/{scene['id']}/revisions", body).json()["document"]
    assert saved["schema_version"] == SCHEMA_VERSION
    assert saved["ground"]["rescue"]["revision"] == 1
    assert _ask(client, scene, "", saved)["earlier"] == ["rescue"]
    first = _shape(_picture(client, scene, saved, full=True)[0].content)
    saved["ground"]["rescue"]["revision"] = GROUND_KINDS["rescue"].revision
    newer = _shape(_picture(client, scene, saved, full=True)[0].content)
    assert (first != newer).any()


def test_the_map_of_an_opened_scene_is_the_cores(client, scene):
    info = scene["frame"]
    g = Geometry(info["width"], info["height"], info["orientation"])
    told = described(g)
    assert scene["map"] == told | {"kept": []}
