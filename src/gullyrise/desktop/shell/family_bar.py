"""The one menu: the job and the eight families, each of which opens its key card."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QPushButton, QWidget

from gullyrise.desktop.commands.registry import CARDS, JOB
from gullyrise.desktop.theme import icons
from gullyrise.desktop.widgets.pieces import named, row_box

_WIDEST_NAME, _NARROW_NAME, _WIDE = 200, 96, 1000


class FamilyBar(QWidget):
    """opened : the letter of a card and the place below its button, in the window; empty for none

    Alt and the letter opens a card by keys; while one is open, the pointer on another button opens that.
    """

    opened = pyqtSignal(str, QPoint)

    def __init__(self) -> None:
        super().__init__()
        named(self, "family_bar", "Family bar")
        row = row_box(self, (0, 0, 0, 0), 0)
        self.title = ""
        self.buttons: dict[str, QPushButton] = {}
        self._open = ""
        self._changed, self._most = False, _WIDEST_NAME
        for letter, name in CARDS.items():
            button = self._button(letter, name)
            self.buttons[letter] = button
            row.addWidget(button)
        job = self.buttons[JOB]
        job.setProperty("job", True)
        job.setLayoutDirection(Qt.LayoutDirection.RightToLeft)
        icons.put(job, "down")

    def _button(self, letter: str, name: str) -> QPushButton:
        at = name.upper().find(letter)
        button = QPushButton(name[:at] + "&" + name[at:])
        named(button, f"family_{name.lower()}", f"{name}, key card", f"{name} (Alt+{letter})")
        button.setProperty("family", True)
        button.setCheckable(True)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.installEventFilter(self)
        # The shortcut of the underlined letter would click; the job's own name has no such letter.
        button.setShortcut(QKeySequence())
        keys = QShortcut(QKeySequence(f"Alt+{letter}"), self)
        keys.activated.connect(lambda: self.open(letter))
        button.clicked.connect(lambda: self.open(letter) if self._open != letter else self.close_card())
        return button

    def close_card(self) -> None:
        self.opened.emit("", QPoint())

    def fit(self, width: int) -> None:
        """To a window of that width: a narrow one has less room for the job's name."""
        most = _WIDEST_NAME if width >= _WIDE else _NARROW_NAME
        if most != self._most:
            self._most = most
            self.name_job(self.title, changed=self._changed)

    def name_job(self, title: str, *, changed: bool) -> None:
        """changed : since it was kept last"""
        self.title, self._changed = title, changed
        button = self.buttons[JOB]
        shown = button.fontMetrics().elidedText(title, Qt.TextElideMode.ElideMiddle, self._most)
        button.setText(f"{shown}{'*' if changed else ''}".replace("&", "&&"))
        button.setAccessibleName(f"Job {title}{', changed' if changed else ''}, key card")
        button.setToolTip(f"{title}{', changed since it was saved' if changed else ''} (Alt+{JOB})")

    def open(self, letter: str) -> None:
        """Opens a card below its button."""
        button, window = self.buttons[letter], self.window()
        if window is not None:
            self.opened.emit(letter, button.mapTo(window, QPoint(0, button.height() + 2)))

    def turn(self, by: int) -> None:
        """From the card that is open to the one beside it."""
        letters = list(self.buttons)
        if self._open:
            self.open(letters[(letters.index(self._open) + by) % len(letters)])

    def show_open(self, letter: str) -> None:
        """Marks the button whose card is open; none for an empty letter."""
        self._open = letter
        for one, button in self.buttons.items():
            button.setChecked(one == letter)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Enter and self._open:
            over = next((letter for letter, button in self.buttons.items() if button is watched), self._open)
            if over != self._open:
                self.open(over)
        return False
