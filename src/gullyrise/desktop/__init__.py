"""The window and what it is made of. Programs that drive it use `launch`."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from gullyrise.desktop.app import Desk


def launch(argv: list[str]) -> tuple[QApplication, Desk]:
    """Builds and shows the window without entering the event loop: (application, window).

    argv : files, `--machine M`, `--demo`. Raises MachineError for a machine that is not there.
    """
    from gullyrise.workers.forks import begin_with_readers

    # First: what workers need loads beside what the window needs.
    begin_with_readers()
    from gullyrise.desktop.starting import start

    return start(argv)
