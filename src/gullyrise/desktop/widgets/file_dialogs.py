"""Asking for files and places without holding anything up: each dialog is opened, and its answer comes later."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QWidget

Mode = QFileDialog.FileMode
_OPENED, _WRITTEN = "opened", "written"


def ask(
    parent: QWidget, title: str, mode: Mode, kinds: list[str], then: Callable[[list[str]], None], folder: str = ""
) -> QFileDialog:
    """For files or a folder that are there. kinds : as Qt writes them;  then : is called with the paths that were chosen
    folder : where it begins, if that is there
    """
    dialog = QFileDialog(parent, title)
    dialog.setObjectName("file_dialog")
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setFileMode(mode)
    dialog.resize(860, 520)
    if mode == Mode.Directory:
        dialog.setOption(QFileDialog.Option.ShowDirsOnly)
    if kinds:
        dialog.setNameFilters(kinds)
    if folder and Path(folder).is_dir():
        dialog.setDirectory(folder)
    dialog.filesSelected.connect(partial(_answered, then))
    dialog.open()
    return dialog


def ask_where(
    parent: QWidget, title: str, name: str, kinds: list[str], then: Callable[[str], None], folder: str = ""
) -> QFileDialog:
    """For a place to write to, `name` proposed; its ending holds where none is typed. folder : as in `ask`"""
    dialog = ask(parent, title, Mode.AnyFile, kinds, lambda names: then(names[0]), folder)
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
    """Those of one window. folders : the last one that was looked into, by what was done there; each dialog begins in its own"""

    def __init__(self, parent: QWidget, folders: dict[str, str]) -> None:
        self._parent, self.folders = parent, folders

    def _from(self, *uses: str) -> str:
        """The folder of the first use that has one."""
        return next((self.folders[use] for use in uses if use in self.folders), "")

    def ask(self, title: str, mode: Mode, kinds: list[str], then: Callable[[list[str]], None]) -> QFileDialog:
        def chosen(names: list[str]) -> None:
            self.folders[_OPENED] = str(Path(names[0]).parent)
            then(names)

        return ask(self._parent, title, mode, kinds, chosen, self._from(_OPENED, _WRITTEN))

    def ask_where(self, title: str, name: str, kinds: list[str], then: Callable[[str], None]) -> QFileDialog:
        use = f"{_WRITTEN} {name.rpartition('.')[2]}"

        def chosen(path: str) -> None:
            self.folders[_WRITTEN] = self.folders[use] = str(Path(path).parent)
            then(path)

        return ask_where(self._parent, title, name, kinds, chosen, self._from(use, _WRITTEN, _OPENED))

    def ask_words(self, title: str, label: str, then: Callable[[str], None]) -> QInputDialog:
        return ask_words(self._parent, title, label, then)
