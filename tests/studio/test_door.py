"""The door before Django: hosts, sizes, places, headers; and what is said where the machine is the reason."""

import asyncio
import errno
import json

import pytest
from django.conf import settings
from django.contrib.auth.models import User
from django.core.cache import cache
from django.db import OperationalError
from django.test import Client
from django.utils import timezone

from studio import asgi, door
from studio.api.people import Pace
from studio.door import Door
from studio.models import SignInLink
from studio.sentences import of_anything, of_database, of_disk
from studio.views import make_link
from sunlatch.errors import DocumentError
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


def _ask(app, method="GET", path="/", body=b"", host="localhost", cookie="", chunked=False, more=()):
    """One request through a door: status, headers and body of the answer, and how much of the body was read."""
    sent, read = [], [0]
    parts = [body[n : n + 65536] for n in range(0, len(body), 65536)] or [b""]

    async def receive():
        if not parts:
            return {"type": "http.disconnect"}
        part = parts.pop(0)
        read[0] += len(part)
        return {"type": "http.request", "body": part, "more_body": bool(parts)}

    async def send(message):
        sent.append(message)

    length = (
        [(b"transfer-encoding", b"chunked")] if chunked else [(b"content-length", str(len(body)).encode())]
    )
    headers = [(b"host", host.encode()), (b"cookie", cookie.encode()), *length, *more]
    scope = {"type": "http", "method": method, "path": path, "headers": headers, "query_string": b""}
    asyncio.run(Door(app)(scope, receive, send))
    answer = {k.decode(): v.decode() for k, v in sent[0].get("headers", [])} if sent else {}
    return (
        sent[0]["status"] if sent else None,
        answer,
        b"".join(m.get("body", b"") for m in sent[1:]),
        read[0],
    )


async def _reads_it_all(scope, receive, send):
    """An application that reads the body and says how long it was."""
    size, going = 0, True
    while going:
        message = await receive()
        size += len(message.get("body", b""))
        going = message.get("more_body", False)
    await send({"type": "http.response.start", "status": 200, "headers": []})
    await send({"type": "http.response.body", "body": str(size).encode()})


async def _never(scope, receive, send):
    raise AssertionError("this must not be reached")


def _cookie(user):
    client = Client()
    client.force_login(user)
    return f"{settings.SESSION_COOKIE_NAME}={client.cookies[settings.SESSION_COOKIE_NAME].value}"


def test_a_short_request_goes_between_loop_and_thread_a_few_times_only():
    """Each time costs more than what a short request does."""
    sent, given = [], [{"type": "http.request", "body": b"", "more_body": False}]

    async def counted():
        loop, times = asyncio.get_running_loop(), []
        back = loop.call_soon_threadsafe
        loop.call_soon_threadsafe = lambda *a, **kw: times.append(1) or back(*a, **kw)
        stays = asyncio.Event()

        async def receive():
            if not given:
                await stays.wait()
            return given.pop()

        async def send(message):
            sent.append(message)

        headers = [(b"host", b"localhost")]
        scope = {"type": "http", "method": "GET", "path": "/api/me", "headers": headers, "query_string": b""}
        await asgi.application(scope, receive, send)
        return len(times)

    assert asyncio.run(counted()) <= 5
    assert sent[0]["status"] == 200


@pytest.mark.parametrize("path", ["/", "/assets/index.js", "/api/me"])
def test_every_answer_carries_the_headers_and_other_names_are_turned_away(path):
    status, headers, _, _ = _ask(_reads_it_all, path=path)
    assert status == 200
    assert "script-src 'self'" in headers["content-security-policy"]
    assert (
        "unsafe-inline" not in headers["content-security-policy"].partition("script-src")[2].partition(";")[0]
    )
    assert headers["x-frame-options"] == "DENY"
    assert headers["x-content-type-options"] == "nosniff"
    status, headers, body, _ = _ask(_never, path=path, host="evil.example")
    assert status == 400
    assert "This address is not allowed" in json.loads(body)["detail"]
    assert headers["x-frame-options"] == "DENY"


@pytest.mark.parametrize(
    ("method", "path", "size"),
    [
        ("POST", "/api/sign-in", 20_000),
        ("POST", "/api/outings", 2 << 20),
        ("GET", "/", 1),
        ("POST", "/nowhere", 1),
        ("POST", "/api/scenes/x/revisions", 65 << 20),
    ],
)
def test_what_is_too_large_is_turned_away_unread(ana, method, path, size):
    status, _, body, read = _ask(_never, method, path, b"x" * size, cookie=_cookie(ana))
    assert status == 413
    assert "Nothing was stored" in json.loads(body)["detail"]
    assert read == 0


def test_what_does_not_say_how_large_it_is_is_cut_off(ana):
    status, _, body, read = _ask(
        _reads_it_all, "POST", "/api/outings", b"x" * (3 << 20), cookie=_cookie(ana), chunked=True
    )
    assert status == 413
    assert "1 MB" in json.loads(body)["detail"]
    assert read < (1 << 20) + 2 * 65536


