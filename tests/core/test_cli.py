"""The command line, as a script would use it."""

import contextlib
import errno
import json
import os
import re
import shlex
import subprocess
import sys
from glob import glob
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
import typer
from pydantic import ValidationError

from fieldworld.camera import smaller
from fieldworld.cli import main as field_main
from fieldworld.outing import find
from sunlatch import __version__
from sunlatch.cli import COMMANDS, app, main
from sunlatch.colour import output_profile
from sunlatch.errors import CancelledError, ExportError
from sunlatch.ledger import load_scene
from sunlatch.moves.trim import TrimParams
from sunlatch.proof import bits_for, write_picture
from sunlatch.render import Output
from tests.coast import shoot

ROOT = Path(__file__).resolve().parents[2]
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
    assert "Exposure −2.0 stops on Sky" in ok("move", "scene.json", "list")
    assert "keep only: Ramp" in ok("latch", "scene.json", "list")
    ok("render", "scene.json", "-o", "out.tif", "--space", "p3", "--long-edge", "400")
    with tifffile.TiffFile(tmp_path / "out.tif") as tif:
        page = tif.pages[0]
        assert page.dtype == np.uint16
        assert max(page.shape[:2]) == 400
        assert page.tags[34675].value == output_profile("p3")
    ok("mask", "scene.json", "--latch", "Sky", "-o", "mask.png")
    mask = cv2.imread(str(tmp_path / "mask.png"), cv2.IMREAD_UNCHANGED)
    assert mask.dtype == np.uint16
    assert mask.shape == coast.truth.sky.shape
    near = (coast.truth.land > 0.99) & (coast.truth.depth < 30)
    assert mask[near].mean() < 0.1 * mask[:100].mean()
    ok("render", "scene.json", "-o", "part.png", "--region", "0,0,0.5,0.5", "--bits", "8")
    assert cv2.imread(str(tmp_path / "part.png")).shape[:2] == tuple(round(s / 2) for s in mask.shape)
    ok("render", "scene.json", "-o", "light.tif", "--space", "linear", "--bits", "32")
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
        (("render", "scene.json", "-o", "x.bmp"), ".bmp"),
        (("render", "scene.json", "-o", "x.jpg", "--bits", "16"), "holds 8 bits"),
        (("render", "scene.json", "-o", "x.tif", "--region", "0.5,0,0.2,1"), "inside"),
        (("render", "nothing.json", "-o", "x.tif"), "could not be read"),
        (("info", "scene.json"), "recognises"),
        (("render", "scene.json", "-o", "missing/x.tif"), "No such file"),
    ]
    before = sorted(p.name for p in tmp_path.iterdir())
    for words, said in refusals:
        done = run(*words)
        assert done.returncode == 2, words
        assert said in done.stderr
        assert done.stderr.count("\n") == 1
    assert sorted(p.name for p in tmp_path.iterdir()) == before
    os.unlink(tmp_path / "frames" / "stack.dng")
    gone = run("render", "scene.json", "-o", "x.tif")
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
        (("lens", "known=hand", "radial=-0.25"), "fold the picture over itself"),
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
    profiled = run("render", "scene.json", "-o", "out.tif", "--long-edge", "300", "--times")
    assert profiled.returncode == 0
    assert {"noise", "rendering"} <= {line[2:30].strip() for line in profiled.stdout.splitlines()}


def test_what_is_found_comes_with_how_sure_it_is(run, tmp_path, coast):
    os.link(coast.path, tmp_path / "stack.dng")
    done = run("find", "stack.dng", "--json")
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)
    assert set(found) == {"sky", "water", "subject", "horizon", "verticals", "lens", "specks"}
    for what, one in found.items():
        assert one["verdict"] in ("found", "doubtful", "none"), what
        assert 0 <= one["sure"] <= 1, what
        assert one["verdict"] != "none" or one["description"], what
    assert found["sky"]["verdict"] == "found"
    assert found["sky"]["sure"] > 0.9
    # nobody said what the picture is of
    assert found["subject"]["verdict"] != "found"
    assert found["verticals"]["verdict"] == "none"


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


