"""The hint line: what each button does now, the pointer, background work."""

from __future__ import annotations

import time

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QMenu, QProgressBar, QPushButton, QSizePolicy, QWidget

from gullyrise.core.geometry import Floats
from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.pointer.schemes import DEFAULT, OWN, READY, Scheme, hints
from gullyrise.desktop.state.task_runner import TaskRunner
from gullyrise.desktop.widgets.pieces import caption, row_box
from gullyrise.desktop.widgets.timers import once

_BETWEEN = " · "


class StatusStrip(QWidget):
    """cancelled : background work is not wanted any more;  scheme_chosen : the id of a pointer scheme."""

    cancelled = pyqtSignal()
    scheme_chosen = pyqtSignal(str)

    def __init__(self, tasks: TaskRunner) -> None:
        super().__init__()
        self._tasks = tasks
        self._scheme = READY[DEFAULT]
        self._keys: frozenset[str] = frozenset()
        self._click: str | None = None
        self._tool = ""
        self._elsewhere = ""
        self._opening = ""
        self._parts: list[str] = []
        self.setObjectName("hint_line")
        self.setProperty("panel", True)
        row = row_box(self, (12, 2, 12, 2), 12)
        self.setFixedHeight(26)
        self.scheme = small("", "pointer_scheme", "Choose what each button does", "help.scheme")
        self.menu = QMenu(self)
        self.menu.setObjectName("scheme_menu")
        for id, title in [*((one.id, one.title) for one in READY.values()), (OWN, "Own scheme")]:
            self.menu.addAction(title, lambda id=id: self.scheme_chosen.emit(id))
        self.scheme.setMenu(self.menu)
        self.hint = caption("", "quiet", name="hint")
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.pointer = caption(name="pointer")
        self.pointer.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.work = caption("", "quiet")
        self.bar = QProgressBar()
        self.bar.setFixedWidth(90)
        self.bar.setTextVisible(False)
        self.cancel = QPushButton("Cancel")
        self.cancel.setObjectName("cancel_work")
        named_keys.tip(self.cancel, "work.cancel", "Cancel background work")
        self.cancel.setProperty("flat", True)
        self.cancel.clicked.connect(self.cancelled)
        unit = caption("mm", "quiet")
        row.addWidget(self.scheme)
        row.addWidget(self.hint, 1)
        for widget in (self.pointer, unit, self.work, self.bar, self.cancel):
            row.addWidget(widget)
        # Hundreds of files that are sent or come back in one turn of the loop are told once.
        self._soon = once(self, 0, self.refresh)
        self._fitting = once(self, 0, self.fit_hint)
        self.hint.installEventFilter(self)
        tasks.changed.connect(self._soon.start)
        self.refresh()
        self._say()

    def choose_scheme(self) -> None:
        """Opens the list of pointer schemes; keys walk it."""
        # Above the button, and without waiting for an answer as the button itself would.
        self.menu.popup(self.scheme.mapToGlobal(self.scheme.rect().topLeft()) - QPoint(0, self.menu.sizeHint().height()))

    def show_scheme(self, scheme: Scheme) -> None:
        self._scheme = scheme
        self.scheme.setText(scheme.title)
        self._say()

    def hold_keys(self, keys: frozenset[str]) -> None:
        self._keys = keys
        self._say()

    def show_tool(self, words: str) -> None:
        """What is in hand, before all else; empty for nothing."""
        self._tool = words
        self._say()

    def show_click(self, under: str | None) -> None:
        """What a left click takes where the pointer is on the bench, empty for nothing; None while it is elsewhere."""
        self._click = under
        self._say()

    def show_elsewhere(self, words: str) -> None:
        """What the buttons do in an instrument that the pointer is on, before what they do on the bench; empty once it left."""
        self._elsewhere = words
        self._say()

    def show_opening(self, words: str) -> None:
        """How parts come onto an empty bench; empty as soon as there are any."""
        self._opening = words
        self._say()

    def _say(self) -> None:
        words = self._elsewhere or self._opening or self._tool
        parts = words.split(_BETWEEN) if words else hints(self._scheme, self._keys, self._click)
        if parts != self._parts:
            self._parts = parts
            self.hint.setToolTip(_BETWEEN.join(parts))
            self.fit_hint()

    def fit_hint(self) -> None:
        """As much of the hint as there is room for, what matters most first; the rest is in its tooltip."""
        metrics, room, shown = self.hint.fontMetrics(), self.hint.width(), self._parts[:1]
        for part in self._parts[1:]:
            if metrics.horizontalAdvance(_BETWEEN.join([*shown, part])) > room:
                break
            shown = [*shown, part]
        first = metrics.elidedText(_BETWEEN.join(shown), Qt.TextElideMode.ElideRight, max(room, 40))
        if first != self.hint.text():
            self.hint.setText(first)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.fit_hint()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if watched is self.hint and event is not None and event.type() == QEvent.Type.Resize:
            self._fitting.start()
        return False

    def refresh(self) -> None:
        tasks = self._tasks.under_way
        for widget in (self.work, self.bar, self.cancel):
            widget.setVisible(bool(tasks))
        if not tasks:
            return
        active = next((task for task in tasks if task.stage != "waiting"), tasks[0])
        done, total, left = self._tasks.tally(active.group) if active.group else (0, 1, None)
        title = active.work.title if len(active.work.title) < 34 else active.work.title[:32] + "…"
        words = f"{title}: {active.stage}"
        share = active.share
        if total > 1:
            words = f"{done + 1} of {total} files, {words}"
            share = done / total
        else:
            left = active.seconds_left(time.monotonic())
            if len(tasks) > 1:
                words += f" and {len(tasks) - 1} more"
        self.work.setText(words if left is None else f"{words} · {_span(left)} left")
        if share >= 0:
            self.bar.setRange(0, 100)
            self.bar.setValue(int(share * 100))
        else:
            self.bar.setRange(0, 0)

    def show_pointer(self, point: Floats | None, name: str) -> None:
        if point is None:
            self.pointer.setText("")
        else:
            places = "  ".join(f"{letter} {value:.2f}" for letter, value in zip("xyz", point.tolist(), strict=True))
            self.pointer.setText(f"{places}   {name}" if name else places)


def _span(seconds: float) -> str:
    """About how long, as one would say it."""
    if seconds < 90:
        return f"about {max(round(seconds), 1)} s"
    return f"about {round(seconds / 60)} min"
