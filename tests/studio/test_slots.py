"""Whose turn it is: the more urgent goes first, the less urgent stands still and goes on, and nobody waits for ever."""

import threading
import time

import pytest

from studio.services import Lane, SupersededError, beside
from studio.slots import Rank, Slots
from sunlatch.errors import CancelledError, TooLongError
from sunlatch.render import Engine
from sunlatch.running.patience import Patience, go_on, holding, patience
from sunlatch.running.pool import ThreadPool


def _started(work):
    thread = threading.Thread(target=work, daemon=True)
    thread.start()
    return thread


def _until(question, seconds=5.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if question():
            return True
        time.sleep(0.002)
    return False


def _steps(lane, rank, view, said, stop):
    """Work that goes on in small steps, each noted, until told to stop."""

    def work():
        while not stop.is_set():
            go_on()
            said.append(view)
            time.sleep(0.002)

    with lane.asked(view, 1, rank):
        lane.run(work)


def test_what_is_measured_stands_still_while_a_drag_is_answered_and_goes_on_after():
    lane, slow, stop = Lane(), [], threading.Event()
    thread = _started(lambda: _steps(lane, Rank.SURVEY, "survey", slow, stop))
    assert _until(lambda: len(slow) > 5)
    before = time.monotonic()
    with lane.asked("drag", 1, Rank.DRAG):

        def answer():
            began = time.monotonic()
            time.sleep(0.1)  # a step that was under way may end
            stood = len(slow)
            time.sleep(0.2)
            assert len(slow) - stood <= 1
            return began

        began = lane.run(answer)
    assert began - before < 2  # it did not wait for the survey to end
    stood = len(slow)
    assert _until(lambda: len(slow) > stood + 5)
    stop.set()
    thread.join(5)


def test_of_one_rank_one_runs_at_a_time():
    lane, running, most = Lane(), [0], [0]

    def work():
        running[0] += 1
        most[0] = max(most[0], running[0])
        time.sleep(0.02)
        running[0] -= 1

    def ask(n):
        with lane.asked(f"v{n}", 1, Rank.LOOK):
            lane.run(work)

    threads = [_started(lambda n=n: ask(n)) for n in range(6)]
    for thread in threads:
        thread.join(5)
    assert most[0] == 1


def test_standing_still_is_not_counted_as_time_that_work_takes():
    slots = Slots()
    lane, outcome = Lane(slots), []

    def slow():
        with Patience(lambda: False, 1.0), lane.asked("slow", 1, Rank.MEASURE):

            def work():
                end = time.monotonic() + 0.15
                while time.monotonic() < end:
                    go_on()
                    time.sleep(0.005)
                outcome.append("begun")
                time.sleep(0.02)
                go_on()
                return "done"

            try:
                outcome.append(lane.run(work))
            except TooLongError:
                outcome.append("given up")

    thread = _started(slow)
    time.sleep(0.05)
    with slots.slot(Rank.DRAG):
        time.sleep(1.5)
    thread.join(5)
    assert outcome == ["begun", "done"]


def test_one_whose_client_has_gone_does_not_wait_for_its_turn():
    slots, gone = Slots(), threading.Event()
    with slots.slot(Rank.LOOK):
        gone.set()
        with pytest.raises(CancelledError), slots.slot(Rank.LOOK, gone.is_set):
            pass
    with slots.slot(Rank.LOOK):
        pass


def test_overtaken_while_it_stands_still_it_is_dropped():
    lane, outcome, stop = Lane(), [], threading.Event()

    def slow():
        try:
            _steps(lane, Rank.LOOK, "view", [], stop)
        except SupersededError:
            outcome.append("dropped")

    thread = _started(slow)
    assert _until(lambda: lane._slots._running[Rank.LOOK] == 1)
    with lane.asked("drag", 1, Rank.DRAG):

        def answer():
            with lane.asked("view", 2, Rank.LOOK):
                pass
            thread.join(5)

        lane.run(answer)
    assert outcome == ["dropped"]


def _finding(lane, lock, order):
    """Something less urgent that is at a finding, and holds its lock; begun."""
    begun = threading.Event()

    def work():
        with holding(lock):
            begun.set()
            for _ in range(50):
                go_on()
                time.sleep(0.005)
            order.append("found")

    def finder():
        with lane.asked("behind", 1, Rank.BEHIND):
            lane.run(work)

    thread = _started(finder)
    assert begun.wait(5)
    return thread


def test_the_urgent_does_not_wait_for_ever_for_what_stands_still_because_of_it():
    """A finding that the less urgent is at, and the more urgent needs: it steps aside until that is done."""
    lane, lock, order = Lane(), threading.Lock(), []
    thread = _finding(lane, lock, order)

    def look():
        with holding(lock):
            order.append("looked")

    with lane.asked("look", 1, Rank.DRAG):
        lane.run(look)
    thread.join(5)
    assert order == ["found", "looked"]


def test_nobody_waits_for_a_lock_on_behalf_of_who_has_gone():
    lock, gone = threading.Lock(), threading.Event()
    gone.set()
    with lock, Patience(gone.is_set), pytest.raises(CancelledError), holding(lock):
        pass
    with holding(lock):
        assert lock.locked()
    assert not lock.locked()


def test_each_rank_has_threads_of_its_own():
    """Bands of what stands still occupy no thread that a drag needs."""
    engine, gate = Engine(threads=2), threading.Event()
    with Patience(lambda: False, rank=Rank.SURVEY):
        held = [engine.pool.submit(gate.wait, 5) for _ in range(8)]
    with Patience(lambda: False, rank=Rank.DRAG):
        assert engine.pool.submit(lambda: patience().rank).result(2) == Rank.DRAG
    gate.set()
    for one in held:
        one.result(5)


def test_what_is_done_beside_is_wanted_as_long_as_the_rest_and_ends_with_it():
    said, gone = [], threading.Event()

    def steps():
        while True:
            go_on()
            said.append(threading.current_thread().name)
            time.sleep(0.002)

    def until_gone():
        with Patience(gone.is_set), beside(steps):
            assert _until(lambda: len(said) > 3)
            gone.set()

    with pytest.raises(CancelledError):
        until_gone()
    many = len(said)
    assert set(said) != {threading.current_thread().name}
    time.sleep(0.05)
    assert len(said) == many


def test_what_fails_beside_is_said():
    def fails():
        raise TooLongError("no")

    done = []
    with pytest.raises(TooLongError), beside(fails):
        done.append(1)
    assert done == [1]


def test_several_threads_of_one_turn_that_wait_for_the_less_urgent_do_not_hold_it_still():
    """And two requests that do: a turn is given up once, however many of its threads step aside."""
    lane, lock, order = Lane(), threading.Lock(), []

    def look(view, pool):
        def wait():
            with holding(lock):
                order.append(view)

        with lane.asked(view, 1, Rank.LOOK):
            lane.run(lambda: [one.result(8) for one in [pool.submit(wait) for _ in range(2)]])

    thread = _finding(lane, lock, order)
    crews = [ThreadPool(2), ThreadPool(2)]
    looks = [_started(lambda n=n: look(f"look {n}", crews[n])) for n in range(2)]
    for one in [thread, *looks]:
        one.join(8)
        assert not one.is_alive()
    assert order[0] == "found"
    assert sorted(order[1:]) == ["look 0", "look 0", "look 1", "look 1"]
    assert not any(lane._slots._running.values())
