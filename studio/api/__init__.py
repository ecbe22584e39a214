"""The API: thin, typed by pydantic, described by OpenAPI."""

from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError
from ninja.security import django_auth

from sunlatch.errors import SunLatchError

from ..darkroom import SupersededError
from . import camera, choose, gather, ground, habits, jobs, latches, light, moves, people, vocabulary

api = NinjaAPI(title="Sun Latch", version="1", auth=django_auth, docs_url=None)
api.add_router("", people.router)
api.add_router("", vocabulary.router)
api.add_router("", gather.router)
api.add_router("", choose.router)
api.add_router("", camera.router)
api.add_router("", light.router)
api.add_router("", latches.router)
api.add_router("", moves.router)
api.add_router("", habits.router)
api.add_router("", ground.router)
api.add_router("", jobs.router)


@api.exception_handler(SunLatchError)
def refused(request: HttpRequest, error: SunLatchError) -> HttpResponse:
    """A refusal by the core: its sentence, and the field where there is one."""
    where = getattr(error, "where", "")
    return api.create_response(request, {"detail": str(error), "where": where}, status=422)


@api.exception_handler(SupersededError)
def superseded(request: HttpRequest, error: SupersededError) -> HttpResponse:
    """A newer request for the same view won."""
    return HttpResponse(status=204)


@api.exception_handler(ValidationError)
def misshapen(request: HttpRequest, error: ValidationError) -> HttpResponse:
    """A request of the wrong shape."""
    first = error.errors[0]
    where = ".".join(str(p) for p in first["loc"])
    return api.create_response(request, {"detail": f"{where}: {first['msg']}", "where": where}, status=422)
