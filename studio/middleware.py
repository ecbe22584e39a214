"""Work goes on while somebody waits for it."""

import threading
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from sunlatch.running.patience import Patience

from . import services
from .slots import Rank

closing = threading.Event()
"""Set when the studio is told to stop: nobody waits for anything any more."""


def while_wanted(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Computing stops when its client has gone (the door knows) or the studio closes, and is given up in the end."""

    def middleware(request: HttpRequest) -> HttpResponse:
        left: threading.Event | None = getattr(request, "scope", {}).get("sunlatch.gone")

        def gone() -> bool:
            return closing.is_set() or (left is not None and left.is_set())

        lane = services.lane()
        with Patience(gone, settings.PICTURE_SECONDS), lane.wanted(Rank.MEASURE):
            return get_response(request)

    return middleware
