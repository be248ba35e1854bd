"""Starting the window: with a display until it is closed, without one for a picture and the verdicts."""

from __future__ import annotations

import gc
import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtWidgets import QApplication

from gullyrise.core.machines import Machine
from gullyrise.core.machines.library import machine_named
from gullyrise.desktop.app import Desk
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.theme.style_sheet import dress
from gullyrise.desktop.upkeep.log import begin_log
from gullyrise.desktop.upkeep.memory import hold_together
from gullyrise.drawing.palette import THEMES
from gullyrise.drawing.typeface import load_typeface

PICTURE = "gullyrise-demo.png"
_UNDER_XVFB = "GULLYRISE_UNDER_XVFB"
_PATIENCE_S = 240
# Qt's application must outlive its windows, whoever lets go of it first.
_kept: list[QApplication] = []


def start(argv: list[str]) -> tuple[QApplication, Desk]:
    """Builds and shows the window; files are read in the background."""
    files, machine, demo = _words(argv)
    existing = QApplication.instance()
    if isinstance(existing, QApplication):
        application = existing
    else:
        QApplication.setHighDpiScaleFactorRoundingPolicy(Qt.HighDpiScaleFactorRoundingPolicy.PassThrough)
        application = QApplication(["gullyrise"])
        _kept.append(application)
        application.setApplicationName("Gullyrise")
        application.setStyle("Fusion")
        load_typeface()
    # Numbers are shown with a point everywhere, in fields as in sentences; typed they may have either mark.
    QLocale.setDefault(plain_locale())
    # The thread that draws takes many short steps; at the usual 5 ms it would wait that long for the interface before each.
    sys.setswitchinterval(0.001)
    hold_together()
    begin_log()
    settings = Settings()
    dress(application, THEMES[settings["looks.theme"]])
    window = Desk(machine, settings)
    # What lives as long as the program is looked through once, not at every full collection, which would stall the bench.
    gc.collect()
    gc.freeze()
    window.show()
    if demo:
        window.do("job.demo")
    if files:
        window.model.open_files(files)
    return application, window


def end(window: Desk) -> None:
    """Closes the window, if nobody has, and takes it away while Python and Qt are whole: left to the interpreter's own end, Qt
    asks things of it that Python has thrown away already."""
    if not window.isHidden():
        window.close()
    sip.delete(window)


def plain_locale() -> QLocale:
    """Digits, a point, no groups."""
    plain = QLocale.c()
    plain.setNumberOptions(QLocale.NumberOption.OmitGroupSeparator | QLocale.NumberOption.RejectGroupSeparator)
    return plain


def _words(argv: list[str]) -> tuple[list[str], Machine | None, bool]:
    files: list[str] = []
    machine, demo = None, False
    words = iter(argv)
    for word in words:
        if word == "--machine":
            machine = machine_named(next(words, ""))
        elif word == "--demo":
            demo = True
        else:
            files.append(word)
    return files, machine, demo


def run(argv: list[str], picture: str | None, tell: Callable[[str], None]) -> int:
    """The exit status of the window. tell : takes the lines of a run without a display."""
    _words(argv)
    has_display = bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if not has_display and not platform:
        return _under_xvfb(argv, picture)
    alone = os.environ.get(_UNDER_XVFB) or picture is not None
    application, window = start(argv)
    if not alone:
        status = application.exec()
        end(window)
        return status
    idle = window.wait_until_idle(_PATIENCE_S)
    name = picture or PICTURE
    saved = window.grab().save(name)
    tell(name if saved else f"{name} could not be written")
    for placed in window.model.job.parts:
        verdict, _ = window.model.results.verdict_of(placed)
        tell(f"{verdict:<8} {placed.name}")
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
