"""The window: panels round the bench, and the one place where actions, model and bench are tied together."""

from __future__ import annotations

import time

import numpy as np
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
from gullyrise.desktop.actions.keymap import KeyMap
from gullyrise.desktop.actions.keys import KeyReader
from gullyrise.desktop.actions.registry import Action, all_actions
from gullyrise.desktop.asking import ask_where
from gullyrise.desktop.bench.check_marks import Way
from gullyrise.desktop.bench.display import Display
from gullyrise.desktop.bench.overlays import accept_files, dropped_files
from gullyrise.desktop.bench.pointer import events
from gullyrise.desktop.bench.widget import Bench
from gullyrise.desktop.bench_job import BenchJob
from gullyrise.desktop.cards import Cards
from gullyrise.desktop.choosing import Choosing
from gullyrise.desktop.crew import Crew
from gullyrise.desktop.cutting import Cutting
from gullyrise.desktop.folding import COLUMNS, LEFT, ROWS, Folding
from gullyrise.desktop.garbage import Garbage
from gullyrise.desktop.history import History
from gullyrise.desktop.homing import Homing
from gullyrise.desktop.instruments.key_card import KeyCard
from gullyrise.desktop.job_file import JobFile
from gullyrise.desktop.keeping import Keeping
from gullyrise.desktop.looking import Looking
from gullyrise.desktop.meeting import Meeting
from gullyrise.desktop.mishaps import Mishaps, tell
from gullyrise.desktop.opening import Opening
from gullyrise.desktop.panels.action_finder import ActionFinder
from gullyrise.desktop.panels.bench_bar import PickBar, SightBar
from gullyrise.desktop.panels.clearance_matrix import ClearanceMatrix
from gullyrise.desktop.panels.head import Head, rule
from gullyrise.desktop.panels.hint_line import HintLine
from gullyrise.desktop.panels.machine_plate import MachinePlate
from gullyrise.desktop.panels.notices import Notices
from gullyrise.desktop.panels.parts import PartsPanel
from gullyrise.desktop.panels.placing_slip import PlacingSlip
from gullyrise.desktop.panels.receiving import ReceivingPage
from gullyrise.desktop.panels.report import ReceivingReport
from gullyrise.desktop.panels.section_strip import SectionStrip
from gullyrise.desktop.panels.split_slip import SplitSlip
from gullyrise.desktop.panels.suggestions import Suggestions
from gullyrise.desktop.panels.traveller import Traveller
from gullyrise.desktop.panels.view_shelf import ViewShelf
from gullyrise.desktop.placing import Placing
from gullyrise.desktop.profiling import Profiling
from gullyrise.desktop.recent import RecentJobs
from gullyrise.desktop.settings.sheets import Sheets
from gullyrise.desktop.settings.store import Settings
from gullyrise.desktop.shapes import Shapes
from gullyrise.desktop.showing import Showing
from gullyrise.desktop.sight import Key
from gullyrise.desktop.slips import Slips
from gullyrise.desktop.splitting import Splitting
from gullyrise.desktop.theme.palette import Palette
from gullyrise.desktop.wearing import Wearing
from gullyrise.desktop.wiring import connect_cutting, connect_judging, connect_measuring, make_judging, make_measuring

_COLUMNS = {"tree": "parts.columns", "list": "parts.list_columns"}


