"""The store of what is made once: one maker at a time, of all threads and processes, and none that holds on after its end."""

import subprocess
import sys
import threading

import pytest

from sunlatch.errors import CancelledError
from sunlatch.running.patience import Patience
from sunlatch.running.shelf import LOCKS, Shelf, keep_quota

HOLDS = """
import sys
from pathlib import Path
from sunlatch.running.shelf import Shelf
with Shelf(Path(sys.argv[1]), 1 << 30, 4).making("a", "whole"):
    print("holds", flush=True)
    sys.stdin.read()
"""


@pytest.fixture
def shelf(tmp_path):
    return Shelf(tmp_path, 1 << 30, 2)


@pytest.fixture
def other(tmp_path):
    """Another process that makes "a"."""
    process = subprocess.Popen(
        [sys.executable, "-c", HOLDS, str(tmp_path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert process.stdout.readline() == "holds\n"
    yield process
    process.kill()
    process.wait()


def _begun(shelf, stage, made):
    def make():
        with shelf.making("a", stage):
            made.set()

    thread = threading.Thread(target=make, daemon=True)
    thread.start()
    return thread


def test_what_another_process_makes_is_waited_for_until_that_ends(shelf, other):
    made = threading.Event()
    thread = _begun(shelf, "whole", made)
    assert not made.wait(0.5)
    other.kill()  # whatever its end
    assert made.wait(20)
    thread.join(20)


def test_a_first_look_does_not_wait_for_the_whole(shelf, other):
    made = threading.Event()
    _begun(shelf, "first", made)
    assert made.wait(20)
    assert other.poll() is None


def test_who_waits_may_be_gone_meanwhile(shelf, other):
    gone = threading.Event()
    threading.Timer(0.3, gone.set).start()
    with pytest.raises(CancelledError), Patience(gone.is_set), shelf.making("a", "whole"):
        pass
    assert other.poll() is None


def test_the_best_stage_is_read_once_and_held_open(shelf, tmp_path):
    read = []

    def reads(folder, key):
        if not folder.is_dir():
            raise FileNotFoundError
        read.append(key)
        return key

    assert shelf.best("a", reads) is None
    (tmp_path / "a" / "first").mkdir(parents=True)
    assert [shelf.best("a", reads) for _ in range(3)] == ["a-first"] * 3
    (tmp_path / "a" / "whole").mkdir()
    assert [shelf.best("a", reads) for _ in range(3)] == ["a-whole"] * 3
    assert read == ["a-first", "a-whole"]
    shelf.forget("a")
    assert shelf.best("a", reads) is None


def test_room_is_made_without_taking_the_locks(shelf, tmp_path):
    with shelf.making("a", "whole"):
        for name in "ab":
            (tmp_path / name).mkdir()
            (tmp_path / name / "px").write_bytes(bytes(1000))
        keep_quota(tmp_path, 10, tmp_path / "b")
        assert sorted(p.name for p in tmp_path.iterdir()) == [LOCKS, "b"]
