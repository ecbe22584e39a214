"""Work goes on while somebody waits for it."""

import threading
import uuid
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from sunlatch.running.patience import Patience

from . import services
from .logs import bound
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

        lane, name = services.lane(), uuid.uuid4().hex[:12]
        with (
            bound(request=name, path=request.path),
            Patience(gone, settings.PICTURE_SECONDS),
            lane.wanted(Rank.MEASURE),
        ):
            answer = get_response(request)
            answer["X-Request"] = name
            return answer

    return middleware
