"""`sunlatch join …`: several frames as one scene."""

import json
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import typer

from ..binding.maps import rotation_matrix
from ..errors import JoinError
from ..geometry import PROJECTIONS
from ..ledger import Scene, Sweep, parse_scene, save_scene
from ..merging import coverage_share, input_frames, plan_bracket, scene_of_bracket, solved
from ..render import Engine
from .opening import joins, sources_of, store

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    no_args_is_help=True,
    help="Several frames as one scene",
)
Frames = Annotated[list[Path], typer.Argument(help="The frames, in the order they were taken")]
Out = Annotated[Path, typer.Option("-o", help="The scene document to write")]
Report = Annotated[Path | None, typer.Option("--report", help="Write what was found, as JSON")]


def _write(path: Path, data: dict[str, Any]) -> None:
    part = path.with_name(path.name + ".part")
    part.write_text(json.dumps(data, indent=1), encoding="utf-8")
    part.replace(path)


@app.command()
def sweep(
    frames: Frames,
    out: Out,
    projection: Annotated[str, typer.Option(help=f"One of {', '.join(PROJECTIONS)}")] = "",
    report: Report = None,
) -> None:
    """Frames turned from one to the next become one wide picture."""
    if projection and projection not in PROJECTIONS:
        raise JoinError(f"there is no projection {projection!r}; known are {', '.join(PROJECTIONS)}")
    sources = sources_of(frames, out)
    paths = dict(zip((s.id for s in sources), frames, strict=True))
    taken = input_frames(sources, lambda source: store().whole(source.sha256, paths[source.id]))
    engine = Engine()
    scene = solved(
        "sweep", taken, sources, engine,
        merge=lambda one: joins().whole(one, lambda s: store().whole(s.sha256, paths[s.id]), engine),
    )  # fmt: skip
    scene.name, base = out.stem, scene.base
    assert isinstance(base, Sweep)
    if projection:
        scene.ground.projection.params.kind = projection
    save_scene(parse_scene(scene.model_dump(mode="json")), out)
    for left in base.left_out:
        print(f"left out: {left.name}: {left.why}")
    if report is not None:
        _write(report, sweep_report(scene, paths))


@app.command()
def bracket(frames: Frames, out: Out, report: Report = None) -> None:
    """Exposures of one view become one picture with all their range."""
    sources = sources_of(frames, out)
    paths = dict(zip((s.id for s in sources), frames, strict=True))
    taken = input_frames(sources, lambda source: store().whole(source.sha256, paths[source.id]))
    base = plan_bracket(taken, Engine())
    scene = scene_of_bracket(base, sources, out.stem)
    save_scene(parse_scene(scene.model_dump(mode="json")), out)
    for left in base.left_out:
        print(f"left out: {left.name}: {left.why}")
    if report is not None:
        _write(
            report,
            {
                "reference": str(paths[base.anchor]),
                "headroom_stops": base.headroom,
                "frames": [
                    {"path": str(paths[m.source]), "ev": m.ev, "rotation": np.asarray(rotation_matrix(m.rotation)).round(9).tolist(),
                     "focal_px": base.focal, "residual_px": m.residual}
                    for m in base.members
                ],
                "left_out": [left.model_dump() for left in base.left_out],
            },
        )  # fmt: skip


def sweep_report(scene: Scene, paths: dict[str, Path]) -> dict[str, Any]:
    """What was found of a sweep, for whoever checks it."""
    base = scene.base
    assert isinstance(base, Sweep)
    return {
        "frames": [
            {
                "path": str(paths[m.source]),
                "rotation": np.asarray(rotation_matrix(m.rotation)).round(9).tolist(),
                "focal_px": base.focal * max(m.size) / base.unit,
                "gain_stops": m.gain,
                "residual_px": m.residual,
            }
            for m in base.members
        ],
        "pairs": [
            {"a": str(paths[p.a]), "b": str(paths[p.b]), "matches": p.matches, "held": p.held, "residual_px": p.residual}
            for p in base.pairs
        ],
        "left_out": [left.model_dump() for left in base.left_out],
        "coverage": coverage_share(base),
    }  # fmt: skip
