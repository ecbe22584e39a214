"""What stands before Django: who may come in with how much, how many at once, and what every answer carries.

Django reads a body whole, to memory or to the temporary folder, before it asks whose it is; and gives every request
a thread. So both are bounded here, by route.
"""

import asyncio
import json
import re
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from dataclasses import dataclass
from http.cookies import CookieError, SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.http.request import split_domain_port, validate_host

Scope = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[MutableMapping[str, Any]]]
Send = Callable[[MutableMapping[str, Any]], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]

HEADERS = (
    (
        b"content-security-policy",
        b"default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' blob: data:; font-src 'self' data:; "
        b"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'",
    ),
    (b"x-frame-options", b"DENY"),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
)


@dataclass(frozen=True)
class Way:
    """A kind of request. most: bytes of its body; anyone: whether those who are not signed in may send it; places:
    how many of its kind are worked on at once, the others wait without a thread."""

    path: re.Pattern[str]
    methods: tuple[str, ...]
    most: int
    anyone: bool = False
    kind: str = "quick"


MB = 1 << 20
WAYS = (
    Way(re.compile(r"^/api/sign-in$"), ("POST",), 16 << 10, anyone=True),
    Way(re.compile(r"^/api/outings/[^/]+/frames$"), ("PUT",), 0, kind="arrivals"),
    Way(re.compile(r"^/api/scenes/[^/]+/(revisions|undo|redo|keeps|exports)$"), ("POST",), 64 * MB),
    Way(re.compile(r"^/api/profiles$"), ("PUT",), 17 * MB),
    Way(re.compile(r"^/api/(scenes|frames|habits)/"), ("POST",), 64 * MB, kind="pictures"),
    Way(re.compile(r"^/api/frames/"), ("GET",), 0, kind="pictures"),
    Way(re.compile(r"^/api/jobs/[^/]+/file$"), ("GET",), 0, kind="files"),
    Way(re.compile(r"^/api/(camera|outings)"), ("POST",), MB, kind="pictures"),
    Way(re.compile(r"^/api/"), ("GET", "HEAD", "DELETE", "PATCH", "PUT", "POST"), MB),
    Way(re.compile(r""), ("GET", "HEAD"), 0, anyone=True),
)
ALONE = 64 << 10
"""A body larger than this is read only from those who are signed in."""
PLACES = {"quick": 16, "pictures": 12, "arrivals": 4, "files": 6}
MOST_WAITING = 500
STALLED = 30.0
"""Seconds without a byte after which the rest of a body is not waited for."""


class Door:
    """The ASGI application around Django's."""

    def __init__(self, app: App) -> None:
        self._app = app
        self._places = {kind: asyncio.Semaphore(n) for kind, n in PLACES.items()}
        self._waiting = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            return await self._app(scope, receive, send)
        send = _with_headers(send)
        headers = {k.decode("latin-1").lower(): v.decode("latin-1") for k, v in scope["headers"]}
        if not _known_host(headers.get("host", "")):
            return await _say(send, 400, "This address is not allowed; ask whoever runs the server.")
        way = next(
            (w for w in WAYS if scope["method"] in w.methods and w.path.search(scope["path"])), WAYS[-1]
        )
        most = settings.MAX_UPLOAD_BYTES if way.kind == "arrivals" else way.most
        length = headers.get("content-length", "")
        claimed = int(length) if length.isdecimal() else 0
        if claimed > most:
            return await _say(send, 413, _too_large(way, most))
        large = claimed > ALONE or (not length and "transfer-encoding" in headers)
        if large and not await _signed_in(headers.get("cookie", "")):
            return await _say(send, 401, "You are signed out. Sign in again; nothing here is lost.")
        if self._waiting >= MOST_WAITING:
            return await _say(send, 503, "The studio has too much to do just now; try again in a moment.")
        counted = _Counted(receive, most)
        scope["sunlatch.gone"] = counted.gone
        self._waiting += 1
        try:
            async with self._places[way.kind]:
                self._waiting -= 1
                try:
                    await self._app(scope, counted.receive, send)
                finally:
                    self._waiting += 1
        except _TooLargeError:
            await _say(send, 413, _too_large(way, most))
        finally:
            self._waiting -= 1


class _TooLargeError(Exception):
    """A body that turned out larger than it may be."""


class _Counted:
    """A body whose bytes are counted as they come, and which knows when its sender has gone."""

    def __init__(self, receive: Receive, most: int) -> None:
        self._receive = receive
        self._left = most
        self._coming = True
        self.gone = threading.Event()

    async def receive(self) -> MutableMapping[str, Any]:
        try:
            message = await asyncio.wait_for(self._receive(), STALLED if self._coming else None)
        except TimeoutError:
            message = {"type": "http.disconnect"}
        if message["type"] == "http.disconnect":
            self.gone.set()
        self._coming = message.get("more_body", False)
        self._left -= len(message.get("body", b""))
        if self._left < 0:
            raise _TooLargeError
        return message


def _known_host(host: str) -> bool:
    domain, _ = split_domain_port(host)
    return bool(domain) and validate_host(domain, settings.ALLOWED_HOSTS)


def _too_large(way: Way, most: int) -> str:
    if way.kind == "arrivals":
        return f"A frame may have {most >> 30} GB at most. Nothing was stored."
    limit = f"{most // MB} MB" if most >= MB else f"{most >> 10} kB"
    return f"That is more than may be sent here ({limit}). Nothing was stored."


@sync_to_async
def _has_user(key: str) -> bool:
    try:
        return SESSION_KEY in SessionStore(key)
    except Exception:  # the database may be away: then nobody is known
        return False


async def _signed_in(cookie: str) -> bool:
    try:
        held = SimpleCookie(cookie).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    return held is not None and await _has_user(held.value)


def _with_headers(send: Send) -> Send:
    """What every answer carries, whoever gives it."""

    async def carried(message: MutableMapping[str, Any]) -> None:
        if message["type"] == "http.response.start":
            given = list(message.get("headers", []))
            known = {name.lower() for name, _ in given}
            message["headers"] = given + [(n, v) for n, v in HEADERS if n not in known]
        await send(message)

    return carried


async def _say(send: Send, status: int, sentence: str) -> None:
    body = json.dumps({"detail": sentence, "where": ""}).encode()
    headers = [(b"content-type", b"application/json"), (b"content-length", str(len(body)).encode())]
    await send(
        {"type": "http.response.start", "status": status, "headers": [*headers, (b"connection", b"close")]}
    )
    await send({"type": "http.response.body", "body": body})
