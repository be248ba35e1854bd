"""What is selected: copies of bodies, and perhaps faces, edges or corners of them."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.job import PlacedPart
from gullyrise.core.job.copies import copies
from gullyrise.core.job.visibility import Key
from gullyrise.core.picking.feature import Feature
from gullyrise.desktop.state.document_model import DocumentModel


class Selection(QObject):
    """parts : ids of those of which a body is selected"""

    changed = pyqtSignal()
    parts_changed = pyqtSignal()

    def __init__(self, document: DocumentModel) -> None:
        super().__init__()
        self._document = document
        self.bodies: frozenset[Key] = frozenset()
        self.parts: frozenset[int] = frozenset()
        self.features: tuple[Feature, ...] = ()
        document.replaced.connect(self._forget)
        document.edited.connect(self._keep_present)

    def select(self, numbers: set[int]) -> None:
        """Selects whole parts."""
        self.select_bodies({key for key in copies(self._document.job) if key[0] in numbers})

    def select_bodies(self, keys: Iterable[Key], features: tuple[Feature, ...] = ()) -> None:
        """Selects copies of bodies, and perhaps faces, edges or corners of them."""
        # An answer from beside the interface may speak of a part that is gone by now.
        present = self._document.present
        chosen = frozenset(key for key in keys if key[0] in present)
        features = tuple(feature for feature in features if feature.key[0] in present)
        if (chosen, features) != (self.bodies, self.features):
            parts_before = self.parts
            self.features = features
            self._put(chosen)
            if self.parts != parts_before:
                self.parts_changed.emit()

    def in_view(self) -> list[PlacedPart]:
        """The selected parts, or all where none is selected."""
        chosen = [placed for placed in self._document.job.parts if placed.id in self.parts]
        return chosen or list(self._document.job.parts)

    def _put(self, keys: frozenset[Key]) -> None:
        self.bodies, self.parts = keys, frozenset(owner for owner, _ in keys)
        self.changed.emit()

    def _forget(self) -> None:
        if self.bodies:
            self._put(frozenset())
        self.features = ()

    def _keep_present(self) -> None:
        present = self._document.present
        kept = frozenset(key for key in self.bodies if key[0] in present)
        if kept != self.bodies:
            self._put(kept)
        self.features = tuple(feature for feature in self.features if feature.key[0] in present)
