"""Damaged files end in a sentence, or in a frame of which a picture can be made; they hold up nobody."""

import os
import signal
import struct
import threading
import time

import imagecodecs
import numpy as np
import pytest
import tifffile

from fieldworld.camera import Shot, smaller
from fieldworld.seen import Viewpoint
from sunlatch.errors import FrameError
from sunlatch.frame import Decoder, Decoders, FrameStore, hash_file
from sunlatch.frame.metadata import MOST_PIXELS, FrameInfo
from sunlatch.ledger import Scene, Source
from sunlatch.render import picture_8
from tests.coast import shoot


@pytest.fixture(scope="module")
def whole(tmp_path_factory):
    """A tiny frame, and where its tags' values lie: {code: (offset, bytes)}."""
    path = tmp_path_factory.mktemp("whole") / "frame.dng"
    shoot(smaller(Shot("stack", Viewpoint()), 320), path)
    with tifffile.TiffFile(path) as tif:
        places = {t.code: (t.valueoffset, t.valuebytecount) for t in tif.pages[0].tags.values()}
    return path.read_bytes(), places


@pytest.fixture(scope="module")
def own_store(tmp_path_factory):
    made = FrameStore(tmp_path_factory.mktemp("damaged"))
    yield made
    made.decoder.close()


MATRIX, NEUTRAL, NOISE = 50721, 50728, 51041
ZERO, HUGE = struct.pack("<ii", 0, 1), struct.pack("<ii", 2**31 - 1, 1)
NAN, INFINITE = struct.pack("<d", float("nan")), struct.pack("<d", float("inf"))
SPOILT = [
    ("matrix of nothing", MATRIX, ZERO * 9),
    ("matrix of one row", MATRIX, (struct.pack("<ii", 1, 1) + ZERO * 2) * 3),
    ("matrix of huge numbers", MATRIX, HUGE * 9),
    ("matrix over nothing", MATRIX, struct.pack("<ii", 1, 0) * 9),
    ("matrix turned round", MATRIX, struct.pack("<ii", -1, 1) * 9),
    ("neutral of nothing", NEUTRAL, ZERO * 3),
    ("neutral of huge numbers", NEUTRAL, struct.pack("<ii", 2**31 - 1, 1) + ZERO + ZERO),
    ("neutral of one colour", NEUTRAL, struct.pack("<ii", 1, 10**6) + struct.pack("<ii", 1, 1) * 2),
    ("noise that is no number", NOISE, NAN * 6),
    ("noise without end", NOISE, INFINITE * 6),
    ("noise less than nothing", NOISE, struct.pack("<d", -1.0) * 6),
    ("black above white", 50714, struct.pack("<H", 65535)),
    ("white of nothing", 50717, struct.pack("<I", 0)),
    ("orientation of none", 274, struct.pack("<H", 77)),
]


def _ends(store, engine, path):
    """A sentence, or a picture."""
    sha256 = hash_file(path)
    try:
        info, pyramid = store.first_look(sha256, path)
    except FrameError as error:
        said = str(error)
    else:
        said = ""
    if said:
        assert said.startswith(f"{path.name} cannot be opened: ")
        assert len(said) < 400
        return
    made = engine.develop(Scene(sources=[Source(sha256=sha256)]), pyramid)
    shown = picture_8(made, made.geometry.fit(120), full=False)
    assert shown.std() >= 0
    info.model_dump_json()


@pytest.mark.parametrize(("name", "tag", "bytes_"), SPOILT, ids=[s[0] for s in SPOILT])
def test_what_a_file_says_of_its_colour_is_proved_before_it_is_a_frame(
    whole, own_store, engine, tmp_path, name, tag, bytes_
):
    data, places = whole
    at, length = places[tag]
    path = tmp_path / "spoilt.dng"
    path.write_bytes(data[:at] + bytes_[:length] + data[at + len(bytes_[:length]) :])
    _ends(own_store, engine, path)


def test_a_noise_profile_that_cannot_be_is_left_out(whole, own_store, tmp_path):
    data, places = whole
    at, length = places[NOISE]
    path = tmp_path / "noise.dng"
    path.write_bytes(data[:at] + (NAN * 6)[:length] + data[at + length :])
    info, _ = own_store.first_look(hash_file(path), path)
    assert info.noise_profile is None


