"""`sunlatch find`: what is found in a frame, how sure that is, and what is none."""

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ..binding.lens_profile import known_lens, sure_of_lens
from ..frame import hash_file
from ..latch import INGREDIENT_KINDS
from ..latch.base import SURE as FOUND
from ..ledger import Scene, Source, new_ingredient
from ..mend import find_specks
from ..meters import SURE, find_horizon, find_uprights
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
    for what, one in found.items():
        print(f"{what}: {one['verdict']}{_more(one)}")


def _more(one: dict[str, Any]) -> str:
    words = [f"{100 * one['sure']:.0f} % sure"] if "sure" in one and one["verdict"] != "none" else []
    words += [f"{100 * one['share']:.0f} % of the frame"] if one.get("share") else []
    words += [one["description"]] if one.get("description") else []
    return f" ({'; '.join(words)})" if words else ""


def _shape(bare: Development, kind: str) -> dict[str, Any]:
    finding = bare.reader.finding(new_ingredient(kind))
    x0, y0, x1, y1 = finding.region
    share = float((finding.mask > 0.5).mean()) * (x1 - x0) * (y1 - y0)
    one: dict[str, Any] = {
        "verdict": finding.verdict,
        "sure": round(finding.sure, 2),
        "share": round(share, 4),
    }
    if finding.verdict == "none":
        one["description"] = INGREDIENT_KINDS[kind].nothing
    return one


def _horizon(bare: Development) -> dict[str, Any]:
    line = find_horizon(bare)
    if line is None:
        return {"verdict": "none", "sure": 0.0, "description": "No line that light steps along was found"}
    verdict = "found" if line.share >= SURE else "doubtful"
    return {
        "verdict": verdict,
        "sure": line.share,
        "off": line.off,
        "description": f"{line.off:+.1f}° off level",
    }


def _verticals(bare: Development) -> dict[str, Any]:
    found = find_uprights(bare)
    if not found.lines:
        return {
            "verdict": "none",
            "sure": 0.0,
            "description": "Nothing built that should stand upright was found",
        }
    edges = len(found.lines)
    return {
        "verdict": "found",
        "sure": round(found.share, 2),
        "count": edges,
        "description": f"{edges} edges",
    }


def _lens(bare: Development) -> dict[str, Any]:
    info = bare.raster.info
    if info.lens_tags:
        return {
            "verdict": "found",
            "sure": 1.0,
            "description": "the frame carries its lens's own corrections",
        }
    known = known_lens(info)
    if known:
        return {"verdict": "found", "sure": round(sure_of_lens(info), 2), "description": known}
    return {"verdict": "none", "sure": 0.0, "description": "Nobody knows this lens"}


def _specks(bare: Development) -> dict[str, Any]:
    found = find_specks(bare.raster)
    if not found:
        return {"verdict": "none", "sure": 0.0, "count": 0, "description": "No specks were found"}
    sure = sum(dust.sure for dust in found) / len(found)
    verdict = "found" if sure >= FOUND else "doubtful"
    return {"verdict": verdict, "sure": round(sure, 2), "count": len(found), "description": f"{len(found)}"}
