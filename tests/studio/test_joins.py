"""Joins over the API: what frames would give, the work of it, and whose frames they are."""

import re
import threading
from pathlib import Path

import cv2
import numpy as np
import pytest
from django.contrib.auth.models import User
from django.test import Client

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from fieldworld.outing import find
from studio.models import Frame, Job, Scene
from studio.slots import Rank
from studio.tasks import run_join
from sunlatch.ledger import Scene as Document
from sunlatch.running.patience import Patience, go_on
from tests.coast import shoot
from tests.studio.conftest import post, upload

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def joined(tmp_path_factory):
    """Where joined px lie: the same frames joined the same way are joined once."""
    return tmp_path_factory.mktemp("joins")


@pytest.fixture(autouse=True)
def _own_joins(settings, joined):
    settings.JOIN_FOLDER = joined
    from studio import services

    services.joins.cache_clear()
    yield
    services.joins.cache_clear()


@pytest.fixture(scope="module")
def roll(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Three frames of the sweep, three of the bracket, small."""
    folder = tmp_path_factory.mktemp("roll")
    for name in ("sweep-2", "sweep-3", "sweep-4", "bracket-2", "bracket-3", "bracket-4"):
        shoot(smaller(find(name), 1400), folder / f"{name}.dng")
    return folder


@pytest.fixture
def frames(client, outing, roll):
    """Their ids, by name."""
    return {
        p.stem: upload(client, outing, p.name, p.read_bytes()).json()["id"] for p in sorted(roll.iterdir())
    }


def some(frames, kind):
    return {"frames": [i for name, i in frames.items() if name.startswith(kind)], "kind": kind}


def test_a_sweep_from_its_first_look_to_a_file(client, outing, frames):
    asked = some(frames, "sweep")
    shown = post(client, f"/api/outings/{outing['id']}/joins/preview", asked).json()
    assert shown["order"] == ["sweep-2.dng", "sweep-3.dng", "sweep-4.dng"]
    assert "° across" in shown["description"]
    assert shown["picture"].startswith("data:image/jpeg;base64,")
    begun = post(client, f"/api/outings/{outing['id']}/joins", asked).json()
    job = client.get(f"/api/jobs/{begun['id']}").json()
    assert (job["state"], job["message"]) == ("done", "")
    scene = client.get(f"/api/scenes/{job['scene']}").json()
    document = scene["revision"]["document"]
    assert document["base"]["kind"] == "sweep"
    assert [s["name"] for s in scene["sources"]] == shown["order"]
    assert scene["frame_name"] == "sweep-3.dng"
    w, h = scene["map"]["size"]
    assert w > 1.5 * h
    look = {"document": document, "width": 300, "height": 120}
    answer = post(client, f"/api/scenes/{job['scene']}/picture", look)
    assert answer["X-Frame"] == "whole"
    picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape[:2] == (120, 300)
    assert picture.std() > 15
    seams = cv2.imdecode(
        np.frombuffer(post(client, f"/api/scenes/{job['scene']}/seams", look).content, np.uint8),
        cv2.IMREAD_GRAYSCALE,
    )
    assert set(np.unique(seams)) == {1, 2, 3}
    assert seams[60, 5] == 1
    assert seams[60, 295] == 3
    file = post(client, f"/api/scenes/{job['scene']}/exports", {"kind": "jpg", "bits": 8}).json()
    assert client.get(f"/api/jobs/{file['id']}").json()["state"] == "done"


def test_a_frame_left_out_is_saved_and_seen(client, outing, frames):
    begun = post(client, f"/api/outings/{outing['id']}/joins", some(frames, "sweep")).json()
    scene = client.get(f"/api/scenes/{Job.objects.get(pk=begun['id']).scene_id}").json()
    document = scene["revision"]["document"]
    document["base"]["members"][2]["on"] = False
    saved = post(
        client, f"/api/scenes/{scene['id']}/revisions", {"base": 1, "document": document, "words": "left out"}
    ).json()
    assert not saved["document"]["base"]["members"][2]["on"]
    again = client.get(f"/api/scenes/{scene['id']}").json()
    assert again["map"]["size"][0] < scene["map"]["size"][0]


def test_whoever_looks_does_not_wait_for_ever_for_a_join_that_stands_still_for_him(
    client, outing, frames, settings, tmp_path
):
    """A join's first look is begun by what is measured, which gives way to a picture that needs the very same."""
    from studio import services

    settings.JOIN_FOLDER = tmp_path / "joins"  # nobody has joined them yet
    services.joins.cache_clear()

    begun = post(client, f"/api/outings/{outing['id']}/joins", some(frames, "sweep")).json()
    scene = client.get(f"/api/scenes/{Job.objects.get(pk=begun['id']).scene_id}").json()
    document = Document.model_validate(scene["revision"]["document"])
    document.base.members[2].on = False
    lane, started, looking, seen = services.lane(), threading.Event(), threading.Event(), []

    def opened(source):
        started.set()
        assert looking.wait(10)
        go_on()  # stands still while somebody looks
        return services.quick_source(source)

    def first_look(open_frame):
        seen.append(services.joins().first_look(document, open_frame, services.engine()))

    def measure():
        with lane.asked("ladder", 1, Rank.MEASURE):
            first_look(opened)

    def look():
        looking.set()
        first_look(services.quick_source)

    measuring = threading.Thread(target=measure, daemon=True)
    measuring.start()
    assert started.wait(10)
    gone = threading.Event()
    giving_up = threading.Timer(30, gone.set)
    giving_up.start()
    with Patience(gone.is_set), lane.asked("seams", 1, Rank.LOOK):
        lane.run(look)
    giving_up.cancel()
    measuring.join(30)
    assert len(seen) == 2
    assert seen[0].identity == seen[1].identity


def test_a_bracket(client, outing, frames):
    asked = some(frames, "bracket")
    shown = post(client, f"/api/outings/{outing['id']}/joins/preview", asked).json()
    assert "2.0 stops further up" in shown["description"]
    begun = post(client, f"/api/outings/{outing['id']}/joins", asked).json()
    job = client.get(f"/api/jobs/{begun['id']}").json()
    assert job["state"] == "done", job
    document = client.get(f"/api/scenes/{job['scene']}").json()["revision"]["document"]
    assert document["base"]["kind"] == "bracket"
    assert min(m["ev"] for m in document["base"]["members"]) == pytest.approx(-2, abs=0.1)


def test_a_sweep_of_brackets(client, outing, tmp_path):
    """Two views at two exposures each: told by these, merged, joined and shown, in one action."""
    names = ("stair-1", "stair-2", "stair-4", "stair-5")
    ids = []
    for name in names:
        path = tmp_path / f"{name}.dng"
        shoot(smaller(find_any(name), 1000), path)
        ids.append(upload(client, outing, path.name, path.read_bytes()).json()["id"])
    asked = {"frames": ids, "kind": "sweep"}
    shown = post(client, f"/api/outings/{outing['id']}/joins/preview", asked).json()
    assert "° across" in shown["description"]
    begun = post(client, f"/api/outings/{outing['id']}/joins", asked).json()
    job = client.get(f"/api/jobs/{begun['id']}").json()
    assert job["state"] == "done", job
    scene = client.get(f"/api/scenes/{job['scene']}").json()
    base = scene["revision"]["document"]["base"]
    assert base["kind"] == "sweep"
    assert [len(m["bracket"]["members"]) for m in base["members"]] == [2, 2]
    look = {"document": scene["revision"]["document"], "width": 240, "height": 200}
    answer = post(client, f"/api/scenes/{job['scene']}/picture", look)
    assert cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR).std() > 15


