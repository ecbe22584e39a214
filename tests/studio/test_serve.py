"""The studio as it is started: two processes watched over, one worker, an end within seconds, nothing left behind."""

import http.cookiejar
import json
import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import threading
import time
import urllib.request
from contextlib import suppress

import numpy as np
import pytest

from fieldworld.camera import Shot, smaller
from fieldworld.seen import Viewpoint
from tests.coast import shoot
from tests.face.running import ROOT, free_port, studio


def _children(pid):
    found = subprocess.run(["pgrep", "-P", str(pid), "-a"], capture_output=True, text=True, check=False)
    pairs = [line.split(maxsplit=1) for line in found.stdout.splitlines()]
    return {("web" if " web " in said else "work" if "work" in said else said): int(p) for p, said in pairs}


def _until(question, seconds=120.0, every=0.1):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if question():
            return True
        time.sleep(every)
    return False


def _lives(pid):
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    with open(f"/proc/{pid}/stat") as file:
        return file.read().rpartition(")")[2].split()[0] != "Z"


class Visitor:
    """Somebody signed in by the link, without a browser."""

    def __init__(self, running):
        self.url, self.jar = running.url, http.cookiejar.CookieJar()
        self.open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar)).open
        self.open(running.link)
        self.get("/api/me")

    def get(self, path):
        with self.open(self.url + path, timeout=30) as answer:
            return json.loads(answer.read())

    def post(self, path, body, timeout=60):
        token = next(c.value for c in self.jar if c.name == "csrftoken")
        headers = {"Content-Type": "application/json", "X-CSRFToken": token}
        request = urllib.request.Request(self.url + path, json.dumps(body).encode(), headers)
        with self.open(request, timeout=timeout) as answer:
            return answer.read()


@pytest.fixture(scope="module")
def frames(tmp_path_factory):
    folder = tmp_path_factory.mktemp("frames")
    shoot(smaller(Shot("stack", Viewpoint()), 900), folder / "stack-backlit.dng")
    return folder


@pytest.fixture(scope="module")
def running(frames, tmp_path_factory):
    """One studio for all that leave it running; it is told to stop by the last of them."""
    with pytest.MonkeyPatch.context() as env:
        env.setenv("SUNLATCH_FOLDERS", str(frames))
        with studio(tmp_path_factory.mktemp("data"), frames) as started:
            yield started


@pytest.fixture(scope="module")
def visitor(running):
    return Visitor(running)


def test_whichever_stops_is_started_again_and_all_end_together(frames, tmp_path):
    with studio(tmp_path, frames) as running:
        _stopped_one_by_one(running, tmp_path)


def _stopped_one_by_one(running, tmp_path):
    top = running.process
    first = _children(top.pid)
    assert set(first) == {"web", "work"}
    os.kill(first["web"], signal.SIGKILL)
    assert _until(lambda: _children(top.pid).get("web", first["web"]) != first["web"])
    assert _until(running.listening)
    assert _children(top.pid)["work"] == first["work"]
    os.kill(first["work"], signal.SIGKILL)
    assert _until(lambda: _children(top.pid).get("work", first["work"]) != first["work"])

    # a second studio on the same folder is refused
    manage = [sys.executable, str(ROOT / "manage.py"), "serve", "--port", str(free_port())]
    env = os.environ | {"SUNLATCH_DATA": str(tmp_path)}
    refused = subprocess.run(manage, env=env, capture_output=True, text=True, timeout=60, check=False)
    assert "already runs on" in refused.stderr

    # killed as it is, it leaves nobody behind
    now = _children(top.pid)
    os.kill(top.pid, signal.SIGKILL)
    top.wait()
    assert _until(lambda: not any(_lives(pid) for pid in now.values()), 30)
    assert not running.listening()


def test_an_export_goes_on_after_serve_was_stopped_and_killed_again_and_again(frames, tmp_path):
    """Ordinary ends are no crashes: by a signal, and by the death of who watches over it."""
    database, job = tmp_path / "studio.sqlite3", ""

    def row():
        with sqlite3.connect(database, timeout=20) as base:
            found = base.execute("SELECT state, tries, message FROM studio_job WHERE id = ?", [job])
            return found.fetchone()

    for end in (signal.SIGTERM, signal.SIGKILL, signal.SIGTERM):
        with studio(tmp_path, frames) as running:
            visitor = Visitor(running)
            if not job:
                scene = next(s for o in visitor.get("/api/outings") for f in o["frames"] for s in f["scenes"])
                path = f"/api/scenes/{scene['id']}"
                opened = visitor.get(path)["revision"]
                line = {"kind": "relief", "params": {"coarse": 0.05}}
                moves = [{"id": f"m{n}", **line} for n in range(150)]  # a file that takes its time
                save = {
                    "base": opened["number"],
                    "document": opened["document"] | {"moves": moves},
                    "words": "x",
                }
                visitor.post(f"{path}/revisions", save)
                job = json.loads(visitor.post(f"{path}/exports", {"kind": "png"}))["id"]
            assert _until(lambda: row()[0] == "running", every=0.01)
            pids = _children(running.process.pid)
            os.kill(running.process.pid, end)
            running.process.wait(60)
            assert _until(lambda pids=pids: not any(_lives(pid) for pid in pids.values()))
        assert row()[0] == "queued", row()
        assert row()[1] == 0
    assert not list((tmp_path / "exports").rglob("*.p*"))


