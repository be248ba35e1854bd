"""The job's traveller: one row a check, opened to findings, reasons and method."""

from __future__ import annotations

from functools import partial
from html import escape

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QWidget,
)  # fmt: skip

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.checks.registry import checks
from gullyrise.core.job import PlacedPart
from gullyrise.core.number_words import brief
from gullyrise.core.report.check_rows import RowView, alike_in
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.checks.angle_drawing import AngleDrawing
from gullyrise.desktop.features.checks.histogram import Histogram
from gullyrise.desktop.features.checks.options import CheckOptions, limit_field
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import caption, column_box, paragraph, row_box
from gullyrise.desktop.widgets.stamp import WORDS, Stamp
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.colour_maps import scale_for
from gullyrise.drawing.palette import Palette

_SHOWN, _MOST_WHYS = 12, 8


class TravellerRow(QFrame):
    """One check. opened : the row was clicked; limit_set : (limit name, value); finding_chosen : (placed part, finding).

    limit_dragged : (limit name, value, number of the stroke);  wanted : the id of an action
    """

    opened = pyqtSignal(str)
    limit_set = pyqtSignal(str, object)
    limit_dragged = pyqtSignal(str, float, int)
    wanted = pyqtSignal(str)
    finding_chosen = pyqtSignal(object, object)

    def __init__(self, view: RowView, palette: Palette) -> None:
        super().__init__()
        self.check = view.row.id
        self.view = view
        self.setObjectName(f"row_{self.check}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip(f"Colour the parts by {view.row.measure}")
        column = column_box(self, (8, 8, 8, 8), 4)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        self.stamp = Stamp(palette, 22)
        self.title = caption(view.row.title, "title")
        self.worst = QLabel()
        self.worst.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.state = caption("", "quiet")
        grid.addWidget(self.stamp, 0, 0)
        grid.addWidget(self.title, 0, 1)
        grid.addWidget(self.worst, 0, 2, 1, 2)
        grid.addWidget(self.state, 1, 1)
        grid.setColumnStretch(1, 1)
        self.limit: NumberField | None = None
        own = view.row.own_limit
        if own is not None:
            words = caption(own.words, "quiet")
            self.limit = limit_field(own, f"{view.row.title} limit")
            self.limit.valueChanged.connect(lambda value: self.limit_set.emit(own.name, value))
            grid.addWidget(words, 1, 2, Qt.AlignmentFlag.AlignRight)
            grid.addWidget(self.limit, 1, 3)
        column.addLayout(grid)
        self.angle = AngleDrawing(palette) if view.row.angle else None
        self.histogram = Histogram(palette)
        self.histogram.setObjectName(f"histogram_{self.check}")
        self.histogram.dragged.connect(self._dragged)
        self.options = CheckOptions(view.row)
        self.options.limit_set.connect(self.limit_set)
        self.options.wanted.connect(self.wanted)
        self._lasting: list[QWidget] = [one for one in (self.angle, self.histogram, self.options) if one is not None]
        self.detail = QWidget()
        self._detail = column_box(self.detail, (30, 4, 0, 4), 4)
        self.detail.hide()
        # Without a parent what is shown would be a window of its own, and take the keys away from the bench.
        for widget in self._lasting:
            widget.setParent(self.detail)
            widget.hide()
        column.addWidget(self.detail)
        self.findings: list[tuple[PlacedPart, Finding]] = []
        self._filled: tuple[object, ...] = ()
        self._dressed: tuple[Palette, bool] | None = None

    def _dragged(self, value: float, stroke: int) -> None:
        if self.view.row.judged_by:
            self.limit_dragged.emit(self.view.row.judged_by, value, stroke)

    def show_view(self, view: RowView, palette: Palette, *, is_open: bool, chosen: int | None) -> None:
        """Brings the row in step."""
        self.view = view
        self.stamp.show_verdict(view.verdict, stale=view.stale, palette=palette)
        self.worst.setText(view.worst)
        lines = alike_in(view.findings)
        count = len(lines)
        state = WORDS[view.verdict].lower() if not view.running else "checking…"
        found = "" if not count else f", {count} finding{'s' if count > 1 else ''}"
        state = "nothing to compare" if view.nothing and not view.running else state
        self.state.setText(f"{state}{found}{', out of date' if view.stale and not view.running else ''}")
        if self.limit is not None and view.limit is not None and not self.limit.hasFocus():
            self.limit.blockSignals(True)
            self.limit.setValue(view.limit)
            self.limit.blockSignals(False)
        self._dress(palette, is_open=is_open)
        self.detail.setVisible(is_open)
        if is_open:
            self._fill(view, palette, chosen)

    def _dress(self, palette: Palette, *, is_open: bool) -> None:
        # A style sheet is parsed and laid out anew, which takes milliseconds, so only where it changes.
        if self._dressed == (palette, is_open):
            return
        self._dressed = (palette, is_open)
        self.setStyleSheet(
            f"TravellerRow {{ border: none; border-left: 4px solid {palette.accent if is_open else 'transparent'}; "
            f"background: {palette.ground if is_open else palette.panel}; }}"
            f"TravellerRow:focus {{ border-left: 4px solid {palette.quiet}; }}"
        )

    def _fill(self, view: RowView, palette: Palette, chosen: int | None) -> None:
        """chosen : place in the findings of the flagged one."""
        limit = view.limit if view.field is not None and view.field.limit is not None and view.field.unit else None
        scale = scale_for(view.field) if view.field is not None else None
        self.histogram.show_tally(view.field.tally if view.field is not None else None, scale, limit, palette)
        self.options.show_limits(view.limits)
        shown = (view.findings, view.places, view.whys, view.method, view.sampling, view.uncertainty, view.limit, chosen, palette)
        if shown == self._filled:
            return
        self._filled = shown
        while (item := self._detail.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None and widget not in self._lasting:
                # Out of the tree at once: what is found by name there is what is shown.
                widget.hide()
                widget.setParent(None)
                widget.deleteLater()
        self.findings = view.findings
        if self.angle is not None and view.limit is not None:
            self.angle.show_limit(view.limit, palette)
            self._detail.addWidget(self.angle)
            self.angle.show()
        self._detail.addWidget(self.histogram)
        if not view.findings and not view.whys:
            self._say("Nothing to judge yet. Open a part.", "quiet")
        lines = alike_in(view.findings)
        for number, (placed, finding, alike) in enumerate(lines[:_SHOWN], 1):
            button = QPushButton(_lines(number, placed, finding, alike))
            button.setObjectName(f"finding_{self.check}_{number}")
            button.setProperty("flat", True)
            button.setCheckable(True)
            is_chosen = chosen is not None and view.findings[chosen][1] is finding
            button.setChecked(is_chosen)
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.setToolTip(f"Fly there and flag it: {finding.what}, {placed.name}")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.clicked.connect(partial(self.finding_chosen.emit, placed, finding))
            self._detail.addWidget(button)
            if is_chosen and finding.remedy:
                self._say(f"<b>Try</b>&nbsp; {escape(finding.remedy)}.", "", rich=True)
        if len(lines) > _SHOWN:
            self._say(f"and {len(lines) - _SHOWN} more", "quiet")
        if view.places:
            self._say("Thinnest places, whatever the limit", "quiet")
            for number, (placed, place) in enumerate(view.places, 1):
                button = QPushButton(f"{brief(place.value or 0.0)} mm   {placed.name}")
                button.setObjectName(f"place_{number}")
                button.setProperty("flat", True)
                button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
                button.setToolTip("Fly there")
                button.clicked.connect(partial(self.finding_chosen.emit, placed, place))
                self._detail.addWidget(button)
        self._detail.addWidget(self.options)
        self.options.show()
        for name, verdict, why in view.whys[:_MOST_WHYS]:
            reason = why if why.startswith(name) else f"{name}: {why}"
            colour = palette.verdict(verdict).name()
            self._say(f'<b style="color:{colour}">{WORDS[verdict]}</b>&nbsp; {escape(reason)}', "", rich=True)
        if len(view.whys) > _MOST_WHYS:
            self._say(f"and {len(view.whys) - _MOST_WHYS} more; select a part to see its own", "quiet")
        if view.failed:
            again = small(
                "Run again",
                f"again_{self.check}",
                "Run what was not run once more",
                "check.again",
                do=lambda: self.wanted.emit("check.again"),
            )
            self._detail.addWidget(again, 0, Qt.AlignmentFlag.AlignLeft)
        if view.sampling:
            self._say(view.sampling, "quiet")
        if view.uncertainty:
            self._say(f"Uncertainty {view.uncertainty}", "quiet")
        if view.method:
            self._say(view.method, "quiet")

    def _say(self, words: str, role: str, *, rich: bool = False) -> None:
        """rich : words of ours with marks of HTML, in which what comes from elsewhere has been escaped"""
        self._detail.addWidget(paragraph(words, role, rich=rich))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.opened.emit(self.check)

    def keyPressEvent(self, event: object) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):  # type: ignore[attr-defined]
            self.opened.emit(self.check)
        else:
            super().keyPressEvent(event)  # type: ignore[arg-type]


def _lines(number: int, placed: PlacedPart, finding: Finding, alike: int = 1) -> str:
    """A finding in one or two lines: value and what; area where that is not the value, and the part unless it is named."""
    value = f"{finding.figure}   " if finding.figure else ""
    more = []
    if finding.area is not None and finding.unit != "mm²":
        more.append(f"{brief(finding.area)} mm²")
    if not finding.names(placed.name):
        more.append(placed.name)
    if alike > 1:
        more.append(f"{alike} alike")
    first = f"{number}   {value}{finding.what[:1].upper()}{finding.what[1:]}"
    return f"{first}\n      {'  ·  '.join(more)}" if more else first


class Traveller(QWidget):
    """All rows. limit_set, limit_dragged, finding_chosen and wanted as those of a row"""

    limit_set = pyqtSignal(str, object)
    limit_dragged = pyqtSignal(str, float, int)
    wanted = pyqtSignal(str)
    finding_chosen = pyqtSignal(object, object)

    def __init__(self, model: Workbench, palette: Palette) -> None:
        super().__init__()
        self._model, self._palette = model, palette
        self.setObjectName("traveller")
        self.setProperty("panel", True)
        outer = column_box(self, (4, 8, 0, 0), 6)
        line = row_box(margins=(8, 0, 8, 0))
        head = caption("TRAVELLER", "head")
        self.subject = caption("", "quiet")
        self.subject.setAlignment(Qt.AlignmentFlag.AlignRight)
        line.addWidget(head)
        line.addWidget(self.subject, 1)
        outer.addLayout(line)
        self.scrolled = QScrollArea()
        self.scrolled.setWidgetResizable(True)
        self.scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._body = QWidget()
        self._body.setProperty("panel", True)
        self._column = column_box(self._body, (0, 0, 4, 8), 0)
        self._column.addStretch(1)
        self.scrolled.setWidget(self._body)
        outer.addWidget(self.scrolled)
        self.rows: dict[str, TravellerRow] = {}
        self._to_reveal: QWidget | None = None
        # Once the layout has taken in what is new.
        self._revealing = once(self, 0, self._reveal)
        model.results.changed.connect(self.refresh)
        model.shown.changed.connect(self.refresh)
        self.refresh()

    def add_foot(self, widget: QWidget, *, first: bool = False) -> None:
        """Something below the rows of checks; `first` puts it before what is there."""
        self._column.insertWidget(len(self.rows) if first else self._column.count() - 1, widget)

    def reveal(self, widget: QWidget) -> None:
        """Scrolls so that something below the rows is seen, as far as there is room."""
        self._to_reveal = widget
        self._revealing.start()

    def _reveal(self) -> None:
        if self._to_reveal is not None:
            self.scrolled.ensureWidgetVisible(self._to_reveal, 0, 0)

    def sizeHint(self) -> QSize:
        return QSize(320, 480)

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self.refresh()

    def views(self) -> dict[str, RowView]:
        """What its rows show, by check."""
        return {name: row.view for name, row in self.rows.items()}

    def refresh(self) -> None:
        active = self._model.document.active_checks()
        names = [name for name, _ in active]
        if names != list(self.rows):
            self._remake(active)
        parts = self._model.selection.in_view()
        chosen = len(self._model.selection.parts)
        self.subject.setText("" if not parts else parts[0].name if len(parts) == 1 else f"{chosen or 'all'} parts")
        for name, check in active:
            is_open = name == self._model.shown.measure
            view = self._model.results.row(name, check)
            self.rows[name].show_view(view, self._palette, is_open=is_open, chosen=self._flagged_in(view.findings))

    def _flagged_in(self, findings: list[tuple[PlacedPart, Finding]]) -> int | None:
        return next((place for place, pair in enumerate(findings) if self._model.is_flagged(*pair)), None)

    def _remake(self, active: list) -> None:  # type: ignore[type-arg]
        for row in self.rows.values():
            row.setParent(None)
            row.deleteLater()
        self.rows = {}
        for place, (name, check) in enumerate(active):
            row = TravellerRow(self._model.results.row(name, check), self._palette)
            row.opened.connect(self._toggle)
            row.limit_set.connect(self.limit_set)
            row.limit_dragged.connect(self.limit_dragged)
            row.wanted.connect(self.wanted)
            row.finding_chosen.connect(self.finding_chosen)
            self._column.insertWidget(place, row)
            self.rows[name] = row

    def _toggle(self, check: str) -> None:
        self.show_check(None if self._model.shown.measure == check else check)

    def list_thinnest(self) -> None:
        """Opens the walls with the list of their thinnest places, or closes that."""
        self.show_check(next(name for name, check in checks().items() if check.ROW.balls))
        self._model.shown.show_thinnest(not self._model.shown.thinnest)

    def show_check(self, check: str | None) -> None:
        """Opens a row and colours by it; None closes all."""
        if check is None or check in self.rows:
            self._model.shown.show_measure(check)
            if check is not None:
                self.scrolled.ensureWidgetVisible(self.rows[check], 0, 40)
