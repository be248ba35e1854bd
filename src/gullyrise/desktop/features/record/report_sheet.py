"""The report beside the window: what goes into it, and the pages themselves as they print."""

from __future__ import annotations

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMargins, Qt, pyqtSignal
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPdfWidgets import QPdfView
from PyQt6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from gullyrise.core.job import Job
from gullyrise.core.report.job_report import CHAPTERS, ReportWish
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.features.record import text
from gullyrise.desktop.features.record.report_maker import ReportMaker
from gullyrise.desktop.widgets.pieces import caption, named
from gullyrise.desktop.widgets.timers import once

_ID = Qt.ItemDataRole.UserRole
_SETTLE_MS = 400
PAPERS = ("A4", "Letter")


class ReportSheet(QDialog):
    """Stands beside the window, which stays live.

    wished : a ReportWish, once it has stood for a moment;  people_named : (prepared by, prepared for)
    save_wanted : pdf or html;  print_wanted, pack_wanted : of the pages that are shown
    """

    wished = pyqtSignal(object)
    people_named = pyqtSignal(str, str)
    save_wanted = pyqtSignal(str)
    print_wanted = pyqtSignal()
    pack_wanted = pyqtSignal(object)

    def __init__(self, parent: QWidget, maker: ReportMaker, people: tuple[str, str], paper: str) -> None:
        super().__init__(parent)
        self.setObjectName("report_sheet")
        self.setWindowTitle(text.REPORT)
        self.setModal(False)
        self.resize(1120, 780)
        self._maker = maker
        self._shown: object = None
        self._data = QByteArray()
        self._buffer = QBuffer()
        self.document = QPdfDocument(self)
        row = QHBoxLayout(self)
        row.addLayout(self._choices(people, paper), 0)
        right = QVBoxLayout()
        self.state = caption(name="report_state", wrap=True)
        right.addWidget(self.state)
        self.pages = QPdfView(self)
        named(self.pages, "report_pages", "The report's pages")
        self.pages.setPageMode(QPdfView.PageMode.MultiPage)
        self.pages.setZoomMode(QPdfView.ZoomMode.FitToWidth)
        self.pages.setDocumentMargins(QMargins(8, 8, 8, 8))
        self.pages.setDocument(self.document)
        right.addWidget(self.pages, 1)
        right.addLayout(self._foot())
        row.addLayout(right, 1)
        self._settle = once(self, _SETTLE_MS, lambda: self.wished.emit(self.wish()))
        maker.changed.connect(self._tell)

    def _choices(self, people: tuple[str, str], paper: str) -> QVBoxLayout:
        column = QVBoxLayout()
        self.by, self.on_behalf = QLineEdit(people[0]), QLineEdit(people[1])
        for field, name, title in ((self.by, "report_by", "Prepared by"), (self.on_behalf, "report_for", "Prepared for")):
            column.addWidget(caption(title, "quiet"))
            named(field, name, title)
            field.setMaxLength(200)
            field.editingFinished.connect(self._people)
            column.addWidget(field)
        column.addWidget(caption("Paper", "quiet"))
        self.paper = QComboBox()
        named(self.paper, "report_paper", "Paper")
        self.paper.addItems(PAPERS)
        self.paper.setCurrentText(paper)
        self.paper.currentTextChanged.connect(self._changed)
        column.addWidget(self.paper)
        column.addWidget(caption("Parts", "quiet"))
        self.parts = self._list("report_parts", "Parts that the report tells of")
        column.addWidget(self.parts, 2)
        column.addWidget(caption("Chapters", "quiet"))
        self.chapters = self._list("report_chapters", "Chapters of the report")
        for id, title in CHAPTERS:
            self._add(self.chapters, title, id)
        column.addWidget(self.chapters, 1)
        column.addWidget(caption("Parts' files in the pack", "quiet"))
        self.sent = self._list("report_sent", "Parts whose files go into the pack")
        column.addWidget(self.sent, 1)
        for one in (self.parts, self.chapters):
            one.itemChanged.connect(self._changed)
        return column

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        self.give_up = small("Cancel", "report_cancel", "Give up what is being made", do=self._maker.cancel)
        self.pdf = small("Save as PDF…", "report_pdf", "The pages, as they are shown", do=lambda: self.save_wanted.emit("pdf"))
        self.html = small("Save as web page…", "report_html", "One file for a browser", do=lambda: self.save_wanted.emit("html"))
        self.printing = small("Print…", "report_print", "The pages, on paper", do=self.print_wanted.emit)
        tip = "Report, pictures, findings and dimensions in one archive; its content is listed first"
        self.pack = small("Pack for the designer…", "report_pack", tip, do=lambda: self.pack_wanted.emit(self.files_sent()))
        foot.addWidget(self.give_up)
        foot.addStretch(1)
        for button in (self.pack, self.printing, self.html, self.pdf):
            foot.addWidget(button)
        return foot

    @staticmethod
    def _list(name: str, said: str) -> QListWidget:
        made = QListWidget()
        named(made, name, said)
        made.setMinimumWidth(220)
        return made

    @staticmethod
    def _add(where: QListWidget, words: str, data: object, *, on: bool = True) -> None:
        item = QListWidgetItem(words)
        item.setData(_ID, data)
        item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsSelectable)
        item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
        where.addItem(item)

    # --- what is wished -------------------------------------------------------------------------------------------------

    def show_job(self, job: Job) -> None:
        """Lists the parts of a job; what was ticked off stays so."""
        off, sent = self._off(self.parts), self._on(self.sent)
        for which, ticked in ((self.parts, None), (self.sent, sent)):
            which.blockSignals(True)
            which.clear()
            for placed in job.parts:
                if not placed.is_fixture:
                    on = placed.id not in off if ticked is None else placed.id in ticked
                    self._add(which, placed.name, placed.id, on=on)
            which.blockSignals(False)

    def wish(self) -> ReportWish:
        """As it is ticked."""
        off, without = self._off(self.parts), self._off(self.chapters)
        return ReportWish(
            frozenset(off), frozenset(str(one) for one in without), self.paper.currentText(), self.by.text().strip(),
            self.on_behalf.text().strip(),
        )  # fmt: skip

    def files_sent(self) -> set[int]:
        """Ids of parts whose files go into the pack."""
        return self._on(self.sent)

    @staticmethod
    def _ticked(where: QListWidget, state: Qt.CheckState) -> set[int]:
        items = [item for row in range(where.count()) if (item := where.item(row)) is not None]
        return {item.data(_ID) for item in items if item.checkState() == state}

    def _on(self, where: QListWidget) -> set[int]:
        return self._ticked(where, Qt.CheckState.Checked)

    def _off(self, where: QListWidget) -> set[int]:
        return self._ticked(where, Qt.CheckState.Unchecked)

    def _changed(self, *_: object) -> None:
        self._settle.start()

    def _people(self) -> None:
        self.people_named.emit(self.by.text().strip(), self.on_behalf.text().strip())
        self._settle.start()

    # --- what is shown --------------------------------------------------------------------------------------------------

    def _tell(self) -> None:
        maker = self._maker
        made = maker.made
        if made is not None and made is not self._shown:
            self._shown = made
            self._show(made.pdf)
        if maker.busy and maker.done < maker.total:
            words = text.MAKING.format(maker.done, maker.total)
        elif maker.busy:
            words = text.LAYING_OUT
        elif made is not None:
            words = text.MADE.format(self.document.pageCount())
        else:
            words = ""
        self.state.setText(" ".join(one for one in (words, maker.trouble) if one))
        self.give_up.setEnabled(maker.busy)
        for button in (self.pdf, self.html, self.printing, self.pack):
            button.setEnabled(made is not None)

    def _show(self, pdf: bytes) -> None:
        self.document.close()
        self._buffer.close()
        # The document reads from it for as long as it is shown.
        self._data = QByteArray(pdf)
        self._buffer = QBuffer(self._data)
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self.document.load(self._buffer)
