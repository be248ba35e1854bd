"""Evidence on the bench: a chosen finding composes its view, brings it back, and gives back what was seen before."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from gullyrise.core.camera.camera import Camera
from gullyrise.core.checks.protocol import Finding
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.composing import compose, compose_between
from gullyrise.core.evidence.room import Room
from gullyrise.core.evidence.view import ASPECT, EvidenceView
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.spots import Spot
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.visibility import Visibility
from gullyrise.desktop.features.navigation import text
from gullyrise.desktop.ports import Notifier, Sections
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.evidence import Shown
from gullyrise.drawing.ray_image import insets_of

_MOST_KEPT = 60
_SOLID = 0.99


@dataclass(frozen=True, slots=True, eq=False)
class Before:
    """What was seen before evidence was shown."""

    camera: Camera
    cuts: tuple[Cut, ...]
    visibility: Visibility


@dataclass(frozen=True, slots=True, eq=False)
class _Asked:
    """finding, placement : of what it is composed, held so that their ids stay theirs"""

    finding: Finding
    placement: Transform
    items: tuple[object, ...]


class EvidenceMoves(QObject):
    """changed : another view of evidence is shown, or none;  view : the one that is shown, None for none"""

    changed = pyqtSignal()

    def __init__(self, parent: QObject, model: Workbench, notifier: Notifier, viewport: Viewport, sections: Sections) -> None:
        super().__init__(parent)
        self._model, self._notifier, self._viewport, self._sections = model, notifier, viewport, sections
        self.view: EvidenceView | None = None
        self._before: Before | None = None
        self._wanted: tuple[PlacedPart | None, Finding] | None = None
        self._kept: OrderedDict[tuple[int, int], tuple[_Asked, EvidenceView | None]] = OrderedDict()
        self._putting = False
        self._parts: tuple[PlacedPart, ...] = ()
        sections.changed.connect(self._cuts_changed)
        model.shown.changed.connect(self._flag_changed)
        model.document.changed.connect(self._flag_changed)

    # --- showing it ---------------------------------------------------------------------------------------------------

    def show(self, placed: PlacedPart, finding: Finding) -> bool:
        """Composes the view of a finding and goes there; whether it can: bodies that no worker has prepared yet cannot be looked
        at by rays."""
        room = self._room(placed)
        if room is None:
            return False
        self._wanted = (placed, finding)
        self._model.put_flag(placed.id, finding)
        self._compose(placed, finding, room)
        return True

    def show_between(self, a: Spot, b: Spot, words: str) -> bool:
        """The same of what was measured by hand."""
        room = self._room(None)
        if room is None:
            return False
        measured = Finding("", None, "mm", a, code="measured", ends=(a, b))
        self._wanted = (None, measured)
        ends = np.array([a, b])

        def came(view: EvidenceView) -> None:
            if self._wanted is not None and self._wanted[1] is measured:
                self._go(view, measured, words)

        self._viewport.aside.ask(lambda: compose_between(ends[0], ends[1], room), came)
        return True

    def make_ready(self, placed: PlacedPart, finding: Finding) -> None:
        """Composes a view that is likely to be wanted next."""
        room = self._room(placed)
        if room is not None:
            self._compose(placed, finding, room)

    def again(self) -> None:
        """Back to the evidence of the flagged finding after looking about."""
        held = self._model.flag.held
        placed = self._model.job.part(held[0]) if held is not None else None
        if held is None or placed is None:
            self._notifier.say(text.NO_FINDING_CHOSEN, False)
        elif not self.show(placed, held[1]):
            self._notifier.say(text.NOT_READY_TO_BE_SEEN, False)

    def leave(self) -> bool:
        """Gives back the view, the cuts and the fading from before; whether there was anything to give back."""
        before, self._before = self._before, None
        self._wanted = None
        if before is None:
            return False
        self._end()
        self._put(before.cuts, before.visibility)
        self._viewport.moves.glide_to(before.camera)
        return True

    # --- composing ----------------------------------------------------------------------------------------------------

    def _room(self, placed: PlacedPart | None) -> Room | None:
        """What is drawn solid, but for what evidence itself has faded; None while some of it is not prepared. placed : what it is
        about, None for all"""
        visibility = self._before.visibility if self._before is not None else self._model.shown.visibility
        items = [item for item in self._viewport.scene.items if item.key[0] >= 0 and visibility.opacity(item.key) >= _SOLID]
        own = items if placed is None else [item for item in items if item.key[0] == placed.id]
        if not own or any(item.blocks is None for item in items):
            return None
        return Room(tuple(items), self._model.job.machine, about=None if placed is None else placed.id)

    def _compose(self, placed: PlacedPart, finding: Finding, room: Room) -> None:
        key = (placed.id, id(finding))
        known = self._kept.get(key)
        items = tuple(room.items)
        if known is not None and known[0].placement is placed.placement and _same(known[0].items, items):
            self._kept.move_to_end(key)
            if known[1] is not None:
                self._take(placed, finding, known[1])
            return
        asked = _Asked(finding, placed.placement, items)
        self._kept[key] = (asked, None)
        while len(self._kept) > _MOST_KEPT:
            self._kept.popitem(last=False)
        tools = tuple(self._model.job.machine.tool)

        def work() -> EvidenceView | None:
            try:
                return compose(finding.placed(placed.placement), room, tools)
            except Exception as error:  # Told where it can be seen; the next time it is tried again.
                tell(error)
                return None

        def came(view: EvidenceView | None) -> None:
            now = self._kept.get(key)
            if now is None or now[0] is not asked:
                return
            if view is None:
                del self._kept[key]
                return
            self._kept[key] = (asked, view)
            self._take(placed, finding, view)

        self._viewport.aside.ask(work, came)

    def _take(self, placed: PlacedPart, finding: Finding, view: EvidenceView) -> None:
        wanted = self._wanted
        if wanted is None or wanted[1] is not finding or wanted[0] is None or wanted[0].id != placed.id:
            return
        here = finding.placed(placed.placement)
        self._go(view, here, here.figure)

    def _go(self, view: EvidenceView, here: Finding, words: str) -> None:
        viewport, shown = self._viewport, self._model.shown
        if self._before is None:
            self._before = Before(viewport.moves.on_the_way, self._sections.cuts, shown.visibility)
        self.view, self._parts = view, self._model.job.parts
        self._put(view.cuts, replace(self._before.visibility, clear=self._before.visibility.clear | view.faded))
        width, height = viewport.view_size()
        # A picture higher than wide shows as much to both sides as one of evidence does.
        span = view.camera.span * max(1.0, ASPECT * height / max(width, 1))
        perspective = not self._before.camera.parallel
        viewport.moves.glide_to(replace(view.camera, span=span, field=self._before.camera.field, lent=perspective))
        self._show(Shown(view, here, words))
        if not view.proof.holds:
            self._notifier.say(text.CANNOT_BE_SEEN, False)
        self.changed.emit()

    def _show(self, shown: Shown) -> None:
        """Its marks at once, its small pictures when they are made."""
        viewport, view = self._viewport, shown.view
        viewport.evidence.show(shown=shown)
        if view.whole is None and view.beside is None:
            return
        palette, ratio = viewport.scene.palette, viewport.devicePixelRatioF()
        items = [item for item in viewport.scene.items if item.key[0] >= 0]

        def came(insets: tuple[QImage, ...]) -> None:
            if viewport.evidence.shown.shown is shown:
                viewport.evidence.show(shown=replace(shown, insets=insets))

        viewport.aside.ask(lambda: insets_of(view, items, palette, ratio), came)

    def _put(self, cuts: tuple[Cut, ...], visibility: Visibility) -> None:
        self._putting = True
        try:
            if cuts != self._sections.cuts:
                self._sections.show(cuts)
            self._model.shown.look(visibility)
        finally:
            self._putting = False

    # --- when it ends by itself ---------------------------------------------------------------------------------------

    def _cuts_changed(self) -> None:
        """Other cuts are somebody's own: they stay when evidence is left."""
        if self.view is not None and not self._putting and self._sections.cuts != self.view.cuts:
            self._before = None
            self._end()

    def _flag_changed(self) -> None:
        if self.view is None or self._putting:
            return
        if self._wanted is not None and self._wanted[0] is None:
            # What was measured by hand is marked as long as nothing moves.
            if self._model.job.parts is not self._parts:
                self.leave()
            return
        held = self._model.flag.held
        if held is None or self._wanted is None or held[1] is not self._wanted[1] or not self._model.flag.stands:
            self.leave()

    def _end(self) -> None:
        self.view = None
        self._viewport.evidence.show(shown=None)
        self.changed.emit()


def _same(some: tuple[object, ...], others: tuple[object, ...]) -> bool:
    return len(some) == len(others) and all(one is other for one, other in zip(some, others, strict=True))
