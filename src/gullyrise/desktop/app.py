"""The window with everything in it: the only place that knows every feature."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QDialog, QWidget

from gullyrise.core.machines import Machine
from gullyrise.desktop.commands import named_keys, registry
from gullyrise.desktop.commands.keys import KeyReader
from gullyrise.desktop.commands.needs import Present
from gullyrise.desktop.commands.registry import FAMILIES, Action
from gullyrise.desktop.commands.runner import ActionRunner
from gullyrise.desktop.context import Context
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.preferences.window_state import keep_window_state, window_state
from gullyrise.desktop.scene.scene_keeper import SceneKeeper
from gullyrise.desktop.shell import commands as commands
from gullyrise.desktop.shell.action_finder import ActionFinder
from gullyrise.desktop.shell.context_menu import ContextMenu
from gullyrise.desktop.shell.family_bar import FamilyBar
from gullyrise.desktop.shell.first_steps import FirstSteps, Step
from gullyrise.desktop.shell.floating_layout import FloatingPlaces
from gullyrise.desktop.shell.focus_home import FocusHome
from gullyrise.desktop.shell.head import Head
from gullyrise.desktop.shell.key_card import KeyCard
from gullyrise.desktop.shell.main_window import Window
from gullyrise.desktop.shell.notifications import Notifications
from gullyrise.desktop.shell.panel_layout import PanelLayout
from gullyrise.desktop.shell.status_line import StatusStrip
from gullyrise.desktop.state.task_runner import TaskRunner
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.theme import icons
from gullyrise.desktop.theme.appearance import Appearance
from gullyrise.desktop.upkeep.mishaps import Mishaps
from gullyrise.desktop.viewport.pointer import events
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.desktop.widgets.file_dialogs import FileDialogs
from gullyrise.drawing.display import Display

# In the order in which their actions stand on cards and on the key sheet.
# isort: off
from gullyrise.desktop.features.files import feature as files
from gullyrise.desktop.features.selection import feature as selection
from gullyrise.desktop.features.sections import feature as sections
from gullyrise.desktop.features.measure import feature as measure
from gullyrise.desktop.features.checks import feature as checks
from gullyrise.desktop.features.placement import feature as placement
from gullyrise.desktop.features.machines import feature as machines
from gullyrise.desktop.features.record import feature as record
from gullyrise.desktop.features.parts import feature as parts
from gullyrise.desktop.features.navigation import feature as navigation
from gullyrise.desktop.features.preferences import feature as preferences

# isort: on

USUAL_SIZE = (1280, 800)


def all_actions() -> dict[str, Action]:
    """Every action by its id."""
    return registry.all_actions()


class Desk(Window):
    """One job in one window. What it is put together from has a name here, for programs that drive it."""

    def __init__(self, machine: Machine | None = None, settings: Settings | None = None) -> None:
        super().__init__()
        self.settings = settings or Settings()
        self.left_as = window_state()
        self.appearance = Appearance(self.settings)
        self.settings.follow(("looks.",), self.appearance.settle)
        self.tasks = TaskRunner()
        self.model = Workbench(self.tasks, machine, self.left_as.machine)
        self._make_shell()
        self.mishaps.begin()
        context = Context(
            self, self.model, self.tasks, self.settings, self.appearance, self.notifications, self.status, self.dialogs,
            self.runner, self.bench, self.scene, self.panels, self.floating,
        )  # fmt: skip
        self._attach(context)
        self.panels.size_all()
        self.setCentralWidget(self.panels)
        self.read_in_order(
            self.head, self.panels.left, self.bench, self.area_strip.controls, self.area_strip, self.area_strip.line,
            self.traveller, self.status,
        )  # fmt: skip
        self._connect()
        self.scene.refresh()
        self._refresh_title()
        icons.wear(self, self.appearance.palette)
        self._take_size()
        self.bench.setFocus()

    def _make_shell(self) -> None:
        palette, model = self.appearance.palette, self.model
        self.bench = Viewport(palette, model.job.machine)
        self.status = StatusStrip(self.tasks)
        self.notifications = Notifications(palette, self.bench, lambda id: self.runner.words_of(id))
        self.mishaps = Mishaps(self.notifications)
        self.runner = ActionRunner(self._present, self.notifications, self.settings["keys.changed"], self.mishaps.doing)
        self.dialogs = FileDialogs(self, self.left_as.folders)
        self.key_card = KeyCard(palette, self, lambda words: self.context_menu.rows_by_words(words))
        self.family_bar = FamilyBar()
        self.context_menu = ContextMenu(
            model, self.runner, self.appearance, self.bench, self.key_card, self.family_bar, lambda: self.opening.recent_names()
        )
        self.finder = ActionFinder(self.runner.words_of)
        self.head = Head(self.family_bar, self.finder, self.runner.actions)
        self.floating = FloatingPlaces(self.bench)
        self.panels = PanelLayout(self.head, self.finder, self.bench, self.status)
        # What is carried is drawn as in motion before it is drawn anew.
        model.carried.changed.connect(self.bench.moves.keep_moving)
        self.scene = SceneKeeper(self, model, self.appearance, Display(strokes=self.settings["display.strokes"]))
        self.scene.changed.connect(self.bench.show_scene)
        self.appearance.changed.connect(self.notifications.wear)
        self.appearance.changed.connect(lambda palette: icons.wear(self, palette))
        self.appearance.changed.connect(lambda _: self.key_card.shut_down())
        self.appearance.changed.connect(self.scene.refresh)
        self.runner.serve(self.status, self.context_menu, self.panels, self.notifications)

    def _attach(self, context: Context) -> None:
        """Each feature is handed what it needs of others, by what that can do."""
        shelf = machines.attach(context)
        self.plate, self.machines = shelf.plate, shelf.controller
        self.head.add(self.plate, ((1240, self.plate.envelope), (1140, self.plate.words), (1000, self.finder)))
        cut = sections.attach(context)
        self.sections, self.plane_handle, self.area_strip = cut.controller, cut.handle, cut.strip
        self.split, self.split_form, self.profile = cut.split, cut.split_form, cut.profile
        look = navigation.attach(context, self.sections)
        self.navigation, self.view_shelf = look.controller, look.shelf
        choice = selection.attach(context)
        self.choice, self.pick_bar, self.visibility_bar = choice.controller, choice.pick_bar, choice.visibility_bar
        check = checks.attach(context, self.navigation, self.sections)
        self.traveller, self.findings, self.findings_list = check.traveller, check.findings, check.findings_list
        self.evidence, self.matrix, self.matrix_panel = check.evidence, check.matrix, check.matrix_panel
        self.setups, self.finding_pictures = check.setups, check.pictures
        gauge = measure.attach(context, self.traveller, self.navigation)
        self.measure, self.measure_tool, self.measure_card = gauge.controller, gauge.tool, gauge.card
        self.dimensions, self.dimension_list = gauge.dimensions, gauge.dimension_list
        part = parts.attach(context, self.navigation, self.traveller, self.findings)
        self.parts_panel, self.report, self.parts_controller = part.panel, part.report, part.controller
        self.list_export = part.list_export
        place = placement.attach(context, self.machines)
        self.placement, self.gizmo, self.placement_panel = place.controller, place.tray, place.panel
        self.placement_form, self.suggestions, self.collisions = place.form, place.suggestions, place.collisions
        out = files.attach(context, self.navigation, self.machines, self.placement)
        self.job_file, self.opening, self.start_page = out.job_file, out.opening, out.page
        self.autosave, self.history, self.garbage = out.keeping, out.history, out.garbage
        recording = record.attach(context)
        self.record, self.reporting, self.record_panel = recording.record, recording.report, recording.panel
        self.sheets = preferences.attach(context)
        # What is connected to a signal lives only as long as somebody holds it.
        self._features = (shelf, cut, look, choice, check, gauge, part, place, out)

    def _connect(self) -> None:
        model, bench, settings = self.model, self.bench, self.settings
        # What one feature tells another.
        self.choice.kind_set.connect(lambda: self.measure.set_by_clicks(False))
        self.measure.clicks_taken.connect(self.pick_bar.show_measuring)
        settings.follow(("measure.",), lambda: self.area_strip.word(self.measure.wording))
        for signal in (model.document.changed, model.shown.changed):
            signal.connect(self.floating.settle_bars)
        for signal in (model.document.changed, self.job_file.changed):
            signal.connect(self._refresh_title)
        for said in (model.document.said, settings.said):
            said.connect(self.notifications.say)
        bench.pictures.failed.connect(lambda sentence: self.notifications.say(sentence, True))
        # The status line, cards and keys.
        bench.pointed.connect(self.status.show_pointer)
        bench.click_changed.connect(self.status.show_click)
        bench.tool_dropped.connect(lambda: self.status.show_tool(""))
        bench.keys_held.connect(self.status.hold_keys)
        bench.card_wanted.connect(self.context_menu.open_on)
        bench.pressed.connect(self.key_card.shut_down)
        self.status.cancelled.connect(lambda: self.do("work.cancel"))
        self.status.scheme_chosen.connect(lambda id: settings.set("pointer.scheme", id))
        settings.follow(("pointer.",), lambda: self.status.show_scheme(bench.hand.habits.scheme))
        self.head.wanted.connect(self.do)
        self.finder.chosen.connect(self.do)
        self.finder.left.connect(self._finder_left)
        self.key_card.chosen.connect(self._from_card)
        self.keys = KeyReader(self.runner.actions, lambda: self.runner.keymap, self)
        self.keys.chosen.connect(self._from_keys)
        self.keys.let_go_of.connect(self.runner.let_go)
        self.keys.card.connect(self.context_menu.show_family)
        self.keys.modifiers.connect(lambda held: bench.hold_keys(events.keys_of(held)))
        self.keys.escaped.connect(self._escape)
        settings.follow(("keys.changed",), self._name_keys)
        ignored = [*([settings.trouble] if settings.trouble else []), *model.document.left_out]
        if ignored:
            more = f" {len(ignored) - 3} more files are ignored." if len(ignored) > 3 else ""
            self.notifications.say(" ".join(ignored[:3]) + more, False)
        # Last, when all that floats has its place.
        self.floating.add(lambda _: self._clear_of_slips())
        # The window's own life.
        self.files_dropped.connect(model.open_files)
        self.resized.connect(self.floating.settle)
        # First the window, then VTK.
        self.painted_first.connect(lambda: QTimer.singleShot(0, bench.start_drawing))
        self.painted_first.connect(self.autosave.look_for_work)
        self.first_steps = FirstSteps(self, self._guided)
        self.opening.demo_opened.connect(self._point_at_first_steps)
        self.resized.connect(self.first_steps.settle)
        self.focus_home = FocusHome(self, bench)
        application = QApplication.instance()
        if application is not None:
            application.installEventFilter(self.focus_home)
            application.installEventFilter(self.keys)
        self.live(
            lambda: (
                self._keep_state, self.mishaps.end, self.opening.keep_recent, self._close_dialogs, self._stop_listening,
                self.reporting.close, bench.stop_drawing, self.collisions.close, self.sections.close_up, self.evidence.close,
                self.finding_pictures.close, self.history.close, self.autosave.close,
                model.loader.close, model.checks.close, model.between.close, self.tasks.close, self.garbage.close,
            ),
            (
                lambda: model.idle, lambda: self.sections.idle, lambda: self.measure.idle, lambda: not self.scene.waits,
                lambda: self.finding_pictures.idle, lambda: self.reporting.idle, lambda: bench.is_current,
                lambda: not bench.is_waited_for,
            ),
        )  # fmt: skip

    def _point_at_first_steps(self) -> None:
        """Once: how to orbit, to cut, and to find what is wrong."""
        if not self.left_as.guided and not self.first_steps.pointers:
            self.first_steps.show(self._first_steps, self.appearance.palette)

    def _first_steps(self) -> list[Step]:
        turns = self.bench.hand.habits.scheme.words_of("turn")
        steps = self.runner.words_of("check.next-finding")

        def at(widget: QWidget, across: float, down: float) -> QPoint:
            return widget.mapTo(self, QPoint(round(widget.width() * across), round(widget.height() * down)))

        return [
            Step(1, f"{turns[:1].upper()}{turns[1:]} orbits, the wheel zooms", at(self.bench, 0.5, 0.5), below=True),
            Step(2, "X, Y or Z cuts the parts open", at(self.area_strip.line, 0.12, 0.1), below=True),
            Step(3, f"{steps} flies to the next finding", at(self.traveller, 0.5, 0.4), below=False),
        ]

    def _guided(self) -> None:
        self.left_as = replace(self.left_as, guided=True)

    def _take_size(self) -> None:
        """As the window was left, as far as the screen holds it."""
        left, screen = self.left_as, self.screen()
        width, height = left.size if len(left.size) == 2 else USUAL_SIZE
        if screen is not None:
            room = screen.availableSize()
            if left.size and room.width() >= self.minimumWidth() and room.height() >= self.minimumHeight():
                width, height = min(width, room.width()), min(height, room.height())
        self.resize(width, height)
        if left.filling:
            self.setWindowState(Qt.WindowState.WindowMaximized)
        self.panels.take_state(left)

    def _keep_state(self) -> None:
        fills = self.isMaximized()
        size = self.left_as.size if fills else [self.width(), self.height()]
        now = replace(self.left_as, size=size, filling=fills, machine=self.model.job.machine.id)
        keep_window_state(self.panels.state_after(now))

    def _close_dialogs(self) -> None:
        for dialog in self.findChildren(QDialog):
            dialog.close()

    def _stop_listening(self) -> None:
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self.keys)
            application.removeEventFilter(self.focus_home)

    def _clear_of_slips(self) -> None:
        """What stands in other corners gives way to a slip that is open."""
        slip = self.floating.slip_place
        self.notifications.keep_clear_of(slip)
        page = self.start_page
        self.bench.keep_clear_of(page.geometry() if slip.isEmpty() and page.isVisible() else slip)

    # --- actions ---------------------------------------------------------------------------------------------------

    def do(self, id: str) -> None:
        self.runner.do(id)

    def _present(self) -> Present:
        job = self.model.job
        steps = self.model.document.history
        return Present(
            len(job.parts), len(self.model.selection.bodies), len(self.sections.cuts), job.machine.process == "mill",
            bool(steps.undo_name), bool(steps.redo_name), bool(self.tasks.under_way), len(self.opening.recent_jobs),
        )  # fmt: skip

    def _name_keys(self) -> None:
        self.runner.take_keys(self.settings["keys.changed"])
        self.bench.strokes.name_home(next(iter(self.runner.keymap.keys_of("view.all")), ""))
        self.bench.update()
        named_keys.name_keys(self, self.runner.keymap)

    def _from_keys(self, id: str) -> None:
        self.bench.stroke_words.note(f"{self.keys.stroke}  {self.runner.actions[id].label}")
        self.do(id)

    def _from_card(self, id: str) -> None:
        self.bench.setFocus()
        self.do(id)

    def _finder_left(self) -> None:
        self.panels.finder_left()
        self.bench.setFocus()

    def _escape(self) -> None:
        self.key_card.shut_down()
        self.bench.magnifier.hold(False)
        in_hand = self.bench.in_hand
        self.measure.let_go()
        self.bench.drop_tool()
        self.bench.setFocus()
        # A tool in the hand is let go of first; the next stroke gives back what was seen before the evidence.
        if not in_hand:
            self.navigation.evidence.leave()

    # --- its name ---------------------------------------------------------------------------------------------------

    def _refresh_title(self) -> None:
        model = self.model
        undo, redo = model.document.history.undo_name, model.document.history.redo_name
        changed = bool(self.job_file.dirty and undo)
        self.family_bar.name_job(model.document.title, changed=changed)
        self.head.show_steps(undo, redo)
        named_keys.name_keys(self.head, self.runner.keymap)
        self.setWindowTitle(f"{model.document.title}{'*' if changed else ''} · Gullyrise")
        opens, folder = (self.runner.words_of(id) for id in ("job.open", "job.open-folder"))
        empty = not model.job.parts
        sheet, finder = (self.runner.words_of(id) for id in ("help.keys", "help.find"))
        families = " ".join(FAMILIES)
        self.start_page.tell_keys(f"{families} open the cards of actions · {sheet} all keys · {finder} finds an action by words")
        self.status.show_opening(f"{opens} opens part files · {folder} a folder of them · or drop them here" if empty else "")
