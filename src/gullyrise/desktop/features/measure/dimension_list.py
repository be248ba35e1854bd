"""The dimensions kept with the job, under the traveller's rows: stamped where a size is wanted, hatched where they are stale."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from gullyrise.core.errors import GullyriseError, MeasureError
from gullyrise.core.measuring.iso286 import deviations
from gullyrise.core.measuring.keeping import judged, limits_of
from gullyrise.core.measuring.picks import Dimension, Tolerance
from gullyrise.core.measuring.typed import Typed, typed
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.widgets.number_field import accept, refuse
from gullyrise.desktop.widgets.pieces import caption, clear, column_box, named, row_box
from gullyrise.desktop.widgets.stamp import Stamp
from gullyrise.drawing.palette import Palette

if TYPE_CHECKING:
    from gullyrise.desktop.features.measure.dimensions import Dimensions


class DimensionList(QWidget):
    """wanted : the id of an action;  chosen, removed : the id of a dimension;  renamed, hidden, size_wanted : with what was set
    mistyped : a sentence on what was typed
    """

    wanted = pyqtSignal(str)
    chosen = pyqtSignal(object)
    removed = pyqtSignal(int)
    renamed = pyqtSignal(int, str)
    hidden = pyqtSignal(int, bool)
    size_wanted = pyqtSignal(int, object)
    mistyped = pyqtSignal(str)

    def __init__(self, kept: Dimensions, palette: Palette) -> None:
        super().__init__()
        self._kept, self._palette = kept, palette
        self._made_of: tuple[object, ...] = ()
        self.setObjectName("dimension_list")
        column = column_box(self, (10, 8, 8, 8), 3)
        head = QHBoxLayout()
        title = caption("DIMENSIONS", "head")
        head.addWidget(title, 1)
        self.buttons = []
        for words, name, runs, tip in (
            ("Again", "dimensions_again", "measure.again", "Measure stale dimensions again"),
            ("Save", "dimensions_save", "measure.export", "Save the dimensions as a table or JSON"),
        ):
            button = small(words, name, tip, runs, do=lambda _, runs=runs: self.wanted.emit(runs))
            self.buttons.append(button)
            head.addWidget(button)
        column.addLayout(head)
        self._rows = column_box(spacing=2)
        column.addLayout(self._rows)
        kept.changed.connect(self.refresh)
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette, self._made_of = palette, ()
        self.refresh()

    def refresh(self) -> None:
        kept = self._kept.all
        self.setVisible(bool(kept))
        stale = tuple(self._kept.is_stale(one) for one in kept)
        made_of = (kept, stale, self._kept.chosen, self._kept.wording, self._palette)
        if made_of == self._made_of:
            return
        self._made_of = made_of
        clear(self._rows)
        for one, old in zip(kept, stale, strict=True):
            self._rows.addWidget(self._row(one, stale=old))
            if one.id == self._kept.chosen:
                self._rows.addWidget(self._detail(one, stale=old))

    def _row(self, one: Dimension, *, stale: bool) -> QWidget:
        row = QWidget()
        line = row_box(row, (0, 0, 0, 0), 4)
        stamp = Stamp(self._palette, 18)
        verdict = judged(one)
        stamp.show_verdict(verdict or "not-run", stale=stale, palette=self._palette)
        stamp.setVisible(verdict is not None or stale)
        line.addWidget(stamp)
        words, how = self._kept.said_of(one)
        name = QPushButton(f"{one.name}\n{words}   {'stale' if stale else how}")
        name.setObjectName(f"dimension_{one.id}")
        name.setProperty("flat", True)
        name.setCheckable(True)
        name.setChecked(one.id == self._kept.chosen)
        name.setToolTip(", ".join(self._kept.parts_of(one)) or "Its part has gone")
        name.clicked.connect(lambda checked, number=one.id: self.chosen.emit(number if checked else None))
        line.addWidget(name, 1)
        tip = f"Show or hide {one.name} on the bench"
        eye = small(
            "Show" if one.hidden else "Hide", f"dimension_{one.id}_eye", tip, do=partial(self.hidden.emit, one.id, not one.hidden)
        )
        line.addWidget(eye)
        return row

    def _detail(self, one: Dimension, *, stale: bool) -> QWidget:
        """Its name, its wanted size, and how it was found."""
        detail = QWidget()
        grid = QGridLayout(detail)
        grid.setContentsMargins(22, 0, 0, 6)
        grid.setSpacing(3)
        self.name = QLineEdit(one.name)
        named(self.name, "dimension_name", "Name of the dimension")
        self.name.editingFinished.connect(lambda: self.renamed.emit(one.id, self.name.text()))
        grid.addWidget(self.name, 0, 0, 1, 3)
        wanted = one.tolerance
        self.fields = []
        for column, (label, name, text) in enumerate(
            (
                ("Wanted", "dimension_nominal", f"{wanted.nominal:.10g}" if wanted else ""),
                ("upper", "dimension_upper", f"{wanted.upper:+.6g}" if wanted and not wanted.iso else ""),
                ("lower or class", "dimension_lower", (wanted.iso or f"{wanted.lower:+.6g}") if wanted else ""),
            )
        ):  # fmt: skip
            words = caption(label, "quiet")
            grid.addWidget(words, 1, column)
            field = QLineEdit(text)
            named(field, name, label)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.setToolTip("In mm, degrees or g; a class of ISO 286 such as H7 takes the place of upper and lower")
            field.returnPressed.connect(lambda: self._want(one))
            self.fields.append(field)
            grid.addWidget(field, 2, column)
        line = QHBoxLayout()
        for words_, name, tip, run in (
            ("Set", "dimension_set", "Judge it against this size", lambda: self._want(one)),
            ("No size", "dimension_unset", "Judge it no more", lambda: self.size_wanted.emit(one.id, None)),
            ("Remove", "dimension_remove", "Take it out of the job", lambda: self.removed.emit(one.id)),
        ):
            button = small(words_, name, tip, do=lambda _, run=run: run())
            line.addWidget(button)
        line.addStretch(1)
        grid.addLayout(line, 3, 0, 1, 3)
        told = caption(self._told(one, stale=stale), "quiet", wrap=True)
        grid.addWidget(told, 4, 0, 1, 3)
        return detail

    def _told(self, one: Dimension, *, stale: bool) -> str:
        if stale:
            return "Its part has changed since. “Again” measures it again."
        if one.tolerance is None:
            return one.method
        try:
            low, high = limits_of(one.tolerance)
        except GullyriseError as error:
            return str(error)
        return f"Wanted from {low:.6g} to {high:.6g}. {one.method}"

    def _want(self, one: Dimension) -> None:
        quantity: Typed = "length" if one.quantity == "length" else "angle" if one.quantity == "angle" else "plain"
        numbers: list[float | None] = []
        iso = self.fields[2].text().strip()
        for field in self.fields[:2] if iso[:1].isalpha() else self.fields:
            accept(field)
            try:
                numbers.append(typed(field.text(), quantity) if field.text().strip() else None)
            except MeasureError as error:
                refuse(field, str(error))
                return
        nominal, upper, *lower = numbers
        try:
            if not lower:
                if nominal is not None:
                    deviations(iso, nominal)
                wanted = Tolerance.model_validate({"nominal": nominal, "iso": iso})
            else:
                above = upper or 0.0
                below = lower[0] if lower[0] is not None else -above
                wanted = Tolerance.model_validate({"nominal": nominal, "upper": above, "lower": below})
        except MeasureError as error:
            self.mistyped.emit(str(error))
            return
        except ValueError:
            self.mistyped.emit("A wanted size is a number with deviations, such as 12, +0.1 and -0.1, or 12 and H7; type it so.")
            return
        self.size_wanted.emit(one.id, wanted)
