"""The findings of all checks under the traveller's rows, worst first; what to try, and a note that accepts one."""

from __future__ import annotations

from functools import partial
from operator import is_
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QSizePolicy, QWidget

from gullyrise.core.checks.protocol import Finding
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.pieces import caption, clear, column_box, row_box
from gullyrise.desktop.widgets.stamp import Stamp
from gullyrise.drawing.palette import Palette

if TYPE_CHECKING:
    from gullyrise.desktop.features.checks.findings import Findings, Listed

_ROUND = 4


class FindingsList(QWidget):
    """wanted : the id of an action;  gone_to : the place of a finding;  accepted : the note to the flagged one"""

    wanted = pyqtSignal(str)
    gone_to = pyqtSignal(int)
    accepted = pyqtSignal(str)

    def __init__(self, findings: Findings, palette: Palette) -> None:
        super().__init__()
        self._findings, self._palette = findings, palette
        self._made_of: tuple[list[Finding], tuple[object, ...]] = ([], ())
        self.setObjectName("findings_list")
        column = column_box(self, (10, 8, 8, 8), 2)
        head = QHBoxLayout()
        title = caption("FINDINGS", "head")
        self.count = caption("", "quiet")
        head.addWidget(title)
        head.addWidget(self.count, 1)
        for words, name, runs, tip in (
            ("‹", "findings_previous", "check.previous-finding", "Previous finding"),
            ("›", "findings_next", "check.next-finding", "Next finding"),
        ):
            button = small(words, name, tip, runs, do=lambda _, runs=runs: self.wanted.emit(runs))
            head.addWidget(button)
        column.addLayout(head)
        self._rows = column_box(spacing=1)
        column.addLayout(self._rows)
        self.note = QLineEdit()
        self.note.setObjectName("finding_note")
        self.note.setPlaceholderText("Why it is accepted")
        self.note.setAccessibleName("Note to the flagged finding")
        self.note.setMaxLength(500)
        self.note.returnPressed.connect(self._accept)
        self.accept = small("Accept", "finding_accept", "Accept the flagged finding with this note", do=self._accept)
        self.back = small(
            "Take back",
            "finding_take_back",
            "It is no longer accepted",
            "check.take-back",
            do=lambda: self.wanted.emit("check.take-back"),
        )
        foot = QHBoxLayout()
        foot.addWidget(self.note, 1)
        foot.addWidget(self.accept)
        foot.addWidget(self.back)
        column.addLayout(foot)
        findings.changed.connect(self.refresh)
        findings.note_wanted.connect(self.note.setFocus)
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette, self._made_of = palette, ([], ())
        self.refresh()

    def _accept(self) -> None:
        self.accepted.emit(self.note.text())

    def refresh(self) -> None:
        listed, flagged = self._findings.all, self._findings.flagged
        self.setVisible(bool(listed))
        shown = _window_on(len(listed), flagged)
        # The findings themselves: an id comes back once a finding is gone.
        findings = [one.finding for one in listed]
        rest = (*(one.acceptance for one in listed), *(one.stale for one in listed), flagged, self._palette)
        before, rest_before = self._made_of
        if len(findings) == len(before) and all(map(is_, findings, before)) and rest == rest_before:
            return
        self._made_of = (findings, rest)
        where = "" if flagged is None else f"{flagged + 1} of "
        accepted = sum(one.acceptance is not None for one in listed)
        self.count.setText(f"{where}{len(listed)}{f', {accepted} accepted' if accepted else ''}")
        clear(self._rows)
        for place in shown:
            self._rows.addWidget(self._row(place, listed[place], chosen=place == flagged))
        one = listed[flagged] if flagged is not None and flagged < len(listed) else None
        for widget in (self.note, self.accept):
            widget.setVisible(one is not None)
        self.back.setVisible(one is not None and one.acceptance is not None)
        if one is not None and not self.note.hasFocus():
            self.note.setText(one.acceptance.note if one.acceptance is not None else "")

    def _row(self, place: int, one: Listed, *, chosen: bool) -> QWidget:
        row = QWidget()
        line = row_box(row, (0, 0, 0, 0), 6)
        stamp = Stamp(self._palette, 16)
        stamp.show_verdict(one.verdict, stale=one.stale, palette=self._palette)
        line.addWidget(stamp, 0, Qt.AlignmentFlag.AlignTop)
        button = QPushButton(_words(one, chosen=chosen))
        button.setObjectName(f"listed_{place + 1}")
        button.setProperty("flat", True)
        button.setCheckable(True)
        button.setChecked(chosen)
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        button.setToolTip(f"Fly there: {one.finding.what}. Try: {one.finding.remedy or 'see the check'}")
        button.clicked.connect(partial(self.gone_to.emit, place))
        line.addWidget(button, 1)
        return row


def _window_on(count: int, flagged: int | None) -> range:
    """The places to show: some round the flagged one, or the worst."""
    first = max(0, min((flagged or 0) - _ROUND, count - 2 * _ROUND - 1))
    return range(first, min(count, first + 2 * _ROUND + 1))


def _words(one: Listed, *, chosen: bool) -> str:
    value = f"{one.finding.figure}  " if one.finding.figure else ""
    first = f"{value}{one.finding.what[:1].upper()}{one.finding.what[1:]}"
    more = one.row.title if one.finding.names(one.placed.name) else f"{one.row.title}  ·  {one.placed.name}"
    if one.copies:
        more += f"  ·  {len(one.copies) + 1} alike"
    if one.acceptance is not None:
        more += "  ·  accepted"
    return f"{first}\n{more}" if not chosen or one.acceptance is None else f"{first}\n{more}: {one.acceptance.note[:60]}"
