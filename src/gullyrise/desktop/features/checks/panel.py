"""The job's traveller: one row a check, opened to findings, reasons and method."""

from __future__ import annotations

from functools import partial
from html import escape

from PyQt6.QtCore import QEvent, QObject, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QFrame,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QWidget,
)  # fmt: skip

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.checks.registry import checks
from gullyrise.core.job import PlacedPart
from gullyrise.core.number_words import number
from gullyrise.core.report.check_rows import RowView, alike_in
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.checks.angle_drawing import AngleDrawing
from gullyrise.desktop.features.checks.histogram import Histogram
from gullyrise.desktop.features.checks.options import LIMIT_WIDTH, CheckOptions, limit_field
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import NameLabel, caption, column_box, fill, forget, paragraph, row_box
from gullyrise.desktop.widgets.stamp import WORDS, Stamp
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.colour_maps import scale_for
from gullyrise.drawing.palette import Palette

LINE, _MOST_WHYS = 40, 8
"""LINE : height of a check's line, px"""


class TravellerRow(QFrame):
    """One check. opened : the row was clicked; limit_set : (limit name, value); finding_chosen : (placed part, finding).

    limit_dragged : (limit name, value, number of the stroke);  wanted : the id of an action
    """

    takes_keys = frozenset({Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space})
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
        column = column_box(self, (8, 0, 4, 0), 0)
        line = QWidget()
        line.setFixedHeight(LINE)
        row = row_box(line, (0, 0, 0, 0), 4)
        self.stamp = Stamp(palette, 20)
        self.title = caption(view.row.title, "strong")
        self.count = caption("", "quiet")
        self.worst = QLabel()
        self.worst.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        fill(row, self.stamp, self.title, self.count)
        row.addStretch(1)
        row.addWidget(self.worst)
        self.limit: NumberField | None = None
        own = view.row.own_limit
        if own is not None:
            self.limit = limit_field(own, f"{view.row.title} limit, {own.words}")
            self.limit.setPrefix(f"{own.sign or ('≥' if view.row.small_is_bad else '≤')} ")
            self.limit.valueChanged.connect(lambda value: self.limit_set.emit(own.name, value))
            row.addWidget(self.limit)
        else:
            row.addSpacing(LIMIT_WIDTH + row.spacing())
        self.state = caption("", "quiet", wrap=True)
        column.addWidget(line)
        self.angle = AngleDrawing(palette) if view.row.angle else None
        self.histogram = Histogram(palette)
        self.histogram.setObjectName(f"histogram_{self.check}")
        self.histogram.dragged.connect(self._dragged)
        self.options = CheckOptions(view.row)
        self.options.limit_set.connect(self.limit_set)
        self.options.wanted.connect(self.wanted)
        self._lasting: list[QWidget] = [one for one in (self.state, self.angle, self.histogram, self.options) if one is not None]
        self.detail = QWidget()
        self._detail = column_box(self.detail, (26, 0, 4, 8), 4)
        self.detail.hide()
        # Without a parent what is shown would be a window of its own, and take the keys away from the bench.
        for widget in self._lasting:
            widget.setParent(self.detail)
            widget.hide()
        column.addWidget(self.detail)
        self._filled: tuple[object, ...] = ()
        self._dressed: tuple[Palette, bool] | None = None

    def _dragged(self, value: float, stroke: int) -> None:
        if self.view.row.judged_by:
            self.limit_dragged.emit(self.view.row.judged_by, value, stroke)

    def show_view(self, view: RowView, palette: Palette, *, is_open: bool, chosen: int | None) -> None:
        """Brings the row in step."""
        self.view = view
        self.stamp.show_verdict(view.verdict, stale=view.stale, palette=palette)
        self.worst.setText("checking…" if view.running else view.worst)
        lines = alike_in(view.findings)
        count = len(lines)
        state = WORDS[view.verdict].lower() if not view.running else "checking…"
        found = "" if not count else f", {count} finding{'s' if count > 1 else ''}"
        state = "nothing to compare" if view.nothing and not view.running else state
        old = ", out of date" if view.stale and not view.running else ""
        self.state.setText(f"{state}{found}{old}")
        self.count.setText(str(count) if count else "")
        self.count.setToolTip(f"{count} finding{'s' if count > 1 else ''}" if count else "")
        self.setAccessibleName(f"{view.row.title}: {state}{found}{old}, {view.worst}")
        self.setToolTip(f"{state}{found}{old}. Click: colours by {view.row.measure}, and more of it")
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
        self.options.offer(view.deeds)
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
        self._detail.addWidget(self.state)
        if self.angle is not None and view.limit is not None:
            self.angle.show_limit(view.limit, palette)
            self._detail.addWidget(self.angle)
            self.angle.show()
        self._detail.addWidget(self.histogram)
        if not view.findings and not view.whys:
            self._say("Nothing to judge yet. Open a part.", "quiet")
        if view.places:
            self._say("Thinnest places, whatever the limit", "quiet")
            for which, (placed, place) in enumerate(view.places, 1):
                button = QPushButton(f"{number(place.value or 0.0)} mm   {placed.name}")
                button.setObjectName(f"place_{which}")
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
        self.subject = NameLabel("quiet", "traveller_subject")
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
        outer.addWidget(self.scrolled, 1)
        self._pinned = QScrollArea()
        self._pinned.setWidgetResizable(True)
        self._pinned.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._pinned.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        holder = QWidget()
        holder.setProperty("panel", True)
        self._pins = column_box(holder, (0, 0, 4, 4), 0)
        self._pinned.setWidget(holder)
        outer.addWidget(self._pinned)
        self.rows: dict[str, TravellerRow] = {}
        self._to_reveal: QWidget | None = None
        self._sizing = once(self, 0, self._size_pins)
        # Once the layout has taken in what is new.
        self._revealing = once(self, 0, self._reveal)
        model.results.changed.connect(self.refresh)
        model.shown.changed.connect(self.refresh)
        self.refresh()

    def add_foot(self, widget: QWidget) -> None:
        """Something below the rows of checks."""
        self._column.insertWidget(self._column.count() - 1, widget)

    def pin(self, widget: QWidget) -> None:
        """Something at the foot of the panel that is always in sight, however long the list above it is."""
        self._pins.addWidget(widget)
        widget.installEventFilter(self)
        self._size_pins()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.Show, QEvent.Type.Hide, QEvent.Type.LayoutRequest):
            self._sizing.start()
        return False

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._size_pins()

    def _size_pins(self) -> None:
        """As high as what is pinned wants to be, up to half of the panel."""
        holder = self._pinned.widget()
        wanted = 0 if holder is None else holder.sizeHint().height()
        self._pinned.setFixedHeight(min(wanted, self.height() // 2))

    def reveal(self, widget: QWidget) -> None:
        """Scrolls so that something below the rows is seen, as far as there is room."""
        self._to_reveal = widget
        self._revealing.start()

    def _reveal(self) -> None:
        if self._to_reveal is not None:
            area = self._pinned if self._pinned.isAncestorOf(self._to_reveal) else self.scrolled
            area.ensureWidgetVisible(self._to_reveal, 0, 0)

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
        self.subject.show_name("" if not parts else parts[0].name if len(parts) == 1 else f"{chosen or 'all'} parts")
        for name, check in active:
            is_open = name == self._model.shown.measure
            view = self._model.results.row(name, check)
            self.rows[name].show_view(view, self._palette, is_open=is_open, chosen=self._flagged_in(view.findings))

    def _flagged_in(self, findings: list[tuple[PlacedPart, Finding]]) -> int | None:
        return next((place for place, pair in enumerate(findings) if self._model.is_flagged(*pair)), None)

    def _remake(self, active: list) -> None:  # type: ignore[type-arg]
        for row in self.rows.values():
            forget(row)
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