def test_what_does_not_fit_is_a_sentence_and_leaves_nothing(client, outing, frames):
    asked = {"frames": [frames["sweep-2"], frames["bracket-3"]], "kind": "sweep"}
    said = post(client, f"/api/outings/{outing['id']}/joins/preview", asked, 422).json()["detail"]
    assert re.search("overlap|fit together", said)
    assert "sweep-2.dng" in said
    begun = post(client, f"/api/outings/{outing['id']}/joins", asked).json()
    job = client.get(f"/api/jobs/{begun['id']}").json()
    assert job["state"] == "failed"
    assert re.search("overlap|fit together", job["message"])
    assert not Scene.objects.exists()
    alone = post(client, f"/api/outings/{outing['id']}/joins/preview", {"frames": [frames["sweep-2"]]}, 422)
    assert "two frames at least" in alone.json()["detail"]


def test_a_frame_whose_file_is_gone_is_named(client, outing, frames):
    from studio import services

    gone = Frame.objects.get(pk=frames["sweep-3"])
    services.store().forget(gone.sha256)
    services.frame_path(gone.sha256).unlink()
    begun = post(client, f"/api/outings/{outing['id']}/joins", some(frames, "sweep")).json()
    job = client.get(f"/api/jobs/{begun['id']}").json()
    assert job["state"] == "failed"
    assert gone.sha256[:8] in job["message"] or "sweep-3" in job["message"]


