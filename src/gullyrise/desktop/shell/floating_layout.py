"""Where things stand that float over the bench: bars and the start page where their features say, slips in one corner."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QRect, QSize
from PyQt6.QtWidgets import QWidget

from gullyrise.desktop.widgets.timers import once

Settle = Callable[[QSize], object]
"""Puts something in its place on a bench of that size."""
_EDGE, _FOOT, _TOP, _LEFT = 10, 46, 40, 100
"""px: a slip leaves the line of the scale bar free, and at the left a column for the bars."""


class FloatingPlaces(QObject):
    """Slips have one place, the lower right corner, and one of them is there at a time: what opens sends the one before away."""

    def __init__(self, bench: QWidget) -> None:
        super().__init__(bench)
        self._bench = bench
        self._all: list[Settle] = []
        self._bars: list[Settle] = []
        self._slips: list[QWidget] = []
        # Once the slip has its size.
        self._soon = once(self, 0, self.settle)

    def add(self, settle: Settle, *, bar: bool = False) -> None:
        """bar : it also moves as what is on the bench changes, not only as the window does"""
        self._all.append(settle)
        if bar:
            self._bars.append(settle)

    def add_slip(self, slip: QWidget, size: Callable[[QSize], QSize]) -> None:
        """size : that it wants on a bench of that size"""
        self._slips.append(slip)
        slip.installEventFilter(self)

        def settle(room: QSize) -> None:
            most = QSize(max(room.width() - _LEFT - _EDGE, 120), max(room.height() - _TOP - _FOOT, 120))
            slip.resize(size(room).boundedTo(most))
            slip.move(max(room.width() - slip.width() - _EDGE, 0), max(room.height() - slip.height() - _FOOT, 0))

        self.add(settle, bar=True)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and watched in self._slips and event.type() in (QEvent.Type.Show, QEvent.Type.Hide):
            if event.type() == QEvent.Type.Show:
                for slip in self._slips:
                    if slip is not watched:
                        slip.hide()
            self._soon.start()
        return False

    @property
    def slip_place(self) -> QRect:
        """Where the slip lies that is open, on the bench; empty where none is."""
        return next((slip.geometry() for slip in self._slips if slip.isVisible()), QRect())

    def settle_bars(self) -> None:
        for settle in self._bars:
            settle(self._bench.size())

    def settle(self) -> None:
        """Everything, as the window or what floats may have another size."""
        for settle in self._all:
            settle(self._bench.size())
