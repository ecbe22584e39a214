"""The parent's side of decoding: prewarmed children, time limits, a new child after a crash."""

import json
import os
import queue
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..errors import FrameError

Stage = Callable[[str, dict[str, Any]], None]


FROM_OUTSIDE = (signal.SIGKILL, signal.SIGTERM, signal.SIGINT, signal.SIGHUP)
"""Signals that no file makes its decoder die of."""


class _StoppedError(Exception):
    """The child was stopped by somebody else."""


class Decoder:
    """Decodes one frame at a time in a child process. Safe to share between threads."""

    def __init__(self, time_limit_s: float = 180.0) -> None:
        self._limit = time_limit_s
        self._lock = threading.Lock()
        self._child: subprocess.Popen[str] | None = None
        self._lines: queue.SimpleQueue[str] = queue.SimpleQueue()

    def warm(self) -> None:
        """Start the child now, so that the first frame need not wait for it."""
        with self._lock:
            self._ready()

    def close(self) -> None:
        """End the child."""
        with self._lock:
            self._end()

    def decode(self, path: Path, out: Path, stages: list[str], on_stage: Stage | None = None) -> None:
        """Decode `path` into folder `out`, stages "first" (half size, quick) and/or "whole".

        `on_stage(name, message)` is called as each is finished ("facts", "first", "whole").
        Raises FrameError with the reason; the child is replaced if it died or overran its time.
        """
        with self._lock:
            try:
                self._decode(path, out, stages, on_stage)
            except _StoppedError:
                # not the frame's fault: a full memory, somebody's kill; once more, with a new child
                try:
                    self._decode(path, out, stages, on_stage)
                except _StoppedError as error:
                    raise FrameError(
                        "the decoder was stopped from outside, twice; there may be too little memory. Try again"
                    ) from error

    def _decode(self, path: Path, out: Path, stages: list[str], on_stage: Stage | None) -> None:
        child = self._ready()
        assert child.stdin is not None
        request = {"path": str(path.absolute()), "out": str(out.absolute()), "stages": stages}
        try:
            child.stdin.write(json.dumps(request) + "\n")
            child.stdin.flush()
        except OSError as error:
            self._end()
            raise _StoppedError from error
        deadline = time.monotonic() + self._limit
        while True:
            message = self._next(deadline)
            if "error" in message:
                raise FrameError(message["error"])
            if message["stage"] == "done":
                return
            if on_stage is not None:
                on_stage(message["stage"], message)

    def _ready(self) -> subprocess.Popen[str]:
        if self._child is not None and self._child.poll() is None:
            return self._child
        env = os.environ | {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "2", "PYTHONUNBUFFERED": "1"}
        self._child = subprocess.Popen(
            [sys.executable, "-m", "sunlatch.frame.child"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
            env=env,
            cwd=Path(__file__).resolve().parents[2],
        )
        self._lines = queue.SimpleQueue()
        threading.Thread(target=_listen, args=(self._child, self._lines), daemon=True).start()
        if self._next(time.monotonic() + 60).get("stage") != "ready":
            raise FrameError("the decoder did not start")
        return self._child

    def _next(self, deadline: float) -> dict[str, Any]:
        try:
            line = self._lines.get(timeout=max(deadline - time.monotonic(), 0.001))
        except queue.Empty:
            self._end()
            raise FrameError(f"it took longer than {self._limit:.0f} s to decode") from None
        if not line:
            code = self._child.wait() if self._child is not None else 0
            self._end()
            if -code in FROM_OUTSIDE:
                raise _StoppedError
            raise FrameError("the decoder crashed on it; its contents are damaged")
        message: dict[str, Any] = json.loads(line)
        return message

    def _end(self) -> None:
        if self._child is not None:
            self._child.kill()
            self._child.wait()
            if self._child.stdin is not None:
                self._child.stdin.close()
            self._child = None


class Decoders:
    """Several decoders, each with a child of its own, so that a frame that takes long holds up no other. Safe to
    share between threads."""

    def __init__(self, count: int = 2, time_limit_s: float = 180.0) -> None:
        self._all = [Decoder(time_limit_s) for _ in range(count)]
        self._free: queue.LifoQueue[Decoder] = queue.LifoQueue()
        for one in reversed(self._all):
            self._free.put(one)

    def warm(self) -> None:
        """Start the children now, so that the first frame need not wait for one."""
        for one in self._all:
            one.warm()

    def close(self) -> None:
        """End the children."""
        for one in self._all:
            one.close()

    def decode(self, path: Path, out: Path, stages: list[str], on_stage: Stage | None = None) -> None:
        """As `Decoder.decode`, by whichever is free; waits where none is."""
        one = self._free.get()
        try:
            one.decode(path, out, stages, on_stage)
        finally:
            self._free.put(one)


def _listen(child: subprocess.Popen[str], lines: "queue.SimpleQueue[str]") -> None:
    """Pass the child's answers on; an empty line says that it has ended."""
    assert child.stdout is not None
    with child.stdout:
        for line in child.stdout:
            lines.put(line)
    lines.put("")
