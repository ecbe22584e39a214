"""`sunlatch …`: work a scene from the command line. Errors go to standard error on one line and
leave exit code 2; 0 means that the file asked for is complete."""

import sys
from importlib import import_module
from typing import Any, Final

import typer
from typer.core import TyperGroup

from ..errors import SunLatchError

COMMANDS: Final = {
    "info": ("frames", "What a frame says about itself."),
    "find": ("found", "What is found in a frame, how sure that is, and what is none."),
    "new": ("frames", "Begin a scene from a frame."),
    "move": ("moves", "The lines of a scene's ledger."),
    "latch": ("latches", "The latches of a scene."),
    "mend": ("mend", "What is taken out of a scene."),
    "join": ("joins", "Several frames as one scene."),
    "loan": ("loans", "Part of a second frame comes into a scene through a latch."),
    "render": ("pictures", "Render a scene to a file."),
    "proof": ("proofs", "What a print will look like, as a picture for the screen."),
    "preflight": ("proofs", "What will be seen on paper that is better seen before, worst first."),
    "strip": ("proofs", "One picture in labelled steps of one or two settings."),
    "press": ("proofs", "Print a file on the proof press, and measure the sheet."),
    "keep": ("keeps", "Keep a state of a scene by name, go back to it, or remove it."),
    "compare": ("keeps", "What is different between two states of a scene."),
    "mask": ("pictures", "Write a latch of a scene, or what is found in a frame, as a picture."),
    "warm": ("frames", "Compile what is not compiled yet."),
    "schema": ("frames", "The JSON Schema of the scene document."),
    "version": ("frames", "This program's version."),
}
"""Every command: the room it is in, which is not opened before it is asked for, and what it does."""


class _Commands(TyperGroup):
    """What there is, said at once; what is asked for, loaded then."""

    def list_commands(self, context: Any) -> list[str]:
        return list(COMMANDS)

    def get_command(self, context: Any, name: str) -> Any:
        if name not in COMMANDS:
            return None
        room = import_module(f".{COMMANDS[name][0]}", __package__)
        made = typer.main.get_command(room.app)
        return getattr(made, "commands", {}).get(name, made)

    def format_commands(self, context: Any, formatter: Any) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, description) for name, (_, description) in COMMANDS.items()])


app = _Commands(
    name="sunlatch", no_args_is_help=True, help="Work a scene from the command line.", rich_markup_mode=None
)


def main() -> None:
    """Entry point."""
    try:
        code = app(standalone_mode=False)
    except SunLatchError as error:
        print(f"sunlatch: {error}", file=sys.stderr)
        sys.exit(2)
    except (OSError, typer.Exit, typer.Abort) as error:
        if isinstance(error, typer.Exit):
            sys.exit(error.exit_code)
        print(f"sunlatch: {error}", file=sys.stderr)
        sys.exit(2)
    except Exception as error:
        usage = getattr(error, "format_message", None)
        text = usage() if usage is not None else f"{type(error).__name__}: {error}"
        if text:
            print(f"sunlatch: {' '.join(str(text).split())}", file=sys.stderr)
        sys.exit(2)
    sys.exit(code or 0)
