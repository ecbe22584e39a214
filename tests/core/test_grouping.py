"""Which frames belong together, on the outing's own frames, and what is said when files are silent."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
import tifffile

from fieldworld.camera import smaller
from fieldworld.outing import OUTING
from sunlatch.frame import hash_file
from sunlatch.frame.grouping import FEW, Trait, _clock, group_frames, shift_between, trait_of
from sunlatch.frame.metadata import read_exif
from tests.coast import shoot

TOGETHER = ("twin-", "bracket-", "sweep-")


@pytest.fixture(scope="module")
def traits(tmp_path_factory, store) -> dict[str, Trait]:
    folder = tmp_path_factory.mktemp("grouping")
    found = {}
    for shot in OUTING:
        if not shot.name.startswith((*TOGETHER, "pool", "blue-hour", "path")):
            continue
        path = folder / f"{shot.name}.dng"
        shoot(smaller(shot, 1200), path)
        info, pyramid = store.first_look(hash_file(path), path)
        found[shot.name] = trait_of(shot.name, info, pyramid)
    return found


def _named(groups, traits):
    return {(g.kind, tuple(traits[i].name for i in g.members)) for g in groups}


def test_the_outing_falls_into_its_groups(traits):
    """Sweep, bracket and twin are found, nothing else is, whatever order the frames come in."""
    every = list(traits.values())
    wanted = {
        ("twin", ("twin-dark", "twin-bright")),
        ("bracket", tuple(f"bracket-{n}" for n in range(1, 6))),
        ("sweep", tuple(f"sweep-{n}" for n in range(1, 6))),
    }
    assert _named(group_frames(every), every) == wanted
    shuffled = [every[i] for i in np.random.default_rng(4).permutation(len(every))]
    assert _named(group_frames(shuffled), shuffled) == wanted


def test_the_measured_turn_is_the_cameras(traits):
    """Neighbours of the sweep overlap by about 30 %: what is seen moves left by the rest."""
    dx, dy, agree = shift_between(traits["sweep-2"], traits["sweep-3"])
    assert -0.85 < dx < -0.5
    assert abs(dy) < 0.1
    assert agree >= 12
    still = shift_between(traits["bracket-3"], traits["bracket-4"])
    assert abs(still[0]) < 0.03


def test_a_silent_file_is_grouped_by_picture_and_said_so(traits):
    sweep = [replace(traits[f"sweep-{n}"], taken=None) for n in range(1, 6)]
    groups = group_frames(sweep)
    assert _named(groups, sweep) == {("sweep", tuple(f"sweep-{n}" for n in range(1, 6)))}
    assert "does not say when it was taken" in groups[0].reasons[0]


def test_without_exposures_a_bracket_is_not_guessed(traits):
    frames = [replace(traits[f"bracket-{n}"], exposure=None) for n in (3, 4)]
    assert group_frames(frames) == []


@pytest.mark.parametrize(
    "change", [{"camera": "Another"}, {"focal": 90.0}, {"size": (10, 10)}, {"taken": 9e9}]
)
def test_what_cannot_belong_together_does_not(traits, change):
    frames = [traits["twin-dark"], replace(traits["twin-bright"], **change)]
    assert group_frames(frames) == []


def _brackets_of_a_sweep(traits, dark=()):
    """Each frame of the sweep three times, three stops apart; those of `dark` too dark to be compared."""
    out = []
    for n in range(1, 4):
        for k, stops in enumerate((-3.0, 0.0, 3.0)):
            one = traits[f"sweep-{n}"]
            look = np.zeros_like(one.look) if (n, k) in dark else one.look
            when = 1000.0 + 10 * n + 2 * k
            out.append(
                replace(
                    one, name=f"{n}{k}", exposure=one.exposure + stops, taken=when, seconds=0.1, look=look
                )
            )
    return out


@pytest.mark.parametrize("dark", [(), [(2, 0)], [(2, 0), (3, 0)]])
def test_a_sweep_of_brackets_is_one_sweep(traits, dark):
    """However dark its first frames are."""
    frames = _brackets_of_a_sweep(traits, dark)
    groups = group_frames(frames)
    assert _named(groups, frames) == {("sweep", tuple(f.name for f in frames))}


def test_brackets_of_the_same_view_or_other_exposures_stay_brackets(traits):
    frames = _brackets_of_a_sweep(traits)[:6]
    other = [*frames[:3], *(replace(f, exposure=f.exposure + 1.0) for f in frames[3:])]
    assert {g.kind for g in group_frames(other)} == {"bracket"}
    later = [*frames[:3], *(replace(f, taken=f.taken + 900) for f in frames[3:])]
    assert {g.kind for g in group_frames(later)} == {"bracket"}


def test_too_dark_to_compare_is_said(traits):
    black = replace(traits["bracket-1"], look=np.zeros_like(traits["bracket-1"].look))
    groups = group_frames([black, traits["bracket-2"], traits["bracket-3"]])
    assert groups[0].kind == "bracket"
    assert "too dark or too bright" in groups[0].reasons[0]


@pytest.mark.parametrize("fine", [False, True])
def test_a_burst_within_a_second_is_grouped(traits, fine):
    """Five exposures in two seconds: as whole seconds, several of one; as a camera writes parts of one, in order."""
    times = [40.0, 40.35, 40.7, 41.05, 41.4]
    burst = [
        replace(traits[f"bracket-{n + 1}"], taken=t if fine else float(int(t)), fine=fine, seconds=1 / 250)
        for n, t in enumerate(times)
    ]
    groups = group_frames(burst)
    assert _named(groups, burst) == {("bracket", tuple(f"bracket-{n}" for n in range(1, 6)))}
    # what began well before the one before had ended was taken by another hand
    long = [replace(burst[0], seconds=8.0), *burst[1:]]
    assert ("bracket", tuple(t.name for t in long)) not in _named(group_frames(long), long)


def test_where_all_carry_one_time_exposure_and_picture_tell(traits):
    frames = [
        replace(t, taken=1000.0, seconds=2.0)
        for name, t in traits.items()
        if name.startswith(("bracket", "pool"))
    ]
    assert _named(group_frames(frames), frames) == {("bracket", tuple(f"bracket-{n}" for n in range(1, 6)))}


def test_parts_of_a_second_are_read(tmp_path):
    path = tmp_path / "parts.tif"
    said = [(36867, "s", 0, "2026:10:03 18:21:40", True), (37521, "s", 0, "37", True)]
    tifffile.imwrite(path, np.zeros((20, 30, 3), np.uint8), photometric="rgb", extratags=said)
    taken = read_exif(path)["taken"]
    assert taken == "2026:10:03 18:21:40.37"
    assert _clock(taken) - _clock("2026:10:03 18:21:40") == pytest.approx(0.37, abs=1e-6)


def _noise(seed: int) -> np.ndarray:
    grey = cv2.GaussianBlur(
        np.random.default_rng(seed).normal(0, 1, (427, 640)).astype(np.float32), (0, 0), 2.5
    )
    return np.clip(128 + 220 * grey / max(float(np.abs(grey).max()), 1e-6), 0, 255).astype(np.uint8)


def _looked(name: str, look: np.ndarray) -> Trait:
    return Trait(name, look, (6000, 4000), "A", 0.0, 8.0, 0.01, 35.0)


def test_pictures_that_merely_resemble_each_other_are_no_sweep() -> None:
    """Things that are alike lie at a shift from each other, and nothing between them is; turned on, all of it is."""
    first = _noise(1)
    turned = np.roll(first, -250, axis=1)
    turned[:, -250:] = _noise(2)[:, -250:]
    alike = _noise(3)
    rng = np.random.default_rng(4)
    for _ in range(26):
        y, x = int(rng.integers(0, 427 - 44)), int(rng.integers(250, 640 - 44))
        alike[y : y + 44, x - 250 : x - 206] = first[y : y + 44, x : x + 44]
    whole, parts = (shift_between(_looked("a", first), _looked("b", b)) for b in (turned, alike))
    assert whole[2] >= FEW
    assert whole[0] == pytest.approx(-250 / 640, abs=0.01)
    assert parts == (0.0, 0.0, 0)
    # and the features alone would have said so
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("sunlatch.frame.grouping.SAME", -1.0)
        assert shift_between(_looked("a", first), _looked("b", alike))[2] >= FEW
