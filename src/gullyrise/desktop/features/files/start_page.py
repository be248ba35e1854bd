"""The start page, when nothing is open: a place to drop files, recent jobs, demo jobs, the machine."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from gullyrise.core.job.recent import PICTURE, RecentJob, RecentJobs
from gullyrise.core.reading import endings
from gullyrise.demo import JOBS, DemoJob
from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.widgets.pieces import caption, clear, column_box, named, row_box
from gullyrise.drawing.palette import Palette

_WIDEST = 668


class _DropArea(QFrame):
    """A field with a broken border, as one draws where things are to be put down."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.worn = palette
        self.setObjectName("drop_area")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setBrush(self.worn.colour("field"))
            painter.setPen(QPen(self.worn.colour("bed_line"), 1.5, Qt.PenStyle.DashLine))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)


class StartPage(QWidget):
    """Lies over the bench. wanted : the id of an action;  demo_wanted : the id of a demo job;  recent_wanted : a RecentJob."""

    wanted = pyqtSignal(str)
    demo_wanted = pyqtSignal(str)
    recent_wanted = pyqtSignal(object)

    def __init__(self, palette: Palette, recent: RecentJobs, parent: QWidget) -> None:
        super().__init__(parent)
        self._palette, self._recent = palette, recent
        named(self, "receiving_page", "Start page")
        column = column_box(self, (20, 20, 20, 20), 8)
        column.addWidget(self._drop_area())
        self._demo_head = caption("DEMO JOBS OF THE RIVER-GAUGING STATION", "head")
        column.addWidget(self._demo_head)
        row = row_box(spacing=8)
        for job in JOBS:
            row.addLayout(self._demo(job), 1)
        column.addLayout(row)
        self._recent_head = caption("RECENT JOBS", "head")
        column.addWidget(self._recent_head)
        holder = QWidget()
        self._grid = QGridLayout(holder)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(8)
        column.addWidget(holder)
        self.keys = caption("", "quiet", name="receiving_keys", wrap=True)
        self.keys.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self.keys)
        self.show_recent()

    def _demo(self, job: DemoJob) -> QVBoxLayout:
        below = column_box(spacing=2)
        button = QPushButton(job.title)
        named(
            button,
            "receiving_demo" if job is JOBS[0] else f"demo_{job.id}",
            f"{job.title}: {job.sentence}",
            f"{len(job.files)} files: {job.sentence}",
        )
        button.setMinimumHeight(34)
        button.clicked.connect(lambda: self.demo_wanted.emit(job.id))
        words = caption(job.sentence, "quiet")
        words.setAlignment(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        words.setWordWrap(True)
        below.addWidget(button)
        below.addWidget(words)
        return below

    def _drop_area(self) -> QWidget:
        self._area = _DropArea(self._palette)
        column = column_box(self._area, (20, 18, 20, 16), 6)
        title = caption("Drop part files or a folder here", "title")
        title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        kinds = caption(", ".join(sorted({ending.lstrip(".").upper() for ending in endings()})), "quiet")
        kinds.setAlignment(Qt.AlignmentFlag.AlignCenter)
        kinds.setWordWrap(True)
        self.machine = caption("", "quiet")
        self.machine.setAlignment(Qt.AlignmentFlag.AlignCenter)
        row = QHBoxLayout()
        row.addStretch(1)
        self.open_button = self._button("job.open", "receiving_open", "Open parts…{}")
        self.folder_button = self._button("job.open-folder", "receiving_folder", "Open a folder…")
        row.addWidget(self.open_button)
        row.addWidget(self.folder_button)
        row.addStretch(1)
        for widget in (title, kinds):
            column.addWidget(widget)
        column.addLayout(row)
        column.addWidget(self.machine)
        return self._area

    def _button(self, action: str, name: str, words: str) -> QPushButton:
        button = QPushButton(words.replace("{}", ""))
        named_keys.caption(button, action, words, "  {}")
        button.setObjectName(name)
        button.setMinimumHeight(34)
        button.clicked.connect(lambda: self.wanted.emit(action))
        return button

    def tell_keys(self, words: str) -> None:
        """What the keys are, in one line."""
        self.keys.setText(words)

    def show_machine(self, words: str) -> None:
        """The machine that parts will be judged for."""
        self.machine.setText(f"They will be judged for {words}.")

    def show_recent(self) -> None:
        """The recent jobs as they are now, three in a row."""
        clear(self._grid)
        jobs = self._recent.all()
        self._recent_head.setVisible(bool(jobs))
        for number, job in enumerate(jobs[:3]):
            self._grid.addWidget(self._card(number, job), 0, number)
        for spare in range(len(jobs[:3]), 3):
            self._grid.addWidget(QWidget(), 0, spare)
        self.fit(self.width())

    def fit(self, width: int) -> None:
        """Takes the width that there is, up to a bound, and the height that this needs."""
        self.setFixedWidth(min(width, _WIDEST))
        column = self.layout()
        if column is not None:
            column.activate()
            self.setFixedHeight(column.sizeHint().height())

    def _card(self, number: int, job: RecentJob) -> QToolButton:
        card = QToolButton()
        card.setObjectName(f"recent_{number}")
        when = _when(job.when)
        count = f"{len(job.files)} {'file' if len(job.files) == 1 else 'files'}"
        name = job.name if len(job.name) <= 28 else job.name[:27] + "…"
        card.setText(f"{name}\n{count} · {when}")
        card.setAccessibleName(f"{job.name}, {count}, {when}")
        card.setToolTip("\n".join([job.name, *job.files[:12], *(["…"] if len(job.files) > 12 else [])]))
        card.setIcon(QIcon(QPixmap(str(self._recent.picture(job)))))
        card.setIconSize(QSize(*PICTURE))
        card.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        card.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        card.clicked.connect(lambda: self.recent_wanted.emit(job))
        return card

    def wear(self, palette: Palette) -> None:
        self._palette = self._area.worn = palette
        self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """The page is solid: a press on it is not one on the bench below."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        p = self._palette
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setBrush(p.colour("panel"))
            painter.setPen(QPen(p.colour("line"), 1.0))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 8, 8)


def _when(iso: str) -> str:
    try:
        return datetime.fromisoformat(iso).strftime("%-d %b, %H:%M")
    except ValueError:
        return iso[:16]
