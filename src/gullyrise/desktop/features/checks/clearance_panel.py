"""Every pair of bodies in one table: gap and verdict in each field, and what is wanted of the chosen pair."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QIcon
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from gullyrise.core.checks.clearances import Limits, Pair, wish_for
from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.number_words import number, of_doubt
from gullyrise.desktop.commands.floating_form import FloatingForm
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import caption, named
from gullyrise.desktop.widgets.stamp import WORDS, stamp_picture
from gullyrise.drawing.palette import Palette

_WIDE, _TALL = 100, 26
_MOST = 60
_KINDS = {"as all": "as all others", "moving": "moving: a gap", "touching": "touching", "pressed": "pressed in"}


class ClearanceMatrix(FloatingForm):
    """chosen : the names of a pair;  wish_set : those, the kind, and the gap in mm or None;  closed : no longer wanted"""

    chosen = pyqtSignal(str, str)
    wish_set = pyqtSignal(str, str, str, object)

    def __init__(self, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent, "clearance_matrix", "Clearances of all pairs, mm", ("matrix_close", "Close the matrix"))
        self._palette = palette
        self._pairs: tuple[Pair, ...] = ()
        self._names: tuple[str, ...] = ()
        self._judged: dict[tuple[str, str], Outcome] = {}
        self._limits = Limits(0.0)
        self._pair: tuple[str, str] | None = None
        self._bodies = 0
        column = self._column
        self.table = QTableWidget(0, 0)
        named(self.table, "matrix_table", "Clearances of all pairs")
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.currentCellChanged.connect(lambda row, column, *_: self._choose(row, column))
        for header in (self.table.horizontalHeader(), self.table.verticalHeader()):
            if header is not None:
                header.setDefaultSectionSize(_WIDE if header is self.table.horizontalHeader() else _TALL)
        column.addWidget(self.table, 1)
        self.words = caption(name="matrix_words", wrap=True)
        column.addWidget(self.words)
        line = QHBoxLayout()
        self.kind = Choice()
        named(self.kind, "matrix_kind", "What the two are to each other")
        for id, words in _KINDS.items():
            self.kind.addItem(words, id)
        self.kind.activated.connect(lambda _: self._set())
        self.gap = NumberField("mm", 3)
        named(self.gap, "matrix_gap", "Gap wanted of the pair, or depth when pressed in")
        self.gap.valueChanged.connect(lambda _: self._set())
        self.wanted = caption("Wanted of this pair", "quiet")
        for widget in (self.wanted, self.kind, self.gap):
            line.addWidget(widget)
        line.addStretch(1)
        column.addLayout(line)
        self.resize(520, 300)
        self.hide()

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.show_pairs(self._names, self._pairs, self._judged, self._limits, self._bodies)

    def show_pairs(
        self, names: tuple[str, ...], pairs: tuple[Pair, ...], judged: dict[tuple[str, str], Outcome], limits: Limits, bodies: int
    ) -> None:
        """names : of the bodies, in order;  pairs, judged : what was measured of each pair, and its verdict;  bodies : how many
        there are in all, of which the first are shown"""
        self._bodies = bodies
        self._names, self._pairs, self._judged, self._limits = names[:_MOST], pairs, judged, limits
        shown = self._names
        self.table.blockSignals(True)
        self.table.setRowCount(len(shown))
        self.table.setColumnCount(len(shown))
        self.table.setHorizontalHeaderLabels(list(shown))
        self.table.setVerticalHeaderLabels(list(shown))
        place = {name: at for at, name in enumerate(shown)}
        for row in range(len(shown)):
            for column in range(len(shown)):
                item = QTableWidgetItem("" if row != column else "–")
                item.setFlags(Qt.ItemFlag.ItemIsEnabled if row != column else Qt.ItemFlag.NoItemFlags)
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        # Drawn once a verdict: of an assembly there are thousands of fields.
        ratio = self.devicePixelRatioF()
        verdicts = {outcome.verdict for outcome in judged.values()}
        icons = {verdict: QIcon(stamp_picture(verdict, self._palette, 14, ratio)) for verdict in verdicts}
        for pair in pairs:
            outcome = judged[pair.a, pair.b]
            for a, b in ((pair.a, pair.b), (pair.b, pair.a)):
                if a in place and b in place:
                    self._fill(place[a], place[b], pair, outcome, icons[outcome.verdict])
        self.table.blockSignals(False)
        empty = "Select a field to see the pair."
        if len(shown) < 2:
            empty = "There is one body, and nothing to compare it with." if shown else "The gaps are not measured yet."
        if len(shown) < bodies:
            empty += f" The first {len(shown)} of {bodies:,} bodies are shown; select parts to see theirs."
        if self._pair is None or self._pair not in judged:
            self._pair = None
            self.words.setText(empty)
        self._show_pair()

    def wanted_height(self) -> int:
        """px for all of its rows and words."""
        return 170 + _TALL * (len(self._names) + 1)

    def _fill(self, row: int, column: int, pair: Pair, outcome: Outcome, icon: QIcon) -> None:
        item = self.table.item(row, column)
        if item is None:
            return
        found = pair.between
        depth = "" if found.depth is None else f" {number(found.depth)}"
        item.setText(f"into{depth}" if found.overlaps else number(found.distance))
        item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        item.setToolTip(f"{WORDS[outcome.verdict]}: {outcome.why}")
        colour = QColor(self._palette.verdict(outcome.verdict))
        item.setForeground(colour)
        wash = QColor(colour)
        wash.setAlpha(38 if outcome.verdict != "pass" else 0)
        item.setBackground(wash)
        item.setIcon(icon)

    def _choose(self, row: int, column: int) -> None:
        if not (0 <= row < len(self._names) and 0 <= column < len(self._names)) or row == column:
            return
        a, b = self._names[row], self._names[column]
        self._pair = (a, b) if (a, b) in self._judged else (b, a)
        self._show_pair()
        if self._pair in self._judged:
            self.chosen.emit(*self._pair)

    def _show_pair(self) -> None:
        known = self._pair is not None and self._pair in self._judged
        for widget in (self.wanted, self.kind, self.gap):
            widget.setVisible(known)
        if not known or self._pair is None:
            return
        a, b = self._pair
        pair = next(one for one in self._pairs if (one.a, one.b) == self._pair)
        outcome = self._judged[a, b]
        lines = [outcome.why]
        lines += [
            f"Also ⌀ {number(fit.hole)} on ⌀ {number(fit.shaft)}: {number(fit.clearance)} mm {fit.like}".rstrip()
            for fit in pair.fits[1:4]
        ]
        lines.append(f"Uncertainty ± {of_doubt(outcome.uncertainty or 0.0)} mm.")
        self.words.setText("\n".join(lines))
        own = any(one.is_of(a, b) for one in self._limits.pair_gaps or ())
        wish = wish_for(a, b, self._limits)
        for widget in (self.kind, self.gap):
            widget.blockSignals(True)
        self.kind.setCurrentIndex(self.kind.findData(wish.kind if own else "as all"))
        self.gap.setValue(wish.gap or 0.0)
        self.gap.setEnabled(own and wish.kind != "touching")
        for widget in (self.kind, self.gap):
            widget.blockSignals(False)

    def _set(self) -> None:
        if self._pair is not None:
            kind = self.kind.currentData()
            self.wish_set.emit(*self._pair, kind, self.gap.value() if kind in ("moving", "pressed") else None)
