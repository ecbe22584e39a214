"""The server: it stores, guards, queues and calls the core."""

import io
import threading
import time

import numpy as np
import pytest
import tifffile
from django.contrib.auth.models import User
from django.test import Client
from PIL import Image

from studio.api import vocabulary
from studio.models import Frame, Job, Outing, Revision, Scene
from studio.services import Lane, SupersededError
from studio.views import make_link
from sunlatch.running.patience import go_on
from tests.studio.conftest import post as _post
from tests.studio.conftest import upload as _upload

pytestmark = pytest.mark.django_db(transaction=True)


def test_nothing_without_signing_in():
    for path in ("/api/outings", "/api/vocabulary", "/api/jobs/x"):
        assert Client().get(path).status_code == 401


def test_signing_in_by_password(ana):
    client = Client()
    _post(client, "/api/sign-in", {"name": "ana", "password": "wrong"}, 403)
    assert _post(client, "/api/sign-in", {"name": "ana", "password": "tide and stack"}).json() == {
        "name": "ana"
    }
    assert client.get("/api/me").json() == {"name": "ana"}
    _post(client, "/api/sign-out", {})
    assert client.get("/api/me").json() == {"name": None}


def test_writing_needs_the_token(ana):
    client = Client(enforce_csrf_checks=True)
    client.force_login(ana)
    _post(client, "/api/outings", {"name": "x"}, 403)


def test_a_link_signs_in_once(ana):
    token = make_link(ana)
    first, second = Client(), Client()
    first.get(f"/enter/{token}")
    assert first.get("/api/me").json() == {"name": "ana"}
    assert second.get(f"/enter/{token}")["Location"] == "/sign-in?link=used"
    assert second.get("/api/me").json() == {"name": None}


def test_anothers_things_are_not_there(client, outing, frame, scene):
    job = Job.objects.create(
        user=User.objects.get(username="ana"),
        scene_id=scene["id"],
        settings={},
        document={},
        file_name="x.tif",
    )
    other = Client()
    other.force_login(User.objects.create_user("ben", password="another coast"))
    s = scene["id"]
    document = scene["revision"]["document"]
    assert other.get("/api/outings").json() == []
    for path in (f"/api/scenes/{s}", f"/api/frames/{frame['id']}/thumbnail", f"/api/jobs/{job.id}",
                 f"/api/jobs/{job.id}/file", f"/api/scenes/{s}/jobs"):  # fmt: skip
        assert other.get(path).status_code == 404, path
    posts = {
        f"/api/frames/{frame['id']}/scenes": {},
        f"/api/scenes/{s}/revisions": {"base": 1, "document": document, "words": "x"},
        f"/api/scenes/{s}/undo": {"base": 1},
        f"/api/scenes/{s}/redo": {"base": 1},
        f"/api/scenes/{s}/keeps": {"name": "x"},
        f"/api/scenes/{s}/picture": {"width": 9, "height": 9},
        f"/api/scenes/{s}/mask": {"width": 9, "height": 9, "latch": "x"},
        f"/api/scenes/{s}/meters": {"document": document},
        f"/api/scenes/{s}/spot": {"document": document, "x": 0, "y": 0},
        f"/api/scenes/{s}/neutral": {"document": document, "x": 0, "y": 0},
        f"/api/scenes/{s}/exports": {},
        f"/api/jobs/{job.id}/cancel": {},
    }
    for path, body in posts.items():
        _post(other, path, body, 404)
    assert _upload(other, outing, "a.dng", b"x").status_code == 404


def test_the_same_file_twice_is_one_frame(client, outing, frame, coast):
    assert _upload(client, outing, "again.dng", coast.path.read_bytes()).json()["id"] == frame["id"]
    assert Frame.objects.count() == 1


