"""The settings sheet: a page a subject, each row made from its entry in the table. What is changed holds at once."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from gullyrise.desktop.features.preferences.own_scheme import OwnSchemeEditor
from gullyrise.desktop.preferences.rows import ROWS, Setting
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.number_field import NumberField
from gullyrise.desktop.widgets.pieces import named

_NO_ROW = ("keys.changed", "parts.columns", "parts.list_columns")


class SettingsSheet(QDialog):
    """Stands beside the window, which stays live."""

    def __init__(self, settings: Settings, parent: QWidget) -> None:
        super().__init__(parent)
        self._settings = settings
        self.setObjectName("settings_sheet")
        self.setWindowTitle("Settings")
        self.setModal(False)
        self.resize(840, 640)
        self._editors: dict[str, QWidget] = {}
        row = QHBoxLayout(self)
        pages = list(dict.fromkeys(entry.page for entry in ROWS if entry.id not in _NO_ROW))
        self.contents = QListWidget()
        named(self.contents, "settings_pages", "Pages of the settings")
        self.contents.setFixedWidth(150)
        self.contents.addItems(pages)
        for index in range(self.contents.count()):
            item = self.contents.item(index)
            if item is not None:
                item.setSizeHint(QSize(0, 28))
        self.stack = QStackedWidget()
        for page in pages:
            self.stack.addWidget(self._page(page))
        self.contents.currentRowChanged.connect(self.stack.setCurrentIndex)
        self.contents.setCurrentRow(0)
        row.addWidget(self.contents)
        row.addWidget(self.stack, 1)
        settings.changed.connect(self._show)

    def _page(self, page: str) -> QWidget:
        inside = QWidget()
        inside.setProperty("panel", True)
        column = QVBoxLayout(inside)
        form = QFormLayout()
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.setVerticalSpacing(8)
        column.addLayout(form)
        for entry in ROWS:
            if entry.page != page or entry.id in _NO_ROW:
                continue
            editor = self._editor(entry)
            self._editors[entry.id] = editor
            named(editor, "setting_" + entry.id.replace(".", "_"), entry.title, entry.sentence)
            if entry.id == "pointer.own":
                column.addWidget(editor)
            else:
                form.addRow(entry.title, editor)
        column.addStretch(1)
        back = QPushButton("Reset this page")
        back.setObjectName(f"reset_{page.lower()}")
        back.clicked.connect(lambda: self._settings.reset(page))
        column.addWidget(back, 0, Qt.AlignmentFlag.AlignLeft)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(inside)
        return area

    def _editor(self, entry: Setting) -> QWidget:
        settings = self._settings
        value = settings[entry.id]
        if entry.id == "pointer.own":
            return OwnSchemeEditor(settings)
        if entry.choices:
            box = Choice()
            for name, title in entry.choices:
                box.addItem(title, name)
            box.setCurrentIndex(box.findData(value))
            box.activated.connect(lambda index: settings.set(entry.id, box.itemData(index)))
            return box
        if isinstance(entry.default, bool):
            check = QCheckBox(entry.sentence)
            check.setChecked(value)
            check.toggled.connect(lambda on: settings.set(entry.id, on))
            return check
        if isinstance(entry.default, str):
            line = QLineEdit(value)
            line.editingFinished.connect(lambda: settings.set(entry.id, line.text()))
            return line
        number = NumberField(entry.unit, 0 if entry.step >= 1 else 2, entry.low, entry.high)
        number.setSingleStep(entry.step)
        number.setValue(value)
        number.valueChanged.connect(lambda found: settings.set(entry.id, found))
        return number

    def _show(self, id: str) -> None:
        """Brings an editor in step with a value that was changed elsewhere."""
        editor, value = self._editors.get(id), self._settings[id]
        if isinstance(editor, QComboBox):
            editor.setCurrentIndex(editor.findData(value))
        elif isinstance(editor, QCheckBox):
            editor.setChecked(value)
        elif isinstance(editor, NumberField):
            editor.setValue(value)
        elif isinstance(editor, QLineEdit):
            editor.setText(value)
        elif isinstance(editor, OwnSchemeEditor):
            editor.refresh()

    def editor_of(self, id: str) -> Any:
        return self._editors[id]
