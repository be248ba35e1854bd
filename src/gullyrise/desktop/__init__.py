"""The window and what it is made of. Programs that drive it use `launch`."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Callable

    from PyQt6.QtWidgets import QApplication

    from gullyrise.desktop.app import Desk


def launch(argv: list[str]) -> tuple[QApplication, Desk]:
    """Builds and shows the window without entering the event loop: (application, window).

    argv : files, `--machine M`, `--demo`. Raises MachineError for a machine that is not there.
    """
    from gullyrise.desktop.starting import start

    return start(argv)


def run_window(argv: list[str], tell: Callable[[str], None], picture: str | None = None) -> int:
    """Shows the window until it is closed; without a display, or with `picture`, saves a picture of it, tells what it is called
    and the verdicts by lines, and ends."""
    from gullyrise.desktop.starting import run

    return run(argv, picture, tell)
