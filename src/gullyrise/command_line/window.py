"""`gullyrise open` and `gullyrise demo`: the window."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Annotated

import typer

from gullyrise.command_line.speaking import MachineWord
from gullyrise.core.machines.library import machine_named

PICTURE = "gullyrise-demo.png"
_UNDER_XVFB = "GULLYRISE_UNDER_XVFB"
_PATIENCE_S = 240


def open_files(
    files: Annotated[list[str] | None, typer.Argument(metavar="[FILE ...]")] = None, machine: MachineWord = None
) -> int:
    """The window, with those parts."""
    words = list(files or [])
    if machine is not None:
        # One that is not there is told before anything is shown.
        machine_named(machine)
        words += ["--machine", machine]
    return _run(words)


def demo(
    picture: Annotated[str | None, typer.Option(help="Save a picture of the judged window there and end.")] = None,
) -> int:
    """The window, with the demo job."""
    return _run(["--demo"], picture)


def _run(argv: list[str], picture: str | None = None) -> int:
    """The exit status of the window: with a display once it is closed, without one after a picture and the verdicts."""
    from gullyrise.desktop import launch
    from gullyrise.desktop.starting import end

    has_display = bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if not has_display and not platform:
        return _under_xvfb(argv, picture)
    alone = os.environ.get(_UNDER_XVFB) or picture is not None
    application, window = launch(argv)
    if not alone:
        status = application.exec()
        end(window)
        return status
    idle = window.wait_until_idle(_PATIENCE_S)
    name = picture or PICTURE
    saved = window.grab().save(name)
    print(name if saved else f"{name} could not be written")
    for placed in window.model.job.parts:
        verdict, _ = window.model.results.verdict_of(placed)
        print(f"{verdict:<8} {placed.name}")
    end(window)
    return 0 if idle and saved else 2


def _under_xvfb(argv: list[str], picture: str | None) -> int:
    """The same window on a virtual screen; where there is none to be had, on Qt's own."""
    here = dict(os.environ, **{_UNDER_XVFB: "1"})
    words = [sys.executable, "-m", "gullyrise", *(["demo"] if argv == ["--demo"] else ["open", *argv])]
    if picture is not None and argv == ["--demo"]:
        words += ["--picture", str(Path(picture))]
    tool = shutil.which("xvfb-run")
    if tool is None:
        return subprocess.call(words, env=dict(here, QT_QPA_PLATFORM="offscreen"))
    return subprocess.call([tool, "-a", "-s", "-screen 0 1280x800x24", *words], env=here)
