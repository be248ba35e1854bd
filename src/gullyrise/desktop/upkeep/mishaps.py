"""What nobody caught: one place for the errors of slots, timers, painted widgets, workers' answers and threads. Each is told in a
sentence with its details to copy, and the window goes on."""

from __future__ import annotations

import platform
import sys
import threading
import time
import traceback
from dataclasses import dataclass
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import PYQT_VERSION_STR, QT_VERSION_STR, QObject, pyqtSignal
from PyQt6.QtWidgets import QApplication

from gullyrise import __version__
from gullyrise.core.errors import GullyriseError, WorkEnded
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.upkeep.log import log

_AGAIN_S = 2.0
_MOST_KEPT = 200

SENTENCE = (
    "A step of the program failed and was stopped there. The job is as it stands on the bench and goes on being kept; undo takes "
    "back what came out half done. Copy the details and send them to us."
)


@dataclass(slots=True)
class Mishap:
    """place : of the line that raised, by which a repeated one is known;  details : for who mends the program"""

    place: str
    details: str
    count: int = 1
    told: float = float("-inf")


class Mishaps(QObject):
    """Those of one window. `met` holds each place once."""

    _came = pyqtSignal(str, str)

    def __init__(self, notifier: Notifier) -> None:
        super().__init__()
        self._notifier = notifier
        self._doing = ""
        self.met: dict[str, Mishap] = {}
        self._came.connect(self._tell)

    def begin(self) -> None:
        """From now on errors that nobody catches come here."""
        _listening.append(self)
        sys.excepthook = _caught
        threading.excepthook = _caught_in_a_thread

    def end(self) -> None:
        if self in _listening:
            _listening.remove(self)

    def doing(self, what: str) -> None:
        """The action that was begun last, for the details."""
        self._doing = what

    def take(self, error: BaseException) -> None:
        """May be called from any thread. The terminal that the window was started from is told too."""
        sys.__excepthook__(type(error), error, error.__traceback__)
        self._came.emit(_place_of(error), _details(error, self._doing))

    def _tell(self, place: str, details: str) -> None:
        known = self.met.get(place)
        if known is not None:
            known.count += 1
        elif len(self.met) < _MOST_KEPT:
            known = self.met[place] = Mishap(place, details)
            log(details)
        else:
            return
        # A widget that fails while it is painted fails at each picture: once is enough while the notice stands, and after that.
        now = time.monotonic()
        if self._notifier.tells(f"mishap {place}") or now - known.told < _AGAIN_S:
            return
        known.told = now
        self._notifier.say(SENTENCE, True, [("Copy details", lambda: self._copy(known))], about=f"mishap {place}")

    def _copy(self, mishap: Mishap) -> None:
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(f"{mishap.details}\nMet {mishap.count} times.\n")
            self._notifier.say("The details are on the clipboard.", False)


_listening: list[Mishaps] = []


def tell(error: BaseException) -> None:
    """Tells an error that was caught where nothing can be done about it."""
    if _listening:
        _listening[-1].take(error)
    else:
        sys.__excepthook__(type(error), error, error.__traceback__)


def _caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    if issubclass(kind, KeyboardInterrupt | SystemExit):
        # Ctrl+C in the terminal that it was started from ends the window as closing it does.
        application = QApplication.instance()
        if application is not None:
            application.quit()
            return
    if not _listening or issubclass(kind, KeyboardInterrupt | SystemExit):
        sys.__excepthook__(kind, error, trace)
        return
    _listening[-1].take(error.with_traceback(trace))


def _caught_in_a_thread(given: threading.ExceptHookArgs) -> None:
    if given.exc_value is not None and not isinstance(given.exc_value, SystemExit):
        tell(given.exc_value)


def _place_of(error: BaseException) -> str:
    """The line that raised, of ours where there is one."""
    frames = traceback.extract_tb(error.__traceback__)
    own = [one for one in frames if "gullyrise" in one.filename] or list(frames)
    return f"{type(error).__name__} {Path(own[-1].filename).name}:{own[-1].lineno}" if own else type(error).__name__


def _details(error: BaseException, doing: str) -> str:
    """Versions, the last action and where the error came from. Where the user's files lie is nobody's business."""
    lines = [
        f"Gullyrise {__version__}, Python {platform.python_version()}, Qt {QT_VERSION_STR}, PyQt {PYQT_VERSION_STR}, "
        f"{platform.system()} {platform.release()}",
        f"{time.strftime('%Y-%m-%d %H:%M:%S')}, last action: {doing or 'none'}",
        "".join(traceback.format_exception(error)).strip(),
    ]
    if isinstance(error, WorkEnded) and error.detail:
        lines.append(error.detail)
    return "\n".join(lines).replace(str(Path.home()), "~")


def lost_answer(error: Exception) -> GullyriseError:
    """What stands for an answer that the window could not take in."""
    return WorkEnded("The answer was worked out and could not be taken in: a fault of this program.", repr(error))
