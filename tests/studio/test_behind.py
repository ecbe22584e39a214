"""What is made behind: one thing at a time, of each scene the newest."""

import threading
import time

from studio import services
from studio.behind import Behind
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source
from sunlatch.running.patience import patience


class Bench:
    """Work that goes on until it is let go or given up."""

    def __init__(self):
        self.running, self.most, self.began, self.ended = 0, 0, [], []
        self.free = threading.Event()
        self._lock = threading.Lock()

    def work(self, key):
        def work(gone):
            with self._lock:
                self.running += 1
                self.most = max(self.most, self.running)
                self.began.append(key)
            while not gone() and not self.free.is_set():
                time.sleep(0.002)
            with self._lock:
                self.running -= 1
                self.ended.append((key, "given up" if gone() else "done"))

        return work


def _until(question, seconds=10.0):
    end = time.monotonic() + seconds
    while not question():
        assert time.monotonic() < end
        time.sleep(0.002)


def test_of_one_scene_the_newest_wins_and_one_runs_at_a_time():
    behind, bench = Behind("join-behind"), Bench()
    behind.ask("a", "a0", bench.work("a0"))
    _until(lambda: bench.began == ["a0"])
    for n in range(1, 9):
        behind.ask("a", f"a{n}", bench.work(f"a{n}"))
        behind.ask("a", f"a{n}", bench.work(f"a{n}"))  # as often as one looks
    _until(lambda: bench.began[-1] == "a8")
    bench.free.set()
    _until(lambda: len(bench.ended) == len(bench.began) and not behind._at_work)
    assert bench.most == 1
    assert bench.ended[0] == ("a0", "given up")
    assert bench.ended[-1] == ("a8", "done")
    assert len(bench.began) <= 9


def test_another_scene_waits_and_gives_up_nobody():
    behind, bench = Behind("join-behind"), Bench()
    behind.ask("a", "a0", bench.work("a0"))
    _until(lambda: bench.began == ["a0"])
    for _ in range(3):
        behind.ask("b", "b0", bench.work("b0"))
        behind.ask("a", "a0", bench.work("a0"))
    bench.free.set()
    _until(lambda: len(bench.ended) == 2 and not behind._at_work)
    assert bench.ended == [("a0", "done"), ("b0", "done")]


def test_what_fails_holds_up_nobody():
    behind, done = Behind("join-behind"), threading.Event()

    def fails(_):
        raise OSError("no room")

    behind.ask("a", "a0", fails)
    behind.ask("b", "b0", lambda _: done.set())
    assert done.wait(5)
    behind.ask("a", "a0", lambda _: done.clear())
    _until(lambda: not done.is_set())


def test_the_sky_of_the_scene_opened_last_is_looked_for_ahead(settings, monkeypatch):
    """And of none, where that is switched off."""
    bench = Bench()

    class Raster:
        complete = True

        def __init__(self, identity):
            self.identity = identity

    def sky_of(document, raster):
        bench.work(raster.identity)(patience().gone)

    monkeypatch.setattr(services, "sky_of", sky_of)
    document = Document(sources=[Source(sha256="0" * 64)])
    services.find_sky_later(document, Raster("off"))
    settings.SKY_AHEAD = True
    for name in ("first", "first", "second"):
        services.find_sky_later(document, Raster(name))
        _until(lambda name=name: name in bench.began)
    bench.free.set()
    _until(lambda: len(bench.ended) == 2)
    assert bench.began == ["first", "second"]
    assert bench.ended == [("first", "given up"), ("second", "done")]