@pytest.mark.parametrize("seed", range(48))
def test_bytes_changed_at_random_end_in_a_sentence_or_a_picture(whole, own_store, engine, tmp_path, seed):
    """Where the header is: there a changed byte changes what everything after it means."""
    rng = np.random.default_rng(seed)
    data = bytearray(whole[0])
    header = max(offset + size for offset, size in whole[1].values() if offset < 4096)
    for at in rng.integers(4, min(header, 4096), rng.integers(1, 12)):
        data[at] = int(rng.integers(0, 256))
    if seed % 6 == 0:
        del data[int(rng.integers(8, len(data))) :]
    path = tmp_path / "changed.dng"
    path.write_bytes(bytes(data))
    _ends(own_store, engine, path)


def test_facts_that_are_no_numbers_are_no_facts():
    with pytest.raises(ValueError, match="finite"):
        FrameInfo(width=100, height=100, kind="raw", noise_profile=(float("nan"), 0.0))


def test_a_frame_too_large_to_decode_is_told_its_limit_at_once(own_store, tmp_path):
    side = 12_000
    path = tmp_path / "large.png"
    path.write_bytes(imagecodecs.png_encode(np.zeros((side, side), np.uint8), level=1))
    assert side * side > MOST_PIXELS
    start = time.monotonic()
    with pytest.raises(
        FrameError, match=f"144 megapixels; frames of up to {MOST_PIXELS // 10**6} megapixels"
    ):
        own_store.first_look(hash_file(path), path)
    assert time.monotonic() - start < 30  # to decode it would take minutes


def test_a_frame_that_takes_long_holds_up_no_other(coast, tmp_path):
    decoders = Decoders(2)
    decoders.warm()
    slow = tmp_path / "slow.png"
    noise = np.random.default_rng(1).integers(0, 65535, (2600, 3600, 3), dtype=np.uint16)
    slow.write_bytes(imagecodecs.png_encode(noise, level=1))
    ended = []

    def decode(path, out):
        decoders.decode(path, tmp_path / out, ["first", "whole"])
        ended.append(out)

    try:
        first = threading.Thread(target=decode, args=(slow, "slow"))
        first.start()
        time.sleep(0.3)
        second = threading.Thread(target=decode, args=(coast.path, "quick"))
        second.start()
        second.join(60)
        first.join(120)
    finally:
        decoders.close()
    assert ended == ["quick", "slow"]


def test_asked_for_by_several_at_once_a_frame_is_decoded_once(coast, tmp_path, monkeypatch):
    store = FrameStore(tmp_path)
    calls, real = [], store.decoder.decode
    monkeypatch.setattr(store.decoder, "decode", lambda *a, **k: (calls.append(1), real(*a, **k))[1])
    threads = [threading.Thread(target=store.first_look, args=(coast.sha256, coast.path)) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    store.decoder.close()
    assert len(calls) == 1
    assert store.best(coast.sha256) is not None


def test_a_decoder_killed_from_outside_is_no_fault_of_the_frame(whole, tmp_path, monkeypatch):
    """Once: it is decoded all the same. Each time: that is said, and not that the frame is damaged."""
    path = tmp_path / "frame.dng"
    path.write_bytes(whole[0])
    decoder, plain, kills = Decoder(), Decoder._decode, []

    def killed(self, *given):
        child = self._ready()
        if len(kills) < often:
            kills.append(child.pid)
            os.kill(child.pid, signal.SIGSTOP)  # at work, however quick it is
            threading.Timer(0.2, os.kill, (child.pid, signal.SIGKILL)).start()
        plain(self, *given)

    monkeypatch.setattr(Decoder, "_decode", killed)
    often = 1
    decoder.decode(path, tmp_path / "once", ["first"])
    assert (tmp_path / "once" / "first" / "meta.json").exists()
    often = 3
    with pytest.raises(FrameError, match="stopped from outside") as said:
        decoder.decode(path, tmp_path / "twice", ["first"])
    assert "damaged" not in str(said.value)
    assert len(kills) == 3
    decoder.close()