def test_every_line_of_the_readme_does_what_it_says(run, tmp_path, monkeypatch):
    """In order, on frames of those names; what they ask for is there afterwards."""
    said = (ROOT / "README.md").read_text(encoding="utf-8").split("## By script")[1].split("\n## ")[0]
    lines = [shlex.split(line) for line in said.splitlines() if line.startswith("    ")]
    assert len(lines) > 14
    frames = {"frame": "twin-bright", "twin-dark": "twin-dark", "sky-1": "sky-1"}
    frames |= {n: n for n in ("sweep-1", "sweep-2", "sweep-3", "bracket-1", "bracket-2", "bracket-3")}
    for name, shot in frames.items():
        shoot(smaller(find(shot), 800 if shot.startswith("twin") else 600), tmp_path / f"{name}.dng")
    for program, *words in lines:
        words = [
            w for word in words for w in (sorted(glob(word, root_dir=tmp_path)) if "*" in word else [word])
        ]
        if program.endswith("-field"):
            monkeypatch.setattr(sys, "argv", ["sunlatch-field", *words])
            with contextlib.suppress(SystemExit):
                field_main()
            made = words[words.index("-o") + 1]
            assert (tmp_path / made / "beacon.dng" if words[0] == "shoot" else tmp_path / made).is_file()
            continue
        done = run(*words)
        assert done.returncode == 0, (words, done.stderr)
        if "--json" in words:
            assert json.loads(done.stdout)
        for option in ("-o", "--report"):
            if option in words:
                assert (tmp_path / words[words.index(option) + 1]).stat().st_size > 0
    scene = load_scene(tmp_path / "scene.json")
    assert scene.ground.trim.params.model_dump()["format"] == "5:4"
    assert scene.ground.trim.params.model_dump()["way"] == "standing"
    assert [len(x) for x in (scene.loans, scene.repairs, scene.shapes)] == [1, 2, 1]
    assert scene.sky is not None
    w, h = tifffile.imread(tmp_path / "print.tif").shape[1::-1]
    assert w / h == pytest.approx(4 / 5, abs=0.01)


def test_help_is_there_at_once_and_says_what_the_commands_say(start):
    """What the program can do is told without loading what does it."""
    loaded = (
        "import sys, sunlatch.cli; print(sorted({'numpy', 'cv2', 'numba', 'pydantic'} & set(sys.modules)))"
    )
    assert (
        subprocess.run([sys.executable, "-c", loaded], capture_output=True, text=True).stdout.strip() == "[]"
    )
    context = typer.Context(app)
    for name, (_, told) in COMMANDS.items():
        own = app.get_command(context, name)
        assert own is not None, name
        assert re.split("[.,;]", own.help or own.callback.__doc__)[0] in told
    assert app.get_command(context, "sparkle") is None
    assert all(name in start("--help").stdout for name in COMMANDS)


@pytest.mark.parametrize(
    ("given", "lies", "shape"),
    [
        ("4:5", "5:4", 0.8),
        ("5:4", "5:4", 1.25),
        ("65:24", "65:24", 65 / 24),
        ("2.35:1", "2.35:1", 2.35),
        ("3:3", "3:3", 1),
    ],
)
def test_a_format_is_any_ratio(given, lies, shape):
    params = TrimParams(format=given)
    assert (params.format, params.aspect(9.0)) == (lies, pytest.approx(shape))
    assert TrimParams(**params.model_dump()) == params


@pytest.mark.parametrize("given", ["wide", "0:5", "5:0", "100:1", "5:4:3", "-5:4", "5 : 4"])
def test_what_is_no_ratio_is_refused(given):
    with pytest.raises(ValidationError):
        TrimParams(format=given)


@pytest.mark.parametrize(("name", "bits"), [("a.jpg", 8), ("a.TIF", 16), ("a.png", 16)])
def test_the_ending_decides_kind_and_bits(name, bits):
    assert bits_for(Path(name)) == bits
    with pytest.raises(ExportError):
        bits_for(Path(name), 64)


def test_a_file_that_cannot_be_written_is_refused_before_anything_is_rendered(run, monkeypatch):
    import sunlatch.cli.pictures as pictures

    monkeypatch.setattr(pictures, "open_scene", lambda *_: pytest.fail("it was opened"))
    for words in (("x.bmp",), ("x.jpg", "--bits", "16"), ("x",)):
        assert run("render", "scene.json", "-o", *words).returncode == 2