@pytest.mark.parametrize(
    ("method", "path"), [("PUT", "/api/outings/x/frames"), ("POST", "/api/scenes/x/revisions")]
)
@pytest.mark.parametrize("chunked", [False, True])
def test_much_is_read_only_from_who_is_signed_in(ana, method, path, chunked):
    much = b"x" * (2 << 20)
    status, _, body, read = _ask(_never, method, path, much, chunked=chunked, cookie="sessionid=forged")
    assert (status, read) == (401, 0)
    assert "signed out" in json.loads(body)["detail"]
    status, _, body, _ = _ask(_reads_it_all, method, path, much, chunked=chunked, cookie=_cookie(ana))
    assert (status, body) == (200, str(len(much)).encode())


def test_only_so_many_are_worked_on_at_once_and_saving_does_not_wait_for_pictures():
    """Three hundred ask for pictures: a dozen are at work, and a save goes past them all."""
    at_once, most, gate = {"pictures": 0}, [0], asyncio.Event()

    async def app(scope, receive, send):
        if "picture" in scope["path"]:
            at_once["pictures"] += 1
            most[0] = max(most[0], at_once["pictures"])
            await gate.wait()
            at_once["pictures"] -= 1
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    async def ask(made, path):
        done = []

        async def receive():
            return {"type": "http.request", "body": b"", "more_body": False}

        async def send(message):
            done.append(message)

        headers = [(b"host", b"localhost"), (b"content-length", b"0")]
        await made({"type": "http", "method": "POST", "path": path, "headers": headers}, receive, send)
        return done[0]["status"]

    async def all_of_them():
        made = Door(app)
        pictures = [asyncio.create_task(ask(made, "/api/scenes/x/picture")) for _ in range(300)]
        await asyncio.sleep(0.05)
        saved = await asyncio.wait_for(ask(made, "/api/scenes/x/revisions"), 2)
        gate.set()
        return saved, await asyncio.gather(*pictures)

    saved, pictures = asyncio.run(all_of_them())
    assert saved == 200
    assert set(pictures) == {200}
    assert most[0] == door.PLACES["pictures"]


def test_too_many_waiting_are_told_so():
    async def app(scope, receive, send):
        await asyncio.sleep(60)

    async def crowd():
        made, said = Door(app), []

        async def receive():
            return {"type": "http.request", "body": b"", "more_body": False}

        async def send(message):
            said.append(message.get("status"))

        headers = [(b"host", b"localhost"), (b"content-length", b"0")]
        scope = {"type": "http", "method": "GET", "path": "/api/me", "headers": headers}
        waiting = [
            asyncio.create_task(made(dict(scope), receive, send)) for _ in range(door.MOST_WAITING + 60)
        ]
        await asyncio.sleep(0.1)
        for one in waiting:
            one.cancel()
        await asyncio.gather(*waiting, return_exceptions=True)
        return said

    assert 503 in asyncio.run(crowd())


def test_a_body_that_stalls_is_not_waited_for(monkeypatch):
    monkeypatch.setattr(door, "STALLED", 0.05)

    async def receive():
        await asyncio.sleep(60)

    counted = door._Counted(receive, 100)
    assert asyncio.run(counted.receive())["type"] == "http.disconnect"
    assert counted.gone.is_set()


# signing in


@pytest.fixture(autouse=True)
def _no_memory():
    cache.clear()


def test_signing_in_needs_the_token(ana):
    client = Client(enforce_csrf_checks=True)
    body = {"name": "ana", "password": "tide and stack"}
    assert "expired" in post(client, "/api/sign-in", body, 403).json()["detail"]
    token = client.get("/api/me").cookies["csrftoken"].value
    answer = client.post(
        "/api/sign-in", json.dumps(body), content_type="application/json", headers={"X-CSRFToken": token}
    )
    assert answer.json() == {"name": "ana"}


def test_trying_passwords_is_slowed_down_by_name_and_by_address(ana, monkeypatch):
    monkeypatch.setattr(Pace, "timer", staticmethod(lambda: 1000.0))  # all within the same minute
    client, right = Client(), {"name": "ana", "password": "tide and stack"}
    said = [post_any(client, {"name": "Ana", "password": f"guess {n}"}) for n in range(12)]
    assert said[:10] == [403] * 10
    assert said[10:] == [429] * 2
    assert post_any(client, right) == 429  # also the right one, for a minute
    User.objects.create_user("ben", password="another coast")
    assert post_any(client, {"name": "ben", "password": "another coast"}) == 200
    assert post_any(Client(REMOTE_ADDR="10.0.0.9"), right) == 200
    # a forged header is nobody's address
    assert post_any(Client(HTTP_X_FORWARDED_FOR="1.2.3.4"), right) == 429
    said = [post_any(Client(), {"name": f"name {n}", "password": "x"}) for n in range(70)]
    assert 429 in said


def post_any(client, body):
    return client.post("/api/sign-in", json.dumps(body), content_type="application/json").status_code


