"""`gullyrise open` and `gullyrise demo`: the window."""

from __future__ import annotations

from typing import Annotated

import typer

from gullyrise.command_line.speaking import MachineWord


def open_files(
    files: Annotated[list[str] | None, typer.Argument(metavar="[FILE ...]")] = None, machine: MachineWord = None
) -> int:
    """The window, with those parts."""
    from gullyrise.desktop import run_window

    words = list(files or [])
    if machine is not None:
        words += ["--machine", machine]
    return int(run_window(words, print))


def demo(
    picture: Annotated[str | None, typer.Option(help="Save a picture of the judged window there and end.")] = None,
) -> int:
    """The window, with the demo job."""
    from gullyrise.desktop import run_window

    return int(run_window(["--demo"], print, picture))
