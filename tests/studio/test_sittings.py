"""What was done when a scene was last worked on."""

from datetime import timedelta

import pytest
from django.utils import timezone

from studio.models import Revision
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def _save(client, scene, base, ev):
    document = client.get(f"/api/scenes/{scene}").json()["revision"]["document"]
    params = document["ground"]["base_exposure"]["params"] | {"ev": ev}
    document["ground"]["base_exposure"]["params"] = params
    body = {"base": base, "document": document, "words": "Set exposure"}
    return post(client, f"/api/scenes/{scene}/revisions", body).json()["number"]


def _when(scene, **ago):
    for number, minutes in ago.items():
        Revision.objects.filter(scene=scene, number=int(number[1:])).update(
            created=timezone.now() - timedelta(minutes=minutes)
        )


def test_what_changed_last_time_is_told_once_it_is_over(client, scene):
    s = scene["id"]
    assert client.get(f"/api/scenes/{s}").json()["last_time"] is None  # nothing was done
    for base, ev in enumerate((0.5, 0.9, 1.5), 1):
        _save(client, s, base, ev)
    assert client.get(f"/api/scenes/{s}").json()["last_time"] is None  # it still goes on
    # the first two steps of one evening, the last of another
    _when(s, r1=3000, r2=2990, r3=2980, r4=100)
    last = client.get(f"/api/scenes/{s}").json()["last_time"]
    assert last["before"] == 3
    assert len(last["changes"]) == 1
    assert "1.5" in last["changes"][0]
    # all of one evening: what it began with is the fresh scene
    _when(s, r4=2970)
    last = client.get(f"/api/scenes/{s}").json()["last_time"]
    assert last["before"] == 1
    # undone to another state since then: told of the one in force
    post(client, f"/api/scenes/{s}/undo", {"base": 4})
    last = client.get(f"/api/scenes/{s}").json()["last_time"]
    assert "0.9" in last["changes"][0]
