"""The report, the pack for the designer and tables of findings, out of the window."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QMessageBox, QWidget

from gullyrise.core.report.cells import as_csv
from gullyrise.core.report.findings_table import FINDING_HEADS
from gullyrise.core.report.job_report import ReportWish
from gullyrise.core.report.pack import Packed
from gullyrise.core.safe_files import write_safely
from gullyrise.desktop.features.record import text
from gullyrise.desktop.features.record.printing import Printing
from gullyrise.desktop.features.record.report_maker import ReportMaker, archive_of, findings_of, packed, workbook_of
from gullyrise.desktop.features.record.report_sheet import ReportSheet
from gullyrise.desktop.ports import FilePicker, Notifier, Preferences
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.aside import Aside
from gullyrise.desktop.widgets.raising import raised

_LISTED = 12


class ReportController(QObject):
    """sheet : once it has been opened;  question : about the pack, while it is open"""

    def __init__(
        self, parent: QWidget, model: Workbench, notifier: Notifier, preferences: Preferences, files: FilePicker
    ) -> None:
        super().__init__(parent)
        self._parent, self._model, self._notifier = parent, model, notifier
        self._preferences, self._files = preferences, files
        self._slowly = Aside(self)
        self.maker = ReportMaker(self, model, self._slowly)
        self.sheet: ReportSheet | None = None
        self._printing: Printing | None = None
        self.question: QMessageBox | None = None

    @property
    def idle(self) -> bool:
        """Whether nothing of it is under way."""
        return not self.maker.busy and not self._slowly.busy and self._printing is None

    def close(self) -> None:
        """Gives up what is under way, and leaves nothing behind."""
        if self._printing is not None:
            self._printing.give_up()
        self.maker.cancel()
        self._slowly.close()

    # --- the report -----------------------------------------------------------------------------------------------------

    def open(self) -> ReportSheet | None:
        """Opens the sheet and makes the report of now."""
        if not any(not placed.is_fixture for placed in self._model.job.parts):
            self._notifier.say(text.NOTHING_TO_TELL, False)
            return None
        if self.sheet is None:
            people = (self._preferences["report.by"], self._preferences["report.for"])
            self.sheet = ReportSheet(self._parent, self.maker, people, self._preferences["report.paper"])
            self.sheet.wished.connect(self._make)
            self.sheet.people_named.connect(self._keep_people)
            self.sheet.save_wanted.connect(self.ask_where)
            self.sheet.print_wanted.connect(self.ask_printer)
            self.sheet.pack_wanted.connect(self.ask_pack)
        self.sheet.show_job(self._model.job)
        self._make(self.sheet.wish())
        return raised(self.sheet)

    def _make(self, wish: ReportWish) -> None:
        self._preferences.set("report.paper", wish.paper)
        self.maker.make(wish)

    def _keep_people(self, by: str, on_behalf: str) -> None:
        self._preferences.set("report.by", by)
        self._preferences.set("report.for", on_behalf)

    def ask_where(self, kind: str) -> None:
        """kind : pdf or html"""
        kinds = [text.PDF if kind == "pdf" else text.HTML]
        self._files.ask_where(text.SAVE_REPORT, f"report.{kind}", kinds, self.save)

    def save(self, name: str) -> None:
        """The report as it is shown, by its ending as PDF or HTML."""
        made = self.maker.made
        if made is None:
            self._notifier.say(text.FIRST_THE_REPORT, False)
            return
        path = Path(name)
        data = made.pdf if path.suffix.lower() == ".pdf" else made.html.encode("utf-8")
        self._write(path, data)

    def _write(self, path: Path, data: bytes) -> None:
        def tell(trouble: str) -> None:
            if trouble:
                self._notifier.say(text.NOT_WRITTEN.format(path.name, trouble), True)
            else:
                self._notifier.say(text.WRITTEN.format(path.name), False)

        self._slowly.write(lambda: write_safely(path, data), tell)

    # --- on paper ---------------------------------------------------------------------------------------------------------

    def ask_printer(self) -> QPrintDialog | None:
        """Qt's dialog; the answer prints."""
        if self.sheet is None or self.maker.made is None:
            self._notifier.say(text.FIRST_THE_REPORT, False)
            return None
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setDocName(self.maker.made.title)
        dialog = QPrintDialog(printer, self.sheet)
        dialog.setObjectName("report_printer")
        dialog.accepted.connect(lambda: self.print_on(printer))
        dialog.open()
        return dialog

    def print_on(self, printer: QPrinter) -> None:
        """Prints the pages that are shown."""
        made = self.maker.made
        if made is None or self._printing is not None:
            return
        printing = Printing(self, made.pdf, printer)
        if not printing.begin():
            self._notifier.say(text.NOT_PRINTED, True)
            return
        self._printing = printing
        printing.finished.connect(self._printed)

    def _printed(self) -> None:
        self._printing = None
        self._notifier.say(text.PRINTED, False)

    # --- back to the designer ---------------------------------------------------------------------------------------------

    def ask_pack(self, sent: set[int]) -> None:
        """Lists what the archive would hold; the answer asks where it goes. sent : ids of parts whose files go along"""
        made = self.maker.made
        if made is None:
            self._notifier.say(text.FIRST_THE_REPORT, False)
            return
        parts = [placed for placed in made.job.parts if placed.id in sent]
        # Listed from the same function that writes it, so that the list cannot say anything else.
        self._slowly.ask(lambda: packed(made, parts), self._list_pack)

    def _list_pack(self, files: list[Packed]) -> None:
        size = sum(len(one.data) for one in files)
        question = QMessageBox(self.sheet or self._parent)
        question.setObjectName("report_pack_question")
        question.setWindowTitle(text.SAVE_PACK)
        question.setText(text.PACK_HOLDS.format(len(files), f"{size / 1e6:.1f} MB"))
        listed = [f"{one.name} ({one.what})" for one in files]
        more = [f"and {len(listed) - _LISTED} more"] if len(listed) > _LISTED else []
        question.setInformativeText("\n".join(listed[:_LISTED] + more))
        question.setDetailedText("\n".join(listed))
        question.setStandardButtons(QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Cancel)
        question.accepted.connect(
            lambda: self._files.ask_where(text.SAVE_PACK, "for-the-designer.zip", [text.PACK], self.save_pack)
        )
        self.question = question
        question.open()

    def save_pack(self, name: str) -> None:
        """Writes the archive."""
        made = self.maker.made
        if made is None:
            self._notifier.say(text.FIRST_THE_REPORT, False)
            return
        sent = self.sheet.files_sent() if self.sheet is not None else set()
        parts = [placed for placed in made.job.parts if placed.id in sent]
        path = Path(name)

        def tell(trouble: str) -> None:
            words = text.NOT_WRITTEN.format(path.name, trouble) if trouble else text.WRITTEN.format(path.name)
            self._notifier.say(words, bool(trouble))

        self._slowly.write(lambda: write_safely(path, archive_of(made, parts)), tell)

    # --- tables -----------------------------------------------------------------------------------------------------------

    def ask_for_table(self) -> None:
        self._files.ask_where(text.SAVE_FINDINGS, "findings.xlsx", [text.TABLE_XLSX, text.TABLE_CSV], self.save_table)

    def save_table(self, name: str) -> None:
        """Findings by the ending as a workbook, with the dimensions, or as CSV."""
        job = self._model.job
        told = self.maker.told(ReportWish())
        path = Path(name)
        as_book = path.suffix.lower() == ".xlsx"

        def tell(trouble: str) -> None:
            words = text.NOT_WRITTEN.format(path.name, trouble) if trouble else text.WRITTEN.format(path.name)
            self._notifier.say(words, bool(trouble))

        def data() -> bytes:
            # With its mark in front: spreadsheets take a table without one for another code.
            return workbook_of(told, job) if as_book else as_csv(FINDING_HEADS, findings_of(told, job)).encode("utf-8-sig")

        self._slowly.write(lambda: write_safely(path, data()), tell)
