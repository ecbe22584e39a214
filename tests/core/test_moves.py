"""Moves: their kernels against NumPy, the base's honesty, and the one-file mechanism."""

import sys
import textwrap

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.moves import MOVE_KINDS, MoveKind
from sunlatch.moves.base import NO_AUX, Lay
from sunlatch.moves.grid import survey
from sunlatch.parameters import read, shown

LAY = Lay((1.0, 2 / 3), (0.0, 0.0, 1.0, 2 / 3), lambda points: points)
STEERED = {"picked": {"at": {"x": 0.5, "y": 0.5}, "u": 0.05, "v": 0.1, "stops": 0}, "turn": 40, "lighten": 1}
MORE = {
    "hue_steer": {"anchors": [STEERED]},
    "rung_tints": {"zone": "lighter"},
    "relief": {"fine": 0.5},  # on so small a picture its scales are one
}
"""What some moves need besides their first parameter to do anything."""
PLACE = np.array([0.5 / 30, 0.5 / 20, 1 / 30, 1 / 20], np.float32)


def _run(kind, rgb, mask, strength=1.0, aux=NO_AUX, place=PLACE, **params):
    move = MOVE_KINDS[kind]
    out = np.ascontiguousarray(rgb, np.float32).copy()
    values = move.params(**params)
    coef = move.coefficients(values, strength)
    if move.located is not None:
        coef = np.concatenate([coef, move.located(values, LAY)])
    move.kernel(out, np.ascontiguousarray(mask, np.float32), coef, aux, place)
    return out


@given(st.floats(-6, 6), st.floats(0, 2))
def test_exposure_is_a_power_of_two_under_the_mask(ev, strength):
    rng = np.random.default_rng(1)
    rgb, mask = rng.random((3, 20, 30)), rng.random((20, 30))
    out = _run("exposure", rgb, mask, strength, ev=ev)
    assert np.allclose(out, rgb * 2.0 ** (mask * ev * strength), rtol=3e-5)


def _edge(size=480):
    """A 4-stop edge with 0.3-stop texture and 0.1-stop noise: stops (h, w), and which side is dark."""
    rng = np.random.default_rng(7)
    y, x = np.mgrid[0:size, 0:size]
    edge = size / 2 + 25 * np.sin(y / 40)
    dark = x < edge
    texture = 0.15 * np.sin(x / 2.7) * np.sin(y / 3.1) * 2
    stops = np.where(dark, -4.0, 0.0) + texture + rng.normal(0, 0.1, (size, size))
    return stops, dark, texture, np.abs(x - edge)


def test_base_of_contrast_is_honest_at_an_edge():
    """The bar for tonal masks: no halo over 0.05 stop outside 3 px, at most 20 % of the texture."""
    stops, dark, texture, far = _edge()
    size = stops.shape[0]
    rgb = np.repeat((0.18 * 2.0**stops)[None], 3, 0)
    place = np.array([0.5 / size, 0.5 / size, 1 / size, 1 / size], np.float32)
    # slope 1 about 0 stops: the change in stops is the base itself
    out = _run(
        "contrast",
        rgb,
        np.ones_like(stops),
        aux=survey(rgb.astype(np.float32)),
        place=place,
        amount=1.0,
        pivot=0.0,
    )
    base = np.log2(out[0] / rgb[0])
    inner = np.zeros_like(dark)
    inner[60:-60, 60:-60] = True
    for side, level in ((dark, -4.0), (~dark, 0.0)):
        at = far.astype(int)
        deep = base[side & (far > 60) & inner].mean()
        assert deep == pytest.approx(level, abs=0.05)
        profile = [base[side & inner & (at == d)].mean() for d in range(4, 40)]
        assert np.abs(np.array(profile) - deep).max() <= 0.05
        away = side & inner & (far > 20)
        left = np.polyfit(texture[away], base[away], 1)[0]
        assert left <= 0.20


def test_contrast_leaves_its_pivot_and_the_rest_turns_about_it():
    flat = np.full((3, 60, 60), 0.18 * 2.0**-1.5)
    flat[:, :, 30:] = 0.18 * 2.0**1.5
    place = np.array([0.5 / 60, 0.5 / 60, 1 / 60, 1 / 60], np.float32)
    out = _run(
        "contrast",
        flat,
        np.ones((60, 60)),
        aux=survey(flat.astype(np.float32)),
        place=place,
        amount=0.5,
        pivot=1.5,
    )
    gain = np.log2(out[0] / flat[0])
    assert np.allclose(gain[:, 45:], 0, atol=0.02)
    assert np.allclose(gain[:, :15], 0.5 * -3.0, atol=0.03)


@pytest.mark.parametrize("kind", [k for k, m in MOVE_KINDS.items() if m.band == "light"])
def test_a_move_does_nothing_where_its_mask_is_empty_or_its_strength_is_nil(kind):
    rgb = np.random.default_rng(2).random((3, 20, 30)).astype(np.float32) * 0.7 + 0.2
    move = MOVE_KINDS[kind]
    aux = move.survey(rgb, move.params()) if move.survey else NO_AUX
    first = {move.first: 0.5} | MORE.get(kind, {})
    assert np.array_equal(_run(kind, rgb, np.zeros((20, 30)), aux=aux, **first), rgb)
    assert np.allclose(_run(kind, rgb, np.ones((20, 30)), strength=0, aux=aux, **first), rgb, rtol=2e-5)
    assert np.abs(_run(kind, rgb, np.ones((20, 30)), aux=aux, **first) / rgb - 1).max() > 0.01


@pytest.mark.parametrize("kind", MOVE_KINDS)
def test_declarations_are_complete(kind):
    move = MOVE_KINDS[kind]
    params = move.params()
    text = read(move.sentence, params)
    assert text
    assert "{" not in text
    for name, field in move.params.model_fields.items():
        extra = field.json_schema_extra
        assert extra["label"]
        assert extra["kind"] in ("number", "choice", "point", "switch", "drawn", "colour")
        if extra["kind"] == "number":
            assert extra["step"] > 0
        shown(params, name)


def test_a_new_move_needs_one_file_and_no_other_change(tmp_path):
    """Put a move into the folder the program looks through: it is known, valid and readable."""
    import sunlatch.moves as home
    from sunlatch.moves.registry import _found

    (tmp_path / "halve_light.py").write_text(
        textwrap.dedent(
            '''
            """A move for this test."""
            from sunlatch.moves.base import MoveKind
            from sunlatch.moves.exposure import coefficients, kernel
            from sunlatch.parameters import Params, number

            class HalveParams(Params):
                """How often."""
                ev: float = number("Times", default=-1, low=-3, high=0, step=1, unit="stops")

            MOVE = MoveKind(kind="halve_light", revision=1, band="light", label="Halve", question="How bright?",
                            sentence="Halve by {ev}", params=HalveParams, kernel=kernel,
                            coefficients=coefficients, first="ev")
            '''
        )
    )
    home.__path__.append(str(tmp_path))
    try:
        found = _found()
        assert isinstance(found["halve_light"], MoveKind)
        assert read(found["halve_light"].sentence, found["halve_light"].params()) == "Halve by −1.0 stops"
    finally:
        home.__path__.remove(str(tmp_path))
        sys.modules.pop("sunlatch.moves.halve_light", None)
