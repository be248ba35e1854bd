"""Cuts in the window: which are open, how they are moved, and what the one in hand shows."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.cutting import Section
from gullyrise.core.cutting.along import AreaCurve
from gullyrise.core.cutting.cuts import MOST, Cut
from gullyrise.core.geometry import Box, Floats, Plane
from gullyrise.core.geometry.outline import Outline
from gullyrise.core.picking import face_geometry as features
from gullyrise.core.picking.pointing import face_at
from gullyrise.desktop.features.sections import text
from gullyrise.desktop.features.sections.sweep_animation import Sweep
from gullyrise.desktop.ports import Notifier, Preferences
from gullyrise.desktop.state.task_runner import RunningTask, TaskRunner
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.cutting import AreaAlong, CutExactly, CutPlaced, Shown
from gullyrise.workers.work import FindAxis

_SETTLE_MS = 120
_SLAB_SHARE = 0.1


class SectionsController(QObject):
    """changed : the cuts, or which of them is in hand;  measured : what that one shows, or its curve, has come

    cuts : those that are open;  active : the number of the one in hand;  section, exact : what that one shows, from the
    triangles and from exact surfaces, None until it is known;  trouble : why it is not
    """

    changed = pyqtSignal()
    measured = pyqtSignal()

    def __init__(
        self, model: Workbench, notifier: Notifier, preferences: Preferences, tasks: TaskRunner, viewport: Viewport
    ) -> None:
        super().__init__()
        self._model, self._notifier, self._tasks, self._viewport = model, notifier, tasks, viewport
        self.cuts: tuple[Cut, ...] = ()
        self.active = 0
        self.section: Section | None = None
        self.exact: Any = None
        self.outlines: tuple[Outline, ...] = ()
        self.curve: AreaCurve | None = None
        self.trouble = ""
        self.handle_shown = True
        self._errands: dict[str, RunningTask] = {}
        self._curve_for: tuple[object, ...] = ()
        self._settle = once(self, _SETTLE_MS, self._measure)
        self.sweep = Sweep(self, self, lambda: float(preferences["cut.speed"]))
        self._model.document.changed.connect(self._job_changed)
        self._model.selection.changed.connect(self._job_changed)

    # --- what is open ----------------------------------------------------------------------------------------------

    @property
    def cut(self) -> Cut | None:
        """The one in hand."""
        return self.cuts[self.active] if self.cuts else None

    def box(self) -> Box | None:
        """The box round what is cut."""
        boxes = [placed.ground for placed in self._model.selection.in_view()]
        return Box.around(boxes) if boxes else None

    def reach(self) -> tuple[float, float]:
        """The positions between which the cut in hand meets something; (0, 1) without one."""
        cut, box = self.cut, self.box()
        if cut is None or box is None:
            return 0.0, 1.0
        along = box.corners() @ np.array(cut.along)
        return float(along.min()), float(along.max())

    @property
    def beyond(self) -> bool:
        """Whether the cut in hand lies where nothing is that is in view."""
        low, high = self.reach()
        return self.cut is not None and not low <= self.cut.position <= high

    def show(self, cuts: tuple[Cut, ...]) -> None:
        """Opens these in place of all, as a saved view had them."""
        self.sweep.stop()
        self._put(cuts, max(len(cuts) - 1, 0))

    def _put(self, cuts: tuple[Cut, ...], active: int) -> None:
        before = self.cut
        self.cuts, self.active = cuts[:MOST], min(active, max(len(cuts) - 1, 0))
        if self.cut is None:
            self.section, self.exact, self.curve = None, None, None
            self._cancel("section", "exact", "curve")
            self._settle.stop()
        elif before != self.cut:
            self._cancel("section", "exact")
            self._settle.start()
            self._ask_curve()
        self.changed.emit()

    def _put_active(self, cut: Cut) -> None:
        cuts = (*self.cuts[: self.active], cut, *self.cuts[self.active + 1 :])
        self._put(cuts, self.active)

    def _open(self, cut: Cut, *, more: bool) -> None:
        if more and len(self.cuts) >= MOST:
            self._notifier.say(text.ENOUGH_CUTS.format(MOST), False)
        elif more or not self.cuts:
            self._put((*self.cuts, cut), len(self.cuts))
        else:
            self._put_active(cut)

    # --- making them -----------------------------------------------------------------------------------------------

    def across(self, axis: int, *, more: bool = False) -> None:
        """Cuts across an axis in the middle of what is in view; a cut in hand is taken there."""
        box = self.box()
        if box is None:
            self.close_all()
            return
        # What stands before the cut, as seen now, goes away.
        flipped = bool(self._viewport.camera.frame()[2][axis] < 0)
        self._open(Cut.across(axis, float(box.middle[axis]), flipped=flipped), more=more)

    def another(self) -> None:
        """One more, across the next axis that no cut is square to."""
        taken = {cut.axis for cut in self.cuts}
        self.across(next((axis for axis in (1, 0, 2) if axis not in taken), 2), more=True)

    def on_face(self) -> None:
        """Along the flat face under the pointer, or chosen."""
        chosen = [one for one in self._model.selection.features if one.kind == "face"]
        flat = features.plane_of(self._model, chosen[0]) if len(chosen) == 1 else None
        hit = self._viewport.aim.hit_under_pointer()
        if flat is None and hit is not None and not hit.on_cut:
            item = self._viewport.scene.items[hit.item]
            face = face_at(item, hit)
            flat = features.plane_of(self._model, face) if face is not None else None
            if flat is None:
                corner = item.mesh.vertices[item.mesh.faces[hit.face]] @ self._viewport.scene.matrix_of(item)[:3, :3].T
                normal = np.cross(corner[1] - corner[0], corner[2] - corner[0])
                normal = -normal if item.mirrored else normal
                flat = features.Line(hit.point, normal) if float(np.linalg.norm(normal)) > 0 else None
        if flat is None:
            self._notifier.say(text.NO_FACE_TO_CUT_ALONG, False)
            return
        self._open(Cut.through(flat.point, flat.direction), more=False)

    def through_points(self) -> None:
        """Through three chosen corners."""
        places = [features.place_of(self._model, one) for one in self._model.selection.features]
        found = [place for place in places if place is not None]
        normal = np.cross(found[1] - found[0], found[2] - found[0]) if len(found) == 3 else np.zeros(3)
        if not float(np.linalg.norm(normal)) > 1e-9:
            self._notifier.say(text.CHOOSE_THREE_CORNERS, False)
            return
        towards = self._viewport.camera.frame()[2]
        self._open(Cut.through(found[0], normal if normal @ towards > 0 else -normal), more=False)

    def through_axis(self) -> None:
        """Along the axis of the round face under the pointer or chosen, facing the eye as far as that goes."""
        chosen = [one for one in self._model.selection.features if one.kind == "face"]
        hit = self._viewport.aim.hit_under_pointer()
        face = chosen[0] if len(chosen) == 1 else None
        if face is None and hit is not None:
            face = face_at(self._viewport.scene.items[hit.item], hit)
        if face is None:
            self._notifier.say(text.NO_ROUND_FACE, False)
            return
        line = features.exact_axis_of(self._model, face)
        if line is not None:
            self._along(line)
            return
        body = features.body_placed(self._model, face)
        if body is not None:
            mesh, whole, triangle = body
            self._model.aside(FindAxis(mesh, triangle), lambda axis: self._along(features.placed_axis(axis, whole)))

    def _along(self, line: features.Line | None) -> None:
        if line is None:
            self._notifier.say(text.NO_CYLINDER, False)
            return
        towards = self._viewport.camera.frame()[2]
        normal = towards - (towards @ line.direction) * line.direction
        if float(np.linalg.norm(normal)) < 0.05:
            normal = Plane(line.point, line.direction).frame()[0]
        self._open(Cut.through(line.point, normal), more=False)

    # --- changing the one in hand ----------------------------------------------------------------------------------

    def move_to(self, position: float) -> None:
        cut = self.cut
        if cut is not None and position != cut.position:
            self._viewport.moves.keep_moving()
            self._put_active(cut.moved_to(position))

    def flip(self) -> None:
        """Shows the other side; of a slab the plane is taken to its other face."""
        cut = self.cut
        if cut is None:
            return
        position = cut.position
        if cut.depth is not None:
            position += cut.depth if cut.flipped else -cut.depth
        self._put_active(cut.model_copy(update={"flipped": not cut.flipped, "position": position}))

    def tilt(self, direction: int, degrees: float) -> None:
        """Leans the plane so far from how it was opened, 0 sideways or 1 over, turned through the middle of what it cuts."""
        cut, box = self.cut, self.box()
        if cut is None or box is None:
            return
        sideways, over = cut.tilt
        wanted = (degrees, over) if direction == 0 else (sideways, degrees)
        self._viewport.moves.keep_moving()
        self._put_active(cut.tilted_to(self.middle_of(cut, box), *wanted))

    def aim(self, cut: Cut) -> None:
        """Takes the cut in hand to where a handle was dragged."""
        if self.cut is not None:
            self._viewport.moves.keep_moving()
            self._put_active(cut)

    @staticmethod
    def middle_of(cut: Cut, box: Box) -> Floats:
        """The foot of the middle of a box on the plane."""
        plane = cut.plane
        return np.asarray(box.middle - float((box.middle - plane.point) @ plane.normal) * plane.normal)

    def keep_slab(self, depth: float | None) -> None:
        """Keeps so many mm behind the plane; None keeps all."""
        if self.cut is not None and (depth is None or depth > 0):
            self._put_active(self.cut.model_copy(update={"depth": depth}))

    def switch_slab(self) -> None:
        """A slab of a tenth of the way through, or none again."""
        if self.cut is not None:
            low, high = self.reach()
            self.keep_slab(None if self.cut.depth is not None else max((high - low) * _SLAB_SHARE, 1e-3))

    def only_chosen(self) -> None:
        """Cuts the chosen bodies alone, or all again."""
        cut = self.cut
        if cut is None:
            return
        if cut.only is None and not self._model.selection.bodies:
            self._notifier.say(text.CHOOSE_BODIES_FIRST, False)
            return
        only = tuple(sorted(self._model.selection.bodies)) if cut.only is None else None
        self._put_active(cut.model_copy(update={"only": only}))

    def take(self, number: int) -> None:
        """Takes another cut in hand."""
        if 0 <= number < len(self.cuts) and number != self.active:
            self.section, self.exact = None, None
            self._put(self.cuts, number)
            self._settle.start()
            self._ask_curve()

    def close(self) -> None:
        """Closes the one in hand."""
        if len(self.cuts) <= 1:
            self.close_all()
            return
        self.section, self.exact = None, None
        self._put((*self.cuts[: self.active], *self.cuts[self.active + 1 :]), max(self.active - 1, 0))

    def close_all(self) -> None:
        self.sweep.stop()
        self._put((), 0)

    # --- what it shows ---------------------------------------------------------------------------------------------

    def stands(self) -> tuple[tuple[Any, Any], ...]:
        """(body, placement on the machine) of every copy that the cut in hand goes through."""
        cut = self.cut
        shown = {placed.id for placed in self._model.selection.in_view()}
        if cut is None:
            return ()
        return tuple(
            (body, place.then(placed.placement))
            for key, (placed, body, place) in self._model.copies().items()
            if placed.id in shown and cut.touches(key)
        )

    def _job_changed(self) -> None:
        if self.cut is None:
            self.changed.emit()
            return
        if self.box() is None:
            self.close_all()
            return
        self._settle.start()
        self._ask_curve()
        self.changed.emit()

    def _cancel(self, *names: str) -> None:
        for name in names:
            task = self._errands.pop(name, None)
            if task is not None:
                self._tasks.cancel(task)

    def _send(self, name: str, work: Any, done: Any) -> None:
        self._cancel(name)

        def came(found: Any) -> None:
            self._errands.pop(name, None)
            done(found)
            self.measured.emit()

        def failed(error: Exception) -> None:
            self._errands.pop(name, None)
            self.trouble = str(error)
            self.measured.emit()

        self._errands[name] = self._tasks.send(work, came, failed, first=True)

    def _measure(self) -> None:
        """The section's figures, in a worker; an older question is dropped."""
        cut, stands = self.cut, self.stands()
        if cut is None or not stands:
            return
        self.trouble = ""
        self._send("section", CutPlaced(stands, cut.plane), lambda found: self._cut_came(found, cut, stands))

    def _cut_came(self, found: Shown, cut: Cut, stands: tuple[Any, ...]) -> None:
        self.section, self.exact, self.outlines = found.section, None, found.outlines
        # From exact surfaces where everything has them: it takes longer and comes after.
        if not self.sweep.running and all(body.exact is not None for body, _ in stands):
            self._send("exact", CutExactly(stands, cut.plane), self._exact_came)

    def _exact_came(self, found: Any) -> None:
        self.exact = found
        if found is not None:
            self.outlines = found.outlines

    def _ask_curve(self) -> None:
        cut, stands = self.cut, self.stands()
        if cut is None:
            return
        asked = (cut.along, cut.only, tuple((body.mesh, place.matrix.tobytes()) for body, place in stands))
        if len(asked) == len(self._curve_for) and asked[:2] == self._curve_for[:2] and _same(asked[2], self._curve_for[2]):
            return
        self._curve_for, self.curve = asked, None
        if not any(len(body.mesh.faces) for body, _ in stands):
            return
        self._send("curve", AreaAlong(stands, np.array(cut.along)), self._curve_came)

    def _curve_came(self, curve: AreaCurve) -> None:
        self.curve = curve

    def show_handle(self, shown: bool) -> None:
        """The frame and the grips of the cut in hand, on the bench."""
        self.handle_shown = shown
        self.changed.emit()

    def close_up(self) -> None:
        """The window closes: nothing is moved or sent any more."""
        self._settle.stop()
        self.sweep.stop()
        self._cancel("section", "exact", "curve")

    @property
    def idle(self) -> bool:
        return not self._settle.isActive()


def _same(some: Any, others: Any) -> bool:
    return len(some) == len(others) and all(a[0] is b[0] and a[1] == b[1] for a, b in zip(some, others, strict=True))
