"""The window itself: its events, what is closed with it and in which order. What stands in it is attached by whoever opens it."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QElapsedTimer, QEvent, QEventLoop, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QMainWindow, QWidget

from gullyrise.desktop.shell.tab_order import TabOrder
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.file_drops import accept_files, dropped_files


class Window(QMainWindow):
    """painted_first : it has been seen for the first time;  resized : it, or what lies in it, may have another size
    files_dropped : their paths
    """

    painted_first = pyqtSignal()
    resized = pyqtSignal()
    files_dropped = pyqtSignal(list)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("window")
        self.setAcceptDrops(True)
        self.setMinimumSize(900, 600)
        self._painted = False
        self._at_close: Callable[[], Sequence[Callable[[], object]]] = tuple
        self._idle: Sequence[Callable[[], bool]] = ()
        self._regions: Sequence[QWidget] = ()
        self._tabs = TabOrder(self, lambda: self._regions)

    def read_in_order(self, *regions: QWidget) -> None:
        """In which order Tab goes through the window."""
        self._regions = regions

    def live(self, at_close: Callable[[], Sequence[Callable[[], object]]], idle: Sequence[Callable[[], bool]]) -> None:
        """at_close : gives what is done then, one after another, whatever becomes of those before;  idle : all true where nothing
        runs"""
        self._at_close, self._idle = at_close, idle

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._painted:
            self._painted = True
            self.painted_first.emit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.resized.emit()
        return done

    def focusNextPrevChild(self, forward: bool) -> bool:
        return self._tabs.move(forward=forward)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        accept_files(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.files_dropped.emit(dropped_files(event))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        for close in self._at_close():
            try:
                close()
            except Exception as error:  # What fails must not keep the rest from ending: the work is kept among that.
                tell(error)
        super().closeEvent(event)

    def wait_until_idle(self, timeout_s: float) -> bool:
        """Processes events until nothing is loaded, checked or drawn any more; False at the time limit."""
        clock = QElapsedTimer()
        clock.start()
        loop = QEventLoop()
        while clock.elapsed() < timeout_s * 1000:
            loop.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            if self._painted and all(still() for still in self._idle):
                return True
            time.sleep(0.004)
        return False
