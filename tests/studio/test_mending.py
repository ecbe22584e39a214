"""Repairs over the API: found there, kept in the document, shown by every picture."""

import time

import cv2
import numpy as np
import pytest

from sunlatch.masking import masks
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def ask(client, scene, what, more, status=200, document=None):
    document = document or scene["revision"]["document"]
    answer = post(client, f"/api/scenes/{scene['id']}/mend/{what}", {"document": document, **more}, status)
    return answer.json()


def stroke(x, y, radius=0.02):
    return {"strokes": [{"points": [x, y, 1.0], "radius": radius, "soft": 0.3, "flow": 1.0}], "outline": []}


def shown(client, scene, document, region=(0.2, 0.1, 0.4, 0.35), **more):
    answer = post(
        client,
        f"/api/scenes/{scene['id']}/picture",
        {
            "document": document,
            "region": list(region),
            "width": 240,
            "height": 200,
            "view": "t",
            "number": 0,
            **more,
        },
    )
    return cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR).astype(int)


def test_a_stroke_is_healed_saved_and_undone(client, scene):
    document = scene["revision"]["document"]
    repair = ask(client, scene, "stroke", {"kind": "heal", "area": stroke(0.3, 0.15)})
    assert repair["kind"] == "heal"
    assert abs(repair["take"]["dx"]) + abs(repair["take"]["dy"]) > 0.02
    after = {**document, "repairs": [repair]}
    assert np.abs(shown(client, scene, after) - shown(client, scene, document)).max() > 2
    saved = post(
        client,
        f"/api/scenes/{scene['id']}/revisions",
        {"base": scene["revision"]["number"], "document": after, "words": "Healed"},
    ).json()
    assert [r["id"] for r in saved["document"]["repairs"]] == [repair["id"]]
    back = post(client, f"/api/scenes/{scene['id']}/undo", {"base": saved["number"]}).json()
    assert back["document"]["repairs"] == []


def test_a_source_that_is_said_is_taken(client, scene):
    take = {"dx": 0.1, "dy": 0.0}
    repair = ask(client, scene, "stroke", {"kind": "clone", "area": stroke(0.3, 0.15), "take": take})
    assert (repair["kind"], repair["take"]["dx"]) == ("clone", 0.1)
    take = {"dx": 3.0, "dy": 0.0}
    told = ask(client, scene, "stroke", {"kind": "clone", "area": stroke(0.3, 0.15), "take": take}, 422)
    assert "outside the picture" in told["detail"]


def test_a_source_found_before_is_kept_while_it_serves(client, scene):
    def drawn(near, x=0.3):
        return ask(client, scene, "stroke", {"kind": "heal", "area": stroke(x, 0.15, 0.012), "near": near})

    near = {"dx": 0.09, "dy": 0.01}
    assert drawn(near)["take"]["dx"] == 0.09
    own = drawn({"dx": 0.005, "dy": 0.0})["take"]  # from itself
    assert abs(own["dx"]) + abs(own["dy"]) > 0.02


