"""The scene document: round trips, refusals that name the field, sentences."""

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.errors import DocumentError
from sunlatch.ledger import (
    Group,
    Latch,
    ReadAt,
    Scene,
    Source,
    Spare,
    habit_of,
    habit_of_moves,
    json_schema,
    latch_of,
    load_scene,
    move_sentence,
    moves_of,
    new_ingredient,
    new_move,
    parse_scene,
    save_scene,
)

AT = ReadAt(kelvin=5500, duv=0.001, base_exposure=0.3)
FRAME = Source(sha256="ab" * 32, path="../frames/stack.dng")


def _scene() -> Scene:
    sky = Latch(
        name="Sky", read_at=AT, ingredients=[new_ingredient("fan"), new_ingredient("ramp", join="keep_only")]
    )
    return Scene(
        name="Stack",
        sources=[FRAME],
        latches=[sky],
        moves=[
            new_move(
                "exposure", params={"ev": -0.9}, latch=sky.id, spare=[Spare(what="highlights", read_at=AT)]
            ),
            new_move("contrast", params={"amount": 0.2}),
        ],
    )


def test_a_scene_comes_back_as_it_went(tmp_path):
    scene = _scene()
    save_scene(scene, tmp_path / "scene.json")
    assert load_scene(tmp_path / "scene.json") == scene
    assert [p.name for p in tmp_path.iterdir()] == ["scene.json"]


@given(st.floats(-6, 6), st.floats(0, 2), st.booleans(), st.text(max_size=60))
def test_any_move_comes_back(ev, strength, on, note):
    scene = _scene()
    scene.moves.append(new_move("exposure", params={"ev": ev}, strength=strength, on=on, note=note))
    assert parse_scene(scene.model_dump_json()) == scene


def test_sentences():
    scene = _scene()
    assert move_sentence(scene.moves[0], scene) == "Exposure −0.9 stops on Sky, sparing highlights"
    assert move_sentence(scene.moves[1], scene) == "Contrast +20 %, pivot −1.0 stops"


def _bad(change):
    data = json.loads(_scene().model_dump_json())
    change(data)
    return data


@pytest.mark.parametrize(
    ("change", "where", "said"),
    [
        (lambda d: d.update(extra=1), "extra", "not known"),
        (lambda d: d["moves"][0]["params"].update(ev="loud"), "moves[0].params.ev", "number"),
        (lambda d: d["moves"][0]["params"].update(ev=40), "moves[0].params.ev", "less than or equal to 6"),
        (lambda d: d["moves"][0]["params"].update(ev=math.inf), "moves[0].params.ev", "finite"),
        (lambda d: d["moves"][1].update(kind="sparkle"), "moves[1]", "no kind 'sparkle'"),
        (lambda d: d["latches"][0]["ingredients"][1].update(join="or"), "latches[0].ingredients[1].join", "add"),
        (lambda d: d["latches"][0]["ingredients"][0]["params"].update(x=1), "latches[0].ingredients[0].params.x", "not known"),
        (lambda d: d.update(sources=[]), "sources", "at least 1"),
        (lambda d: d["sources"][0].update(sha256="zz"), "sources[0].sha256", "match"),
        (lambda d: d["ground"]["ends"]["params"].update(black=5), "ground.ends.params.black", "less than"),
        (lambda d: d["moves"][0].update(latch="nowhere"), "", r"moves\[0\].latch names a latch"),
        (lambda d: d["moves"][0].update(revision=99), "moves[0].revision", "less than or equal to 1"),
        (lambda d: d.update(schema_version=99), "schema_version", "newer"),
        (lambda d: d.update(schema_version="one"), "schema_version", "whole number"),
    ],
)  # fmt: skip
def test_bad_documents_name_the_field(change, where, said):
    with pytest.raises(DocumentError, match=said) as refusal:
        parse_scene(_bad(change))
    assert refusal.value.where == where


@pytest.mark.parametrize("text", ["", "[1]", "{", '{"schema_version": NaN}', '{"schema_version": 1}'])
def test_text_that_is_no_document(text):
    with pytest.raises(DocumentError):
        parse_scene(text)


def test_two_things_may_not_share_an_id():
    scene = _scene()
    scene.moves[1].id = scene.moves[0].id
    with pytest.raises(DocumentError, match="same id"):
        parse_scene(scene.model_dump_json())


def test_the_schema_knows_every_kind():
    text = json.dumps(json_schema())
    for kind in ("exposure", "contrast", "fan", "ramp", "light_range"):
        assert f'"const": "{kind}"' in text


