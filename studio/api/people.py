"""Signing in and out."""

import hashlib
import json
from contextlib import suppress

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.throttling import SimpleRateThrottle
from ninja.utils import check_csrf

router = Router(tags=["people"])


class SignIn(Schema):
    """Name and password."""

    name: str
    password: str


class Person(Schema):
    """Who is signed in, if anybody."""

    name: str | None


class Problem(Schema):
    """What went wrong, in one sentence, and where; line: of the document, whose doing it is, where that is known: its id, or the
    kind of a Ground line."""

    detail: str
    where: str = ""
    line: str = ""


@router.get("/me", response=Person, auth=None)
def me(request: HttpRequest) -> Person:
    """Who is signed in; also hands out the token that writing needs."""
    get_token(request)
    return Person(name=request.user.get_username() or None)


class Pace(SimpleRateThrottle):
    """How often one may try to sign in, from one address; `named`: and by one name."""

    def __init__(self, rate: str, named: bool) -> None:
        super().__init__(rate)
        self._named = named

    def get_cache_key(self, request: HttpRequest) -> str:
        """What is counted under."""
        name = ""
        if self._named:
            with suppress(ValueError, AttributeError):
                name = str(json.loads(request.body).get("name", "")).casefold()
        return f"sign-in-{self.get_ident(request)}-{hashlib.sha256(repr(name).encode()).hexdigest()}"


@router.post(
    "/sign-in", response={200: Person, 403: Problem}, auth=None,
    throttle=[Pace(settings.SIGN_IN_PACE[0], True), Pace(settings.SIGN_IN_PACE[1], False)],
)  # fmt: skip
def sign_in(request: HttpRequest, given: SignIn):  # type: ignore[no-untyped-def]
    """Sign in by password."""
    if check_csrf(request) is not None:
        raise HttpError(403, "This page has expired; reload it.")
    user = authenticate(request, username=given.name, password=given.password)
    if user is None:
        return 403, Problem(detail="Wrong name or password.")
    login(request, user)
    return 200, Person(name=user.get_username())


@router.post("/sign-out", response=Person)
def sign_out(request: HttpRequest) -> Person:
    """Sign out."""
    logout(request)
    return Person(name=None)
