"""The API: thin, typed by pydantic, described by OpenAPI."""

import logging
from collections.abc import Callable
from functools import wraps
from typing import Any

from django.db import DatabaseError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, Throttled, ValidationError
from ninja.security import django_auth

from sunlatch.errors import DocumentError, StorageError, SunLatchError, TooLongError

from ..sentences import ABSENT, SIGNED_OUT, of_database, of_disk
from ..services import SupersededError
from . import (
    camera,
    choose,
    gather,
    ground,
    habits,
    jobs,
    joins,
    keeps,
    latches,
    light,
    mending,
    moves,
    naming,
    people,
    proof,
    removal,
    scenes,
    skies,
    vocabulary,
)
from .parsing import PlainParser, plainly


def _signed_in_only(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """How the API is described is told to those who may use it."""

    @wraps(view)
    def guarded(request: HttpRequest, *args: Any, **named: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return JsonResponse({"detail": SIGNED_OUT, "where": ""}, status=401)
        return view(request, *args, **named)

    return guarded


log = logging.getLogger(__name__)
api = NinjaAPI(
    title="Sun Latch", version="1", auth=django_auth, docs_url=None, docs_decorator=_signed_in_only,
    parser=PlainParser(),
)  # fmt: skip
for router in (
    people, vocabulary, gather, choose, removal, naming, camera, scenes, light, latches, moves, habits, ground, jobs, joins, mending, skies, keeps, proof,
):  # fmt: skip
    api.add_router("", router.router)


def _problem(request: HttpRequest, status: int, detail: str, where: str = "", line: str = "") -> HttpResponse:
    return api.create_response(request, {"detail": detail, "where": where, "line": line}, status=status)


@api.exception_handler(SunLatchError)
def refused(request: HttpRequest, error: SunLatchError) -> HttpResponse:
    """A refusal by the core: its sentence, and the field where there is one."""
    if isinstance(error, DocumentError):
        return _problem(request, 422, error.plain, error.where, error.line)
    status = 503 if isinstance(error, TooLongError | StorageError) else 422
    return _problem(request, status, str(error), line=error.line)


@api.exception_handler(SupersededError)
def superseded(request: HttpRequest, error: SupersededError) -> HttpResponse:
    """A newer request for the same view won."""
    return HttpResponse(status=204)


@api.exception_handler(ValidationError)
def misshapen(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """A request of the wrong shape."""
    first = error.errors[0]
    return _problem(request, 422, plainly(first), ".".join(str(p) for p in first["loc"]))


@api.exception_handler(Http404)
def absent(request: HttpRequest, error: Http404) -> HttpResponse:
    """Something that is not there, or is another's."""
    return _problem(request, 404, ABSENT)


@api.exception_handler(HttpError)
def turned_down(request: HttpRequest, error: HttpError) -> HttpResponse:
    """What Ninja turns down; of a body that could not be read, what was wrong with it."""
    cause = error.__cause__
    text = str(cause if isinstance(cause, SunLatchError | HttpError) else error)
    return _problem(request, error.status_code, text)


@api.exception_handler(AuthenticationError)
def signed_out(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    """Nobody, or nobody any more."""
    return _problem(request, 401, SIGNED_OUT)


@api.exception_handler(Throttled)
def too_often(request: HttpRequest, error: Throttled) -> HttpResponse:
    """Signing in again and again."""
    return _problem(request, 429, "That was tried too often. Wait a minute, then try again.")


@api.exception_handler(DatabaseError)
def not_kept(request: HttpRequest, error: DatabaseError) -> HttpResponse:
    """The database could not write or read."""
    log.exception("the database refused")
    return _problem(request, 503, of_database(error))


@api.exception_handler(OSError)
def disk(request: HttpRequest, error: OSError) -> HttpResponse:
    """The disk refused."""
    log.exception("the disk refused")
    return _problem(request, 503, of_disk(error))