def test_a_habit_keeps_what_can_be_found_anew():
    at = ReadAt(kelvin=5000, duv=0.0, base_exposure=1.0)
    mark = {"points": [0.1, 0.1, 1.0], "radius": 0.01, "soft": 0, "flow": 1}
    box = {"one": {"x": 0.1, "y": 0.1}, "other": {"x": 0.2, "y": 0.2}}
    latch = Latch(
        name="Evening sky",
        read_at=at,
        feather=12,
        ingredients=[
            new_ingredient("sky", params={"marks": [mark]}),
            new_ingredient("fan", join="keep_only", params={"narrowness": 3.0}),
            new_ingredient("subject", join="take_away", params={"box": box}),
            new_ingredient("hand", params={"strokes": [mark]}),
        ],
    )
    habit = json.loads(json.dumps(habit_of(latch)))
    other = ReadAt(kelvin=7000, duv=0.001, base_exposure=0.0)
    made = latch_of(habit, other, {"Evening sky", "Evening sky 2"})
    assert made.name == "Evening sky 3"
    assert made.read_at == other
    assert made.feather == 12
    assert [i.kind for i in made.ingredients] == ["sky", "fan", "subject"]
    assert [i.join for i in made.ingredients] == ["add", "keep_only", "take_away"]
    assert made.ingredients[0].params.marks == []
    assert made.ingredients[1].params.narrowness == 3.0
    assert made.ingredients[2].params.box is None
    assert not {i.id for i in made.ingredients} & {i.id for i in latch.ingredients}
    by_hand = Latch(name="Painted", read_at=at, ingredients=[latch.ingredients[3]])
    with pytest.raises(DocumentError, match="Painted is made by hand"):
        habit_of(by_hand)
    with pytest.raises(DocumentError, match="does not fit"):
        latch_of(habit | {"feather": "much"}, other, set())


def test_moves_kept_as_a_habit_come_with_their_latches():
    scene = _scene()
    stroke = {"points": [0.1, 0.1, 1.0], "radius": 0.01, "soft": 0, "flow": 1}
    painted = Latch(
        name="Painted", read_at=AT, ingredients=[new_ingredient("hand", params={"strokes": [stroke]})]
    )
    scene.latches.append(painted)
    everywhere = new_move("vividness", params={"amount": 0.1}, name="A little colour")
    scene.moves += [new_move("exposure", latch=painted.id, params={"ev": 1}), everywhere]
    ids = [move.id for move in scene.moves]
    habit = json.loads(json.dumps(habit_of_moves(scene, ids)))
    other = Scene(sources=[FRAME])
    light = ReadAt(kelvin=7000, duv=0.001, base_exposure=0.0)
    moves, latches = moves_of(habit, other, light)
    assert [latch.name for latch in latches] == ["Sky"]
    assert [(m.kind, m.name) for m in moves][-1] == ("vividness", "A little colour")
    assert not [m for m in moves if m.kind == "exposure" and m.params.ev == 1], (
        "what was painted stays behind"
    )
    assert moves[0].latch == latches[0].id
    assert moves[0].spare[0].read_at == latches[0].read_at == light
    assert moves[0].params == scene.moves[0].params
    assert not {m.id for m in moves} & set(ids)
    # the scene's own latch of that name is used
    again, made = moves_of(habit, scene, light)
    assert made == []
    assert again[0].latch == scene.latches[0].id
    Scene.model_validate({**other.model_dump(), "latches": latches, "moves": moves})
    with pytest.raises(DocumentError, match="by hand"):
        habit_of_moves(scene, [scene.moves[-2].id])


def test_a_group_is_switched_as_one_and_its_lines_keep_their_own_switches():
    group = Group(name="Sky", on=True)
    moves = [
        new_move("exposure", group=group.id),
        new_move("contrast", group=group.id, on=False),
        new_move("haze"),
    ]
    scene = Scene(sources=[FRAME], moves=moves, groups=[group])
    assert [m.kind for m in scene.working()] == ["exposure", "haze"]
    group.on = False
    scene = parse_scene(scene.model_copy(update={"groups": [group]}).model_dump(mode="json"))
    assert [m.kind for m in scene.working()] == ["haze"]
    assert [m.on for m in scene.moves] == [True, False, True]
    with pytest.raises(DocumentError, match="group that is not in the document"):
        parse_scene(scene.model_dump(mode="json") | {"groups": []})


def test_latches_in_use_are_those_of_lines_that_are_on_and_what_they_are_made_of():
    made = [Latch(name=name, read_at=AT, ingredients=[new_ingredient("fan")]) for name in "abcd"]
    a, b, c, d = made
    a.ingredients.append(new_ingredient("another", params={"latch": b.id}))
    b.ingredients.append(new_ingredient("another", params={"latch": c.id}))
    moves = [new_move("exposure", latch=a.id), new_move("exposure", latch=d.id, on=False)]
    scene = Scene(sources=[FRAME], latches=made, moves=moves)
    assert [latch.name for latch in scene.in_use()] == ["a", "b", "c"]
    scene.ground.noise.latch = d.id
    assert {latch.name for latch in scene.in_use()} == set("abcd")
    b.ingredients[1].on = False
    assert [latch.name for latch in scene.made_of([a])] == ["a", "b"]