def test_a_link_is_good_for_a_day(ana):
    token = make_link(ana)
    SignInLink.objects.update(made=timezone.now() - timezone.timedelta(hours=25))
    client = Client()
    assert client.get(f"/enter/{token}")["Location"] == "/sign-in?link=used"
    assert client.get("/api/me").json() == {"name": None}


def test_how_the_api_is_described_is_told_to_who_is_signed_in(client):
    assert Client().get("/api/openapi.json").status_code == 401
    assert client.get("/api/openapi.json").json()["info"]["title"] == "Sun Latch"


# sentences


@pytest.mark.parametrize(
    ("path", "body", "said"),
    [
        ("/api/outings", b'{"name": "\\ud800"}', "request was damaged"),
        ("/api/outings", b'{"name": NaN}', "NaN is not a number"),
        ("/api/outings", b'{"name": ', "request was damaged"),
        ("/api/outings", b'{"name": "\xff"}', "request was damaged"),
        ("/api/outings", b'{"name": 7}', "Name must be text."),
        ("/api/outings", b"{}", "Name is missing."),
        ("/api/outings", b"[" * 100_000, "request was damaged"),
    ],
)
def test_what_cannot_be_read_is_said_plainly(client, path, body, said):
    answer = client.post(path, body, content_type="application/json")
    assert answer.status_code in (400, 422)
    assert said in answer.json()["detail"]


def test_a_whole_character_beyond_the_basic_ones_is_kept(client):
    name = "Ammerlin 🌅"
    answer = client.post("/api/outings", json.dumps({"name": name}), content_type="application/json")
    assert answer.json()["name"] == name


def test_a_fan_asked_with_no_number_is_refused(client, scene):
    latch = {"id": "l", "name": "Sky", "read_at": scene["read_at"], "ingredients": [{"kind": "fan"}]}
    document = scene["revision"]["document"] | {"latches": [latch]}
    body = json.dumps({"document": document, "latch": "l", "leaning": "lights", "narrow": [1, 2]})
    path = f"/api/scenes/{scene['id']}/fan"
    assert client.post(path, body, content_type="application/json").status_code == 200
    answer = client.post(path, body.replace("[1, 2]", "[1, NaN]"), content_type="application/json")
    assert answer.status_code == 400
    json.loads(answer.content, parse_constant=lambda name: pytest.fail(name))


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (OSError(errno.ENOSPC, "No space left on device"), "The disk is full"),
        (OSError(errno.EROFS, "Read-only file system"), "may not be written to"),
        (OSError(errno.EIO, "Input/output error"), "Could not save to disk"),
        (OperationalError("database or disk is full"), "The disk is full"),
        (OperationalError("attempt to write a readonly database"), "may not be written to"),
        (OperationalError("database is locked"), "is busy"),
    ],
)
def test_a_disk_that_refuses_is_said_everywhere(client, ana, scene, monkeypatch, error, said):
    """Saving, outings, exports and signing in: a sentence, and nothing half done."""
    assert said in (of_disk(error) if isinstance(error, OSError) else of_database(error))
    assert said in of_anything(error)

    def refuse(*_, **__):
        raise error

    document = scene["revision"]["document"]
    with monkeypatch.context() as broken:
        broken.setattr("studio.models.Revision.objects.create", refuse)
        broken.setattr("studio.models.Outing.objects.create", refuse)
        broken.setattr("studio.models.Job.objects.create", refuse)
        save = {"base": 1, "document": document, "words": "x"}
        for path, body in (
            (f"/api/scenes/{scene['id']}/revisions", save),
            ("/api/outings", {"name": "x"}),
            (f"/api/scenes/{scene['id']}/exports", {}),
        ):
            assert said in post(client, path, body, 503).json()["detail"]
        broken.setattr("django.contrib.sessions.backends.db.SessionStore.save", refuse)
        anyone = Client(raise_request_exception=False)
        answer = anyone.post(
            "/api/sign-in",
            json.dumps({"name": "ana", "password": "tide and stack"}),
            content_type="application/json",
        )
        assert answer.status_code in (500, 503)
        assert said in answer.json()["detail"]
    assert post(client, f"/api/scenes/{scene['id']}/revisions", save).json()["number"] == 2


def test_an_address_that_is_not_there_is_said(client):
    assert client.get("/api/nothing").json()["detail"] == "Not found, or you do not have access."
    assert client.get("/api/scenes/none").json()["detail"] == "Not found, or you do not have access."


@pytest.mark.parametrize(
    ("where", "message", "said"),
    [
        (
            "moves[0].params.ev",
            "input should be less than or equal to 6",
            "Ev should be less than or equal to 6.",
        ),
        ("sources[0].sha256", "this frame is not the scene's", "This frame is not the scene's."),
        ("", "a latch cannot be made of itself: Sky → Sky", "A latch cannot be made of itself: Sky → Sky."),
    ],
)
def test_a_documents_fault_is_said_without_the_way_to_its_field(where, message, said):
    assert DocumentError(message, where).plain == said