def test_begun_again_after_a_kill_it_ends_with_one_scene(client, outing, frames):
    begun = post(client, f"/api/outings/{outing['id']}/joins", some(frames, "sweep")).json()
    Job.objects.filter(pk=begun["id"]).update(state=Job.QUEUED, done=0)
    run_join.call_local(begun["id"])
    assert Job.objects.get(pk=begun["id"]).state == Job.DONE
    assert Scene.objects.count() == 1


def test_frames_of_somebody_else_are_not_joined(client, outing, frames):
    other = Client()
    other.force_login(User.objects.create_user("ben", password="reed and heath"))
    asked = some(frames, "sweep")
    assert (
        other.post(f"/api/outings/{outing['id']}/joins", asked, content_type="application/json").status_code
        == 404
    )
    own = post(other, "/api/outings", {"name": "Islands"}).json()
    said = post(other, f"/api/outings/{own['id']}/joins", asked, 422).json()["detail"]
    assert "not in the outing" in said
    # nor through a document that names them
    begun = post(client, f"/api/outings/{outing['id']}/joins", asked).json()
    scene = client.get(f"/api/scenes/{Job.objects.get(pk=begun['id']).scene_id}").json()
    document = scene["revision"]["document"]
    document["sources"][0]["sha256"] = "0" * 64
    said = post(
        client, f"/api/scenes/{scene['id']}/picture", {"document": document, "width": 9, "height": 9}, 422
    )
    assert "not of the scene's outing" in said.json()["detail"]


def test_a_frame_is_lent_and_saved(client, outing, frames):
    made = post(client, f"/api/frames/{frames['bracket-3']}/scenes", {}).json()
    scene = client.get(f"/api/scenes/{made['id']}").json()
    document = scene["revision"]["document"]
    path = f"/api/scenes/{made['id']}/loans"
    lent = post(client, path, {"document": document, "frame": frames["bracket-2"]}).json()
    assert lent["loan"]["ev"] == pytest.approx(-2, abs=0.1)
    document["sources"].append(lent["source"])
    assert [i["kind"] for i in lent["latch"]["ingredients"]] == ["light_range"]
    assert lent["loan"]["latch"] == lent["latch"]["id"]
    document["latches"].append(lent["latch"])
    document["loans"] = [lent["loan"]]
    post(client, f"/api/scenes/{made['id']}/revisions", {"base": 1, "document": document, "words": "Loan"})
    again = client.get(f"/api/scenes/{made['id']}").json()
    assert [s["name"] for s in again["sources"]] == ["bracket-3.dng", "bracket-2.dng"]
    assert post(client, f"/api/scenes/{made['id']}/picture", {"width": 90, "height": 60}).status_code == 200
    assert (
        post(
            client, f"/api/scenes/{made['id']}/picture", {"revision": 0, "width": 90, "height": 60}
        ).status_code
        == 200
    )
    own = post(client, path, {"document": scene["revision"]["document"], "frame": frames["bracket-3"]}, 422)
    assert "own frame" in own.json()["detail"]
    document["sources"][1]["sha256"] = "0" * 64
    said = post(
        client, f"/api/scenes/{made['id']}/picture", {"document": document, "width": 9, "height": 9}, 422
    )
    assert "not of the scene's outing" in said.json()["detail"]
