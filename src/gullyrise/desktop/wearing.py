"""What the window wears: its theme, the habits of the hand and the keys, as the settings have them."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication

from gullyrise.desktop.actions import named_keys
from gullyrise.desktop.actions.keymap import KeyMap
from gullyrise.desktop.habits import dial_look, habits_of
from gullyrise.desktop.theme.look import dress
from gullyrise.desktop.theme.palette import LIMESTONE, SLATE, THEMES

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


class Wearing:
    """Keeps a window in step with its settings. palette : that of the theme worn now."""

    def __init__(self, window: Window) -> None:
        self._window = window
        self.palette = THEMES[window.settings["looks.theme"]]

    def swap_theme(self) -> None:
        self._window.settings.set("looks.theme", SLATE.name if self.palette is LIMESTONE else LIMESTONE.name)

    def settle(self, id: str = "") -> None:
        """Brings the window in step with a setting; with all of them for none."""
        window = self._window
        settings, bench = window.settings, window.bench
        self._theme()
        bench.hand.habits = habits_of(settings)
        bench.glide_ms = int(settings["view.glide"])
        bench.named_parallel = settings["view.named"] == "parallel"
        bench.touching = settings["select.rectangle"] == "touching"
        bench.wear_dial(dial_look(settings))
        window.pick_bar.show_way(touching=bench.touching)
        window.hint.show_scheme(bench.hand.habits.scheme)
        if id in ("", "view.field") and bench.camera.field != settings["view.field"]:
            bench.change_field(settings["view.field"])
        if id == "display.strokes":
            window.show_display(replace(window.display, strokes=settings["display.strokes"]))
        if id in ("", "cut.speed"):
            window.strip.show_speed(settings["cut.speed"])
        if id in ("", "measure.unit", "measure.digits", "measure.axes"):
            window.strip.word(window.measuring.wording)
            window.measuring.changed.emit()
            window.measuring.settle()
            window.dimensions.changed.emit()
            window.dimensions.settle()
        if id.startswith("place."):
            window.placing.settle()
        if id.startswith(("files.", "parts.")):
            window.opening.settle()
        if id == "keys.changed":
            window.keymap = window.keys.keymap = KeyMap(window.actions_by_id, settings["keys.changed"])
        if id in ("", "keys.changed"):
            self._name_keys()

    def _name_keys(self) -> None:
        """Everything that names keys, from the one table."""
        window = self._window
        window.bench.home_key = next(iter(window.keymap.keys_of("view.all")), "")
        named_keys.name_keys(window, window.keymap)
        window.bench.update()

    def _theme(self) -> None:
        window, wanted = self._window, THEMES[self._window.settings["looks.theme"]]
        if wanted is self.palette:
            return
        self.palette = wanted
        application = QApplication.instance()
        if isinstance(application, QApplication):
            dress(application, wanted)
        for panel in (
            window.plate,
            window.parts,
            window.traveller,
            window.strip,
            window.receiving,
            window.notices,
            window.report,
            window.slip,
            window.suggestions,
            window.dimension_list,
            window.measure_card,
            window.findings_list,
            window.matrix_panel,
        ):
            panel.wear(wanted)
        if window.sheets.machines is not None:
            window.sheets.machines.drawing.wear(wanted)
        window.refresh_items()
