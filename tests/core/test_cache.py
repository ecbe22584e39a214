"""What is kept: bounded in bytes, shared between threads, and made once however many ask for it."""

import threading
import time
from contextlib import contextmanager

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.errors import CancelledError, RenderError, TooLongError
from sunlatch.running import ByteCache
from sunlatch.running.cache import _Making
from sunlatch.running.patience import Patience
from sunlatch.running.pool import ThreadPool


@given(st.lists(st.tuples(st.integers(0, 12), st.integers(1, 400)), max_size=80))
def test_the_cache_never_holds_more_than_its_bytes(puts):
    cache = ByteCache(1000)
    for key, size in puts:
        cache.put(str(key), np.zeros(size, np.uint8))
        assert cache.bytes <= 1000
        assert cache.bytes == sum(v.nbytes for v in cache._held.values())


def test_the_cache_drops_what_was_used_longest_ago():
    cache = ByteCache(300)
    for key in "abc":
        cache.put(key, np.zeros(100, np.uint8))
    cache.get("a")
    cache.put("d", np.zeros(100, np.uint8))
    assert cache.get("b") is None
    assert cache.get("a") is not None
    cache.put("huge", np.zeros(301, np.uint8))
    assert cache.get("huge") is None
    assert cache.get("d") is not None


def test_the_cache_is_shared_between_threads():
    cache, wrong = ByteCache(5000), []

    def work(n):
        for i in range(200):
            key = f"{i % 20}"
            found = cache.remember(key, lambda key=key: np.full(100, int(key), np.uint8))
            if found[0] != int(key):
                wrong.append((n, key))

    threads = [threading.Thread(target=work, args=(n,)) for n in range(4)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert not wrong
    assert cache.bytes <= 5000


def _slow(made, seconds=0.15):
    def make():
        made.append(threading.current_thread().name)
        time.sleep(seconds)
        return np.ones(10)

    return make


def _all(*works):
    threads = [threading.Thread(target=work) for work in works]
    for t in threads:
        t.start()
        time.sleep(0.02)
    for t in threads:
        t.join(10)
        assert not t.is_alive()


def test_asked_for_by_several_at_once_a_thing_is_made_once():
    cache, made, got = ByteCache(5000), [], []
    _all(*[lambda: got.append(cache.remember("a", _slow(made))) for _ in range(4)])
    assert len(made) == 1
    assert all(g is got[0] for g in got)


@pytest.fixture
def asked(monkeypatch):
    """Released by everyone who begins to wait."""
    asked, wait = threading.Semaphore(0), _Making.wait
    monkeypatch.setattr(_Making, "wait", lambda making: (asked.release(), wait(making))[1])
    return asked


def test_what_is_too_large_to_keep_is_handed_on_all_the_same(asked):
    cache, made, got = ByteCache(8), [], []

    def make():
        made.append(threading.current_thread().name)
        assert all(asked.acquire(timeout=10) for _ in range(2))
        return np.ones(10)

    _all(*[lambda: got.append(cache.remember("a", make)) for _ in range(3)])
    assert len(made) == 1
    assert len(got) == 3


def test_who_waited_makes_it_where_the_first_gave_up():
    cache, made, got = ByteCache(5000), [], []

    def gives_up():
        def make():
            time.sleep(0.1)
            raise CancelledError("no")

        with pytest.raises(CancelledError):
            cache.remember("a", make)

    _all(gives_up, lambda: got.append(cache.remember("a", _slow(made))))
    assert len(made) == 1
    assert len(got) == 1


def test_what_takes_long_is_waited_for_whoever_makes_it():
    """Who waits gives up his turn meanwhile: the less urgent stands still for as long as he has it."""
    cache, made, got, at_work = ByteCache(5000), [], [], threading.Event()

    def lesser():
        def make():
            while at_work.is_set():
                time.sleep(0.01)
            return _slow(made)()

        with Patience(lambda: False, rank=3):
            cache.remember("a", make, long=True)

    @contextmanager
    def aside():
        at_work.clear()
        yield
        at_work.set()

    def urgent():
        at_work.set()
        with Patience(lambda: False, rank=0, yielding=aside):
            got.append(cache.remember("a", _slow(made, 0), long=True))
        at_work.clear()

    _all(lesser, urgent)
    assert len(made) == len(got) == 1


@pytest.mark.parametrize(("rank", "ends"), [(3, "made"), (0, "too long")], ids=["less", "more"])
def test_waiting_is_counted_but_for_what_is_less_urgent(asked, rank, ends):
    cache, made, how = ByteCache(5000), [], []

    def make():
        assert asked.acquire(timeout=10)
        return _slow(made, 0.6)()

    def makes():
        with Patience(lambda: False, rank=rank):
            cache.remember("a", make, long=True)

    def waits():
        try:
            with Patience(lambda: False, 0.2, rank=1):
                cache.remember("a", _slow(made, 0), long=True)
                how.append("made")
        except TooLongError:
            how.append("too long")

    _all(makes, waits)
    assert how == [ends]
    assert len(made) == 1


def test_nobody_waits_for_the_less_urgent():
    """It may stand still until we are through."""
    cache, made, through = ByteCache(5000), [], threading.Event()

    def lesser():
        with Patience(lambda: False, rank=3):
            cache.remember("a", lambda: np.ones(3) * through.wait(5))

    def urgent():
        with Patience(lambda: False, rank=0):
            cache.remember("a", _slow(made, 0))
        through.set()

    _all(lesser, urgent)
    assert len(made) == 1


def test_a_crew_does_not_wait_for_who_waits_for_it():
    """Outside, something is made on the pool's only thread, which comes to need it itself."""
    cache, pool, made = ByteCache(5000), ThreadPool(1), []
    begun = threading.Event()

    def needs():
        begun.wait(5)
        return cache.remember("a", _slow(made, 0))

    first = pool.submit(needs)

    def outside():
        def make():
            begun.set()
            return pool.submit(lambda: np.zeros(2)).result(5)

        cache.remember("a", make)

    _all(outside)
    assert first.result(5).size == 10


def test_on_a_crew_one_waits_for_the_other():
    cache, pool, made = ByteCache(5000), ThreadPool(2), []
    jobs = [pool.submit(lambda: cache.remember("a", _slow(made))) for _ in range(2)]
    assert all(job.result(5).size == 10 for job in jobs)
    assert len(made) == 1


def test_who_waits_may_lose_patience():
    cache, made = ByteCache(5000), []
    gone = threading.Event()

    def waits():
        with Patience(gone.is_set), pytest.raises(CancelledError):
            cache.remember("a", _slow(made))

    _all(lambda: cache.remember("a", _slow(made, 0.4)), waits, gone.set)
    assert len(made) == 1


def test_a_maker_who_would_wait_for_himself_is_an_error_with_a_sentence():
    for long in (False, True):
        cache = ByteCache(5000)
        with pytest.raises(RenderError, match="made of itself"):
            cache.remember("a", lambda c=cache, n=long: c.remember("a", lambda: np.ones(3), n), long)
        # by way of another, and handed to a pool meanwhile
        pool = ThreadPool(2)

        def around(c=cache, n=long, pool=pool):
            return c.remember("b", lambda: pool.submit(c.remember, "a", np.ones, n).result(), n)

        with pytest.raises(RenderError, match="made of itself"):
            cache.remember("a", around, long)
        assert cache.remember("a", lambda: np.ones(3), long) is not None


def test_two_makers_who_would_wait_for_each_other_are_an_error_not_a_wait():
    cache, said = ByteCache(5000), []
    both = threading.Barrier(2)

    def first(key, other):
        def make():
            both.wait(5)
            return cache.remember(other, lambda: np.ones(3), long=True)

        try:
            cache.remember(key, make, long=True)
        except RenderError as error:
            said.append(str(error))

    _all(lambda: first("a", "b"), lambda: first("b", "a"))
    assert len(said) >= 1
