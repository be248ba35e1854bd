"""Where things stand that float over the bench."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QWidget

Settle = Callable[[QSize], object]
"""Puts something in its place on a bench of that size."""


class FloatingPlaces:
    """Each feature says where its own stand."""

    def __init__(self, bench: QWidget) -> None:
        self._bench = bench
        self._all: list[Settle] = []
        self._bars: list[Settle] = []

    def add(self, settle: Settle, *, bar: bool = False) -> None:
        """bar : it also moves as what is on the bench changes, not only as the window does"""
        self._all.append(settle)
        if bar:
            self._bars.append(settle)

    def settle_bars(self) -> None:
        for settle in self._bars:
            settle(self._bench.size())

    def settle(self) -> None:
        """Everything, as the window or what floats may have another size."""
        for settle in self._all:
            settle(self._bench.size())
