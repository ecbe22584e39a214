"""`sunlatch proof, preflight, strip, press`: paper, before the money is spent."""

from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from ..colour.printing import Printing, Profile
from ..errors import ExportError, ProfileError, SunLatchError
from ..proof import Layout, Setting, bits_for, laid_out, on_screen, printing_of, sharpness_of, write_pixels
from ..proof import preflight as judged
from ..proof import strip as made_strip
from ..proof.press import ask_press
from ..render import Development, Output, picture_8
from .opening import FrameOption, SceneFile, open_scene, there
from .pictures import view_of

app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
ProfileOption = Annotated[
    Path | None, typer.Option("--profile", help="A paper's ICC profile; without it that of the scene's paper")
]
IntentOption = Annotated[str, typer.Option(help="relative, perceptual, saturation or absolute")]
NoBlackPoint = Annotated[bool, typer.Option("--no-bpc", help="Without black-point compensation")]


def way_to_print(
    development: Development, profile: Path | None, intent: str = "relative", no_bpc: bool = False
) -> Printing | None:
    """By a profile that is given, or by the scene's paper."""
    if profile is not None:
        return Printing(Profile(there(profile).read_bytes(), profile.name), intent, not no_bpc)
    return printing_of(development.scene.on_paper, development.context.blobs)


def layout_of(development: Development) -> Layout | None:
    """How the picture lies on the scene's paper."""
    paper = development.scene.on_paper
    return laid_out(paper.params, development.geometry.developed_size) if paper is not None else None


def opened(scene: Path, frame: Path | None) -> Development:
    """A scene as it is printed on its paper."""
    found, development = open_scene(scene, frame)
    paper = found.on_paper
    return development.again(found.for_paper(paper)) if paper is not None else development


@app.command()
def proof(
    scene: SceneFile,
    out: Annotated[Path, typer.Option("-o", help="The file: .png, .tif or .jpg")],
    frame: FrameOption = None,
    profile: ProfileOption = None,
    intent: IntentOption = "relative",
    no_bpc: NoBlackPoint = False,
    paper_white: Annotated[
        bool, typer.Option("--paper-white", help="Paper white and ink black as they are")
    ] = False,
    gamut: Annotated[bool, typer.Option("--gamut", help="Mark what the paper cannot hold")] = False,
    long_edge: Annotated[int, typer.Option("--long-edge", min=16, max=20000)] = 1600,
) -> None:
    """What a print will look like, as a picture for the screen."""
    development = opened(scene, frame)
    printing = way_to_print(development, profile, intent, no_bpc)
    if printing is None:
        raise ProfileError("say a paper's profile with --profile; the scene is on no paper with one")
    output = on_screen(printing, white=paper_white, black=paper_white, missed=gamut)
    px = picture_8(development, view_of(development, None, long_edge), True, output)
    write_pixels(out, px, Output("srgb", 8), description=f"Proof of {printing.profile.name}")


@app.command()
def preflight(
    scene: SceneFile,
    frame: FrameOption = None,
    profile: ProfileOption = None,
    intent: IntentOption = "relative",
    no_bpc: NoBlackPoint = False,
    bits: Annotated[int, typer.Option(help="Of the file: 8 or 16")] = 16,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """What will be seen on paper that is better seen before, worst first."""
    development = opened(scene, frame)
    printing = way_to_print(development, profile, intent, no_bpc)
    layout = layout_of(development)
    report = judged(development, Output("srgb", bits, printing, sharpness_of(layout)), layout)
    if as_json:
        print(report.model_dump_json(indent=1))
        return
    for one in report.to_look_at:
        remedy = f" → {one.remedy.words}" if one.remedy else ""
        print(f"{one.description}{f': {one.more}' if one.more else ''}{remedy}")
    print(f"Well: {'; '.join(report.well)}.")


@app.command()
def strip(
    scene: SceneFile,
    out: Annotated[Path, typer.Option("-o", help="The file: .png, .tif or .jpg")],
    of: Annotated[
        list[str],
        typer.Option("--of", help="exposure, warmth, contrast, sharpness, or a line's number, 1.ev"),
    ],
    steps: Annotated[list[str], typer.Option("--steps", help="Added to what it is: -1,-0.5,0,0.5,1")],
    frame: FrameOption = None,
    profile: ProfileOption = None,
    intent: IntentOption = "relative",
    no_bpc: NoBlackPoint = False,
    for_press: Annotated[
        bool, typer.Option("--press", help="In the paper's own numbers, to be printed")
    ] = False,
    width: Annotated[int, typer.Option(min=64, max=4000, help="Px of a piece")] = 320,
    region: Annotated[str, typer.Option(help="X0,Y0,X1,Y1 in fractions; else the most telling piece")] = "",
) -> None:
    """One picture in labelled steps of one or two settings."""
    if len(of) != len(steps):
        raise SunLatchError("every --of has its own --steps")
    settings = [Setting(name, _steps(each)) for name, each in zip(of, steps, strict=True)]
    found, development = open_scene(scene, frame)
    paper = found.on_paper
    printing = way_to_print(development, profile, intent, no_bpc)
    if for_press and printing is None:
        raise ProfileError(
            "a strip for the press needs a paper's profile: --profile, or a paper of the scene"
        )
    layout = laid_out(paper.params, development.geometry.developed_size) if paper is not None else None
    sharpness = sharpness_of(layout)
    bits = bits_for(out) if for_press else 8
    output = (
        Output(bits=bits, printing=printing, sharpness=sharpness)
        if for_press
        else on_screen(printing, sharpness)
    )
    place = view_of(development, region, None).region if region else None
    px, _ = made_strip(development, settings, output, region=place, width=width)
    write_pixels(
        out, np.ascontiguousarray(px), output if for_press else Output("srgb", 8), description="Test strip"
    )


def _steps(text: str) -> tuple[float, ...]:
    try:
        return tuple(float(v) for v in text.replace("−", "-").split(","))
    except ValueError as error:
        raise SunLatchError(f"steps are numbers with commas between them, not {text!r}") from error


@app.command()
def press(
    file: Annotated[Path, typer.Argument(help="A file made with the paper's profile")],
    paper: Annotated[str, typer.Option("--paper", help="matte, lustre or metallic")],
    out: Annotated[Path, typer.Option("-o", help="The measured picture: .png")],
) -> None:
    """Print a file on the proof press, and write what is measured off the sheet."""
    if out.suffix.lower() != ".png":
        raise ExportError(f"{out.name}: what is measured is written as .png")
    printed = ask_press("print", str(there(file)), "--paper", paper, "-o", str(out))
    print(f"Printed on {printed['paper']}, {printed['size'][0]} × {printed['size'][1]} px.")
