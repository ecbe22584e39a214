"""The cable to the field camera: a process of its own that answers JSON lines (fieldworld/device.py).

The studio knows what the camera answers, and nothing of the coast behind it.
"""

import json
import os
import subprocess
import sys
import threading
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any

from django.conf import settings

from sunlatch.errors import SunLatchError

from .services import Lane


class CameraError(SunLatchError):
    """What the camera says it cannot do, or that it has gone."""


class FieldCamera:
    """One cable. Safe to share between threads; one request at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: subprocess.Popen[str] | None = None

    def ask(self, **request: Any) -> Iterator[dict[str, Any]]:
        """Send a request and hand on each answer, until it is done. Raises CameraError."""
        with self._lock:
            process = self._connected()
            assert process.stdin is not None
            assert process.stdout is not None
            try:
                process.stdin.write(json.dumps(request) + "\n")
                process.stdin.flush()
            except OSError as error:
                self._drop()
                raise CameraError("The field camera has been disconnected.") from error
            finished = False
            try:
                while not finished:
                    line = process.stdout.readline()
                    if not line:
                        raise CameraError("The field camera has been disconnected.")
                    message = json.loads(line)
                    if "error" in message:
                        finished = True
                        raise CameraError(message["error"])
                    finished = "frame" not in message
                    yield message
            finally:
                if not finished:  # left in the middle: what the camera still says would be misread
                    self._drop()

    def answer(self, **request: Any) -> dict[str, Any]:
        """The one answer to a request."""
        return next(iter(list(self.ask(**request))))

    def close(self) -> None:
        """Pull the cable."""
        with self._lock:
            self._drop()

    def _connected(self) -> subprocess.Popen[str]:
        if self._process is None or self._process.poll() is not None:
            self._process = subprocess.Popen(
                [sys.executable, "-m", "fieldworld.device"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                text=True,
                cwd=settings.ROOT,
                env=os.environ | {"OPENBLAS_NUM_THREADS": "1"},
            )
        return self._process

    def _drop(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.wait()
            for pipe in (self._process.stdin, self._process.stdout):
                if pipe is not None:
                    pipe.close()
            self._process = None


@cache
def viewfinder() -> FieldCamera:
    """The cable this process looks through; a release has one of its own."""
    return FieldCamera()


@cache
def viewfinder_lane() -> Lane:
    """Looks are taken one at a time, and the newest wins."""
    return Lane()


def landing_folder(job_id: str) -> Path:
    """Where frames of a release are read out to before they are taken in."""
    return Path(settings.DATA) / "landing" / job_id