def test_skies_are_offered_and_one_is_brought(client, scene, outing, frames, monkeypatch):
    from fieldworld.camera import smaller
    from fieldworld.lent import find_any
    from tests.coast import shoot
    from tests.studio.conftest import upload

    for name in ("sky-1", "path"):
        path = frames / f"{name}-offered.dng"
        if not path.exists():
            shoot(smaller(find_any(name), 900), path)
        upload(client, outing, path.name, path.read_bytes())
    mattes, plain = [], masks.followed

    def matted(*given):
        mattes.append(given)
        time.sleep(0.3)
        return plain(*given)

    monkeypatch.setattr(masks, "followed", matted)
    offered = ask(client, scene, "skies", {"work": "looking"})
    assert {o["frame"]["name"] for o in offered} == {"sky-1-offered.dng", "path-offered.dng"}
    assert all(isinstance(o["reasons"], list) for o in offered)
    # what is done is not under way any more, nor is what nobody began
    for name in ("looking", "nothing"):
        assert client.get(f"/api/work/{name}").json() is None
    # chosen at once: what lets it in is matted once, though the list has begun it behind
    first = offered[0]["frame"]
    got = ask(client, scene, "sky", {"frame": first["id"]})
    assert (got["source"]["sha256"], got["latch"]["name"]) == (first["sha256"], "Sky")
    assert got["sky"]["latch"] == got["latch"]["id"]
    assert len(mattes) == 1
    got["sky"]["params"].update(relight=0.0, haze=0.0, water=0.0)
    document = scene["revision"]["document"]
    after = {
        **document,
        "sources": [*document["sources"], got["source"]],
        "latches": [got["latch"]],
        "sky": got["sky"],
    }
    whole = {"region": (0, 0, 1, 1)}
    change = np.abs(shown(client, scene, after, **whole) - shown(client, scene, document, **whole)).mean(
        (1, 2)
    )
    assert change[:20].mean() > 5
    assert change[-20:].mean() < 1
    # the scene's own frame is none
    frame = next(
        f
        for f in client.get(f"/api/outings/{outing['id']}/frames").json()
        if f["sha256"] == document["sources"][0]["sha256"]
    )
    assert "own frame" in ask(client, scene, "sky", {"frame": frame["id"]}, 422)["detail"]


def test_work_under_way_says_how_far_it_is(client, scene, monkeypatch):
    from studio.api import mending

    seen = []
    plain = mending.regrow_of

    def watched(*given, **more):
        seen.append(client.get("/api/work/growing").json())
        return plain(*given, **more)

    monkeypatch.setattr(mending, "regrow_of", watched)
    outline = [0.5, 0.4, 0.56, 0.4, 0.56, 0.45, 0.5, 0.45]
    ask(client, scene, "regrow", {"area": {"outline": outline}, "seeds": [0, 1, 2, 3], "work": "growing"})
    assert seen == [0.0, 0.25, 0.5, 0.75]


def test_regrow_proposes_with_pictures_and_takes_a_latch(client, scene):
    outline = [0.5, 0.4, 0.56, 0.4, 0.56, 0.45, 0.5, 0.45]
    proposals = ask(
        client, scene, "regrow", {"area": {"strokes": [], "outline": outline}, "seeds": [0, 1, 2]}
    )
    assert len({p["repair"]["map"] for p in proposals}) == 3
    assert all(p["picture"].startswith("data:image/jpeg;base64,") for p in proposals)
    document = scene["revision"]["document"]
    after = {**document, "repairs": [proposals[1]["repair"]]}
    region = (0.45, 0.5, 0.6, 0.75)
    assert np.abs(shown(client, scene, after, region) - shown(client, scene, document, region)).max() > 2
    where = {"centre": {"x": 0.5, "y": 0.45}, "edge": {"x": 0.53, "y": 0.45}, "softness": 0.1}
    pool = {"kind": "pool", "id": "i", "params": where}
    latch = {"id": "l", "name": "Thing", "ingredients": [pool], "read_at": scene["read_at"]}
    held = {**document, "latches": [latch]}
    made = ask(client, scene, "regrow", {"latch": "l", "seeds": [0]}, document=held)
    assert made[0]["repair"]["area"]["mask"]["box"][0] == pytest.approx(0.47, abs=0.03)
    told = ask(client, scene, "regrow", {"latch": "nobody", "seeds": [0]}, 422)
    assert "no latch" in told["detail"]
    assert "outline it" in ask(client, scene, "regrow", {"seeds": [0]}, 422)["detail"]
    assert "Nothing is empty" in ask(client, scene, "regrow", {"seeds": [0], "corners": True}, 422)["detail"]
    # what it may be grown from, and what never: remembered with it
    below = {"strokes": [], "outline": [0.0, 0.45, 1.0, 0.45, 1.0, 0.66, 0.0, 0.66]}
    asked = {"area": {"strokes": [], "outline": outline}, "source": below, "spared_latch": "l", "seeds": [0]}
    limited = ask(client, scene, "regrow", asked, document=held)[0]["repair"]
    assert limited["map"] != proposals[0]["repair"]["map"]
    assert limited["source"]["outline"] == below["outline"]
    assert limited["spared"]["mask"]["box"] == pytest.approx(made[0]["repair"]["area"]["mask"]["box"])


