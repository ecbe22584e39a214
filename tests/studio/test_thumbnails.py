"""Thumbnails: made once, when a frame arrives."""

import io
from datetime import timedelta

import pytest
from django.utils import timezone
from PIL import Image

from studio import keeping, services
from studio.models import Frame

pytestmark = pytest.mark.django_db


def _asked(client, frame, long=480):
    answer = client.get(f"/api/frames/{frame['id']}/thumbnail?long={long}")
    assert answer.status_code == 200
    return answer.content


def test_it_is_read_whatever_became_of_the_light(client, frame, monkeypatch):
    first = _asked(client, frame)
    assert max(Image.open(io.BytesIO(first)).size) == 480
    monkeypatch.setattr(services, "store", lambda: 1 / 0)  # not asked any more
    assert _asked(client, frame) == first


def test_other_sizes_are_made_when_asked_for_and_small_ones_kept(client, frame, settings):
    for long, kept in ((160, 1), (300, 0)):
        assert max(Image.open(io.BytesIO(_asked(client, frame, long))).size) == long
        assert len(list(settings.THUMBNAIL_FOLDER.rglob(f"*-{long}.jpg"))) == kept


def test_where_none_can_be_kept_it_is_shown_all_the_same(client, frame, settings):
    folder = settings.THUMBNAIL_FOLDER / frame["sha256"][:2]
    first = _asked(client, frame)
    for path in folder.iterdir():
        path.unlink()
    folder.rmdir()
    folder.write_text("in the way")
    assert _asked(client, frame) == first


def test_it_goes_with_the_frame(client, frame, settings):
    assert list(settings.THUMBNAIL_FOLDER.rglob("*.jpg"))
    long_ago = timezone.now() - timedelta(days=settings.REMOVED_DAYS + 1)
    Frame.objects.filter(pk=frame["id"]).update(removed=long_ago)
    keeping.prune()
    assert not list(settings.THUMBNAIL_FOLDER.rglob("*.jpg"))
