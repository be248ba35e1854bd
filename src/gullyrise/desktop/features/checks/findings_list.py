"""The findings under the traveller's rows, worst first, those of one kind on one part together; and a note that accepts one."""

from __future__ import annotations

from functools import partial
from operator import is_

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QPushButton, QSizePolicy, QWidget

from gullyrise.core.checks.protocol import Finding
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.checks.finding_groups import Group, Key, groups_of, place_words, value_words
from gullyrise.desktop.features.checks.finding_pictures import SIZE, FindingPictures
from gullyrise.desktop.features.checks.findings import Findings, Listed
from gullyrise.desktop.theme import icons
from gullyrise.desktop.widgets.pieces import broken, caption, clear, column_box, named, paragraph, row_box
from gullyrise.desktop.widgets.stamp import Stamp
from gullyrise.drawing.palette import Palette

_OPEN_LINES, _MOST_GROUPS, _MOST_LINES = 10, 16, 12

_WORDS_WIDE = 196
"""px beside the picture, in the least width of the panel."""


def _window(count: int, here: int, most: int) -> tuple[int, int]:
    """The first and the end of so many at most round one of them."""
    first = max(0, min(here - most // 2, count - most))
    return first, min(first + most, count)


class FindingsList(QWidget):
    """wanted : the id of an action;  gone_to : the place of a finding;  accepted : the note to the flagged one"""

    wanted = pyqtSignal(str)
    gone_to = pyqtSignal(int)
    accepted = pyqtSignal(str)

    def __init__(self, findings: Findings, pictures: FindingPictures, palette: Palette) -> None:
        super().__init__()
        self._findings, self._pictures, self._palette = findings, pictures, palette
        self._made_of: tuple[list[Finding], tuple[object, ...]] = ([], ())
        self._folded: dict[Key, bool] = {}
        self._lines: dict[int, QPushButton] = {}
        self.setObjectName("findings_list")
        column = column_box(self, (12, 8, 8, 8), 2)
        head = QHBoxLayout()
        title = caption("FINDINGS", "head")
        self.count = caption("", "quiet")
        head.addWidget(title)
        head.addWidget(self.count, 1)
        for icon, name, runs, tip in (
            ("left", "findings_previous", "check.previous-finding", "Previous finding"),
            ("right", "findings_next", "check.next-finding", "Next finding"),
        ):
            button = small("", name, tip, runs, do=lambda _, runs=runs: self.wanted.emit(runs))
            icons.put(button, icon)
            head.addWidget(button)
        column.addLayout(head)
        self._rows = column_box(spacing=0)
        column.addLayout(self._rows)
        self.note = named(QLineEdit(), "finding_note", "Note to the flagged finding")
        self.note.setPlaceholderText("Why it is accepted")
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
        pictures.changed.connect(self._show_pictures)
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette, self._made_of = palette, ([], ())
        self.refresh()

    def _accept(self) -> None:
        self.accepted.emit(self.note.text())

    def refresh(self) -> None:
        listed, flagged, only = self._findings.all, self._findings.flagged, self._findings.only
        self.setVisible(bool(listed))
        # The findings themselves: an id comes back once a finding is gone.
        findings = [one.finding for one in listed]
        rest = (
            *(one.acceptance for one in listed), *(one.stale for one in listed), flagged, only, self._palette,
            tuple(self._folded.items()),
        )  # fmt: skip
        before, rest_before = self._made_of
        if len(findings) == len(before) and all(map(is_, findings, before)) and rest == rest_before:
            return
        self._made_of = (findings, rest)
        shown = [group for group in groups_of(listed) if only is None or group.key[0] == only]
        self._tell_count(listed, flagged, sum(len(group.places) for group in shown))
        clear(self._rows)
        self._lines = {}
        self._fill(shown, listed, flagged)
        icons.wear(self, self._palette)
        self._show_pictures()
        one = listed[flagged] if flagged is not None and flagged < len(listed) else None
        for widget in (self.note, self.accept):
            widget.setVisible(one is not None)
        self.back.setVisible(one is not None and one.acceptance is not None)
        if one is not None and not self.note.hasFocus():
            self.note.setText(one.acceptance.note if one.acceptance is not None else "")

    def _tell_count(self, listed: tuple[Listed, ...], flagged: int | None, shown: int) -> None:
        where = "" if flagged is None else f"{flagged + 1} of "
        accepted = sum(one.acceptance is not None for one in listed)
        of = f"{shown} of {len(listed)}" if flagged is None and shown < len(listed) else f"{where}{len(listed)}"
        self.count.setText(f"{of}{f', {accepted} accepted' if accepted else ''}")

    def _fill(self, shown: list[Group], listed: tuple[Listed, ...], flagged: int | None) -> None:
        lines = 0
        here = next((number for number, group in enumerate(shown) if flagged in group.places), 0)
        first, last = _window(len(shown), here, _MOST_GROUPS)
        if first:
            self._rows.addWidget(
                caption(f"{first} worse {'kind' if first == 1 else 'kinds'} before; step to them", "quiet", wrap=True)
            )
        for number, group in enumerate(shown[first:last], first + 1):
            opened = not self._folded.get(group.key, lines >= _OPEN_LINES) or flagged in group.places
            self._rows.addWidget(self._head(number, group, listed[group.places[0]], opened=opened))
            if opened:
                lines += self._add_lines(group, listed, flagged)
        if last < len(shown):
            self._rows.addWidget(caption(f"and {len(shown) - last} more kinds; step to them", "quiet", wrap=True))

    def _head(self, number: int, group: Group, worst: Listed, *, opened: bool) -> QWidget:
        row = QWidget()
        line = row_box(row, (0, 2, 0, 0), 6)
        stamp = Stamp(self._palette, 16)
        stamp.show_verdict(worst.verdict, stale=worst.stale, palette=self._palette)
        line.addWidget(stamp, 0, Qt.AlignmentFlag.AlignVCenter)
        words = caption(group.title, wrap=True)
        words.setTextFormat(Qt.TextFormat.PlainText)
        line.addWidget(words, 1)
        fold = named(QPushButton(), f"fold_{number}", f"{'Fold' if opened else 'Unfold'} {group.title}")
        fold.setProperty("flat", True)
        icons.put(fold, "up" if opened else "down")
        fold.setToolTip("Fold" if opened else f"Show its {len(group.places)} {'line' if len(group.places) == 1 else 'lines'}")
        fold.clicked.connect(partial(self._fold, group.key, opened))
        line.addWidget(fold, 0, Qt.AlignmentFlag.AlignTop)
        return row

    def _fold(self, key: Key, folded: bool, _: bool = False) -> None:
        self._folded[key] = folded
        self.refresh()

    def _add_lines(self, group: Group, listed: tuple[Listed, ...], flagged: int | None) -> int:
        """Some round the flagged one, or the worst. Gives how many."""
        count = len(group.places)
        here = group.places.index(flagged) if flagged in group.places else 0
        first, last = _window(count, here, _MOST_LINES)
        shown = group.places[first:last]
        for place in shown:
            one = listed[place]
            line = self._line(place, one, chosen=place == flagged)
            self._lines[place] = line
            self._rows.addWidget(line)
            if place == flagged and one.finding.remedy:
                self._rows.addWidget(paragraph(f"Try: {one.finding.remedy}.", "quiet"))
            if place == flagged and one.acceptance is not None:
                self._rows.addWidget(paragraph(f"Accepted: {one.acceptance.note[:200]}", "quiet"))
        if len(shown) < count:
            self._rows.addWidget(caption(f"{count - len(shown)} more of this kind; step to them", "quiet", wrap=True))
        return len(shown)

    def _line(self, place: int, one: Listed, *, chosen: bool) -> QPushButton:
        value, accepted = value_words(one), "  · accepted" if one.acceptance is not None else ""
        first = value or f"{one.finding.what[:1].upper()}{one.finding.what[1:]}"
        button = QPushButton()
        metrics = button.fontMetrics()
        above = broken(f"{one.number}   {first}", metrics, _WORDS_WIDE, " · " if value else " ")
        text = f"{above}\n{broken(f'{place_words(one)}{accepted}', metrics, _WORDS_WIDE, '  ')}"
        text = "\n".join(f" {line}" for line in text.split("\n"))
        button.setText(text)
        named(
            button, f"listed_{place + 1}", f"Finding {one.number}, {one.finding.what}, {value}, at {place_words(one)}{accepted}"
        )
        button.setProperty("finding", True)
        button.setCheckable(True)
        button.setChecked(chosen)
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        button.setFixedHeight(max(SIZE[1] + 6, (text.count("\n") + 1) * metrics.lineSpacing() + 8))
        button.setIconSize(QSize(*SIZE))
        button.setToolTip(
            f"Fly there: {one.finding.what}, {one.placed.name}, in the coordinates of its file. "
            f"Try: {one.finding.remedy or 'see the check'}"
        )
        button.clicked.connect(partial(self.gone_to.emit, place))
        return button

    def _show_pictures(self) -> None:
        """On the lines that are there; those that are missing are asked for."""
        listed = self._findings.all
        for place, line in self._lines.items():
            picture = (
                self._pictures.icon_of(listed[place], self._palette, self.devicePixelRatioF()) if place < len(listed) else None
            )
            if picture is not None:
                line.setIcon(picture)
