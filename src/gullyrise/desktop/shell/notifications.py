"""Sentences about what happened, over the bench until read."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.pieces import caption, column_box, row_box
from gullyrise.drawing.palette import Palette

_MOST = 4
Answer = tuple[str, Callable[[], object]]
"""The words of a button and what it does."""


class Notifications(QWidget):
    """Newest at the foot. What asks something or is grave stays until it is dismissed: of many the newest are seen, and how many
    more there are is said. The others are pushed out by newer ones."""

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette = palette
        self.setObjectName("notices")
        self.sentences: list[str] = []
        self._column = column_box(self, (0, 0, 0, 0), 4)
        self.more = caption(name="notices_more")
        self.more.setProperty("floating", True)
        self.more.setContentsMargins(10, 4, 10, 4)
        self._column.addWidget(self.more)
        self.more.hide()
        self.hide()

    def _cards(self) -> list[QWidget]:
        """Oldest first."""
        widgets = (item.widget() for at in range(self._column.count()) if (item := self._column.itemAt(at)) is not None)
        return [one for one in widgets if one is not None and one is not self.more]

    def _thin_out(self) -> None:
        """Leaves the newest in sight."""
        passing = [one for one in self._cards() if not one.property("stays")]
        while len(self._cards()) > _MOST and passing:
            self._take_out(passing.pop(0))
        cards = self._cards()
        for at, card in enumerate(cards):
            card.setVisible(at >= len(cards) - _MOST)
        hidden = max(len(cards) - _MOST, 0)
        self.more.setText(f"{hidden} more, older: dismiss or answer these to see {'it' if hidden == 1 else 'them'}.")
        self.more.setVisible(hidden > 0)
        self.setVisible(bool(cards))

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        for card in self._cards():
            self._dress(card)

    def _dress(self, card: QWidget) -> None:
        p = self._palette
        edge = p.failed if card.property("grave") else p.review
        card.setStyleSheet(
            f"QFrame#notice {{ background: {p.panel}; border: 1px solid {p.line}; "
            f"border-left: 4px solid {edge}; border-radius: 4px; }}"
        )

    def say(self, sentence: str, grave: bool, answers: Sequence[Answer] = (), about: str = "") -> None:
        """answers : (words, what they do) of buttons; any of them takes the notice away
        about : what it hangs on, by which `settled` takes it away; it stands for one before it
        """
        self.sentences.append(sentence)
        self.settled(about)
        card = QFrame()
        card.setObjectName("notice")
        card.setProperty("grave", grave)
        card.setProperty("about", about)
        card.setProperty("stays", grave or bool(answers))
        self._dress(card)
        column = column_box(card, (10, 6, 6, 6), 4)
        row = QHBoxLayout()
        words = caption(sentence, wrap=True)
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
        self._thin_out()
        self.place()
        self.raise_()

    def tells(self, about: str) -> bool:
        """Whether something is being said about that."""
        return any(card.property("about") == about for card in self._cards())

    def settled(self, about: str) -> None:
        """Takes away what is said about something that is settled."""
        for card in self._cards():
            if about and card.property("about") == about:
                self._drop(card)

    def _answers(self, card: QFrame, answers: Sequence[Answer]) -> QHBoxLayout:
        line = row_box(spacing=4)
        for number, (said, run) in enumerate(answers):
            button = small(said, f"notice_answer_{number}", said)

            def take(_: bool, run: Callable[[], object] = run) -> None:
                self._drop(card)
                run()

            button.clicked.connect(take)
            line.addWidget(button)
        line.addStretch(1)
        return line

    def _drop(self, card: QWidget | None) -> None:
        if card is None:
            return
        self._take_out(card)
        self._thin_out()
        self.place()

    def _take_out(self, card: QWidget) -> None:
        self._column.removeWidget(card)
        card.hide()
        card.deleteLater()

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
