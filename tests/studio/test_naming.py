"""Outings, frames and scenes are called what one calls them; long work is found again wherever one is."""

import pytest

from studio.models import Job
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def _name(client, what, key, name, status=200):
    return post(client, "/api/names", {"what": what, "id": key, "name": name}, status).json()


def test_each_can_be_called_something_else_and_have_its_name_back(client, outing, frame, scene):
    said = _name(client, "outing", outing["id"], "  Heath\tand  coast ")
    assert (said["name"], said["before"]) == ("Heath and coast", "Ammerlin")
    assert _name(client, "frame", frame["id"], "the stack")["before"] == "stack.dng"
    assert _name(client, "scene", scene["id"], "Evening")["before"] == scene["name"]
    (shown,) = client.get("/api/outings").json()
    assert shown["name"] == "Heath and coast"
    assert shown["frames"][0]["name"] == "the stack"
    assert shown["frames"][0]["scenes"][0]["name"] == "Evening"
    opened = client.get(f"/api/scenes/{scene['id']}").json()
    assert (opened["name"], opened["frame_name"]) == ("Evening", "the stack")
    _name(client, "outing", outing["id"], said["before"])
    assert client.get("/api/outings").json()[0]["name"] == "Ammerlin"


def test_what_is_no_name_is_refused_and_the_old_one_stays(client, outing, ana):
    for bad in ("", "   ", "\x00\u200b\n"):
        assert "letter" in _name(client, "outing", outing["id"], bad, 422)["detail"]
    assert len(_name(client, "outing", outing["id"], "x" * 900)["name"]) == 200
    job = Job.objects.create(user=ana, settings={})
    _name(client, "job", job.id, "no", 404)


def test_anothers_is_not_there(client, outing, django_user_model):
    other = type(client)()
    other.force_login(django_user_model.objects.create_user("other", password="x"))
    _name(other, "outing", outing["id"], "mine", 404)


def test_the_tray_holds_all_of_ones_long_work(client, ana, scene, django_user_model):
    other = django_user_model.objects.create_user("other", password="x")
    Job.objects.create(user=other, settings={}, file_name="theirs.tif")
    first = Job.objects.create(user=ana, settings={}, kind="folder", state=Job.DONE)
    post(client, f"/api/scenes/{scene['id']}/exports", {"kind": "jpg", "bits": 8, "long_edge": 64})
    jobs = client.get("/api/jobs").json()
    assert [j["kind"] for j in jobs] == ["export", "folder"]
    assert (jobs[0]["state"], jobs[0]["scene"]) == ("done", scene["id"])
    post(client, "/api/removed", {"what": "job", "id": first.id})
    assert [j["kind"] for j in client.get("/api/jobs").json()] == ["export"]
