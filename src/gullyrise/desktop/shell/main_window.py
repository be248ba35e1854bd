"""The window: panels round the bench, and the one place where actions, model and bench are tied together."""

from __future__ import annotations

import time
from dataclasses import replace

from PyQt6.QtCore import QElapsedTimer, QEvent, QEventLoop, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QMainWindow,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from gullyrise.core.machines import Machine
from gullyrise.desktop.commands import named_keys
from gullyrise.desktop.commands.keys import KeyReader
from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.features.checks.clearance_matrix import Matrix
from gullyrise.desktop.features.checks.clearance_panel import ClearanceMatrix
from gullyrise.desktop.features.checks.evidence_overlay import EvidenceShown
from gullyrise.desktop.features.checks.findings import Findings
from gullyrise.desktop.features.checks.findings_list import FindingsList
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.checks.setups import SetupsFinder
from gullyrise.desktop.features.files.autosave import Keeping
from gullyrise.desktop.features.files.history import History
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.features.files.open_export import Opening
from gullyrise.desktop.features.files.recent_jobs import RecentJobs
from gullyrise.desktop.features.files.start_page import ReceivingPage
from gullyrise.desktop.features.machines.plate import MachinePlate
from gullyrise.desktop.features.measure.card import MeasureCard
from gullyrise.desktop.features.measure.controller import Measuring
from gullyrise.desktop.features.measure.dimension_list import DimensionList
from gullyrise.desktop.features.measure.dimensions import Dimensions
from gullyrise.desktop.features.measure.tool import MeasureHand
from gullyrise.desktop.features.navigation.controller import Looking
from gullyrise.desktop.features.navigation.preferences import dial_look, habits_of
from gullyrise.desktop.features.navigation.view_shelf import ViewShelf
from gullyrise.desktop.features.parts.controller import PartWork
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.features.parts.report_panel import ReceivingReport
from gullyrise.desktop.features.parts.shape_groups import Shapes
from gullyrise.desktop.features.placement.collisions import Meeting
from gullyrise.desktop.features.placement.controller import Placing
from gullyrise.desktop.features.placement.form import Slips
from gullyrise.desktop.features.placement.gizmo_tool import TrayHand
from gullyrise.desktop.features.placement.panel import PlacingSlip
from gullyrise.desktop.features.placement.suggestions import Suggestions
from gullyrise.desktop.features.preferences.sheets import Sheets
from gullyrise.desktop.features.sections.controller import Cutting
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.features.sections.plane_handle import CutHand
from gullyrise.desktop.features.sections.profile_view import Profiling
from gullyrise.desktop.features.sections.split import Splitting
from gullyrise.desktop.features.sections.split_form import SplitSlip
from gullyrise.desktop.features.selection.bars import PickBar, SightBar
from gullyrise.desktop.features.selection.controller import Choosing
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.scene.scene_keeper import BenchScene
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.context_menu import Cards
from gullyrise.desktop.shell.floating_layout import Floating
from gullyrise.desktop.shell.focus_home import Homing
from gullyrise.desktop.shell.head import Head, rule
from gullyrise.desktop.shell.key_card import KeyCard
from gullyrise.desktop.shell.notifications import Notices
from gullyrise.desktop.shell.panel_layout import COLUMNS, LEFT, ROWS, Folding, Panels
from gullyrise.desktop.shell.status_line import HintLine
from gullyrise.desktop.shell.wiring import connect_cutting, connect_judging, connect_measuring
from gullyrise.desktop.state.document_model import BenchJob
from gullyrise.desktop.state.task_runner import Crew
from gullyrise.desktop.state.visibility import Key
from gullyrise.desktop.theme.wearing import Wearing
from gullyrise.desktop.upkeep.garbage import Garbage
from gullyrise.desktop.upkeep.mishaps import Mishaps, tell
from gullyrise.desktop.viewport.pointer import events
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.desktop.widgets.file_dialogs import Dialogs
from gullyrise.desktop.widgets.file_drops import accept_files, dropped_files
from gullyrise.drawing.display import Display
from gullyrise.drawing.palette import Palette

_COLUMNS = {"tree": "parts.columns", "list": "parts.list_columns"}