class Window(QMainWindow):
    """One job in one window. `actions_by_id` holds every action under its dotted id."""

    def __init__(self, machine: Machine | None = None, settings: Settings | None = None) -> None:
        super().__init__()
        self.settings = settings or Settings()
        self.setObjectName("window")
        self.setAcceptDrops(True)
        self.wearing = Wearing(self)
        self.display = Display(strokes=self.settings["display.strokes"])
        self.crew = Crew()
        self.model = BenchJob(self.crew, machine)
        self.actions_by_id: dict[str, Action] = dict(all_actions())
        self._painted, self._named = False, ""
        self._items_wait = False
        self.showing = Showing(self.model)
        self._build()
        self.mishaps = Mishaps(self.notices)
        self.mishaps.begin()
        self.looking = Looking(self)
        self.cards = Cards(self)
        self.folding = Folding(self)
        self.choosing = Choosing(self)
        self.sheets = Sheets(self)
        self.placing = Placing(self)
        self.slips = Slips(self)
        self.splitting = Splitting(self)
        self.profiling = Profiling(self)
        self.meeting = Meeting(model=self.model)
        make_judging(self)
        self.job_file = JobFile(self)
        self.keeping = Keeping(self)
        self.garbage = Garbage(self)
        self.history = History(self)
        self.opening = Opening(self)
        self._connect()
        self.wearing.settle()
        self.refresh_items()
        self._refresh_title()
        self.resize(1280, 800)
        self.bench.setFocus()
        self.setMinimumSize(900, 600)

    # --- making ----------------------------------------------------------------------------------------------------

    def _build(self) -> None:
        palette, model = self.palette_worn, self.model
        self.bench = Bench(palette, model.job.machine)
        self.plate = MachinePlate(model, palette)
        self.shapes = Shapes(model)
        self.parts = PartsPanel(model, palette, self.shapes)
        self.report = ReceivingReport(model, palette)
        self.slip = PlacingSlip(palette)
        self.traveller = Traveller(model, palette)
        self.cutting = Cutting(self)
        self.strip = SectionStrip(self.cutting, palette)
        make_measuring(self, palette)
        self.hint = HintLine(self.crew)
        self.receiving = ReceivingPage(palette, RecentJobs(), self.bench)
        self.notices = Notices(palette, self.bench)
        self.card = KeyCard(palette, self.bench)
        self.pick_bar = PickBar(self.bench)
        self.pick_bar.move(8, 40)
        self.sight_bar = SightBar(model, self.bench)
        self.shelf = ViewShelf(model, self.bench)
        self.suggestions = Suggestions(palette, self.bench)
        self.split_slip = SplitSlip(self.bench)
        self.matrix_panel = ClearanceMatrix(palette, self.bench)
        self.keymap = KeyMap(self.actions_by_id, self.settings["keys.changed"])
        self.finder = ActionFinder(lambda id: self.keymap.words_of(id))
        centre = QWidget()
        centre.setObjectName("centre")
        self.setCentralWidget(centre)
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.head = Head(self.plate, self.finder, self.actions_by_id)
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

    def _connect(self) -> None:
        model = self.model
        connect_cutting(self)
        connect_measuring(self)
        connect_judging(self)
        model.job_changed.connect(self.refresh_items)
        model.job_changed.connect(self._refresh_title)
        model.outcomes_changed.connect(self.refresh_items)
        model.selection_changed.connect(self.refresh_items)
        model.shown_changed.connect(self.refresh_items)
        model.carried_changed.connect(self._carry)
        self.meeting.changed.connect(self._show_meeting)
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
        self.bench.lamented.connect(lambda sentence: self.notices.say(sentence, True))
        self.hint.scheme_chosen.connect(lambda id: self.settings.set("pointer.scheme", id))
        self.settings.changed.connect(self.wearing.settle)
        self.settings.said.connect(self.notices.say)
        self.pick_bar.wanted.connect(self.do)
        self.sight_bar.faded.connect(lambda share: model.look(model.sight.faded(share)))
        self.sight_bar.peeled.connect(lambda within: model.look(model.sight.peeled(within)))
        self.sight_bar.all_wanted.connect(lambda: self.do("bodies.show-all"))
        self.finder.chosen.connect(self.do)
        self.finder.left.connect(self._finder_left)
        self.bench.pressed.connect(self.card.hide)
        self.card.chosen.connect(self._from_card)
        self.keys = KeyReader(self.actions_by_id, self, self.keymap)
        self.keys.chosen.connect(self._from_keys)
        self.keys.let_go_of.connect(self._let_go)
        self.keys.card.connect(self.cards.show_family)
        self.keys.modifiers.connect(lambda held: self.bench.hold_keys(events.keys_of(held)))
        self.keys.escaped.connect(self._escape)
        ignored = [*([self.settings.trouble] if self.settings.trouble else []), *self.model.left_out]
        if ignored:
            more = f" {len(ignored) - 3} more files are ignored." if len(ignored) > 3 else ""
            self.notices.say(" ".join(ignored[:3]) + more, False)
        self.homing = Homing(self)
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self.homing)
            application.installEventFilter(self.keys)

    # --- actions ---------------------------------------------------------------------------------------------------

    def do(self, id: str) -> None:
        """Runs an action where what it needs is there; else says what is missing."""
        entry = self.actions_by_id[id]
        if entry.needs == "part" and not self.model.job.standings:
            self.notices.say(f"{entry.label} needs a part: open one first ({self.keymap.words_of('job.open')}).", False)
            return
        if entry.needs == "selection" and not self.model.selection:
            self.notices.say(f"{entry.label} needs a selection: click a part first.", False)
            return
        if entry.needs == "one" and len(self.model.bodies) != 1:
            self.notices.say(f"{entry.label} needs one chosen body; {len(self.model.bodies)} are chosen.", False)
            return
        self.mishaps.doing(id)
        entry.run(self)

    def _from_keys(self, id: str) -> None:
        self.bench.note_stroke(f"{self.keys.stroke}  {self.actions_by_id[id].label}")
        self.do(id)

    def _from_card(self, id: str) -> None:
        self.bench.setFocus()
        self.do(id)

    def _let_go(self, id: str) -> None:
        ended = self.actions_by_id[id].let_go
        if ended is not None:
            ended(self)

    def find_action(self) -> None:
        """Opens the finder; with the bench alone the head comes back for as long as it is used."""
        self.head.setVisible(True)
        self.finder.begin()

    def _finder_left(self) -> None:
        self.head.setVisible(not self.folding.alone)
        self.bench.setFocus()

    def ask_for_picture(self) -> None:
        ask_where(self, "Save a picture of the view", "view.png", ["Pictures (*.png)"], self.looking.keep_picture)

    @property
    def palette_worn(self) -> Palette:
        return self.wearing.palette

    def _see(self, keys: list[Key], seen: bool) -> None:
        sight, chosen = self.model.sight, frozenset(keys)
        self.model.look(sight.showing(chosen) if seen else sight.hiding(chosen))

    def show_display(self, display: Display) -> None:
        self.display = display
        self.refresh_items()

    def arm(self, gesture: str) -> None:
        self.bench.arm(gesture)
        does = "zooms to it" if gesture == "frame" else "chooses what it takes"
        self.hint.show_tool(f"draw a rectangle with the left button: it {does} · Esc drops it")

    # --- keeping in step -------------------------------------------------------------------------------------------

    def _refresh_title(self) -> None:
        count = len(self.model.job.standings)
        if not count and not self.model.document.redo_name:
            self.job_name.setText("New job")
        elif count and self.job_name.text() in ("New job", self._named):
            # Parts come one after another; until somebody names it, the job is named after all of them.
            self._named = self.model.job.standings[0].part.name if count == 1 else f"{count} parts"
            self.job_name.setText(self._named)
        mark = "*" if self.job_file.dirty and self.model.document.undo_name else ""
        self.head.show_steps(self.model.document.undo_name, self.model.document.redo_name)
        self.setWindowTitle(f"{self.job_name.text()}{mark} · Gullyrise")
        opens, folder = (self.keymap.words_of(id) for id in ("job.open", "job.open-folder"))
        self.hint.show_opening("" if count else f"{opens} opens part files · {folder} a folder of them · or drop them here")
        if (count == 0) != self.receiving.isVisible():
            self.receiving.show_recent()
            self.receiving.show_machine(self.model.job.machine.name)
            self.receiving.setVisible(count == 0)
            self.pick_bar.setVisible(count > 0)
            self.receiving.raise_()
            self.settle_overlays()

    def refresh_items(self) -> None:
        """Brings bench and flags in step, once for all that changed in this turn of the event loop."""
        if not self._items_wait:
            self._items_wait = True
            QTimer.singleShot(0, self._put_items)

    def bring_in_step(self) -> None:
        """Does at once what waits for the next turn of the event loop."""
        if self._items_wait:
            self._put_items()

    def _carry(self) -> None:
        """Parts are in the hand: the picture follows at once, drawn as in motion."""
        self.bench.keep_moving()
        self._put_items()

    def _show_meeting(self) -> None:
        self.bench.meeting = self.meeting.boxes()
        near = self.meeting.near
        self.bench.near = None if near is None else Way(np.array(near.a), np.array(near.b), f"{near.distance:.2f} mm")
        self.bench.update()

    def _put_items(self) -> None:
        self._items_wait = False
        self.bench.flags = self.showing.flags()
        self.bench.features = self.model.features
        self.bench.show_scene(
            self.showing.items(), self.model.job.machine, self.palette_worn, self.cutting.cuts,
            out=self.showing.out_of_room(), display=self.display, beds=self.model.job.beds, carry=self.showing.carry(),
            angles=self.showing.angles(),
        )  # fmt: skip

    def _escape(self) -> None:
        self.card.hide()
        self.bench.hold_lens(False)
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
        QTimer.singleShot(0, self.settle_overlays)

    def settle_overlays(self) -> None:
        self.looking.settle_overlays()

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.LayoutRequest:
            self.settle_overlays()
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
                and not self._items_wait
                and self._painted
                and self.bench.is_current
                and not self.bench.is_waited_for
            ):
                return True
            time.sleep(0.004)
        return False
