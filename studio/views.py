"""The two pages that are not API: the face itself, and signing in by a link."""

import hashlib
import secrets
import sys
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect, JsonResponse
from django.utils import timezone
from django.views.decorators.csrf import ensure_csrf_cookie

from .models import SignInLink
from .sentences import ABSENT, of_anything


@ensure_csrf_cookie
def face(request: HttpRequest) -> HttpResponse:
    """The single page; its script does the rest."""
    page = Path(settings.WHITENOISE_ROOT) / "index.html"
    if not page.exists():
        return HttpResponse("The face has not been built yet: run `make build`.", status=503)
    return HttpResponse(page.read_bytes())


def broken(request: HttpRequest) -> HttpResponse:
    """An error that nothing caught: a sentence all the same."""
    return JsonResponse({"detail": of_anything(sys.exc_info()[1]), "where": ""}, status=500)


def absent(request: HttpRequest, exception: Exception) -> HttpResponse:
    """An address, or a thing, that is not there."""
    return JsonResponse({"detail": ABSENT, "where": ""}, status=404)


def make_link(user: User) -> str:
    """A fresh token that signs `user` in once."""
    token = secrets.token_urlsafe(24)
    SignInLink.objects.filter(user=user).delete()
    SignInLink.objects.create(token_hash=_hash(token), user=user)
    return token


def use_link(request: HttpRequest, token: str) -> HttpResponse:
    """Sign in by a one-time link; a used, old or unknown one leads to the sign-in page."""
    since = timezone.now() - timedelta(hours=settings.LINK_HOURS)
    claimed = SignInLink.objects.filter(token_hash=_hash(token), used=False, made__gte=since).update(
        used=True
    )
    if claimed:
        link = SignInLink.objects.select_related("user").get(token_hash=_hash(token))
        login(request, link.user, backend="django.contrib.auth.backends.ModelBackend")
        return HttpResponseRedirect("/")
    return HttpResponseRedirect("/" if request.user.is_authenticated else "/sign-in?link=used")


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
