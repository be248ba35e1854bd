"""Starting the window, and taking it away."""

from __future__ import annotations

import gc
import sys

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
from gullyrise.desktop.widgets.number_field import show_mark
from gullyrise.drawing.palette import THEMES
from gullyrise.drawing.typeface import load_typeface

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
    # Whoever made the application.
    load_typeface()
    # Fields show the mark of the locale; sentences, which go into files and come out of workers, have the point.
    show_mark(application, QLocale.system().decimalPoint())
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
