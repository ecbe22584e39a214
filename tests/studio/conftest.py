"""The server's tests keep their files to themselves and run jobs at once."""

import json
import re
import threading

import pytest
from django.contrib.auth.models import User
from django.test import Client
from huey.contrib.djhuey import HUEY

from studio.tasks import arrivals


@pytest.fixture(autouse=True)
def _own_files(settings, tmp_path):
    settings.DATA = tmp_path
    settings.FRAME_FOLDER = tmp_path / "frames"
    settings.ARRIVING_FOLDER = tmp_path / "arriving"
    settings.EXPORT_FOLDER = tmp_path / "exports"
    settings.THUMBNAIL_FOLDER = tmp_path / "thumbnails"
    # what makes passwords slow to try is Django's own, and tested there
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    HUEY.immediate = arrivals.immediate = True
    yield
    HUEY.immediate = arrivals.immediate = False


@pytest.fixture(scope="session", autouse=True)
def _nothing_behind_at_the_end():
    """What was begun in the background ends before the tests do: compiled code must not outlive the interpreter."""
    yield
    for thread in threading.enumerate():
        if thread.daemon and re.match("sky|skies|decode-|join-", thread.name):
            thread.join(60)


@pytest.fixture
def ana():
    """A photographer."""
    return User.objects.create_user("ana", password="tide and stack")


@pytest.fixture
def client(ana):
    """Ana, signed in."""
    client = Client()
    client.force_login(ana)
    return client


def post(client, path, body, status=200):
    answer = client.post(path, json.dumps(body), content_type="application/json")
    assert answer.status_code == status, answer.content[:300]
    return answer


@pytest.fixture
def outing(client):
    """An empty outing."""
    return post(client, "/api/outings", {"name": "Ammerlin"}).json()


def upload(client, outing, name, data):
    return client.put(
        f"/api/outings/{outing['id']}/frames?name={name}", data, content_type="application/octet-stream"
    )


@pytest.fixture
def frame(client, outing, coast):
    """An uploaded frame."""
    answer = upload(client, outing, "stack.dng", coast.path.read_bytes())
    assert answer.status_code == 200, answer.content
    return answer.json()


@pytest.fixture
def scene(client, frame):
    """An opened scene."""
    made = post(client, f"/api/frames/{frame['id']}/scenes", {}).json()
    return client.get(f"/api/scenes/{made['id']}").json()
