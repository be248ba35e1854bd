"""Pages on paper, a strip in each turn of the event loop: painting for a printer cannot be done beside the interface."""

from __future__ import annotations

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QRect, QSize, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtPdf import QPdfDocument, QPdfDocumentRenderOptions
from PyQt6.QtPrintSupport import QPrinter

_SHARPNESS = 200
"""Dots to the inch that pages are printed with."""
_STRIP = 90
"""Rows of dots a strip."""


class Printing(QObject):
    """finished : the last page is out"""

    finished = pyqtSignal()

    def __init__(self, parent: QObject, pdf: bytes, printer: QPrinter) -> None:
        super().__init__(parent)
        self._data = QByteArray(pdf)
        self._held = QBuffer(self._data)
        self._held.open(QIODevice.OpenModeFlag.ReadOnly)
        self._document = QPdfDocument(self)
        self._document.load(self._held)
        self._printer, self._painter = printer, QPainter()
        self._page, self._row = 0, 0

    def begin(self) -> bool:
        """Whether the printer takes anything."""
        if not self._painter.begin(self._printer):
            return False
        QTimer.singleShot(0, self._strip)
        return True

    def give_up(self) -> None:
        """No further page."""
        if self._painter.isActive():
            self._painter.end()

    def _strip(self) -> None:
        if not self._painter.isActive():
            return
        room, points = self._painter.viewport(), self._document.pagePointSize(self._page)
        share = min(room.width() / points.width(), room.height() / points.height())
        dots = min(share, _SHARPNESS / 72)
        size = QSize(round(points.width() * dots), round(points.height() * dots))
        rows = min(_STRIP, size.height() - self._row)
        options = QPdfDocumentRenderOptions()
        options.setScaledSize(size)
        options.setScaledClipRect(QRect(0, self._row, size.width(), rows))
        image = self._document.render(self._page, QSize(size.width(), rows), options)
        scale = share / dots
        top, foot = round(self._row * scale), round((self._row + rows) * scale)
        self._painter.drawImage(QRect(0, top, round(size.width() * scale), foot - top), image)
        self._row += rows
        if self._row >= size.height():
            self._page, self._row = self._page + 1, 0
            if self._page >= self._document.pageCount():
                self._painter.end()
                self.finished.emit()
                return
            self._printer.newPage()
        QTimer.singleShot(0, self._strip)
