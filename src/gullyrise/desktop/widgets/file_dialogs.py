"""Asking for files and places without holding anything up: each dialog is opened, and its answer comes later."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

Mode = QFileDialog.FileMode


def ask(parent: QWidget, title: str, mode: Mode, kinds: list[str], then: Callable[[list[str]], None]) -> QFileDialog:
    """For files or a folder that are there. kinds : as Qt writes them;  then : is called with the paths that were chosen."""
    dialog = QFileDialog(parent, title)
    dialog.setObjectName("file_dialog")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setFileMode(mode)
    if mode == Mode.Directory:
        dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    if kinds:
        dialog.setNameFilters(kinds)
    dialog.filesSelected.connect(partial(_answered, then))
    dialog.open()
    return dialog


def ask_where(parent: QWidget, title: str, name: str, kinds: list[str], then: Callable[[str], None]) -> QFileDialog:
    """For a place to write to, `name` proposed; its ending holds where none is typed."""
    dialog = ask(parent, title, Mode.AnyFile, kinds, lambda names: then(names[0]))
    dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
    dialog.setDefaultSuffix(name.rpartition(".")[2])
    dialog.selectFile(name)
    return dialog


def _answered(then: Callable[[list[str]], None], names: list[str]) -> None:
    if names:
        then(names)


def ask_words(parent: QWidget, title: str, label: str, then: Callable[[str], None]) -> QInputDialog:
    """For a line of text."""
    dialog = QInputDialog(parent)
    dialog.setObjectName("words_dialog")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle(title)
    dialog.setLabelText(label)
    dialog.resize(420, dialog.height())
    dialog.textValueSelected.connect(then)
    dialog.open()
    return dialog


class FileDialogs:
    """Those of one window."""

    def __init__(self, parent: QWidget) -> None:
        self._parent = parent

    def ask(self, title: str, mode: Mode, kinds: list[str], then: Callable[[list[str]], None]) -> QFileDialog:
        return ask(self._parent, title, mode, kinds, then)

    def ask_where(self, title: str, name: str, kinds: list[str], then: Callable[[str], None]) -> QFileDialog:
        return ask_where(self._parent, title, name, kinds, then)

    def ask_words(self, title: str, label: str, then: Callable[[str], None]) -> QInputDialog:
        return ask_words(self._parent, title, label, then)
