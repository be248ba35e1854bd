"""Small controls on the bench itself: what clicks pick, and which bodies are seen."""

from __future__ import annotations

import math

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QBoxLayout, QButtonGroup, QHBoxLayout, QLabel, QSlider, QToolButton, QWidget

from gullyrise.core.number_words import number
from gullyrise.core.picking.feature import KINDS, Kind
from gullyrise.desktop.commands.buttons import dress, small
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.choice import Slide
from gullyrise.desktop.widgets.pieces import caption, column_box, named, row_box

_STEPS = 200
_ACTIONS: dict[Kind, str] = {
    "body": "bodies.pick-bodies",
    "face": "bodies.pick-faces",
    "edge": "bodies.pick-edges",
    "vertex": "bodies.pick-corners",
}


class PickBar(QWidget):
    """wanted : the id of an action. Says what a click picks and what a rectangle takes."""

    wanted = pyqtSignal(str)

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("pick_bar")
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = self._row = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        row.setContentsMargins(2, 2, 2, 2)
        row.setSpacing(0)
        group = QButtonGroup(self)
        self.buttons: dict[Kind, QToolButton] = {}
        for kind, name in KINDS.items():
            button = self._button(name, f"pick_{kind}", f"Clicks pick {name.lower()}", _ACTIONS[kind])
            button.setCheckable(True)
            group.addButton(button)
            self.buttons[kind] = button
            row.addWidget(button)
        self.measure = self._button("Measure", "pick_measure", "Clicks measure what they meet", "measure.clicks")
        self.measure.setCheckable(True)
        group.addButton(self.measure)
        row.addWidget(self.measure)
        self._lines = [_line(), _line()]
        self._touching = True
        self._kind: Kind = "body"
        self.way = self._button(
            "Touching", "pick_way", "What a rectangle takes: what it touches, or what lies inside", "bodies.rectangle-way"
        )
        self.views = self._button("Views", "open_views", "Saved views", "view.shelf")
        for widget in (self._lines[0], self.way, self._lines[1], self.views):
            row.addWidget(widget)
        self.show_kind("body")

    def _button(self, words: str, name: str, tip: str, action: str) -> QToolButton:
        button = QToolButton()
        dress(button, words, name, tip, action)
        button.clicked.connect(lambda: self.wanted.emit(action))
        return button

    def show_kind(self, kind: Kind) -> None:
        self._kind = kind
        self.buttons[kind].setChecked(True)

    def show_measuring(self, active: bool) -> None:
        (self.measure if active else self.buttons[self._kind]).setChecked(True)

    def show_way(self, *, touching: bool) -> None:
        self._touching = touching
        word = "touching" if touching else "inside"
        upright = self._row.direction() == QBoxLayout.Direction.TopToBottom
        self.way.setText(word.capitalize() if upright else f"Rectangle: {word}")
        self.way.setMinimumWidth(0)
        self.way.ensurePolished()
        # The layout remembers how wide the words before were.
        self.way.setMinimumWidth(self.way.sizeHint().width())
        self._row.activate()
        self.resize(self._row.totalSizeHint())

    def stand(self, *, upright: bool) -> None:
        """In a column where there is no room for a row."""
        wanted = QBoxLayout.Direction.TopToBottom if upright else QBoxLayout.Direction.LeftToRight
        if wanted != self._row.direction():
            self._row.setDirection(wanted)
            for line in self._lines:
                line.setMinimumSize(0, 0)
                line.setMaximumSize(*((16777215, 1) if upright else (1, 16777215)))
            self.show_way(touching=self._touching)


def _line() -> QLabel:
    line = QLabel()
    line.setFixedWidth(1)
    line.setProperty("role", "upright")
    return line


class VisibilityBar(QWidget):
    """Shown while not every body is seen as it is: what is hidden, how far the others fade, how far neighbours are peeled.

    faded : 0 to 1;  peeled : mm within which neighbours stay;  all_wanted : everything seen again
    """

    faded = pyqtSignal(float)
    peeled = pyqtSignal(float)
    all_wanted = pyqtSignal()

    def __init__(self, model: Workbench, parent: QWidget) -> None:
        super().__init__(parent)
        self._model = model
        self.setObjectName("sight_bar")
        self.setProperty("floating", True)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = column_box(self, (8, 6, 8, 6), 4)
        head = QHBoxLayout()
        self.words = caption(name="sight_words")
        show = small("Show all", "sight_show_all", "Every body seen and solid again", "bodies.show-all", do=self.all_wanted)
        head.addWidget(self.words, 1)
        head.addWidget(show)
        column.addLayout(head)
        self.fade = self._slider("sight_fade", "How clear the other bodies are", 100)
        self.fade.valueChanged.connect(lambda value: self.faded.emit(value / 100))
        self.within = self._slider("sight_depth", "How near to the selected body its neighbours must be to be seen", _STEPS)
        self.within.valueChanged.connect(self._peel)
        self.fade_row = self._row("Others", self.fade)
        self.depth_words = QLabel()
        self.depth_row = self._row("Within", self.within, self.depth_words)
        column.addWidget(self.fade_row)
        column.addWidget(self.depth_row)
        self.setFixedWidth(270)
        self.hide()
        model.shown.changed.connect(self.refresh)
        model.document.changed.connect(self.refresh)

    def _slider(self, name: str, title: str, most: int) -> QSlider:
        slider = Slide(Qt.Orientation.Horizontal)
        named(slider, name, title, title)
        slider.setRange(0, most)
        return slider

    def _row(self, words: str, *widgets: QWidget) -> QWidget:
        row = QWidget()
        line = row_box(row, (0, 0, 0, 0))
        line.addWidget(QLabel(words))
        for widget in widgets:
            line.addWidget(widget, 1 if isinstance(widget, QSlider) else 0)
        return row

    def _largest(self) -> float:
        return max(self._model.shown.visibility.distances.values(), default=0.0)

    def _peel(self, value: int) -> None:
        """The slider's far end shows all; below it distances fall off so that the near ones can be told apart."""
        self.peeled.emit(math.inf if value >= _STEPS else self._largest() * (value / _STEPS) ** 2)

    def refresh(self) -> None:
        sight, copies = self._model.shown.visibility, self._model.copies()
        if sight.inside is not None:
            copies = {key: one for key, one in copies.items() if key in sight.inside}
        hidden = sum(sight.opacity(key) == 0 for key in copies)
        clear = sum(0 < sight.opacity(key) < 1 for key in copies)
        parts = [
            f"Inside {sight.place}" if sight.inside is not None else "",
            f"{hidden} hidden" if hidden else "",
            f"{clear} see-through" if clear else "",
        ]
        told = any(parts) or sight.only is not None or sight.centre is not None
        self.setVisible(bool(copies) and told)
        self.words.setText(" · ".join(part for part in parts if part) or "All bodies are seen")
        self.fade_row.setVisible(sight.only is not None)
        self.depth_row.setVisible(sight.centre is not None)
        for slider, value in ((self.fade, round(sight.fade * 100)), (self.within, self._depth_value())):
            slider.blockSignals(True)
            slider.setValue(value)
            slider.blockSignals(False)
        far = math.isinf(sight.within)
        self.depth_words.setText("any distance" if far else f"{number(sight.within)} mm")
        self.adjustSize()

    def _depth_value(self) -> int:
        within, most = self._model.shown.visibility.within, self._largest()
        if math.isinf(within) or most <= 0:
            return _STEPS
        return round(math.sqrt(min(within / most, 1.0)) * _STEPS)