@pytest.mark.parametrize(
    ("name", "spoil", "said"),
    [
        ("empty.dng", lambda g: b"", "empty.dng cannot be opened: it is empty"),
        ("cut.dng", lambda g: g[: len(g) // 2], "cut.dng cannot be opened: it is cut short"),
        ("noise.jpg", lambda g: bytes(range(256)) * 50, "noise.jpg cannot be opened: no raw decoder"),
        ("../../etc/evil.dng", lambda g: b"nothing", "evil.dng cannot be opened"),
    ],
)
def test_a_bad_upload_ends_with_a_sentence_and_nothing_stored(
    client, outing, coast, settings, name, spoil, said
):
    files = {p for p in settings.FRAME_FOLDER.rglob("*") if p.is_file()}
    answer = _upload(client, outing, name, spoil(coast.path.read_bytes()))
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith(said)
    assert Frame.objects.count() == 0
    assert {p for p in settings.FRAME_FOLDER.rglob("*") if p.is_file()} == files
    assert client.get("/api/outings").status_code == 200


def test_thumbnail(client, frame):
    image = Image.open(io.BytesIO(client.get(f"/api/frames/{frame['id']}/thumbnail").content))
    assert max(image.size) == 480


def _moved(document, ev):
    move = {"id": "m1", "kind": "exposure", "params": {"ev": ev}}
    return document | {"moves": [move]}


def test_revisions_undo_and_redo(client, scene):
    s, document = scene["id"], scene["revision"]["document"]
    for n, ev in enumerate((-1.0, -2.0), 1):
        got = _post(
            client,
            f"/api/scenes/{s}/revisions",
            {"base": n, "document": _moved(document, ev), "words": f"Exposure {n}"},
        ).json()
        assert (got["number"], got["undo"], got["redo"]) == (n + 1, f"Exposure {n}", None)
    back = _post(client, f"/api/scenes/{s}/undo", {"base": 3}).json()
    assert back["document"]["moves"][0]["params"]["ev"] == -1.0
    assert (back["undo"], back["redo"]) == ("Exposure 1", "Exposure 2")
    again = _post(client, f"/api/scenes/{s}/redo", {"base": 2}).json()
    assert again["document"]["moves"][0]["params"]["ev"] == -2.0
    _post(client, f"/api/scenes/{s}/undo", {"base": 3})
    branch = _post(
        client, f"/api/scenes/{s}/revisions", {"base": 2, "document": _moved(document, 3.0), "words": "other"}
    ).json()
    assert (branch["number"], branch["redo"]) == (4, None)
    assert Revision.objects.filter(scene_id=s).count() == 4
    assert _post(client, f"/api/scenes/{s}/keeps", {"name": "so far"}).json()["number"] == 4


def test_a_stale_save_gets_the_revision_in_force(client, scene):
    s, document = scene["id"], scene["revision"]["document"]
    body = {"base": 1, "document": _moved(document, -1.0), "words": "mine"}
    _post(client, f"/api/scenes/{s}/revisions", body)
    stale = _post(client, f"/api/scenes/{s}/revisions", body | {"words": "theirs"}, 409).json()
    assert stale["number"] == 2
    assert stale["document"]["moves"][0]["params"]["ev"] == -1.0
    _post(client, f"/api/scenes/{s}/undo", {"base": 1}, 409)
    assert Revision.objects.filter(scene_id=s).count() == 2


def test_a_bad_document_names_its_field_and_changes_nothing(client, scene):
    s, document = scene["id"], scene["revision"]["document"]
    body = {"base": 1, "document": _moved(document, 99), "words": "x"}
    said = _post(client, f"/api/scenes/{s}/revisions", body, 422).json()
    assert said["where"] == "moves[0].params.ev"
    assert Scene.objects.get(pk=s).head == 1
    foreign = document | {"sources": [{"sha256": "0" * 64}]}
    _post(client, f"/api/scenes/{s}/picture", {"document": foreign, "width": 9, "height": 9}, 422)


def _picture(client, s, **look):
    answer = _post(client, f"/api/scenes/{s}/picture", {"width": 300, "height": 200} | look)
    return np.asarray(Image.open(io.BytesIO(answer.content))).astype(int)


def test_pictures_of_saved_and_unsaved_documents(client, scene):
    s, document = scene["id"], scene["revision"]["document"]
    start = _picture(client, s)
    assert start.shape == (200, 300, 3)
    darker = _picture(client, s, document=_moved(document, -2.0))
    assert darker.mean() < start.mean() - 15
    assert np.array_equal(_picture(client, s, revision=0), start)
    region = _picture(client, s, region=[0.25, 0.25, 0.75, 0.75])
    assert np.abs(region.mean() - start[50:150, 75:225].mean()) < 4
    _post(client, f"/api/scenes/{s}/picture", {"width": 9, "height": 9, "region": [0.5, 0, 0.2, 1]}, 422)


def test_mask_meters_spot_and_neutral(client, scene):
    s, document = scene["id"], scene["revision"]["document"]
    latch = {
        "id": "l1",
        "name": "Sky",
        "read_at": scene["read_at"],
        "ingredients": [{"id": "i1", "kind": "fan"}],
    }
    document = document | {
        "latches": [latch, latch | {"id": "l2", "name": "All", "ingredients": [], "invert": True}]
    }
    mask = _post(
        client, f"/api/scenes/{s}/mask", {"document": document, "latch": "Sky", "width": 90, "height": 60}
    )
    grey = np.asarray(Image.open(io.BytesIO(mask.content)))
    assert grey.shape == (60, 90)
    assert grey.max() > 200
    ladder = _post(client, f"/api/scenes/{s}/meters", {"document": document, "wings": ["l1", "l2"]}).json()
    assert ladder["meeting"] > 0
    assert _post(client, f"/api/scenes/{s}/spot", {"document": document, "x": 0.5, "y": 0.1}).json()["words"]
    light = _post(client, f"/api/scenes/{s}/neutral", {"document": document, "x": 0.15, "y": 0.2}).json()
    assert 3000 < light["kelvin"] < 15000
    _post(
        client, f"/api/scenes/{s}/mask", {"document": document, "latch": "Moon", "width": 9, "height": 9}, 422
    )


def test_vocabulary_tells_the_face_everything(client):
    words = client.get("/api/vocabulary").json()
    exposure = next(m for m in words["moves"] if m["kind"] == "exposure")
    field = exposure["fields"][0]
    assert (field["name"], field["low"], field["high"], field["unit"], field["default"]) == (
        "ev",
        -6,
        6,
        "stops",
        0,
    )
    assert {i["kind"] for i in words["ingredients"]} >= {
        "light_range",
        "fan",
        "colour",
        "ramp",
        "pool",
        "sky",
        "detail",
        "hand",
        "another",
    }
    fan = next(i for i in words["ingredients"] if i["kind"] == "fan")
    assert list(fan["fields"][0]["words"]) == ["lights", "darks", "midtones"]
    told = client.get("/api/vocabulary").json()
    # strength and spare clauses are declared once, in the core
    finish = [told["move_strength"], *told["latch_finish"]]
    assert [(f["name"], f["low"], f["high"], f["unit"]) for f in finish] == [
        ("strength", 0, 2, "%"), ("grow", -60, 60, "px"), ("feather", 0, 300, "px"), ("strength", 0, 1, "%")
    ]  # fmt: skip
    assert told["spare_edges"] == {"shadows": -3.0, "highlights": 1.5}


def test_the_vocabulary_is_put_together_once(client, monkeypatch):
    """Every page asks for it first: a quarter of a second each time, if it were made anew."""
    told = client.get("/api/vocabulary").content
    monkeypatch.setattr(vocabulary, "fields_of", None)  # asked again, it would fail
    assert client.get("/api/vocabulary").content == told


def test_export_makes_its_file(client, scene, settings):
    s = scene["id"]
    job = _post(
        client, f"/api/scenes/{s}/exports", {"kind": "tif", "space": "rec2020", "bits": 16, "long_edge": 300}
    ).json()
    assert client.get(f"/api/jobs/{job['id']}").json()["state"] == "done"
    path = settings.EXPORT_FOLDER / job["id"] / job["file_name"]
    picture = tifffile.imread(path)
    assert picture.dtype == np.uint16
    assert max(picture.shape) == 300
    assert client.get(f"/api/jobs/{job['id']}/file").status_code == 200
    _post(client, f"/api/scenes/{s}/exports", {"kind": "jpg", "bits": 16}, 422)


def test_a_failed_export_says_why_and_leaves_nothing(client, scene, settings, monkeypatch):
    import errno

    import sunlatch.proof.writers as writers

    def full(path, *rest, **named):
        path.write_bytes(b"half")
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(writers.tifffile, "imwrite", full)
    job = _post(client, f"/api/scenes/{scene['id']}/exports", {}).json()
    assert job["state"] == "failed"
    assert "disk is full" in job["message"]
    assert not list((settings.EXPORT_FOLDER / job["id"]).iterdir())


def test_a_job_is_cancelled_before_and_while_it_runs(client, scene, settings):
    from studio.tasks import run_export

    document = scene["revision"]["document"]
    wanted = {"kind": "tif", "space": "srgb", "bits": 16, "long_edge": None}
    waiting = Job.objects.create(
        user=User.objects.get(username="ana"),
        scene_id=scene["id"],
        settings=wanted,
        document=document,
        file_name="a.tif",
    )
    assert _post(client, f"/api/jobs/{waiting.id}/cancel", {}).json()["state"] == "cancelled"
    run_export.call_local(waiting.id)
    assert Job.objects.get(pk=waiting.id).state == "cancelled"
    asked = Job.objects.create(
        user=User.objects.get(username="ana"),
        scene_id=scene["id"],
        settings=wanted,
        document=document,
        file_name="b.tif",
        cancel=True,
    )
    run_export.call_local(asked.id)
    assert Job.objects.get(pk=asked.id).state == "cancelled"
    assert not (settings.EXPORT_FOLDER / asked.id / "b.tif").exists()


def test_jobs_left_by_a_stopped_worker_are_taken_up(client, scene):
    from studio.tasks import take_up_again

    wanted = {"kind": "jpg", "space": "srgb", "bits": 8, "long_edge": 64}
    job = Job.objects.create(
        user=User.objects.get(username="ana"), scene_id=scene["id"], settings=wanted, document=scene["revision"]["document"], file_name="c.jpg",
        state="running", done=0.4,
    )  # fmt: skip
    assert take_up_again() == 1
    assert Job.objects.get(pk=job.id).state == "done"


def test_the_newest_request_of_a_view_wins():
    lane, gate, begun, outcomes = Lane(), threading.Event(), threading.Event(), {}

    def hold():
        begun.set()
        gate.wait(5)
        return "held"

    def ask(number):
        try:
            with lane.asked("v", number):
                outcomes[number] = lane.run(lambda: number)
        except SupersededError:
            outcomes[number] = "dropped"

    def other():
        with lane.asked("other", 1):
            lane.run(hold)

    first = threading.Thread(target=other)
    first.start()
    begun.wait(5)
    rest = []
    for n in (1, 2, 3):
        thread = threading.Thread(target=ask, args=(n,))
        thread.start()
        rest.append(thread)
        until = time.monotonic() + 5
        while n > lane._newest.get("v", 0) and time.monotonic() < until:
            time.sleep(0.001)
    gate.set()
    for thread in [first, *rest]:
        thread.join(5)
    assert outcomes == {1: "dropped", 2: "dropped", 3: 3}


def test_work_in_hand_stops_when_it_is_overtaken():
    """The slow picture at rest gives way as soon as a newer request for the view comes in."""
    lane, begun, outcome = Lane(), threading.Event(), []

    def slow():
        begun.set()
        for _ in range(500):
            go_on()
            time.sleep(0.01)
        return "finished"

    def ask():
        try:
            with lane.asked("v", 1):
                outcome.append(lane.run(slow))
        except SupersededError:
            outcome.append("dropped")

    first = threading.Thread(target=ask)
    first.start()
    begun.wait(5)
    with lane.asked("v", 2):
        assert lane.run(lambda: "new") == "new"
    first.join(5)
    assert outcome == ["dropped"]


def test_the_outing_lists_what_is_in_it(client, outing, frame, scene):
    listed = client.get("/api/outings").json()[0]
    assert listed["frames"][0]["scenes"][0]["id"] == scene["id"]
    assert listed["frames"][0]["info"]["iso"] == 100
    assert Outing.objects.get().name == "Ammerlin"
