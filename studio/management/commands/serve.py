"""Start the studio: one process that watches over two others, the web server and the worker.

Whichever stops is started again, after pauses that grow; both stop with this one, however it ends: each reads a pipe
from it, and the pipe ends when it does. One studio to a data folder.
"""

import os
import signal
import socket
import subprocess
import sys
import threading
import time
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError

from studio.keeping import Taken, held, prune
from studio.views import make_link

LONGEST_PAUSE = 60.0
HEALTHY = 60.0
"""Seconds after which one that stops counts as having run well."""
GRACE = 4.0
"""Seconds that both have to stop."""


GIVES_BACK = {"MALLOC_MMAP_THRESHOLD_": str(4 << 20), "MALLOC_TRIM_THRESHOLD_": str(64 << 20)}
"""Says to the C library that large arrays are given back to the system when they are done with (mallopt(3)): else what a
picture took is kept in pieces, half a gigabyte after an hour. As quick as without."""


class Watched:
    """A process that is started again when it stops."""

    def __init__(self, name: str, *arguments: str) -> None:
        self.name = name
        self._arguments = arguments
        self._process: subprocess.Popen[bytes] | None = None
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._watch, name=name, daemon=True)

    def start(self) -> None:
        """Start it, and keep it started."""
        self._thread.start()

    def stop(self) -> None:
        """Ask it to stop."""
        self._ending.set()
        if self._process is not None and self._process.poll() is None:
            self._process.terminate()

    def end(self, seconds: float) -> None:
        """Wait for it to stop; after so many seconds it is killed."""
        self._thread.join(max(seconds, 0))
        if self._process is not None and self._process.poll() is None:
            self._process.kill()
            self._process.wait()

    def _watch(self) -> None:
        pause = 0.5
        while not self._ending.is_set():
            begun = time.monotonic()
            self._process = subprocess.Popen(
                [sys.executable, str(settings.ROOT / "manage.py"), *self._arguments],
                stdin=subprocess.PIPE,  # held open by us, and by nobody when we are gone
                start_new_session=True,  # Ctrl-C reaches us alone, and we stop them in order
            )
            if self._ending.is_set():  # told to stop while it was being started
                self._process.terminate()
            code = self._process.wait()
            if self._ending.is_set():
                return
            pause = 1.0 if time.monotonic() - begun > HEALTHY else min(pause * 2, LONGEST_PAUSE)
            sys.stderr.write(f"  The {self.name} stopped ({code}); it is started again in {pause:.0f} s.\n")
            self._ending.wait(pause)


def _until_it_answers(host: str, port: int, ended: threading.Event, seconds: float = 60.0) -> None:
    """A link that nobody answers yet is no link."""
    until = time.monotonic() + seconds
    while time.monotonic() < until and not ended.wait(0.1):
        with socket.socket() as probe:
            if probe.connect_ex((host if host != "0.0.0.0" else "127.0.0.1", port)) == 0:
                return


class Command(BaseCommand):
    """`manage.py serve --port 8000 [--link NAME]`"""

    help = "Start the studio: web server and worker, watched over."
    requires_system_checks: list[str] = []  # tests ask for them; here they cost seconds, and the whole API

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
        try:
            with held("studio.lock"):
                prune()
                self._serve(host, port, options["link"])
        except Taken as error:
            raise CommandError(f"A studio already runs on {settings.DATA}.") from error

    def _serve(self, host: str, port: int, link: str | None) -> None:
        os.environ.update(GIVES_BACK)
        os.environ["TMPDIR"] = str(settings.ARRIVING_FOLDER)  # what arrives is spooled beside what it becomes
        ended = threading.Event()
        for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
            signal.signal(number, lambda *_: ended.set())
        both = [
            Watched("web server", "web", "--host", host, "--port", str(port)),
            Watched("worker", "work"),
        ]
        for one in both:
            one.start()
        if link:
            _until_it_answers(host, port, ended)
            token = make_link(User.objects.get(username=link))
            self.stdout.write(f"\n  Sun Latch is ready: http://{host}:{port}/enter/{token}\n")
            self.stdout.write(
                f"  (the link signs you in once, within {settings.LINK_HOURS} h; Ctrl-C stops everything)\n\n"
            )
            self.stdout.flush()
        while not ended.wait(1.0):
            pass
        until = time.monotonic() + GRACE
        for one in both:
            one.stop()
        for one in both:
            one.end(until - time.monotonic())
