"""What a click or a rectangle on the bench chooses."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.job.visibility import Key
from gullyrise.core.picking.feature import Feature, Kind
from gullyrise.desktop.features.selection import text
from gullyrise.desktop.features.selection.bars import PickBar
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.selection_marks import MOST_MARKED
from gullyrise.desktop.viewport.widget import Viewport


class SelectionController(QObject):
    """Keeps the model's choice in step with the hand on the bench. kind_set : clicks choose from now on"""

    kind_set = pyqtSignal()

    def __init__(self, model: Workbench, notifier: Notifier, viewport: Viewport, bar: PickBar) -> None:
        super().__init__(viewport)
        self._model, self._notifier, self._viewport, self._bar = model, notifier, viewport, bar

    def show_chosen(self) -> None:
        """Marks the chosen faces, edges and corners."""
        self._viewport.selection.show(self._model.selection.features)

    def set_kind(self, kind: Kind) -> None:
        """What clicks pick from now on; faces of one kind and edges of another are not chosen together."""
        self.kind_set.emit()
        self._viewport.set_kind(kind)
        self._bar.show_kind(kind)
        if any(feature.kind != kind for feature in self._model.selection.features):
            self._model.selection.select_bodies(self._model.selection.bodies)

    def take(self, found: Key | Feature | None, add: bool) -> None:
        """What a click met; nothing chooses nothing. add : to what is chosen, or away from it."""
        model = self._model
        if found is None:
            if not add:
                model.selection.select_bodies(())
        elif isinstance(found, Feature):
            kept = tuple(one for one in model.selection.features if one != found) if add else ()
            features = kept if add and found in model.selection.features else (*kept, found)
            model.selection.select_bodies({one.key for one in features}, features)
        else:
            model.selection.select_bodies(model.selection.bodies ^ {found} if add else {found})

    def take_all(self, found: list[Key] | list[Feature], add: bool) -> None:
        """What a rectangle took."""
        model = self._model
        features = tuple(one for one in found if isinstance(one, Feature))
        keys = {one.key if isinstance(one, Feature) else one for one in found}
        if add:
            features = tuple(dict.fromkeys((*model.selection.features, *features)))
            keys |= model.selection.bodies
        model.selection.select_bodies(keys, features)
        if len(features) > MOST_MARKED:
            self._notifier.say(text.FIRST_ARE_DRAWN.format(len(features), MOST_MARKED), False)
