"""What a person waits for is bound to its light once: one development a request."""

import json
import traceback
from pathlib import Path

import pytest

from sunlatch.render import Development
from sunlatch.render.output import Output
from sunlatch.running.pool import ThreadPool
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)

SIZE = {"width": 60, "height": 40}


@pytest.fixture
def made(monkeypatch):
    """Scenes that were bound to their light, without those made behind of a bare frame."""
    made = []
    init = Development.__init__

    def counted(self, *given, **named):
        if given[1].latches:
            made.append(given[1])
        init(self, *given, **named)

    monkeypatch.setattr(Development, "__init__", counted)
    return made


@pytest.fixture
def document(scene):
    """A scene with a move that is held by its sky."""
    document = scene["revision"]["document"]
    document["latches"] = [
        {"id": "a", "name": "Sky", "read_at": scene["read_at"], "ingredients": [{"id": "i", "kind": "sky"}]}
    ]
    document["moves"] = [{"id": "m", "kind": "contrast", "latch": "a", "params": {"amount": 0.4}}]
    return document


@pytest.mark.parametrize(
    ("what", "more"),
    [
        ("picture", {**SIZE, "full": False}),
        ("picture", SIZE),
        ("picture", {**SIZE, "untrimmed": True}),
        ("picture", {**SIZE, "proof": "look"}),
        ("mask", {**SIZE, "latch": "a"}),
        ("meters", {"wings": ["a"]}),
        ("spot", {"x": 0.4, "y": 0.3}),
        ("watched", {"places": [{"x": 0.4, "y": 0.3}, {"x": 0.6, "y": 0.3}]}),
    ],
)
def test_one_development_a_request(client, scene, document, made, what, more):
    assert (
        post(client, f"/api/scenes/{scene['id']}/{what}", {"document": document, **more}).status_code == 200
    )
    assert len(made) == 1


def test_an_untrimmed_picture_says_what_trim_keeps(client, scene):
    """Of one development: the map of the whole, and of it what Trim leaves."""
    document = scene["revision"]["document"]
    document["ground"]["trim"]["params"].update(
        width=0.5, height=0.4, format="free", centre={"x": 0.5, "y": 0.33}
    )
    look = {"document": document, **SIZE}
    url = f"/api/scenes/{scene['id']}/picture"
    kept = post(client, url, look)["X-Map"]
    whole = post(client, url, {**look, "untrimmed": True})["X-Map"]
    assert json.loads(whole)["kept"] == pytest.approx(json.loads(kept)["box"])
    assert json.loads(whole)["box"] != json.loads(whole)["kept"]


def _ours():
    """The project's own functions on the stack, outermost first."""
    root = Path(__file__).resolve().parents[2]
    parts = [root / "studio", root / "sunlatch"]
    stack = [f for f in traceback.extract_stack() if any(p in Path(f.filename).parents for p in parts)]
    return [f.name for f in stack if f.name != "<listcomp>"]


def test_from_the_request_of_a_drag_to_its_px_it_is_fifteen_calls(client, scene, document, monkeypatch):
    """From where the server takes it to where a band of it is encoded, the threads' own calls among them."""
    asked, made = [], []
    submit, encode = ThreadPool.submit, Output.encode

    def submitted(self, *work, **named):
        asked.append(_ours())
        return submit(self, *work, **named)

    def encoded(self, *band):
        made.append(_ours())
        return encode(self, *band)

    monkeypatch.setattr(ThreadPool, "submit", submitted)
    monkeypatch.setattr(Output, "encode", encoded)
    look = {"document": document, **SIZE, "full": False}
    assert post(client, f"/api/scenes/{scene['id']}/picture", look).status_code == 200
    hops = [*asked[-1], "submit", *made[-1], "encode"]
    assert hops[-2:] == ["take", "encode"]
    assert len(hops) <= 15, hops
