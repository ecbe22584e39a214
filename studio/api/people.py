"""Signing in and out."""

from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema

router = Router(tags=["people"])


class SignIn(Schema):
    """Name and password."""

    name: str
    password: str


class Person(Schema):
    """Who is signed in, if anybody."""

    name: str | None


class Problem(Schema):
    """What went wrong, in one sentence, and where."""

    detail: str
    where: str = ""


@router.get("/me", response=Person, auth=None)
def me(request: HttpRequest) -> Person:
    """Who is signed in; also hands out the token that writing needs."""
    get_token(request)
    return Person(name=request.user.get_username() or None)


@router.post("/sign-in", response={200: Person, 403: Problem}, auth=None)
def sign_in(request: HttpRequest, given: SignIn):  # type: ignore[no-untyped-def]
    """Sign in by password."""
    user = authenticate(request, username=given.name, password=given.password)
    if user is None:
        return 403, Problem(detail="That name and password do not belong together.")
    login(request, user)
    return 200, Person(name=user.get_username())


@router.post("/sign-out", response=Person)
def sign_out(request: HttpRequest) -> Person:
    """Sign out."""
    logout(request)
    return Person(name=None)
