"""Start the real studio in its own data folder, and a real browser to use it with."""

import os
import re
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

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


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def studio(data: Path, frames: Path) -> Iterator[Running]:
    """Migrate, set up the demo photographer with the frames of a folder, serve."""
    env = os.environ | {"SUNLATCH_DATA": str(data)}
    manage = [sys.executable, str(ROOT / "manage.py")]
    subprocess.run([*manage, "migrate", "-v0"], env=env, check=True)
    subprocess.run([*manage, "demo", str(frames)], env=env, check=True, stdout=subprocess.DEVNULL)
    port = free_port()
    server = subprocess.Popen(
        [*manage, "serve", "--port", str(port), "--link", "demo"], env=env, stdout=subprocess.PIPE, text=True
    )
    try:
        assert server.stdout is not None
        link = ""
        for line in server.stdout:
            found = re.search(r"http://\S+/enter/\S+", line)
            if found:
                link = found[0]
                break
        assert link, "the studio did not start"
        url = f"http://127.0.0.1:{port}"
        for _ in range(100):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", port)) == 0:
                    break
            threading.Event().wait(0.1)
        yield Running(url, link, data)
    finally:
        server.terminate()
        server.wait(20)


@contextmanager
def chromium() -> Iterator[Browser]:
    """Debian's Chromium."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM_FLAGS)
        yield browser
        browser.close()