def test_what_cannot_be_is_said(client, scene):
    told = ask(client, scene, "wire", {"points": [{"x": 0.4, "y": 0.1}]}, 422)
    assert "two ends" in told["detail"]
    told = ask(
        client, scene, "regrow", {"area": {"outline": [0, 0, 1, 0, 1, 0.66, 0, 0.66]}, "seeds": [0]}, 422
    )
    assert "most of the picture" in told["detail"]


def test_a_speck_pointed_at_and_the_check_that_shows_them(client, scene):
    spot = ask(client, scene, "spot", {"x": 0.3, "y": 0.15, "radius": 0.01})
    assert spot["radius"] == pytest.approx(0.01)
    line = {"kind": "specks", "id": "s", "spots": [spot]}
    document = {**scene["revision"]["document"], "repairs": [line]}
    grey = shown(client, scene, document, show="specks")
    assert np.ptp(grey, axis=2).max() == 0
    assert 90 < np.median(grey) < 160


def test_the_untouched_frame_is_not_mended(client, scene):
    document = scene["revision"]["document"]
    repair = ask(client, scene, "stroke", {"kind": "heal", "area": stroke(0.3, 0.15)})
    saved = post(
        client,
        f"/api/scenes/{scene['id']}/revisions",
        {
            "base": scene["revision"]["number"],
            "document": {**document, "repairs": [repair]},
            "words": "Healed",
        },
    )
    assert saved.status_code == 200
    body = {"revision": 0, "region": [0.2, 0.1, 0.4, 0.35], "width": 240, "height": 200}
    answer = post(client, f"/api/scenes/{scene['id']}/picture", body)
    first = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR).astype(int)
    assert np.abs(first - shown(client, scene, document)).max() <= 2


def test_specks_of_one_frame_are_offered_to_others_of_its_camera(client, scene, outing, frames):
    from fieldworld.camera import Shot, smaller
    from fieldworld.seen import Viewpoint
    from tests.coast import shoot
    from tests.studio.conftest import upload

    assert ask(client, scene, "known", {}) is None
    # another frame of the same camera and size, mended
    path = frames / "other.dng"
    if not path.exists():
        shoot(smaller(Shot("other", Viewpoint(heading=9.0)), 1272), path)
    frame = upload(client, outing, "other.dng", path.read_bytes()).json()
    made = post(client, f"/api/frames/{frame['id']}/scenes", {}).json()
    other = client.get(f"/api/scenes/{made['id']}").json()
    spots = [ask(client, other, "spot", {"x": x, "y": 0.1, "radius": 0.01}) for x in (0.2, 0.6)]
    spots[1]["on"] = False
    line = {"kind": "specks", "id": "s", "spots": spots}
    document = {**other["revision"]["document"], "repairs": [line]}
    body = {"base": other["revision"]["number"], "document": document, "words": "2 specks mended"}
    post(client, f"/api/scenes/{other['id']}/revisions", body)
    offered = ask(client, scene, "known", {})
    if (
        other["frame"]["width"] == scene["frame"]["width"]
        and other["frame"]["height"] == scene["frame"]["height"]
    ):
        assert [(s["x"], s["on"]) for s in offered["spots"]] == [(0.2, True)]
    # what is mended here already is not offered again
    here = {**scene["revision"]["document"], "repairs": [offered]}
    assert ask(client, scene, "known", {}, document=here) is None
