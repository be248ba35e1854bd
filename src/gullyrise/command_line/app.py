"""The commands together, and the exit status of what happened."""

from __future__ import annotations

import sys

import typer
from typer.exceptions import TyperException

from gullyrise.command_line import check, convert, distance, info, machines, section, window
from gullyrise.core.errors import GullyriseError

COMMANDS = ("open", "demo", "info", "check", "section", "distance", "convert", "machines")

app = typer.Typer(
    name="gullyrise",
    help="Judges part files for the machine that will make them.",
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
app.command("open")(window.open_files)
app.command("demo")(window.demo)
app.command("info")(info.info)
app.command("check")(check.check)
app.command("section")(section.section)
app.command("distance")(distance.distance)
app.command("convert")(convert.convert)
app.command("machines")(machines.machines)


def run(words: list[str]) -> int:
    """The exit status: 0 all pass, 1 a review or fail, 2 a file that cannot be used or wrong words."""
    # Without a command, words are files for the window.
    if not words or (words[0] not in COMMANDS and words[0] not in ("--help", "-h", "--version")):
        words = ["open", *words]
    if words[0] == "--version":
        from gullyrise import __version__

        print(f"gullyrise {__version__}")
        return 0
    if words[0] == "-h":
        words = ["--help"]
    try:
        result = app(words, standalone_mode=False)
    except TyperException as error:
        print(f"gullyrise: {getattr(error, 'format_message', error.__str__)()}", file=sys.stderr)
        return 2
    except (typer.Abort, KeyboardInterrupt):
        return 2
    except GullyriseError as error:
        print(f"gullyrise: {error.sentence}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # Whoever read our output has seen enough.
        sys.stderr.close()
        return 2
    return result if isinstance(result, int) else 0