class Window(QMainWindow):
    """One job in one window. `actions_by_id` holds every action under its dotted id."""

    def __init__(self, machine: Machine | None = None, settings: Settings | None = None) -> None:
        super().__init__()
        self.settings = settings or Settings()
        self.setObjectName("window")
        self.setAcceptDrops(True)
        self.wearing = Wearing(self.settings)
        self.crew = Crew()
        self.model = BenchJob(self.crew, machine)
        self._painted = False
        self._build()
        self.mishaps = Mishaps(self.notices)
        self.mishaps.begin()
        self.runner.about_to = self.mishaps.doing
        self._make_controllers()
        self._connect()
        self._prefer()
        self.scene.refresh()
        self._refresh_title()
        self.resize(1280, 800)
        self.bench.setFocus()
        self.setMinimumSize(900, 600)

    # --- making ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        palette, model = self.wearing.palette, self.model
        self.bench = Viewport(palette, model.job.machine)
        self.cut_hand, self.tray, self.measure_hand = CutHand(self.bench), TrayHand(self.bench), MeasureHand(self.bench)
        for tool in (self.cut_hand, self.tray, self.measure_hand):
            self.bench.add_tool(tool)
        self.plate = MachinePlate(model, palette)
        self.shapes = Shapes(model)
        self.parts = PartsPanel(model, palette, self.shapes)
        self.report = ReceivingReport(model, palette)
        self.slip = PlacingSlip(palette)
        self.traveller = Traveller(model, palette)
        self.hint = HintLine(self.crew)
        self.notices = Notices(palette, self.bench)
        self.runner = ActionRunner(model, self.notices, self.settings["keys.changed"])
        self.dialogs = Dialogs(self)
        self.recent = RecentJobs()
        self.receiving = ReceivingPage(palette, self.recent, self.bench)
        self.card = KeyCard(palette, self.bench)
        self.pick_bar = PickBar(self.bench)
        self.pick_bar.move(8, 40)
        self.cutting = Cutting(model, self.notices, self.settings, self.crew, self.bench)
        self.strip = SectionStrip(self.cutting, palette)
        self.measuring = Measuring(model, self.notices, self.hint, self.settings, self.crew, self.measure_hand, self.pick_bar)
        self.measure_card = MeasureCard(self.measuring, palette)
        self.dimensions = Dimensions(model, self.notices, self.dialogs, self.bench, self.measure_hand, self.measuring)
        self.dimension_list = DimensionList(self.dimensions, palette)
        for foot in (self.measure_card, self.dimension_list):
            self.traveller.add_foot(foot)
        self.sight_bar = SightBar(model, self.bench)
        self.shelf = ViewShelf(model, self.bench)
        self.suggestions = Suggestions(palette, self.bench)
        self.split_slip = SplitSlip(self.bench)
        self.matrix_panel = ClearanceMatrix(palette, self.bench)
        self.finder = ActionFinder(self.runner.words_of)
        centre = QWidget()
        centre.setObjectName("centre")
        self.setCentralWidget(centre)
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.head = Head(self.plate, self.finder, self.runner.actions)
        self.head.wanted.connect(self.do)
        self.job_name = self.head.job_name
        column.addWidget(self.head)
        column.addWidget(rule())
        self.columns = QSplitter(Qt.Orientation.Horizontal)
        self.columns.setHandleWidth(1)
        self.columns.setChildrenCollapsible(False)
        self.left = QSplitter(Qt.Orientation.Vertical)
        self.left.setHandleWidth(1)
        self.left.setChildrenCollapsible(False)
        self.left.addWidget(self.parts)
        self.left.addWidget(self.report)
        self.left.addWidget(self.slip)
        self.slip.hide()
        self.left.setSizes([*LEFT, LEFT[1]])
        for widget in (self.left, self.bench, self.traveller):
            self.columns.addWidget(widget)
        self.columns.setStretchFactor(1, 1)
        self.columns.setSizes(COLUMNS)
        self.rows = QSplitter(Qt.Orientation.Vertical)
        self.rows.setHandleWidth(1)
        self.rows.setChildrenCollapsible(False)
        self.rows.addWidget(self.columns)
        self.rows.addWidget(self.strip)
        self.rows.setStretchFactor(0, 1)
        self.rows.setSizes(ROWS)
        column.addWidget(self.rows, 1)
        column.addWidget(rule())
        column.addWidget(self.hint)

    def _make_controllers(self) -> None:
        model, notices, settings, bench, cutting = self.model, self.notices, self.settings, self.bench, self.cutting
        self.floating = Floating(
            bench, self.receiving, notices, self.pick_bar, self.sight_bar, self.shelf, self.suggestions, self.split_slip,
            self.matrix_panel,
        )  # fmt: skip
        self.meeting = Meeting(model=model)
        strokes = Display(strokes=settings["display.strokes"])
        self.scene = BenchScene(self, model, self.wearing, bench, cutting, self.meeting, strokes)
        self.looking = Looking(
            model, notices, self.hint, settings, self.dialogs, self.runner, self.wearing, self.floating, bench, self.scene,
            cutting, self.shelf,
        )  # fmt: skip
        self.cards = Cards(model, self.runner, self.wearing, bench, self.card)
        self.choosing = Choosing(model, notices, bench, self.measuring, self.pick_bar)
        self.placing = Placing(self, model, notices, self.hint, settings, bench, self.tray, self.slip)
        self.slips = Slips(model, notices, settings, self.runner, self.floating, self.placing, self.slip, self.suggestions)
        self.sheets = Sheets(self, model, self.wearing, settings, self.runner, self.slips)
        panels = Panels(
            self.columns, self.rows, self.left, self.head, self.finder, self.report, self.slip, self.traveller, self.strip
        )
        self.folding = Folding(panels, self.placing)
        self.splitting = Splitting(model, notices, self.floating, cutting, self.split_slip)
        self.profiling = Profiling(self, notices, self.hint, settings, self.dialogs, bench, cutting, self.strip)
        self.findings = Findings(self, model, notices, self.looking, self.traveller.rows)
        self.findings_list = FindingsList(self.findings, self.wearing.palette)
        self.traveller.add_foot(self.findings_list, first=True)
        self.evidence_shown = EvidenceShown(self, model, notices, bench, cutting)
        self.matrix = Matrix(model, notices, self.looking, self.floating, self.matrix_panel)
        self.setups = SetupsFinder(model, notices, self.hint)
        self.part_work = PartWork(model, notices, self.parts, self.traveller, self.findings)
        self.job_file = JobFile(self, model, notices, settings, self.dialogs, bench, self.looking, self.recent)
        self.keeping = Keeping(self, model, notices, self.job_file)
        self.garbage = Garbage(self)
        self.history = History(self, model, notices, self.keeping, self.garbage)
        self.opening = Opening(
            model, notices, settings, self.dialogs, self.looking, self.recent, self.job_file, self.placing, self.slips,
            self.parts, self.report, self.traveller,
        )  # fmt: skip
        self.keys = KeyReader(self.runner.actions, lambda: self.runner.keymap, self)
        self.runner.serve(
            model, bench, bench.moves, bench.magnifier, settings, cutting, self.hint, self.traveller, self.parts, self.measuring,
            self.dimensions, self.scene,
            self.looking, self.cards, self.choosing, self.placing, self.slips, self.sheets, self.folding, self.splitting,
            self.profiling, self.findings, self.evidence_shown, self.matrix, self.setups, self.part_work, self.job_file,
            self.opening, self.wearing,
        )  # fmt: skip

    def _connect(self) -> None:
        model = self.model
        runner, cutting = self.runner, self.cutting
        connect_cutting(
            runner, self.settings, self.hint, self.cut_hand, self.scene, cutting, self.strip, self.split_slip, self.profiling
        )
        connect_measuring(
            runner, self.notices, self.traveller, self.measuring, self.measure_card, self.dimensions, self.dimension_list
        )
        connect_judging(model, runner, self.looking, self.traveller, self.findings_list, self.findings)
        model.job_changed.connect(self._refresh_title)
        self.wearing.changed.connect(self._wear)
        for signal in (model.job_changed, model.shown_changed):
            signal.connect(self.floating.settle_bars)
        self.job_file.changed.connect(self._refresh_title)
        model.said.connect(self.notices.say)
        self.plate.chosen.connect(self.slips.use_machine)
        self.parts.selected.connect(model.select_bodies)
        self.parts.wanted.connect(self.do)
        self.parts.sight_wanted.connect(self._see)
        self.parts.framing_wanted.connect(lambda: self.do("view.all"))
        self.parts.columns_changed.connect(lambda which, ids: self.settings.set(_COLUMNS[which], ids))
        self.receiving.wanted.connect(self.do)
        self.receiving.demo_wanted.connect(self.opening.open_demo)
        self.receiving.recent_wanted.connect(self.opening.open_recent)
        self.hint.cancelled.connect(lambda: self.do("work.cancel"))
        self.bench.pointed.connect(self.hint.show_pointer)
        self.bench.click_changed.connect(self.hint.show_click)
        self.bench.picked.connect(self.choosing.take)
        self.bench.boxed.connect(self.choosing.take_all)
        self.bench.card_wanted.connect(self.cards.open_on)
        self.bench.tool_dropped.connect(lambda: self.hint.show_tool(""))
        self.bench.keys_held.connect(self.hint.hold_keys)
        self.bench.files_dropped.connect(model.open_files)
        self.bench.pictures.failed.connect(lambda sentence: self.notices.say(sentence, True))
        self.hint.scheme_chosen.connect(lambda id: self.settings.set("pointer.scheme", id))
        self.settings.changed.connect(self._prefer)
        self.settings.said.connect(self.notices.say)
        self.pick_bar.wanted.connect(self.do)
        self.sight_bar.faded.connect(lambda share: model.look(model.sight.faded(share)))
        self.sight_bar.peeled.connect(lambda within: model.look(model.sight.peeled(within)))
        self.sight_bar.all_wanted.connect(lambda: self.do("bodies.show-all"))
        self.finder.chosen.connect(self.do)
        self.finder.left.connect(self._finder_left)
        self.bench.pressed.connect(self.card.hide)
        self.card.chosen.connect(self._from_card)
        self.keys.chosen.connect(self._from_keys)
        self.keys.let_go_of.connect(self.runner.let_go)
        self.keys.card.connect(self.cards.show_family)
        self.keys.modifiers.connect(lambda held: self.bench.hold_keys(events.keys_of(held)))
        self.keys.escaped.connect(self._escape)
        ignored = [*([self.settings.trouble] if self.settings.trouble else []), *self.model.left_out]
        if ignored:
            more = f" {len(ignored) - 3} more files are ignored." if len(ignored) > 3 else ""
            self.notices.say(" ".join(ignored[:3]) + more, False)
        self.homing = Homing(self, self.bench)
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self.homing)
            application.installEventFilter(self.keys)

    # --- actions ---------------------------------------------------------------------------------------------------

    def do(self, id: str) -> None:
        self.runner.do(id)

    def _from_keys(self, id: str) -> None:
        self.bench.stroke_words.note(f"{self.keys.stroke}  {self.runner.actions[id].label}")
        self.do(id)

    def _from_card(self, id: str) -> None:
        self.bench.setFocus()
        self.do(id)

    def _finder_left(self) -> None:
        self.folding.finder_left()
        self.bench.setFocus()

    def _see(self, keys: list[Key], seen: bool) -> None:
        sight, chosen = self.model.sight, frozenset(keys)
        self.model.look(sight.showing(chosen) if seen else sight.hiding(chosen))

    # --- preferences -----------------------------------------------------------------------------------------------

    def _prefer(self, id: str = "") -> None:
        """Brings the window in step with a setting; with all of them for none."""
        settings, bench = self.settings, self.bench
        self.wearing.settle()
        touching = settings["select.rectangle"] == "touching"
        named_parallel = settings["view.named"] == "parallel"
        bench.prefer(habits_of(settings), glide_ms=settings["view.glide"], named_parallel=named_parallel, touching=touching)
        bench.wear_dial(dial_look(settings))
        self.pick_bar.show_way(touching=touching)
        self.hint.show_scheme(bench.hand.habits.scheme)
        if id in ("", "view.field") and bench.camera.field != settings["view.field"]:
            bench.moves.change_field(settings["view.field"])
        if id == "display.strokes":
            self.scene.show_display(replace(self.scene.display, strokes=settings["display.strokes"]))
        if id in ("", "cut.speed"):
            self.strip.show_speed(settings["cut.speed"])
        if id in ("", "measure.unit", "measure.digits", "measure.axes"):
            self.strip.word(self.measuring.wording)
            self.measuring.changed.emit()
            self.measuring.settle()
            self.dimensions.changed.emit()
            self.dimensions.settle()
        if id.startswith("place."):
            self.placing.settle()
        if id.startswith(("files.", "parts.")):
            self.opening.settle()
        if id == "keys.changed":
            self.runner.take_keys(settings["keys.changed"])
        if id in ("", "keys.changed"):
            self.bench.strokes.name_home(next(iter(self.runner.keymap.keys_of("view.all")), ""))
            named_keys.name_keys(self, self.runner.keymap)

    def _wear(self, palette: Palette) -> None:
        for panel in (
            self.plate, self.parts, self.traveller, self.strip, self.receiving, self.notices, self.report, self.slip,
            self.suggestions, self.dimension_list, self.measure_card, self.findings_list, self.matrix_panel, self.sheets,
        ):  # fmt: skip
            panel.wear(palette)
        self.scene.refresh()

    # --- keeping in step -------------------------------------------------------------------------------------------

    def _refresh_title(self) -> None:
        count = len(self.model.job.standings)
        self.job_name.setText(self.model.title)
        mark = "*" if self.job_file.dirty and self.model.document.undo_name else ""
        self.head.show_steps(self.model.document.undo_name, self.model.document.redo_name)
        self.setWindowTitle(f"{self.model.title}{mark} · Gullyrise")
        opens, folder = (self.runner.words_of(id) for id in ("job.open", "job.open-folder"))
        self.hint.show_opening("" if count else f"{opens} opens part files · {folder} a folder of them · or drop them here")
        if (count == 0) != self.receiving.isVisible():
            self.receiving.show_recent()
            self.receiving.show_machine(self.model.job.machine.name)
            self.receiving.setVisible(count == 0)
            self.pick_bar.setVisible(count > 0)
            self.receiving.raise_()
            self.floating.settle()

    def _escape(self) -> None:
        self.card.hide()
        self.bench.magnifier.hold(False)
        self.measuring.let_go()
        self.bench.drop_tool()
        self.bench.setFocus()

    # --- the window's own events -----------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._painted:
            self._painted = True
            # First the window, then VTK.
            QTimer.singleShot(0, self.bench.start_drawing)
            self.keeping.look_for_work()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.floating.settle)

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.floating.settle()
        return done

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        accept_files(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.model.open_files(dropped_files(event))

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.mishaps.end()
        model = self.model
        for close in (
            self.opening.keep_recent, self._close_dialogs, self._stop_listening, self.bench.stop_drawing, self.meeting.close,
            self.cutting.close_up, self.evidence_shown.close, self.history.close, self.keeping.close,
            model.receiving.close, model.judging.close, model.between.close, self.crew.close, self.garbage.close,
        ):  # fmt: skip
            try:
                close()
            except Exception as error:  # What fails must not keep the rest from ending: the work is kept among that.
                tell(error)
        super().closeEvent(event)

    def _close_dialogs(self) -> None:
        for dialog in self.findChildren(QDialog):
            dialog.close()

    def _stop_listening(self) -> None:
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self.keys)
            application.removeEventFilter(self.homing)

    def wait_until_idle(self, timeout_s: float) -> bool:
        """Processes events until no loading or checking runs and the picture is current; False at the time limit."""
        clock = QElapsedTimer()
        clock.start()
        loop = QEventLoop()
        while clock.elapsed() < timeout_s * 1000:
            loop.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
            if (
                self.model.idle
                and self.cutting.idle
                and self.measuring.idle
                and not self.scene.waits
                and self._painted
                and self.bench.is_current
                and not self.bench.is_waited_for
            ):
                return True
            time.sleep(0.004)
        return False
