"""The ASGI application."""

import os
import warnings

import django
from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler, ASGIRequest
from django.http.response import HttpResponseBase

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
# the built face is a handful of small files; that they are read whole is as it should be
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous")
django.setup(set_prefix=False)

from .door import Door  # noqa: E402  (settings must be there)


class OnOneThread(ASGIHandler):
    """Django's, with middleware and view on one thread from end to end, as all of ours are plain functions: going back to the
    loop and out again between them took longer than a short request takes."""

    def load_middleware(self, is_async: bool = False) -> None:
        """All of it as plain functions."""
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: ASGIRequest) -> HttpResponseBase:
        """The answer, whole."""
        return await sync_to_async(self.get_response)(request)


application = Door(OnOneThread())
