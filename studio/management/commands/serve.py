"""Start web server and worker together; both stop with Ctrl-C."""

import signal
import socket
import subprocess
import sys
import threading
from typing import Any

import uvicorn
from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError

from studio import darkroom
from studio.field_camera import viewfinder
from studio.views import make_link


class Command(BaseCommand):
    """`manage.py serve --port 8000 [--link NAME]`"""

    help = "Start the studio: web server and worker."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--link", metavar="NAME", help="print a one-time link that signs NAME in")

    def handle(self, **options: Any) -> None:
        host, port = options["host"], options["port"]
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((host, port))
            except OSError as error:
                raise CommandError(f"Port {port} is in use; choose another with PORT=…") from error
        worker = subprocess.Popen(
            [sys.executable, str(settings.ROOT / "manage.py"), "work"], start_new_session=True
        )
        threading.Thread(target=self._warm, daemon=True).start()
        if options["link"]:
            user = User.objects.get(username=options["link"])
            token = make_link(user)
            self.stdout.write(f"\n  Sun Latch is ready: http://{host}:{port}/enter/{token}\n")
            self.stdout.write("  (the link signs you in once; Ctrl-C stops everything)\n\n")
            self.stdout.flush()
        # a plain kill ends like Ctrl-C, so the worker is never left behind
        signal.signal(signal.SIGTERM, lambda *_: signal.raise_signal(signal.SIGINT))
        try:
            uvicorn.run("studio.asgi:application", host=host, port=port, log_level="warning", lifespan="off")
        finally:
            worker.terminate()
            try:
                worker.wait(10)
            except subprocess.TimeoutExpired:
                worker.kill()
            darkroom.store().decoder.close()
            viewfinder().close()

    @staticmethod
    def _warm() -> None:
        darkroom.engine()
        darkroom.store().decoder.warm()
        # in a process of its own: compiling would keep this one from answering
        subprocess.run([sys.executable, "-m", "sunlatch.cli", "warm"], check=False)
