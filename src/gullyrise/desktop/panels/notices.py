"""Sentences about what happened, over the bench until read."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gullyrise.desktop.panels.buttons import small
from gullyrise.desktop.theme.palette import Palette

_MOST = 4


class Notices(QWidget):
    """Newest at the foot; each stays until it is dismissed or pushed out by newer ones."""

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self.setObjectName("notices")
        self.sentences: list[str] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(4)
        self.hide()

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        for index in range(self._column.count()):
            item = self._column.itemAt(index)
            card = item.widget() if item is not None else None
            if card is not None:
                self._dress(card)

    def _dress(self, card: QWidget) -> None:
        p = self._palette
        edge = p.failed if card.property("grave") else p.review
        card.setStyleSheet(
            f"QFrame#notice {{ background: {p.panel}; border: 1px solid {p.line}; "
            f"border-left: 4px solid {edge}; border-radius: 4px; }}"
        )

    def say(self, sentence: str, grave: bool, answers: Sequence[tuple[str, Callable[[], None]]] = (), about: str = "") -> None:
        """answers : (words, what they do) of buttons; any of them takes the notice away
        about : what it hangs on, by which `settled` takes it away; it stands for one before it
        """
        self.sentences.append(sentence)
        self.settled(about)
        while self._column.count() >= _MOST:
            self._drop(self._column.itemAt(0).widget())  # type: ignore[union-attr]
        card = QFrame()
        card.setObjectName("notice")
        card.setProperty("grave", grave)
        card.setProperty("about", about)
        self._dress(card)
        column = QVBoxLayout(card)
        column.setContentsMargins(10, 6, 6, 6)
        column.setSpacing(4)
        row = QHBoxLayout()
        words = QLabel(sentence)
        words.setWordWrap(True)
        words.setTextFormat(Qt.TextFormat.PlainText)
        words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        away = QPushButton("Dismiss")
        away.setProperty("flat", True)
        away.clicked.connect(lambda: self._drop(card))
        row.addWidget(words, 1)
        row.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(row)
        if answers:
            column.addLayout(self._answers(card, answers))
        self._column.addWidget(card)
        self.show()
        self.place()
        self.raise_()

    def tells(self, about: str) -> bool:
        """Whether something is being said about that."""
        cards = (self._column.itemAt(index) for index in range(self._column.count()))
        return any(item is not None and (card := item.widget()) is not None and card.property("about") == about for item in cards)

    def settled(self, about: str) -> None:
        """Takes away what is said about something that is settled."""
        cards = [item.widget() for index in range(self._column.count()) if (item := self._column.itemAt(index)) is not None]
        for card in cards:
            if about and card is not None and card.property("about") == about:
                self._drop(card)

    def _answers(self, card: QFrame, answers: Sequence[tuple[str, Callable[[], None]]]) -> QHBoxLayout:
        line = QHBoxLayout()
        line.setSpacing(4)
        for number, (said, run) in enumerate(answers):
            button = small(QPushButton(), said, f"notice_answer_{number}", said)

            def take(_: bool, run: Callable[[], None] = run) -> None:
                self._drop(card)
                run()

            button.clicked.connect(take)
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _drop(self, card: QWidget | None) -> None:
        if card is None:
            return
        self._column.removeWidget(card)
        card.hide()
        card.deleteLater()
        if self._column.count() == 0:
            self.hide()
        self.place()

    def place(self) -> None:
        """At the foot of the parent, above the scale bar and clear of the legend."""
        parent = self.parentWidget()
        if parent is None:
            return
        width = min(460, parent.width() - 190)
        self.setFixedWidth(max(width, 120))
        self.adjustSize()
        height = self._column.heightForWidth(width) if self._column.hasHeightForWidth() else self.sizeHint().height()
        self.resize(width, height)
        self.move(14, parent.height() - height - 48)
