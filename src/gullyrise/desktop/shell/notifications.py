"""Sentences about what happened, over the bench until read."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.commands.registry import all_actions
from gullyrise.desktop.theme import icons
from gullyrise.desktop.widgets.pieces import caption, column_box, in_lines, named
from gullyrise.desktop.widgets.timers import every
from gullyrise.drawing.palette import Palette

_NAMED = re.compile("«([a-z.0-9-]+)»")
_MOST, _WIDEST = 2, 340
_BESIDE_SCALE = 200
_STAYS_MS, _EACH_MS, _LOOKED_AT_MS = 7000, 45, 500
"""How long a sentence stays that asks nothing, and how much longer for each of its letters."""
Answer = tuple[str, Callable[[], object]]
"""The words of a button and what it does."""


class Notifications(QWidget):
    """Newest at the foot. What asks something or is grave stays until it is dismissed: of many the newest are seen, and how many
    more there are is said. The others go by themselves once they can have been read, unless the pointer rests on them."""

    def __init__(self, palette: Palette, parent: QWidget, keys_of: Callable[[str], str]) -> None:
        """keys_of : an action by its id; a sentence names it as «its.id», and its keys of now are put there"""
        super().__init__(parent)
        self._palette, self._keys_of = palette, keys_of
        self.setObjectName("notices")
        self.sentences: list[str] = []
        self._column = column_box(self, (0, 0, 0, 0), 4)
        self.more = caption(name="notices_more", wrap=True)
        self.more.setProperty("floating", True)
        self.more.setContentsMargins(10, 4, 10, 4)
        self._column.addWidget(self.more)
        self._passing = every(self, _LOOKED_AT_MS, self._let_pass)
        self._held: dict[QWidget, list[object]] = {}
        self._slip = QRect()
        self.folded = small("", "notices_folded", "Show what is said", do=lambda: self._unfold())
        self._column.addWidget(self.folded)
        self.folded.hide()
        self.more.hide()
        self.hide()

    def _cards(self) -> list[QWidget]:
        """Oldest first."""
        widgets = (item.widget() for at in range(self._column.count()) if (item := self._column.itemAt(at)) is not None)
        return [one for one in widgets if one is not None and one not in (self.more, self.folded)]

    def _thin_out(self) -> None:
        """Leaves the newest in sight."""
        passing = [one for one in self._cards() if not one.property("stays")]
        while len(self._cards()) > _MOST and passing:
            self._take_out(passing.pop(0))
        cards = self._cards()
        hidden = max(len(cards) - _MOST, 0)
        self.more.setText(f"{hidden} more, older: dismiss or answer these to see {'it' if hidden == 1 else 'them'}.")
        self.setVisible(bool(cards))

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        for card in self._cards():
            self._dress(card)

    def _dress(self, card: QWidget) -> None:
        p = self._palette
        edge = p.failed if card.property("grave") else p.review if card.property("stays") else p.accent
        card.setStyleSheet(
            f"QFrame#notice {{ background: {p.panel}; border: 1px solid {p.line}; "
            f"border-left: 4px solid {edge}; border-radius: 4px; }}"
        )

    def say(self, sentence: str, grave: bool, answers: Sequence[Answer] = (), about: str = "") -> None:
        """answers : (words, what they do) of buttons; any of them takes the notice away
        about : what it hangs on, by which `settled` takes it away; it stands for one before it
        """
        sentence = _NAMED.sub(lambda found: self._named(found[0], found[1]), sentence)
        self.sentences.append(sentence)
        self.settled(about)
        for one in self._cards():
            # The same once more is no news.
            if one.property("sentence") == sentence:
                self._take_out(one)
        card = QFrame()
        card.setProperty("sentence", sentence)
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
        away = named(QToolButton(), "notice_dismiss", "Dismiss", "Dismiss")
        away.setProperty("bare", True)
        icons.put(away, "close")
        away.clicked.connect(lambda: self._drop(card))
        row.addWidget(words, 1)
        row.addWidget(away, 0, Qt.AlignmentFlag.AlignTop)
        column.addLayout(row)
        icons.wear(card, self._palette)
        if answers:
            column.addLayout(self._answers(card, answers))
        self._column.addWidget(card)
        if not card.property("stays"):
            card.setProperty("until", time.monotonic() + (_STAYS_MS + _EACH_MS * len(sentence)) / 1000)
            self._passing.start()
        self._thin_out()
        self.place()
        self.raise_()

    def _named(self, words: str, id: str) -> str:
        """The keys of an action; what else stands in such marks, as in the name of a file, stays."""
        return (self._keys_of(id) or "no key") if id in all_actions() else words

    def _let_pass(self) -> None:
        """Takes away what has stood long enough."""
        passing = [card for card in self._cards() if not card.property("stays")]
        if not passing:
            self._passing.stop()
        for card in passing:
            if time.monotonic() > card.property("until") and not card.underMouse():
                self._drop(card)

    def tells(self, about: str) -> bool:
        """Whether something is being said about that."""
        return any(card.property("about") == about for card in self._cards())

    def settled(self, about: str) -> None:
        """Takes away what is said about something that is settled."""
        for card in self._cards():
            if about and card.property("about") == about:
                self._drop(card)

    def _answers(self, card: QFrame, answers: Sequence[Answer]) -> QVBoxLayout:
        buttons = []
        for number, (said, run) in enumerate(answers):
            take = partial(self._take, card, run)
            button = small(said, f"notice_answer_{number}", said, do=take)
            # Python must not take what only Qt holds for nobody's.
            self._held.setdefault(card, []).extend((button, take))
            buttons.append(button)
        return in_lines(buttons, _WIDEST - 24)

    def dismiss_all(self) -> None:
        """Takes away all that is said."""
        for card in self._cards():
            self._take_out(card)
        self._thin_out()
        self.place()

    def _take(self, card: QFrame, run: Callable[[], object], _: bool = False) -> None:
        self._drop(card)
        run()

    def _drop(self, card: QWidget | None) -> None:
        if card is None:
            return
        self._take_out(card)
        self._thin_out()
        self.place()

    def _take_out(self, card: QWidget) -> None:
        self._held.pop(card, None)
        self._column.removeWidget(card)
        card.hide()
        card.deleteLater()

    def keep_clear_of(self, slip: QRect) -> None:
        """Folds into one button where what is said would lie on a slip; empty for none that is open."""
        self._slip = slip
        self.place()

    def place(self) -> None:
        """At the foot of the parent, above the scale bar; beside the scale bar where it is folded."""
        parent = self.parentWidget()
        if parent is None:
            return
        width = min(_WIDEST, parent.width() - 28)
        self._fold(False)
        self.setFixedWidth(max(width, 120))
        self.adjustSize()
        height = self._column.heightForWidth(width) if self._column.hasHeightForWidth() else self.sizeHint().height()
        place = QRect(14, parent.height() - height - 48, width, height)
        if self._cards() and place.intersects(self._slip):
            self._fold(True)
            size = self.folded.sizeHint()
            self.setFixedWidth(size.width())
            place = QRect(_BESIDE_SCALE, parent.height() - size.height() - 8, size.width(), size.height())
        self.setGeometry(place)

    def _fold(self, folded: bool) -> None:
        count = len(self._cards())
        self.folded.setText(f"{count} {'notice' if count == 1 else 'notices'}")
        self.folded.setVisible(folded)
        self.more.setVisible(not folded and count > _MOST)
        for at, card in enumerate(self._cards()):
            card.setVisible(not folded and at >= count - _MOST)

    def _unfold(self) -> None:
        """For one look, whatever it lies on."""
        self._slip = QRect()
        self.place()
        self.raise_()