def _long_look(opened):
    """A question that takes minutes: sixty scribbles over the whole frame, at its full size."""
    rng = np.random.default_rng(1)
    strokes = [
        {"points": np.column_stack([rng.random((3000, 2)).round(4), np.ones(3000)]).ravel().tolist(),
         "radius": 0.001, "soft": 0.5, "flow": 0.5}
        for _ in range(60)
    ]  # fmt: skip
    latch = {"id": "l", "name": "Hand", "read_at": opened["read_at"], "ingredients": [{"kind": "hand", "params": {"strokes": strokes}}]}  # fmt: skip
    document = opened["revision"]["document"] | {"latches": [latch]}
    return {"document": document, "latch": "l", "width": 6000, "height": 3900}


def test_what_nobody_waits_for_any_more_stops_and_holds_up_nobody(running, visitor):
    scene = next(s for o in visitor.get("/api/outings") for f in o["frames"] for s in f["scenes"])
    path = f"/api/scenes/{scene['id']}"
    look = _long_look(visitor.get(path))
    with pytest.raises(TimeoutError):
        visitor.post(f"{path}/mask", look, timeout=3)  # the client goes
    assert visitor.post(f"{path}/picture", {"width": 90, "height": 60})
    # and the studio comes to rest, minutes before that question would be answered
    assert _until(lambda: _busy(running.web()) < 0.3, 240)


def _busy(pid, seconds=1.0):
    """The share of a core that a process takes."""

    def taken():
        with open(f"/proc/{pid}/stat") as file:
            fields = file.read().rpartition(")")[2].split()
        return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")

    before = taken()
    time.sleep(seconds)
    return (taken() - before) / seconds


def test_frames_do_not_arrive_behind_exports(visitor, frames):
    """A folder is read while a dozen exports are at work and waiting."""
    outing = visitor.get("/api/outings")[0]
    scene = outing["frames"][0]["scenes"][0]["id"]
    exports = [
        json.loads(visitor.post(f"/api/scenes/{scene}/exports", {"kind": "tif"}))["id"] for _ in range(12)
    ]
    job = json.loads(visitor.post(f"/api/outings/{outing['id']}/folder", {"folder": str(frames)}))["id"]
    assert _until(lambda: visitor.get(f"/api/jobs/{job}")["state"] == "done", 240)
    assert visitor.get(f"/api/jobs/{exports[-1]}")["state"] in ("queued", "running")
    assert _until(lambda: visitor.get(f"/api/jobs/{exports[-1]}")["state"] == "done", 240)


def test_a_job_that_kills_its_worker_twice_is_given_up_and_the_next_is_done(running, visitor):
    """A stand-in for whatever kills a worker: the test itself does, each time the job is at work."""
    scene = next(s for o in visitor.get("/api/outings") for f in o["frames"] for s in f["scenes"])
    database = running.data / "studio.sqlite3"
    job = json.loads(visitor.post(f"/api/scenes/{scene['id']}/exports", {"kind": "tif"}))["id"]

    def row(key):
        with sqlite3.connect(database, timeout=20) as base:
            return base.execute("SELECT state, tries, message FROM studio_job WHERE id = ?", [key]).fetchone()

    for tries in (1, 2):
        assert _until(lambda: "work" in _children(running.process.pid), 240)
        worker = _children(running.process.pid)["work"]
        assert _until(lambda tries=tries: row(job)[1] == tries, 240, every=0.002)
        os.kill(worker, signal.SIGSTOP)
        # at work still, or it would prove nothing
        assert row(job)[0] == "running"
        os.kill(worker, signal.SIGKILL)
        # or the next round takes the dead one for the worker
        assert _until(lambda worker=worker: _children(running.process.pid).get("work") != worker)
    assert _until(lambda: row(job)[0] == "failed", 240)
    assert "after two crashes" in row(job)[2]
    after = json.loads(visitor.post(f"/api/scenes/{scene['id']}/exports", {"kind": "jpg", "bits": 8}))["id"]
    assert _until(lambda: row(after)[0] == "done", 240)
    # of the one that was given up there is no half file
    exports = running.data / "exports"
    assert not list((exports / job).glob("*.tif")) if (exports / job).exists() else True
    shutil.rmtree(exports, ignore_errors=True)


def test_told_to_stop_in_the_midst_of_long_work_it_ends_within_seconds(running, visitor):
    scene = next(s for o in visitor.get("/api/outings") for f in o["frames"] for s in f["scenes"])
    opened = visitor.get(f"/api/scenes/{scene['id']}")
    look = _long_look(opened)
    answered = []

    def ask():
        with suppress(OSError):
            visitor.post(f"/api/scenes/{scene['id']}/mask", look)
            answered.append(1)

    asking = threading.Thread(target=ask, daemon=True)
    asking.start()
    time.sleep(2)
    assert not answered
    start = time.monotonic()
    running.process.terminate()
    running.process.wait(30)
    assert time.monotonic() - start < 15  # five where the machine is not busy
    asking.join(10)
