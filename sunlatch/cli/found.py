"""`sunlatch find`: what is found in a frame, how sure that is, and what is none."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ..binding.lens_profile import known_lens
from ..frame import hash_file
from ..latch import INGREDIENT_KINDS
from ..ledger import Scene, Source, new_ingredient
from ..mend import find_specks
from ..meters import SURE, find_horizon, find_lines
from ..render import Development, Engine
from .opening import store, there

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)


@app.command()
def find(
    frame: Path,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON")] = False,
) -> None:
    """What is found in a frame, how sure that is, and what is none."""
    sha256 = hash_file(there(frame))
    bare = Engine().develop(Scene(sources=[Source(sha256=sha256)]), store().whole(sha256, frame))
    found = {kind: _shape(bare, kind) for kind in ("sky", "water", "subject")}
    found |= {
        "horizon": _horizon(bare),
        "verticals": _verticals(bare),
        "lens": _lens(bare),
        "specks": _specks(bare),
    }
    if as_json:
        print(json.dumps(found))
        return
    for what, told in found.items():
        print(f"{what}: {told['told']}{_more(told)}")


def _more(told: dict[str, Any]) -> str:
    said = [f"{100 * told['sure']:.0f} % sure"] if "sure" in told and told["told"] != "none" else []
    said += [f"{100 * told['share']:.0f} % of the frame"] if told.get("share") else []
    said += [told["said"]] if told.get("said") else []
    return f" ({'; '.join(said)})" if said else ""


def _shape(bare: Development, kind: str) -> dict[str, Any]:
    finding = bare.reader.finding(new_ingredient(kind))
    x0, y0, x1, y1 = finding.region
    share = float((finding.mask > 0.5).mean()) * (x1 - x0) * (y1 - y0)
    told: dict[str, Any] = {"told": finding.told, "sure": round(finding.sure, 2), "share": round(share, 4)}
    if finding.told == "none":
        told["said"] = INGREDIENT_KINDS[kind].nothing
    return told


def _horizon(bare: Development) -> dict[str, Any]:
    line = find_horizon(bare)
    if line is None:
        return {"told": "none", "sure": 0.0, "said": "No line that light steps along was found"}
    told = "found" if line.share >= SURE else "doubtful"
    return {"told": told, "sure": line.share, "off": line.off, "said": f"{line.off:+.1f}° off level"}


def _verticals(bare: Development) -> dict[str, Any]:
    lines = find_lines(bare)
    if len(lines) < 2:
        return {"told": "none", "said": "Nothing built that should stand upright was found"}
    return {"told": "found", "count": len(lines), "said": f"{len(lines)} edges"}


def _lens(bare: Development) -> dict[str, Any]:
    info = bare.raster.info
    if info.lens_tags:
        return {"told": "found", "said": "the frame carries its lens's own corrections"}
    known = known_lens(info)
    if known:
        return {"told": "found", "said": str(known)}
    return {"told": "none", "said": "Nobody knows this lens"}


def _specks(bare: Development) -> dict[str, Any]:
    count = len(find_specks(bare.raster))
    if not count:
        return {"told": "none", "count": 0, "said": "No specks were found"}
    return {"told": "found", "count": count, "said": f"{count}"}
