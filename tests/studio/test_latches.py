"""Latches over the API: samples, why a place is in, an ingredient alone."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def _post(client, scene, what, **body):
    return client.post(f"/api/scenes/{scene['id']}/{what}", json.dumps(body), content_type="application/json")


def _held(scene, *ingredients):
    document = scene["revision"]["document"]
    document["latches"] = [
        {"id": "a", "name": "Place", "read_at": scene["read_at"], "edge_true": {"on": False},
         "ingredients": [{"id": f"i{n}", **i} for n, i in enumerate(ingredients)]}
    ]  # fmt: skip
    return document


def _grey(answer):
    return np.asarray(Image.open(io.BytesIO(answer.content))) / 255


def test_a_sample_is_the_colour_there_and_holds_it(client, scene):
    document = _held(scene, {"kind": "colour"})
    picked = _post(client, scene, "sample", document=document, latch="a", x=0.5, y=0.1).json()
    assert picked["shown"].startswith("#")
    samples = [{k: picked[k] for k in ("at", "l", "a", "b")}]
    document = _held(scene, {"kind": "colour", "params": {"samples": samples}})
    look = {"document": document, "latch": "a", "width": 60, "height": 40}
    mask = _grey(_post(client, scene, "mask", **look))
    assert mask[4, 30] > 0.8
    assert mask.min() < 0.1
    outside = _post(client, scene, "sample", document=document, latch="a", x=1.4, y=0.1)
    assert outside.status_code == 422
    assert "outside the picture" in outside.json()["detail"]


def test_why_says_what_each_ingredient_holds(client, scene):
    document = _held(
        scene, {"kind": "fan"}, {"kind": "ramp", "join": "keep_only"}, {"kind": "detail", "on": False}
    )
    said = _post(client, scene, "why", document=document, latch="a", x=0.5, y=0.05).json()
    assert set(said["ingredients"]) == {"i0", "i1"}
    product = said["ingredients"]["i0"] * said["ingredients"]["i1"]
    assert said["result"] == pytest.approx(product, abs=0.02)
    fan = _grey(
        _post(client, scene, "mask", document=document, latch="a", ingredient="i0", width=60, height=40)
    )
    whole = _grey(_post(client, scene, "mask", document=document, latch="a", width=60, height=40))
    assert (whole <= fan + 0.01).all()
    assert whole.mean() < fan.mean()
    nothing = _post(client, scene, "mask", document=document, latch="a", ingredient="x", width=6, height=4)
    assert nothing.status_code == 422


def test_a_sky_is_found_and_a_circle_is_refused(client, scene):
    document = _held(scene, {"kind": "sky"})
    mask = _grey(_post(client, scene, "mask", document=document, latch="a", width=120, height=80))
    assert mask[:10].mean() > 0.95
    assert mask[-10:].mean() < 0.05
    document = _held(scene, {"kind": "another", "params": {"latch": "a"}})
    refused = _post(
        client, scene, "revisions", base=scene["revision"]["number"], document=document, words="circle"
    )
    assert refused.status_code == 422
    assert "Place → Place" in refused.json()["detail"]


def test_an_empty_latch_and_odd_settings_are_spoken_of(client, scene):
    document = _held(scene, {"kind": "light_range", "params": {"low": 9.0, "high": 10.0}}, {"kind": "kin"})
    said = _post(client, scene, "holds", document=document, latch="a").json()
    assert "empty" in said["empty"]
    assert set(said["remarks"]) == {"i1"}
    document = _held(scene, {"kind": "fan"})
    assert _post(client, scene, "holds", document=document, latch="a").json() == {
        "empty": "",
        "remarks": {},
        "asks": {},
    }


def test_a_latch_kept_as_a_habit_is_made_anew_and_is_ones_own(client, scene, django_user_model):
    document = _held(scene, {"kind": "fan", "params": {"narrowness": 4.0}})
    document["latches"][0]["name"] = "Narrow"
    kept = _post(client, scene, "habits", document=document, latch="a").json()
    again = _post(client, scene, "habits", document=document, latch="a").json()
    assert again["id"] == kept["id"]
    assert client.get("/api/habits").json() == [{"id": kept["id"], "of": "latch", "name": "Narrow"}]
    used = {"read_at": scene["read_at"], "taken": ["Narrow"]}

    def use(by):
        path = f"/api/habits/{kept['id']}/latch"
        return by.post(path, json.dumps(used), content_type="application/json")

    made = use(client).json()
    assert made["name"] == "Narrow 2"
    assert made["ingredients"][0]["params"]["narrowness"] == 4.0
    document = scene["revision"]["document"] | {"latches": [made]}
    look = {"document": document, "latch": made["id"], "width": 60, "height": 40}
    assert _grey(_post(client, scene, "mask", **look)).max() > 0.5
    other = type(client)()
    other.force_login(django_user_model.objects.create_user("other", password="x"))
    assert other.get("/api/habits").json() == []
    assert use(other).status_code == 404
    gone = {"what": "habit", "id": kept["id"]}
    post(other, "/api/removed", gone, 404)
    hand = _held(scene, {"kind": "hand"})
    refused = _post(client, scene, "habits", document=hand, latch="a")
    assert refused.status_code == 422
    assert "by hand" in refused.json()["detail"]
    post(client, "/api/removed", gone)
    assert client.get("/api/habits").json() == []
    assert use(client).status_code == 404
    assert client.delete(f"/api/removed/habit/{kept['id']}").status_code == 204
    assert use(client).json()["name"] == "Narrow 2", "what was forgotten by a slip is there again"
    post(client, "/api/removed", gone)
    document = _held(scene, {"kind": "fan", "params": {"narrowness": 2.0}})
    document["latches"][0]["name"] = "Narrow"
    assert _post(client, scene, "habits", document=document, latch="a").json()["id"] == kept["id"]
    assert [h["name"] for h in client.get("/api/habits").json()] == ["Narrow"]


def test_moves_are_kept_as_a_habit_and_used_with_their_latches(client, scene, django_user_model):
    document = _held(scene, {"kind": "fan", "params": {"narrowness": 4.0}})
    document["moves"] = [{"id": "m", "kind": "exposure", "latch": "a", "params": {"ev": -0.7}}]
    kept = _post(client, scene, "habits/moves", document=document, moves=["m"], name="Hold it").json()
    assert kept["of"] == "moves"
    use = f"habits/{kept['id']}/moves"
    fresh = document | {"latches": [], "moves": []}
    made = _post(client, scene, use, document=fresh).json()
    (move,), (latch,) = made["moves"], made["latches"]
    assert move["params"]["ev"] == -0.7
    assert move["latch"] == latch["id"]
    saved = _post(
        client, scene, "revisions", base=scene["revision"]["number"], words="by habit",
        document=fresh | {"moves": [move], "latches": [latch]},
    )  # fmt: skip
    assert saved.status_code == 200
    refused = _post(client, scene, "habits/moves", document=document, moves=["nobody"], name="Empty")
    assert refused.status_code == 422
    other = type(client)()
    other.force_login(django_user_model.objects.create_user("another", password="x"))
    assert _post(other, scene, use, document=fresh).status_code == 404


def test_much_that_is_painted_is_kept_on_sheets_and_undone_like_the_rest(client, scene):
    def painted(many):
        stroke = {"radius": 0.02, "soft": 0.5, "flow": 0.5}
        strokes = [stroke | {"points": [0.3, 0.001 * n, 1, 0.5, 0.001 * n, 1]} for n in range(many)]
        return _held(scene, {"kind": "hand", "params": {"strokes": strokes}})

    look = {"latch": "a", "width": 60, "height": 40}
    before = _grey(_post(client, scene, "mask", document=painted(300), **look))
    few = _post(
        client, scene, "revisions", base=scene["revision"]["number"], document=painted(3), words="few"
    )
    many = _post(client, scene, "revisions", base=few.json()["number"], document=painted(300), words="many")
    saved = many.json()["document"]
    (sheet,) = saved["latches"][0]["ingredients"][0]["params"]["strokes"]
    assert sheet["count"] == 300
    assert len(many.content) < 6000
    assert (_grey(_post(client, scene, "mask", document=saved, **look)) == before).all()
    undone = _post(client, scene, "undo", base=many.json()["number"]).json()["document"]
    assert len(undone["latches"][0]["ingredients"][0]["params"]["strokes"]) == 3
