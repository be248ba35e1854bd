"""The parts list out of the window: into a file, or to the clipboard."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtWidgets import QApplication

from gullyrise.core.report.contract import as_json
from gullyrise.core.report.parts_list import Grouping, ListRow, as_csv, as_document
from gullyrise.core.safe_files import write_safely
from gullyrise.desktop.features.parts import text
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.ports import FilePicker, Notifier
from gullyrise.desktop.viewport.aside import Aside


class ListExport:
    """As it is shown."""

    def __init__(self, notifier: Notifier, files: FilePicker, aside: Aside, parts: PartsPanel) -> None:
        self._notifier, self._files, self._aside, self._parts = notifier, files, aside, parts

    def ask_to_save(self) -> None:
        self._files.ask_where(text.SAVE_THE_LIST, "parts-list.csv", [text.CSV, text.JSON], self.save)

    def save(self, name: str) -> None:
        """The parts list as it is shown, by its ending as JSON or CSV."""
        rows, fields, grouping = self._list()
        words = as_json(as_document(rows, fields, grouping)) + "\n" if name.lower().endswith(".json") else as_csv(rows, fields)
        path = Path(name)

        def tell(trouble: str) -> None:
            if trouble:
                self._notifier.say(text.COULD_NOT_BE_WRITTEN.format(path.name, trouble), True)
            else:
                self._notifier.say(text.LIST_WRITTEN.format(path.name, len(rows)), False)

        self._aside.write(lambda: write_safely(path, words.encode()), tell)

    def copy(self) -> None:
        """The parts list to the clipboard, parted by tabs, as tables take it."""
        rows, fields, _ = self._list()
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(as_csv(rows, fields, "\t"))
            self._notifier.say(text.LINES_COPIED.format(len(rows)), False)

    def _list(self) -> tuple[list[ListRow], list[str], Grouping]:
        parts = self._parts
        if not parts.as_list:
            parts.show_list(True)
        return parts.lines(), parts.table.columns.shown(), parts.grouping.currentData()
