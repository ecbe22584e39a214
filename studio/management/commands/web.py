"""The web server, started and watched by `serve`."""

import logging
import os
import subprocess
import sys
import threading
from typing import Any

import uvicorn
from django.core.management.base import BaseCommand
from django.db import DatabaseError, connection

from studio import services, thumbnails
from studio.field_camera import viewfinder
from studio.keeping import end_with_parent
from studio.middleware import closing
from studio.models import Frame
from sunlatch.compiled import warmed
from sunlatch.errors import SunLatchError

log = logging.getLogger(__name__)
LONGEST_END = 3.0
"""Seconds that what is under way has, once it is told that nobody waits."""


class Command(BaseCommand):
    """`manage.py web --port 8000`"""

    help = "Serve the face and the API."
    requires_system_checks: list[str] = []  # tests ask for them; here they cost seconds, and the whole API

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--host", default="127.0.0.1")

    def handle(self, **options: Any) -> None:
        end_with_parent()
        threading.Thread(target=self._warm, daemon=True).start()
        server = uvicorn.Server(
            uvicorn.Config(
                "studio.asgi:application", host=options["host"], port=options["port"], log_level="warning",
                lifespan="off", timeout_graceful_shutdown=1, backlog=256,
            )
        )  # fmt: skip
        stop = server.handle_exit

        def end(number: int, frame: Any) -> None:
            closing.set()
            late = threading.Timer(LONGEST_END, os._exit, (0,))
            late.daemon = True
            late.start()
            stop(number, frame)

        server.handle_exit = end  # type: ignore[method-assign]
        try:
            server.run()
        finally:
            services.store().decoder.close()
            viewfinder().close()
            sys.stdout.flush()
            # threads that compute to their end would keep the process until then
            os._exit(0 if server.started else 1)

    @staticmethod
    def _warm() -> None:
        services.engine()
        services.store().decoder.warm()
        if not warmed().exists():
            # in a process of its own: compiling would keep this one from answering
            subprocess.run(
                [sys.executable, "-m", "sunlatch.cli", "warm"], stdin=subprocess.DEVNULL, check=False
            )
        # kernels are read from the disk when they are first called: a third of a second before the first picture
        try:
            newest = Frame.objects.order_by("-arrived").first()
            raster = newest and services.store().best(newest.sha256)
            if newest and raster:
                thumbnails.made_of(newest.sha256, raster, 64)
        except (SunLatchError, DatabaseError, OSError) as error:
            log.info("the first picture will take its time: %s", error)
        finally:
            connection.close()
