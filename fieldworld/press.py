"""The proof press: a simulated printer with three papers. It prints a file made for one of its papers and says what a
measuring head would read off the sheet.

    python -m fieldworld.press papers
    python -m fieldworld.press build
    python -m fieldworld.press profile matte OUT.icc [--inks]
    python -m fieldworld.press print FILE --paper matte -o OUT.png
"""

import argparse
import json
import shutil
import sys
from pathlib import Path
from typing import Any, Final

PAPERS: Final = Path(__file__).with_name("papers")
"""What ships: a profile to a paper, and their names."""


def papers() -> list[dict[str, str]]:
    """The papers there are."""
    listed: list[dict[str, str]] = json.loads((PAPERS / "papers.json").read_text())
    return listed


def hand_over(paper: str, out: Path, inks: bool) -> None:
    """A paper's profile into a file; nothing is loaded for it. Raises LookupError."""
    if paper not in [p["name"] for p in papers()]:
        raise LookupError(
            f"the press has no paper {paper!r}; it has {', '.join(p['name'] for p in papers())}"
        )
    held = PAPERS / f"{paper}{'-inks' if inks else ''}.icc"
    if not held.exists():
        raise LookupError(f"the press takes no file of inks for {paper}")
    shutil.copyfile(held, out)


def main() -> None:
    """Entry point; what it says is a line of JSON."""
    parser = argparse.ArgumentParser(prog="press")
    does = parser.add_subparsers(dest="does", required=True)
    does.add_parser("papers")
    does.add_parser("build")
    made = does.add_parser("profile")
    made.add_argument("paper")
    made.add_argument("out", type=Path)
    made.add_argument("--inks", action="store_true")
    printing = does.add_parser("print")
    printing.add_argument("file", type=Path)
    printing.add_argument("--paper", required=True)
    printing.add_argument("-o", dest="out", type=Path, required=True)
    given = parser.parse_args()
    try:
        print(json.dumps(_done(given)))
    except (LookupError, OSError) as error:
        print(str(error).strip("'\""), file=sys.stderr)
        sys.exit(2)


def _done(given: argparse.Namespace) -> Any:
    if given.does == "papers":
        return papers()
    if given.does == "profile":
        hand_over(given.paper, given.out, given.inks)
        return {"profile": str(given.out)}
    # what prints is loaded when something is printed
    from sunlatch.errors import SunLatchError

    from .inks import stock
    from .press_profile import build
    from .sheet import print_file

    try:
        return (
            {"built": build()}
            if given.does == "build"
            else print_file(given.file, stock(given.paper), given.out)
        )
    except SunLatchError as error:
        raise LookupError(str(error)) from error


if __name__ == "__main__":
    main()
