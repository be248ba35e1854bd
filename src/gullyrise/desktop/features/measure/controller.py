"""Measuring in the window: what is picked, its own figures or what lies between, and how that is shown on the bench."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Box
from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.intake.materials import material_named
from gullyrise.core.measuring.figures import Figure, legs_of
from gullyrise.core.measuring.keeping import carried
from gullyrise.core.measuring.picks import Pick
from gullyrise.core.measuring.subject import Subject
from gullyrise.core.measuring.taking import Taken, takes_longer
from gullyrise.core.measuring.words import UNITS, Wording, doubt, rounding, said
from gullyrise.core.picking.feature import Feature
from gullyrise.core.picking.snapping import Snap
from gullyrise.desktop.features.measure import text
from gullyrise.desktop.features.measure.tool import MeasureTool, Shown, middle_of
from gullyrise.desktop.ports import Notifier, Preferences, StatusLine
from gullyrise.desktop.state.task_runner import RunningTask, TaskRunner
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.measuring import TakeMeasure
from gullyrise.workers.process import Bounds

_OF_FEATURE = {"face": "face", "edge": "edge", "vertex": "corner"}
_MOST_CHOSEN = 2
_PATIENCE_S = 120.0


class MeasureController(QObject):
    """changed : what is picked or known;  clicks_taken : whether clicks on the bench pick what is to be measured

    picks : what is in hand;  taken : what is known of it, None while it is being found out;  main : the number of the figure in
    front
    leg : the part of its way that is pointed at, or none;  trouble : why nothing is known
    """

    changed = pyqtSignal()
    clicks_taken = pyqtSignal(bool)

    def __init__(
        self, model: Workbench, notifier: Notifier, status: StatusLine, preferences: Preferences, tasks: TaskRunner,
        hand: MeasureTool,
    ) -> None:  # fmt: skip
        super().__init__()
        self._model, self._notifier, self._status, self._preferences = model, notifier, status, preferences
        self._tasks, self._hand = tasks, hand
        self.picks: tuple[Pick, ...] = ()
        self.taken: Taken | None = None
        self.closely = False
        self.main = 0
        self.leg: int | None = None
        self.trouble = ""
        self._by_clicks = False
        self._boxes: dict[tuple[int, int], Box] = {}
        self._errand: RunningTask | None = None
        hand.picked.connect(self.take)
        hand.pointed.connect(self._point)
        self._model.selection.changed.connect(self._chosen_changed)
        self._of_job = self._model.job.number
        self._model.document.changed.connect(self._job_changed)
        self._model.shown.changed.connect(self._shown_changed)
        self._model.carried.changed.connect(self.settle)

    # --- how figures are written -----------------------------------------------------------------------------------

    @property
    def wording(self) -> Wording:
        settings = self._preferences
        return Wording(settings["measure.unit"], int(settings["measure.digits"]))

    @property
    def rounding(self) -> str:
        return rounding(self.wording)

    def words(self, figure: Figure) -> tuple[str, str]:
        """(number and unit, uncertainty)."""
        return said(figure, self.wording), doubt(figure, self.wording)

    @property
    def unit_sign(self) -> str:
        return UNITS[self.wording.unit]

    @property
    def own_axes(self) -> bool:
        """Whether parts are along the part's own axes."""
        return bool(self._preferences["measure.axes"] == "part")

    def next_unit(self) -> None:
        units = list(UNITS)
        now = units.index(self._preferences["measure.unit"])
        self._preferences.set("measure.unit", units[(now + 1) % len(units)])

    # --- picking ---------------------------------------------------------------------------------------------------

    @property
    def by_clicks(self) -> bool:
        """Whether clicks on the bench pick what is to be measured."""
        return self._hand.active

    @property
    def picked_by_hand(self) -> bool:
        """Whether what is in hand was picked to be measured, and not only chosen."""
        return self._by_clicks and bool(self.picks)

    def set_by_clicks(self, active: bool) -> None:
        if active == self.by_clicks:
            return
        self._hand.take_up(active)
        self.clicks_taken.emit(active)
        words = text.CLICK_TWO_THINGS if active else ""
        self._status.show_tool(words)
        self.changed.emit()

    def set_spots(self, spots: bool) -> None:
        """Clicks on a face take the place that was clicked, not the face."""
        self._hand.take_spots(spots)
        self.changed.emit()

    @property
    def spots(self) -> bool:
        return self._hand.spots

    def _point(self, what: str) -> None:
        if not self.by_clicks:
            return
        following = text.CLICK_FOR_BETWEEN if len(self.picks) == 1 else text.CLICK_TO_MEASURE
        self._status.show_tool(f"{what}: {following}" if what else text.POINT_AT_SOMETHING)

    def take_pointed(self) -> None:
        """What is under the pointer, whatever clicks pick."""
        found = self._hand.under_pointer()
        if found is None:
            self._notifier.say(text.NOTHING_UNDER_POINTER, False)
        else:
            self.take(found.pick, False)

    def take(self, pick: Pick | None, add: bool) -> None:
        """One more thing: beside one in hand it is the second, after two it is the first of the next, unless it is to be
        added."""
        if pick is None:
            self.clear()
            return
        # What was only chosen before is no first thing.
        picks = self.picks if self._by_clicks else ()
        self._by_clicks = True
        names = [one.name for one in picks]
        if pick.name in names:
            self._put(tuple(one for one in picks if one.name != pick.name) if len(names) > 1 else (pick,))
        elif len(picks) == 1 or (add and picks):
            self._put((*picks, pick))
        else:
            self._put((pick,))

    def let_go(self) -> None:
        """Of what is picked; asked again, of measuring by clicks."""
        if self.by_clicks and self.picks:
            self.clear()
        elif self.by_clicks:
            self.set_by_clicks(False)

    def hold(self, picks: tuple[Pick, ...]) -> None:
        """Takes these in hand in place of all."""
        self._by_clicks = True
        self._put(picks)

    def clear(self) -> None:
        self._by_clicks = False
        self._put(())

    def _chosen_changed(self) -> None:
        """What is chosen is measured without asking: faces, edges and corners, or one or two bodies."""
        model = self._model
        if self._by_clicks and not model.selection.features:
            return
        picks: tuple[Pick, ...] = ()
        if model.selection.features:
            picks = tuple(self._of_feature(one) for one in model.selection.features)
        elif len(model.selection.bodies) <= _MOST_CHOSEN:
            picks = tuple(Pick(what="body", part=part, copy_number=copy) for part, copy in sorted(model.selection.bodies))
        self._by_clicks = False
        if len(picks) > 2 and any(pick.what != "corner" for pick in picks):
            picks = ()
        self._put(picks)

    def _of_feature(self, feature: Feature) -> Pick:
        ready = self._ready(feature.key)
        place = np.zeros(3)
        if ready is not None and feature.kind == "edge":
            place = ready.anatomy.segments[ready.anatomy.edge_of == feature.index].mean(axis=(0, 1))
        elif ready is not None and feature.kind == "face":
            found = self._model.copies()[feature.key][1].mesh
            triangle = int(np.argmax(ready.anatomy.face_of == feature.index))
            place = found.vertices[found.faces[triangle]].mean(axis=0)
        return Pick(
            what=_OF_FEATURE[feature.kind],  # type: ignore[arg-type]
            part=feature.key[0], copy_number=feature.key[1], index=feature.index, spot=spot(place),
        )  # fmt: skip

    def _ready(self, key: tuple[int, int]) -> Any:
        found = self._model.copies().get(key)
        ready = self._model.ready.of(found[0]) if found is not None else None
        return ready[found[0].part.bodies.index(found[1])] if ready is not None and found is not None else None

    def _put(self, picks: tuple[Pick, ...]) -> None:
        if picks == self.picks:
            return
        self.picks, self.taken, self.main, self.leg, self.trouble, self.closely = picks, None, 0, None, "", False
        copies = self._model.copies()
        self._boxes = {pick.key: copies[pick.key][1].mesh.box for pick in picks if pick.key in copies}
        self._ask()
        self.changed.emit()
        self.settle()

    # --- finding out -----------------------------------------------------------------------------------------------

    def subjects(self, picks: tuple[Pick, ...]) -> tuple[Subject, ...] | None:
        """The bodies of picks where they stand; None where one has gone or is not ready."""
        copies = self._model.copies()
        out = []
        for pick in picks:
            found, ready = copies.get(pick.key), self._ready(pick.key)
            if found is None or ready is None:
                return None
            placed, body, place = found
            material = material_named(self._model.job.material_of(placed))
            whole = place.then(self._model.carried.placement_of(placed))
            out.append(Subject(body.name, replace(body, anatomy=ready.anatomy), whole, material))
        return tuple(out)

    def _ask(self, *, closely: bool = False) -> None:
        """First what is known at once; smallest gaps and thickness after that."""
        if self._errand is not None:
            self._tasks.cancel(self._errand)
            self._errand = None
        subjects = self.subjects(self.picks) if self.picks else None
        if subjects is None:
            self.taken = None
            return
        picks = self.picks

        def came(found: Taken) -> None:
            self._errand = None
            if picks == self.picks:
                self.taken, self.closely = found, closely
                self.main = min(self.main, max(len(found.figures) - 1, 0))
                if not closely and takes_longer(picks):
                    self._ask(closely=True)
                self.changed.emit()
                self.settle()

        def failed(error: GullyriseError) -> None:
            self._errand = None
            if not closely:
                self.trouble = str(error)
            self.changed.emit()

        work = TakeMeasure(picks, subjects, closely)
        self._errand = self._tasks.send(work, came, failed, first=True, bounds=Bounds(seconds=_PATIENCE_S))

    @property
    def figures(self) -> tuple[Figure, ...]:
        return self.taken.figures if self.taken is not None else ()

    @property
    def figure(self) -> Figure | None:
        """The one in front."""
        return self.figures[self.main] if self.main < len(self.figures) else None

    def title(self) -> str:
        if not self.picks:
            return ""
        if self.taken is None:
            return ", ".join(pick.what for pick in self.picks[:4])
        words = [thing.words for thing in self.taken.things]
        return " to ".join(words) if len(words) <= 2 else f"{len(words)} points"

    def front(self, number: int) -> None:
        """Brings another figure to the front."""
        if 0 <= number < len(self.figures):
            self.main = number
            self.changed.emit()
            self.settle()

    # --- parts along the axes --------------------------------------------------------------------------------------

    def directions(self) -> tuple[tuple[float, float, float], ...]:
        """Three unit rows: the machine's axes, or those of the first part picked."""
        turn = np.eye(3)
        if self._preferences["measure.axes"] == "part" and self.picks:
            placed = self._model.job.part(self.picks[0].part)
            if placed is not None:
                turn = placed.placement.matrix[:3, :3].T
        return tuple((float(row[0]), float(row[1]), float(row[2])) for row in turn)

    def legs(self) -> tuple[Figure, ...]:
        """The parts of the way in front along X, Y and Z; none where it is no way."""
        return legs_of(self.figure, self.directions()) if self.figure is not None else ()

    def point_at_leg(self, leg: int | None) -> None:
        if leg != self.leg:
            self.leg = leg
            self.settle()

    def switch_axes(self) -> None:
        now = self._preferences["measure.axes"]
        self._preferences.set("measure.axes", "part" if now == "machine" else "machine")

    # --- on the bench ----------------------------------------------------------------------------------------------

    def settle(self) -> None:
        """Brings the bench in step."""
        hand = self._hand
        # What is chosen is marked as such already.
        held = tuple(self._snap_of(pick) for pick in self.picks if pick.what != "body") if self._by_clicks else ()
        hand.show(held, self._shown())

    def _snap_of(self, pick: Pick) -> Snap:
        found = self._model.copies().get(pick.key)
        ready = self._ready(pick.key)
        lines = np.zeros((0, 2, 3))
        if found is None:
            return Snap(pick, np.zeros(3), lines)
        placed, _, place = found
        whole = place.then(self._model.carried.placement_of(placed))
        at = np.array(pick.spot)
        if ready is not None and pick.what in ("edge", "middle", "centre"):
            lines = ready.anatomy.segments[ready.anatomy.edge_of == pick.index]
            lines = whole.apply(lines.reshape(-1, 3)).reshape(-1, 2, 3)
        if ready is not None and pick.what == "corner" and pick.index < len(ready.anatomy.corners):
            at = ready.anatomy.corners[pick.index]
        if ready is not None and pick.what == "centre":
            numbers = np.flatnonzero((ready.marks.centre_near == at).all(axis=1))
            at = ready.marks.centres[numbers[0]] if len(numbers) else at
        return Snap(pick, whole.apply(at[None])[0], lines)

    def _shown(self) -> Shown | None:
        figure = self.figure
        if figure is None or self.taken is None:
            return None
        if not self._by_clicks and all(pick.what == "body" for pick in self.picks):
            # Bodies are chosen for many reasons; the card tells their figures, and the view stays clear.
            return None
        words, _ = self.words(figure)
        ends = (figure.a, figure.b) if figure.a is not None and figure.b is not None else None
        legs = self.legs()
        told = words if ends is not None else f"{figure.name}  {words}"
        at = middle_of(ends) if ends is not None else self._told_at()
        parts = tuple(f"{leg.name[-1]} {self.words(leg)[0]}" for leg in legs)
        return Shown(told, ends, at, self.directions() if legs else (), self.leg, parts)

    def _told_at(self) -> Spot:
        """Where words about what is picked are put."""
        places = [self._snap_of(pick).place for pick in self.picks if pick.what != "body"]
        for pick in self.picks:
            placed = self._model.job.part(pick.part)
            if pick.what == "body" and placed is not None:
                places.append(placed.ground.middle)
        return spot(np.mean(places, axis=0) if places else np.zeros(3))

    def _job_changed(self) -> None:
        copies = self._model.copies()
        another, self._of_job = self._model.job.number != self._of_job, self._model.job.number
        if another or any(pick.key not in copies for pick in self.picks):
            self.picks, self.taken = (), None
        elif self.picks:
            # What is in hand is measured where it stands now, and where it was pointed at on a part of another size.
            self.picks = tuple(self._moved_along(pick) for pick in self.picks)
            self._ask()
        self.changed.emit()
        self.settle()

    def _shown_changed(self) -> None:
        """Bodies may have been made ready: what had to wait for that is found out now."""
        if self.picks and self.taken is None and not self.trouble and self.idle:
            self._ask()
        self.settle()

    def _moved_along(self, pick: Pick) -> Pick:
        """A pick whose place goes along where its body has another size than when it was picked."""
        _, body, _ = self._model.copies()[pick.key]
        before, self._boxes[pick.key] = self._boxes.get(pick.key, body.mesh.box), body.mesh.box
        return carried(pick, before, body.mesh.box)

    @property
    def idle(self) -> bool:
        """Whether nothing is being found out; work that was cancelled is not waited for."""
        return self._errand is None or self._errand.ended
