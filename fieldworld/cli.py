"""`sunlatch-field list|shoot …`: the field camera from the command line."""

import json
import sys
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from .camera import CameraError, smaller
from .demo import make
from .inks import stock
from .lent import LENT, find_any, under, without
from .outing import OUTING
from .press_profile import shipped

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)


@app.command("list")
def list_shots(
    as_json: Annotated[bool, typer.Option("--json")] = False,
    lent: Annotated[bool, typer.Option("--lent", help="And those that are made when asked for")] = False,
) -> None:
    """The shots of the demo outing."""
    for shot in [*OUTING, *LENT] if lent else OUTING:
        e, view = shot.exposure, shot.view
        if as_json:
            print(json.dumps({"name": shot.name, "job": shot.job, "place": view.place, "taken": shot.taken,
                              "seconds": e.seconds, "f_number": e.f_number, "iso": e.iso, "focal_mm": view.focal_mm,
                              "width": shot.lens.width, "height": shot.lens.height}))  # fmt: skip
        else:
            print(f"{shot.name:<14} {shot.lens.width} × {shot.lens.height}  {view.focal_mm:g} mm  {shot.job}")


@app.command()
def paper(
    name: Annotated[str, typer.Argument(help="matte, lustre or metallic")],
    out: Annotated[Path, typer.Option("-o", help="The profile: .icc")],
    inks: Annotated[
        bool, typer.Option("--inks", help="For its four inks themselves, where it has one")
    ] = False,
) -> None:
    """The profile of one of the proof press's papers."""
    out.write_bytes(shipped(stock(name), inks))


@app.command()
def shoot(
    names: Annotated[list[str] | None, typer.Argument(help="Which shots; all of them without a name")] = None,
    out: Annotated[Path, typer.Option("-o", help="Folder for the frames")] = Path("."),
    truth: Annotated[bool, typer.Option("--truth", help="Write the truth beside each frame")] = False,
    width: Annotated[int | None, typer.Option(min=64, max=9000, help="Long edge of the sensor, px")] = None,
    iso: Annotated[int | None, typer.Option(help="Instead of the shot's own")] = None,
    leave_out: Annotated[
        list[str] | None, typer.Option("--without", help="Leave out: cable, walker, gull, tripod, specks …")
    ] = None,
    sky: Annotated[str, typer.Option("--sky", help="Under the sky of another shot, and in its light")] = "",
    hands: Annotated[int, typer.Option(min=1, max=16, help="Frames made at a time")] = 2,
) -> None:
    """Shoot frames of the outing into a folder; those that are there already are left alone."""
    try:
        shots = [find_any(name) for name in names] if names else list(OUTING)
        if sky:
            shots = [under(shot, sky) for shot in shots]
    except KeyError as error:
        raise CameraError(f"There is no shot {error}; `sunlatch-field list` names them.") from error
    shots = [without(shot, leave_out or []) for shot in shots]
    if width is not None:
        shots = [smaller(shot, width) for shot in shots]
    if iso is not None:
        shots = [replace(shot, exposure=replace(shot.exposure, iso=iso)) for shot in shots]
    make(out, shots, lambda done, of, name: print(f"{done} of {of}: {name}", flush=True), truth, hands)


def main() -> None:
    """Entry point."""
    try:
        app(standalone_mode=False)
    except CameraError as error:
        print(f"sunlatch-field: {error}", file=sys.stderr)
        sys.exit(2)
    except typer.Exit as error:
        sys.exit(error.exit_code)
    except Exception as error:
        usage = getattr(error, "format_message", None)
        text = usage() if usage is not None else f"{type(error).__name__}: {error}"
        print(f"sunlatch-field: {' '.join(str(text).split())}", file=sys.stderr)
        sys.exit(2)


if __name__ == "__main__":
    main()
