"""The command line, as a script would use it."""

import errno
import json
import os
import subprocess
import sys

import cv2
import numpy as np
import pytest
import tifffile

from sunlatch import __version__
from sunlatch.cli import main
from sunlatch.colour import output_profile
from sunlatch.errors import CancelledError, ExportError
from sunlatch.proof import write_picture
from sunlatch.render import Output

FILE = Output("srgb", 16)


@pytest.fixture
def run(tmp_path, monkeypatch, capfd):
    """Run `sunlatch …` in a folder of its own, in this process: starting one takes seconds."""

    def call(*words: str) -> subprocess.CompletedProcess[str]:
        monkeypatch.chdir(tmp_path)
        monkeypatch.setenv("SUNLATCH_CACHE", str(tmp_path / "cache"))
        monkeypatch.setattr(sys, "argv", ["sunlatch", *words])
        code = 0
        try:
            main()
        except SystemExit as leaving:
            code = int(leaving.code or 0)
        said = capfd.readouterr()
        return subprocess.CompletedProcess(words, code, said.out, said.err)

    return call


@pytest.fixture
def start(tmp_path):
    """Start `sunlatch …` as a shell does."""

    def call(*words: str) -> subprocess.CompletedProcess[str]:
        env = os.environ | {"SUNLATCH_CACHE": str(tmp_path / "cache")}
        return subprocess.run(
            [sys.executable, "-m", "sunlatch.cli", *words],
            cwd=tmp_path,
            env=env,
            capture_output=True,
            text=True,
        )

    return call


def test_it_starts_from_a_shell_and_refuses_with_a_sentence(start, coast):
    assert start("version").stdout.strip() == __version__
    assert json.loads(start("info", str(coast.path), "--json").stdout)["width"] == 1272
    gone = start("info", "gone.dng")
    assert gone.returncode == 2
    assert "gone.dng is not there" in gone.stderr
    assert len(gone.stderr.strip().splitlines()) == 1


def test_a_scene_worked_by_script(run, tmp_path, coast):
    (tmp_path / "frames").mkdir()
    os.link(coast.path, tmp_path / "frames" / "stack.dng")

    def ok(*words):
        done = run(*words)
        assert done.returncode == 0, done.stderr
        return done.stdout

    facts = json.loads(ok("info", "frames/stack.dng", "--json"))
    assert facts["iso"] == 100
    ok("new", "frames/stack.dng", "-o", "scene.json")
    assert json.loads((tmp_path / "scene.json").read_text())["sources"][0]["path"] == "frames/stack.dng"
    ok("latch", "scene.json", "add", "Sky", "fan", "leaning=lights")
    ok("latch", "scene.json", "add", "Sky", "ramp", "full.y=0.35", "none.y=0.45", "--join", "keep_only")
    ok("move", "scene.json", "add", "exposure", "ev=-0.9", "--latch", "Sky")
    ok("move", "scene.json", "set", "1", "ev=-2")
    ok("move", "scene.json", "set", "rendering", "setting=plain")
    assert "Exposure −2.0 stops, latched to Sky" in ok("move", "scene.json", "list")
    assert "keep only: Ramp" in ok("latch", "scene.json", "list")
    ok("render", "--scene", "scene.json", "-o", "out.tif", "--space", "p3", "--long-edge", "400")
    with tifffile.TiffFile(tmp_path / "out.tif") as tif:
        page = tif.pages[0]
        assert page.dtype == np.uint16
        assert max(page.shape[:2]) == 400
        assert page.tags[34675].value == output_profile("p3")
    ok("mask", "--scene", "scene.json", "--latch", "Sky", "-o", "mask.png")
    mask = cv2.imread(str(tmp_path / "mask.png"), cv2.IMREAD_UNCHANGED)
    assert mask.dtype == np.uint16
    assert mask.shape == coast.truth.sky.shape
    near = (coast.truth.land > 0.99) & (coast.truth.depth < 30)
    assert mask[near].mean() < 0.1 * mask[:100].mean()
    ok("render", "--scene", "scene.json", "-o", "part.png", "--region", "0,0,0.5,0.5", "--bits", "8")
    assert cv2.imread(str(tmp_path / "part.png")).shape[:2] == tuple(round(s / 2) for s in mask.shape)
    ok("render", "--scene", "scene.json", "-o", "light.tif", "--space", "linear", "--bits", "32")
    assert tifffile.imread(tmp_path / "light.tif").dtype == np.float32
    held = run("latch", "scene.json", "rm", "Sky")
    assert held.returncode == 2
    assert "still used" in held.stderr
    ok("move", "scene.json", "rm", "1")
    ok("latch", "scene.json", "rm", "Sky")
    assert json.loads(ok("schema"))["title"].startswith("Sun Latch scene")

    refusals = [
        (("move", "scene.json", "add", "exposure", "ev=99"), "params.ev"),
        (("move", "scene.json", "add", "sparkle"), "no move 'sparkle'"),
        (("move", "scene.json", "add", "exposure", "--latch", "Moon"), "no latch 'Moon'"),
        (("render", "--scene", "scene.json", "-o", "x.bmp"), ".bmp"),
        (("render", "--scene", "scene.json", "-o", "x.jpg"), "holds 8 bits"),
        (("render", "--scene", "scene.json", "-o", "x.tif", "--region", "0.5,0,0.2,1"), "inside"),
        (("render", "--scene", "nothing.json", "-o", "x.tif"), "could not be read"),
        (("info", "scene.json"), "recognises"),
        (("render", "--scene", "scene.json", "-o", "missing/x.tif"), "No such file"),
    ]
    before = sorted(p.name for p in tmp_path.iterdir())
    for words, said in refusals:
        done = run(*words)
        assert done.returncode == 2, words
        assert said in done.stderr
        assert done.stderr.count("\n") == 1
    assert sorted(p.name for p in tmp_path.iterdir()) == before
    os.unlink(tmp_path / "frames" / "stack.dng")
    gone = run("render", "--scene", "scene.json", "-o", "x.tif")
    assert gone.returncode == 2
    assert "sources[0].path" in gone.stderr


