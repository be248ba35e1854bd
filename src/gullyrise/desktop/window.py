"""The window: panels round the bench, and the one place where actions, model and bench are tied together."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QEvent, QEventLoop, QPoint, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QCursor, QDragEnterEvent, QDropEvent, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from gullyrise.core.checks.protocol import FaceField, Finding
from gullyrise.core.job import Standing
from gullyrise.core.machines import Machine
from gullyrise.core.machines.library import machine_named
from gullyrise.core.reading import endings
from gullyrise.desktop.actions.keys import KeyReader
from gullyrise.desktop.actions.registry import Action, all_actions
from gullyrise.desktop.bench.measures import scale_for
from gullyrise.desktop.bench.overlays import accept_files, dropped_files
from gullyrise.desktop.bench.scene import CutPlane, Item
from gullyrise.desktop.bench.widget import Bench, Flag
from gullyrise.desktop.bench_job import BenchJob
from gullyrise.desktop.crew import Crew
from gullyrise.desktop.instruments.key_card import KeyCard
from gullyrise.desktop.panels.hint_line import HintLine
from gullyrise.desktop.panels.machine_plate import MachinePlate
from gullyrise.desktop.panels.notices import Notices
from gullyrise.desktop.panels.parts import PartsPanel
from gullyrise.desktop.panels.receiving import ReceivingPage
from gullyrise.desktop.panels.section_strip import SectionStrip
from gullyrise.desktop.panels.traveller import Traveller
from gullyrise.desktop.placed import box_of
from gullyrise.desktop.theme.look import dress
from gullyrise.desktop.theme.palette import LIMESTONE, SLATE, Palette

_MOST_FLAGS = 30


def _title(part: str, body: str) -> str:
    return body if body == part else f"{part}: {body}"


def _rule() -> QFrame:
    line = QFrame()
    line.setProperty("rule", True)
    line.setFixedHeight(1)
    return line


class Window(QMainWindow):
    """One job in one window. `actions_by_id` holds every action under its dotted id."""

    def __init__(self, machine: Machine | None = None, palette: Palette = LIMESTONE) -> None:
        super().__init__()
        self.setObjectName("window")
        self.setAcceptDrops(True)
        self._palette = palette
        self.crew = Crew()
        self.model = BenchJob(self.crew, machine)
        self.actions_by_id: dict[str, Action] = dict(all_actions())
        self._painted = False
        self._items_wait = False
        self._alone = False
        self._build()
        self._connect()
        self._refresh_items()
        self._refresh_title()
        self.resize(1280, 800)
        self.bench.setFocus()
        self.setMinimumSize(900, 600)

    # --- making ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        palette, model = self._palette, self.model
        self.bench = Bench(palette, model.job.machine)
        self.plate = MachinePlate(model, palette)
        self.parts = PartsPanel(model, palette)
        self.traveller = Traveller(model, palette)
        self.strip = SectionStrip(model, self.crew, palette, lambda: self.bench.camera.frame()[2])
        self.hint = HintLine(self.crew)
        self.receiving = ReceivingPage(palette, self.bench)
        self.notices = Notices(palette, self.bench)
        self.card = KeyCard(self.actions_by_id, palette, self.bench)
        centre = QWidget()
        centre.setObjectName("centre")
        self.setCentralWidget(centre)
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.head = self._head()
        column.addWidget(self.head)
        column.addWidget(_rule())
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.columns.setHandleWidth(1)
        self.columns.setChildrenCollapsible(False)
        for widget in (self.parts, self.bench, self.traveller):
            self.columns.addWidget(widget)
        self.columns.setStretchFactor(1, 1)
        self.columns.setSizes([280, 690, 310])
        self.rows = QSplitter(Qt.Orientation.Vertical)
        self.rows.setHandleWidth(1)
        self.rows.setChildrenCollapsible(False)
        self.rows.addWidget(self.columns)
        self.rows.addWidget(self.strip)
        self.rows.setStretchFactor(0, 1)
        self.rows.setSizes([620, 118])
        column.addWidget(self.rows, 1)
        column.addWidget(_rule())
        column.addWidget(self.hint)

    def _head(self) -> QWidget:
        head = QWidget()
        head.setProperty("panel", True)
        head.setFixedHeight(44)
        row = QHBoxLayout(head)
        row.setContentsMargins(12, 4, 12, 4)
        row.setSpacing(12)
        self.job_name = QLabel()
        self.job_name.setObjectName("job_name")
        self.job_name.setProperty("role", "title")
        row.addWidget(self.job_name)
        row.addStretch(1)
        row.addWidget(self.plate)
        row.addStretch(1)
        for id, words in (("job.undo", "Undo"), ("job.redo", "Redo"), ("job.open", "Open parts…")):
            row.addWidget(self._button(id, words))
        return head

    def _button(self, id: str, words: str) -> QPushButton:
        entry = self.actions_by_id[id]
        button = QPushButton(words)
        button.setObjectName("do_" + id.replace(".", "_").replace("-", "_"))
        button.setToolTip(f"{entry.label} ({entry.key_words})" if entry.keys else entry.label)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda: self.do(id))
        return button

    def _connect(self) -> None:
        model = self.model
        model.job_changed.connect(self._refresh_items)
        model.job_changed.connect(self._refresh_title)
        model.outcomes_changed.connect(self._refresh_items)
        model.selection_changed.connect(self._refresh_items)
        model.shown_changed.connect(self._refresh_items)
        model.said.connect(self.notices.say)
        self.plate.chosen.connect(lambda id: model.set_machine(machine_named(id)))
        self.parts.selected.connect(model.select)
        self.parts.remove_wanted.connect(lambda: self.do("bodies.remove"))
        self.traveller.limit_set.connect(model.set_limit)
        self.traveller.finding_chosen.connect(self.fly_to)
        self.strip.cut_changed.connect(self._cut_changed)
        self.receiving.wanted.connect(self.do)
        self.hint.cancelled.connect(lambda: self.do("work.cancel"))
        self.bench.pointed.connect(self.hint.show_pointer)
        self.bench.picked.connect(self._picked)
        self.bench.card_wanted.connect(lambda at: self.card.open("V", at, self._palette))
        self.bench.files_dropped.connect(model.open_files)
        self.bench.lamented.connect(lambda sentence: self.notices.say(sentence, True))
        self.card.chosen.connect(self.do)
        self.keys = KeyReader(self.actions_by_id, self)
        self.keys.chosen.connect(self.do)
        self.keys.card.connect(self._show_card)
        self.keys.escaped.connect(self._escape)
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self.keys)

    # --- actions ---------------------------------------------------------------------------------------------------

    def do(self, id: str) -> None:
        """Runs an action where what it needs is there; else says what is missing."""
        entry = self.actions_by_id[id]
        if entry.needs == "part" and not self.model.job.standings:
            self.notices.say(f"{entry.label} needs a part: open one first (Ctrl+O).", False)
            return
        if entry.needs == "selection" and not self.model.selection:
            self.notices.say(f"{entry.label} needs a selection: click a part first.", False)
            return
        entry.run(self)

    def ask_for_files(self) -> None:
        kinds = " ".join(f"*{ending}" for ending in endings())
        names, _ = QFileDialog.getOpenFileNames(self, "Open parts", "", f"Part files ({kinds});;All files (*)")
        self.model.open_files(names)

    def ask_for_picture(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save a picture of the view", "view.png", "Pictures (*.png)")
        if name and not self.bench.grab().save(name):
            self.notices.say(f"{Path(name).name} could not be written; choose another folder.", True)

    def open_demo(self) -> None:
        from gullyrise.demo import demo_files

        self.job_name.setText("River-gauging station")
        self.model.open_files(demo_files())

    def swap_theme(self) -> None:
        self._palette = SLATE if self._palette is LIMESTONE else LIMESTONE
        application = QApplication.instance()
        if isinstance(application, QApplication):
            dress(application, self._palette)
        for panel in (self.plate, self.parts, self.traveller, self.strip, self.receiving, self.notices):
            panel.wear(self._palette)
        self._refresh_items()

    def fold_sides(self) -> None:
        shown = self.parts.isVisible() or self.traveller.isVisible()
        self.parts.setVisible(not shown)
        self.traveller.setVisible(not shown)

    def fold_strip(self) -> None:
        self.strip.setVisible(not self.strip.isVisible())

    def bench_alone(self) -> None:
        self._alone = not self._alone
        for widget in (self.parts, self.traveller, self.strip, self.head):
            widget.setVisible(not self._alone)

    def fly_to(self, standing: Standing, finding: Finding) -> None:
        """Looks at a finding close up, from outside the part, and flags it."""
        self.model.flag(standing.id, finding)
        place = standing.placement.apply(np.array(finding.at)[None])[0]
        box = box_of(standing)
        if finding.seen_from is not None:
            outward = standing.placement.matrix[:3, :3] @ np.array(finding.seen_from)
        else:
            outward = (place - box.middle) / np.maximum(box.size, 1e-9)
        if np.linalg.norm(outward) < 1e-6:
            outward = np.array([0.5, -0.8, 0.5])
        span = max(box.diagonal * 0.35, 2.0 * float(np.sqrt(finding.area or 0.0)), 4.0)
        self.bench.fly_to(place, outward / np.linalg.norm(outward), span)

    # --- keeping in step -------------------------------------------------------------------------------------------

    def _cut_changed(self, cut: CutPlane | None) -> None:
        self._refresh_items()

    def _picked(self, owner: int | None, add: bool) -> None:
        if owner is None:
            if not add:
                self.model.select(set())
            return
        chosen = set(self.model.selection)
        self.model.select(chosen ^ {owner} if add else {owner})

    def _refresh_title(self) -> None:
        count = len(self.model.job.standings)
        if not count and not self.model.document.redo_name:
            self.job_name.setText("New job")
        elif self.job_name.text() == "New job":
            self.job_name.setText(self.model.job.standings[0].part.name if count == 1 else f"{count} parts")
        mark = "*" if self.model.document.undo_name else ""
        self.setWindowTitle(f"{self.job_name.text()}{mark} · Gullyrise")
        self.receiving.setVisible(count == 0)

    def _refresh_items(self) -> None:
        """Brings bench and flags in step, once for all that changed in this turn of the event loop."""
        if not self._items_wait:
            self._items_wait = True
            QTimer.singleShot(0, self._put_items)

    def bring_in_step(self) -> None:
        """Does at once what waits for the next turn of the event loop."""
        if self._items_wait:
            self._put_items()

    def _put_items(self) -> None:
        self._items_wait = False
        job = self.model.job
        items: list[Item] = []
        out = False
        for standing in job.standings:
            field = self._field_of(standing)
            number = 0
            for body in standing.part.bodies:
                for place in body.placements:
                    matrix = standing.placement.matrix @ place.matrix
                    values = field.values[number] if field is not None and number < len(field.values) else None
                    key = (standing.id, number)
                    items.append(
                        Item(
                            key, standing.id, _title(standing.part.name, body.name),
                            body.mesh, matrix, box_of(standing), standing.id in self.model.selection, values,
                            scale_for(field) if field is not None else None,
                        )
                    )  # fmt: skip
                    number += 1
            fit = self.model.outcomes_of(standing, "fit")
            out |= fit is not None and any(outcome.verdict == "fail" for outcome in fit)
        self.bench.flags = self._flags()
        self.bench.show_scene(tuple(items), job.machine, self._palette, self.strip.cut, out=out)

    def _field_of(self, standing: Standing) -> FaceField | None:
        if self.model.measure is None:
            return None
        found = self.model.outcomes_of(standing, self.model.measure)
        return next((outcome.field for outcome in found or () if outcome.field is not None), None)

    def _flags(self) -> list[Flag]:
        measure = self.model.measure
        if measure is None or measure not in self.traveller.rows:
            return []
        row = next(self.model.row(name, check) for name, check in self.model.active_checks() if name == measure)
        out = []
        for number, (standing, finding) in enumerate(row.findings[:_MOST_FLAGS], 1):
            place = standing.placement.apply(np.array(finding.at)[None])[0]
            value = "" if finding.value is None or finding.what.startswith("tapers") else f"{finding.value:.3g} {finding.unit}"
            words = value or finding.what
            verdict = "review" if row.verdict == "review" else "fail"
            chosen = self.model.is_flagged(standing, finding)
            out.append(Flag(number, words, (float(place[0]), float(place[1]), float(place[2])), verdict, chosen))
        return out

    def _show_card(self, family: str) -> None:
        at = self.bench.mapFromGlobal(QCursor.pos())
        if not self.bench.rect().contains(at):
            at = QPoint(self.bench.width() // 2 - 120, 60)
        self.card.open(family, at, self._palette)

    def _escape(self) -> None:
        self.card.hide()
        self.bench.setFocus()

    # --- the window's own events -----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._painted:
            self._painted = True
            # First the window, then VTK.
            QTimer.singleShot(0, self.bench.start_drawing)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._settle_overlays)

    def _settle_overlays(self) -> None:
        page, bench = self.receiving, self.bench
        page.move(max((bench.width() - page.width()) // 2, 0), max((bench.height() - page.height()) // 2, 0))
        self.notices.place()

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self._settle_overlays()
        return done

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        accept_files(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.model.open_files(dropped_files(event))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self.keys)
        self.bench.stop_drawing()
        self.crew.close()
        super().closeEvent(event)

    def wait_until_idle(self, timeout_s: float) -> bool:
        """Processes events until no loading or checking runs and the picture is current; False at the time limit."""
        clock = QElapsedTimer()
        clock.start()
        loop = QEventLoop()
        while clock.elapsed() < timeout_s * 1000:
            loop.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            if self.model.idle and not self._items_wait and self._painted and self.bench.is_current:
                return True
            time.sleep(0.004)
        return False
