"""Start the real studio in its own data folder, and a real browser to use it with."""

import ctypes
import json
import os
import re
import signal
import socket
import sqlite3
import subprocess
import sys
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, expect, sync_playwright

# machines are busy when tests run: a state is waited for, however long it takes
PATIENT = int(os.environ.get("FACE_PATIENCE", 120_000))
expect.set_options(timeout=PATIENT)

ROOT = Path(__file__).resolve().parents[2]
CHROMIUM_FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip


@dataclass
class Running:
    """A started studio: its address, and the link that signs the demo photographer in."""

    url: str
    link: str
    data: Path
    process: "subprocess.Popen[str] | None" = None
    """The supervisor."""

    def web(self) -> int:
        """The web server's process."""
        assert self.process is not None
        found = subprocess.run(
            ["pgrep", "-P", str(self.process.pid), "-f", "manage.py web"],
            capture_output=True,
            text=True,
            check=True,
        )
        return int(found.stdout.split()[0])

    def listening(self) -> bool:
        """Whether somebody answers at the address."""
        with socket.socket() as probe:
            return probe.connect_ex(("127.0.0.1", int(self.url.rpartition(":")[2]))) == 0


def _end_with_tests() -> None:
    """Said by the kernel, however the tests end (prctl(2), PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)


_DATA: dict[str, Path] = {}
"""Data folders of the studios that run, by address."""


def saved_document(url: str) -> dict[str, Any]:
    """The document of the scene at an address, as it lies in the studio's database. Asked for there, the scene would be
    opened once more, and its sky looked for."""
    home, scene = re.match(r"(http://[^/]+)/.*/([^/?#]+)", url).groups()  # type: ignore[union-attr]
    find = """SELECT document FROM studio_revision r JOIN studio_scene s ON r.scene_id = s.id
              WHERE s.id = ? AND r.number = s.head"""
    with closing(sqlite3.connect(_DATA[home] / "studio.sqlite3", timeout=60)) as base:
        return json.loads(base.execute(find, [scene]).fetchone()[0])


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _env(data: Path) -> dict[str, str]:
    # machines are busy when tests run: what is given up there would not be elsewhere
    return os.environ | {"SUNLATCH_DATA": str(data), "SUNLATCH_PATIENCE": "300"}


@cache
def _setting_up() -> "subprocess.Popen[str]":
    return subprocess.Popen(
        [sys.executable, "-m", "tests.face.set_up"], env=_env(Path()), cwd=ROOT, text=True,
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, preexec_fn=_end_with_tests,
    )  # fmt: skip


def _set_up(data: Path, frames: Path, name: str, *more: str) -> str:
    """As `set_up.set_up`, by a process that is there for all of them."""
    there = _setting_up()
    assert there.stdin
    assert there.stdout
    there.stdin.write(json.dumps([str(data), str(frames), name, *more]) + "\n")
    there.stdin.flush()
    said = json.loads(there.stdout.readline() or "null")
    assert said is not None, f"{data} was not set up"
    return str(said)


def photographer(running: Running, frames: Path, name: str) -> Running:
    """Another photographer of a studio that runs, with an outing of the frames of a folder, and his link."""
    token = _set_up(running.data, frames, name, "link")
    return replace(running, link=f"{running.url}/enter/{token}")


@contextmanager
def studio(data: Path, frames: Path, *more: str) -> Iterator[Running]:
    """Migrate, set up the demo photographer with the frames of a folder, serve; what has run before is served as it is.
    "sweep": the sweep comes worked, too."""
    env, manage = _env(data), [sys.executable, str(ROOT / "manage.py")]
    if not (data / "studio.sqlite3").exists():
        _set_up(data, frames, "demo", "migrate", *more)
    port = free_port()
    server = subprocess.Popen(
        [*manage, "serve", "--port", str(port), "--link", "demo"], env=env, stdout=subprocess.PIPE, text=True,
        preexec_fn=_end_with_tests,
    )  # fmt: skip
    try:
        assert server.stdout is not None
        link = ""
        for line in server.stdout:
            found = re.search(r"http://\S+/enter/\S+", line)
            if found:
                link = found[0]
                break
        assert link, "the studio did not start"
        started = Running(f"http://127.0.0.1:{port}", link, data, server)
        assert started.listening()
        _DATA[started.url] = data
        yield started
    finally:
        server.terminate()
        try:
            server.wait(PATIENT / 1000)
        finally:
            server.kill()


def _chromium_path() -> str:
    """Debian's Chromium; where it is installed, the one without a window, which is lighter by a tenth."""
    light = Path("/usr/bin/chromium-headless-shell")
    return os.environ.get("CHROMIUM", str(light) if light.exists() else "/usr/bin/chromium")


@contextmanager
def chromium() -> Iterator[Browser]:
    """Debian's Chromium."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=_chromium_path(), args=CHROMIUM_FLAGS)
        yield browser
        browser.close()