def test_a_full_disk_leaves_no_file(tmp_path, development, monkeypatch):
    import sunlatch.proof.writers as writers

    def fails_halfway(path, *rest, **named):
        path.write_bytes(b"half a file")
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(writers.tifffile, "imwrite", fails_halfway)
    with pytest.raises(ExportError, match=r"disk is full\. No file is left"):
        write_picture(development, tmp_path / "out.tif", view=development.geometry.fit(200), output=FILE)
    assert not list(tmp_path.iterdir())


@pytest.mark.parametrize("ending", ["tif", "png"])
def test_cancelling_leaves_no_file(tmp_path, development, ending):
    def stop(share):
        raise CancelledError("stop")

    with pytest.raises(CancelledError):
        write_picture(
            development,
            tmp_path / f"out.{ending}",
            view=development.geometry.fit(600),
            output=FILE,
            progress=stop,
        )
    assert not list(tmp_path.iterdir())


def test_ground_from_the_command_line(run, tmp_path, coast):
    """Start for me says why; what cannot be is refused and leaves the document as it was."""
    os.link(coast.path, tmp_path / "stack.dng")
    proposed = run("new", "stack.dng", "-o", "scene.json", "--propose")
    assert proposed.returncode == 0, proposed.stderr
    said = dict(line.split(": ", 1) for line in proposed.stdout.splitlines())
    assert {"Lens", "Ends"} <= set(said)
    scene = json.loads((tmp_path / "scene.json").read_text())
    assert scene["ground"]["lens"]["why"] == said["Lens"]
    assert run("latch", "scene.json", "add", "Sky", "fan").returncode == 0
    before = (tmp_path / "scene.json").read_bytes()
    for words, sentence in (
        (("lens", "known=hand", "bend=-0.25"), "fold the picture over itself"),
        (("trim", "width=0.0001"), "trim.params.width"),
        (("colour_of_light", "kelvin=900"), "colour_of_light.params.kelvin"),
        (("ends", "--latch", "Sky"), "cannot be latched"),
        (("noise", "--strength", "0.5"), "no strength of its own"),
    ):
        refused = run("move", "scene.json", "set", *words)
        assert refused.returncode == 2, words
        assert sentence in refused.stderr
        assert refused.stderr.count("\n") == 1
        assert (tmp_path / "scene.json").read_bytes() == before
    assert run("move", "scene.json", "set", "noise", "light=0.8", "--latch", "Sky").returncode == 0
    assert run("move", "scene.json", "set", "lens", "--off").returncode == 0
    changed = json.loads((tmp_path / "scene.json").read_text())
    assert changed["ground"]["noise"]["latch"] == changed["latches"][0]["id"]
    assert changed["ground"]["lens"]["on"] is False
    assert changed["ground"]["lens"]["why"] == ""
    profiled = run("render", "--scene", "scene.json", "-o", "out.tif", "--long-edge", "300", "--profile")
    assert profiled.returncode == 0
    assert {"noise", "rendering"} <= {line[2:30].strip() for line in profiled.stdout.splitlines()}


def test_what_is_found_in_a_frame_is_written(run, tmp_path, coast):
    os.link(coast.path, tmp_path / "stack.dng")
    done = run("mask", "stack.dng", "--find", "sky", "-o", "sky.png")
    assert done.returncode == 0, done.stderr
    mask = cv2.imread(str(tmp_path / "sky.png"), cv2.IMREAD_UNCHANGED)
    assert mask.dtype == np.uint16
    assert mask.shape == coast.truth.sky.shape
    held, true = mask > 32767, coast.truth.sky > 0.5
    assert (held & true).sum() / (held | true).sum() > 0.97
    for words, said in (
        (("stack.dng", "--find", "moon", "-o", "x.png"), "'moon' cannot be found; what can be: sky"),
        (("stack.dng", "--find", "sky", "--box", "0,0,1,1", "-o", "x.png"), "found in the whole frame"),
        (("stack.dng", "-o", "x.png"), "say what to write"),
        (("gone.dng", "--find", "sky", "-o", "x.png"), "gone.dng is not there"),
        (("stack.dng", "--find", "sky", "-o", "x.jpg"), "written as .png"),
    ):
        refused = run("mask", *words)
        assert refused.returncode == 2, words
        assert said in refused.stderr
        assert not (tmp_path / "x.png").exists()
