"""Scenes as they were saved, and what was seen of them: kept/NAME.json and NAME.png (16 bits, sRGB, of the small coast at
200 px, at rest). Made once, with the program as it was then; never made anew to suit a change."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from sunlatch.colour.difference import delta_e
from sunlatch.colour.spaces import decode
from sunlatch.ledger import parse_scene
from sunlatch.render import Engine
from sunlatch.render.picture import shown_light

KEPT = Path(__file__).parent / "kept"


@pytest.mark.parametrize("path", sorted(KEPT.glob("*.json")), ids=lambda p: p.stem)
def test_an_old_scene_renders_as_it_did(coast, path):
    scene = parse_scene(path.read_text())
    development = Engine(threads=2).develop(scene, coast.pyramid)
    now = shown_light(development, development.geometry.fit(200)).transpose(1, 2, 0)
    then = decode(cv2.imread(str(path.with_suffix(".png")), cv2.IMREAD_UNCHANGED)[..., ::-1] / 65535, "srgb")
    assert now.shape == then.shape
    difference = delta_e(np.clip(now, 0, 1), then.astype(np.float32))
    assert difference.mean() <= 0.2
    assert np.percentile(difference, 99) <= 1.0


def test_there_are_some():
    assert len(list(KEPT.glob("*.json"))) >= 4
