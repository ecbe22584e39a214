"""Every kind of scene is opened again after a restart: picture, ladder and every latch come from a cold engine."""

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from studio import services
from studio.models import Job
from tests.coast import shoot
from tests.studio.conftest import post, upload

pytestmark = pytest.mark.django_db(transaction=True)
NAMES = ("sweep-2", "sweep-3", "bracket-3", "bracket-4", "sky-1")
KINDS = ("frame", "sweep", "bracket", "loan", "sky", "shapes", "repairs")


@pytest.fixture(autouse=True)
def _own_joins(settings, tmp_path):
    settings.JOIN_FOLDER = tmp_path / "joins"
    services.joins.cache_clear()
    yield
    services.joins.cache_clear()


@pytest.fixture
def roll(client, outing, tmp_path):
    """Frames of the outing, by name: their ids."""
    ids = {}
    for name in NAMES:
        path = tmp_path / f"{name}.dng"
        shoot(smaller(find_any(name), 700), path)
        ids[name] = upload(client, outing, path.name, path.read_bytes()).json()["id"]
    return ids


def joined(client, outing, roll, kind):
    frames = [i for name, i in roll.items() if name.startswith(kind)]
    begun = post(client, f"/api/outings/{outing['id']}/joins", {"frames": frames, "kind": kind}).json()
    job = Job.objects.get(pk=begun["id"])
    assert job.state == Job.DONE, job.message
    return client.get(f"/api/scenes/{job.scene_id}").json()


def single(client, roll, name="bracket-3"):
    made = post(client, f"/api/frames/{roll[name]}/scenes", {}).json()
    return client.get(f"/api/scenes/{made['id']}").json()


def asked(client, scene, path, **more):
    body = {"document": scene["revision"]["document"], **more}
    return post(client, f"/api/scenes/{scene['id']}/{path}", body).json()


def made(client, outing, roll, kind):
    """A scene of a kind, with what makes it one."""
    if kind in ("sweep", "bracket"):
        return joined(client, outing, roll, kind)
    scene = single(client, roll)
    document = scene["revision"]["document"]
    if kind == "loan":
        lent = asked(client, scene, "loans", frame=roll["bracket-4"])
        document["sources"].append(lent["source"])
        document["loans"] = [lent["loan"]]
        document["latches"].append(lent["latch"])
    elif kind == "sky":
        got = asked(client, scene, "mend/sky", frame=roll["sky-1"])
        document["sources"].append(got["source"])
        document["latches"] = [got["latch"]]
        document["sky"] = got["sky"]
    elif kind == "shapes":
        pin = {"x": 0.5, "y": 0.3, "dx": 0.01, "dy": 0.0}
        document["shapes"] = [{"kind": "reshape", "id": "r", "pins": [pin], "lines": [], "pulled": []}]
    elif kind == "repairs":
        area = {
            "strokes": [{"points": [0.3, 0.15, 1], "radius": 0.02, "soft": 0.3, "flow": 1}],
            "outline": [],
        }
        document["repairs"] = [asked(client, scene, "mend/stroke", kind="heal", area=area)]
    return scene


def latches(scene):
    """One that is found and fine, one of light within it, one of light, one by hand."""

    def latch(name, *ingredients, **more):
        lines = [{"id": f"{name}-{n}", **line} for n, line in enumerate(ingredients)]
        return {"id": name, "name": name, "ingredients": lines, "read_at": scene["read_at"], **more}

    light = {"kind": "light_range", "join": "keep_only"}
    stroke = {"points": [0.3, 0.2, 1, 0.5, 0.3, 1], "radius": 0.05, "soft": 0.5, "flow": 1}
    return [
        latch("found", {"kind": "sky"}, fine_edges=True),
        latch("within", {"kind": "another", "params": {"latch": "found"}}, light),
        latch("fan", {"kind": "fan"}),
        latch("hand", {"kind": "hand", "params": {"strokes": [stroke]}}),
    ]


@pytest.mark.parametrize("kind", KINDS)
def test_a_scene_opens_on_a_cold_engine(client, outing, roll, kind):
    scene = made(client, outing, roll, kind)
    document = scene["revision"]["document"]
    document["latches"] = [*document["latches"], *latches(scene)]
    document["moves"] = [
        {"id": f"on {n}", "kind": "exposure", "latch": n, "params": {"ev": 0.5}}
        for n in ("found", "within", "fan")
    ]
    body = {"base": scene["revision"]["number"], "document": document, "words": "made"}
    post(client, f"/api/scenes/{scene['id']}/revisions", body)

    def cold():
        services.engine.cache_clear()
        services.joins.cache_clear()

    cold()
    again = client.get(f"/api/scenes/{scene['id']}").json()
    document = again["revision"]["document"]
    look = {"document": document, "width": 300, "height": 200}
    for full in (False, True):
        answer = post(client, f"/api/scenes/{scene['id']}/picture", {**look, "full": full})
        seen = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
        assert seen.std() > 10
    wings = [held["id"] for held in document["latches"][:2]]
    ladder = post(client, f"/api/scenes/{scene['id']}/meters", {"document": document, "wings": wings})
    assert ladder.status_code == 200
    cold()
    for held in document["latches"]:
        answer = post(client, f"/api/scenes/{scene['id']}/mask", {**look, "latch": held["id"]})
        mask = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_GRAYSCALE)
        assert mask.shape == (200, 300)
        assert mask.max() > 20, held["name"]
