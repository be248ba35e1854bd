"""Splitting a part along the cut in hand into two that stand in its place; undo, or making it whole again, brings it back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gullyrise.core.cutting.pegs import PegWish
from gullyrise.core.cutting.splitting import half_words
from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Plane, Transform
from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.form import PartForm
from gullyrise.core.job.origins import Split
from gullyrise.core.number_words import number
from gullyrise.desktop.features.sections import text
from gullyrise.desktop.features.sections.controller import SectionsController
from gullyrise.desktop.features.sections.split_form import SplitForm
from gullyrise.desktop.features.sections.split_preview import Halves, SplitPreview
from gullyrise.desktop.ports import FloatingLayout, Notifier
from gullyrise.desktop.state.part_loader import placed_part_of
from gullyrise.desktop.state.task_runner import RunningTask
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.jobs import MakeAnew
from gullyrise.workers.receiving import PlacePegs, SplitPart
from gullyrise.workers.work import Received

_APART = 2.0
_LOOKED_AFTER_MS = 150


class SplitController:
    """Ties the split form to the cut in hand and the part that it goes through. preview : what it would make, on the bench"""

    def __init__(
        self, model: Workbench, notifier: Notifier, floating: FloatingLayout, cutting: SectionsController, form: SplitForm,
        preview: SplitPreview,
    ) -> None:  # fmt: skip
        self._model, self._notifier, self._floating, self._cutting, self._form = model, notifier, floating, cutting, form
        self.preview, self._asked = preview, 0
        self._looking: RunningTask | None = None
        self._soon = once(form, _LOOKED_AFTER_MS, self._look)
        form.wanted.connect(self.split)
        form.closed.connect(form.hide)
        for signal in (form.changed, cutting.changed, model.document.changed):
            signal.connect(self.settle)

    def settle(self) -> None:
        """Brings the preview in step, once the hand rests."""
        if self._form.isVisible():
            # What was wrong with other pegs holds nobody up.
            self._form.tell("")
            self._soon.start()
        else:
            self._soon.stop()
            self.preview.show(None)

    def _look(self) -> None:
        """Shows on which side each half would lie, and its pegs once a worker has found room for them."""
        placed, cut, wish = self.subject(), self._cutting.cut, self._form.wish
        self._asked += 1
        if self._looking is not None:
            self._model.recall(self._looking)
            self._looking = None
        if placed is None or cut is None or not self._form.isVisible():
            self.preview.show(None)
            self._form.tell(text.CHOOSE_PART_TO_SPLIT if self._form.isVisible() else "")
            return
        self._form.tell("")
        local, asked = self._local(placed, cut.plane), self._asked
        self.preview.show(self._halves(placed, cut.plane, local, None))
        if wish is None:
            return

        def known(pegs: Pegs) -> None:
            if asked == self._asked and self._form.isVisible():
                self.preview.show(self._halves(placed, cut.plane, local, pegs))

        def failed(error: GullyriseError) -> None:
            if asked == self._asked:
                self._form.tell(str(error))

        self._looking = self._model.task(PlacePegs(placed.part, local, wish), known, failed)

    @staticmethod
    def _local(placed: PlacedPart, plane: Plane) -> Plane:
        """A plane on the bench in the coordinates of a part's file."""
        back = placed.placement.inverse()
        return Plane(back.apply(plane.point[None])[0], back.matrix[:3, :3] @ plane.normal)

    @staticmethod
    def _halves(placed: PlacedPart, plane: Plane, local: Plane, pegs: Pegs | None) -> Halves:
        middle = placed.ground.middle
        at = middle - plane.normal * float(plane.heights(middle[None])[0])
        feet = placed.placement.apply(np.array(pegs.feet)) if pegs is not None else np.zeros((0, 3))
        length, diameter = (pegs.length, pegs.diameter) if pegs is not None else (0.0, 0.0)
        return Halves(plane, half_words(local), at, 0.3 * placed.ground.diagonal, feet, diameter, length)

    def subject(self) -> PlacedPart | None:
        """The part to be split: the chosen one, else the only one that the cut goes through."""
        cut = self._cutting.cut
        if cut is None:
            return None
        heights = [(one, cut.plane.heights(one.outline())) for one in self._model.selection.in_view() if not one.is_fixture]
        met = [one for one, height in heights if height.min() < 0 < height.max()]
        return met[0] if len(met) == 1 else None

    def open(self) -> None:
        """Asks for pegs; says what is missing where there is nothing to split."""
        placed = self.subject()
        if placed is None:
            self._notifier.say(text.CHOOSE_PART_TO_SPLIT, False)
            return
        self._form.show_part(placed.name)
        self._floating.settle()
        self._form.show()
        self._form.raise_()
        self._look()

    def split(self, wish: PegWish | None) -> None:
        """Cuts the part in two, as one edit. wish : pegs, or none"""
        cut, placed = self._cutting.cut, self.subject()
        if cut is None or placed is None:
            self.open()
            return
        plane = cut.plane
        local = self._local(placed, plane)
        work = SplitPart(placed.part, local, wish, self._model.loader.largest_machine)
        self._model.aside(work, lambda halves: self._put(placed, plane, halves))

    def _put(self, placed: PlacedPart, plane: Plane, halves: tuple[tuple[Split, Received], ...]) -> None:
        now = self._model.job.part(placed.id)
        if now is not placed:
            self._notifier.say(text.CHANGED_SO_WHOLE.format(placed.name), False)
            return
        fresh: list[PlacedPart] = []
        for (step, found), way in zip(halves, (1.0, -1.0), strict=True):
            self._model.ready.take(found)
            own = self._model.loader.fresh_id() if fresh else placed.id
            made = replace(
                placed_part_of(own, found), origin=placed.origin, steps=(*placed.steps, step), material=placed.material
            )
            fresh.append(replace(made, placement=placed.placement.then(Transform.moved(plane.normal * way * _APART))))
        volumes = [found.figures["volume"] for _, found in halves]
        sizes = " and ".join(f"{number(volume)}" for volume in volumes if volume is not None)
        note = text.SPLIT_IN_TWO.format(placed.name, sizes)

        def change(job: Job) -> Job:
            kept = [one for one in job.parts if one.id != placed.id]
            together = tuple(sorted((*kept, *fresh), key=lambda one: one.id))
            return replace(job, parts=together, settled=True).noted(note, [one.id for one in fresh])

        self._form.hide()
        self.settle()
        self._model.document.edit(text.SPLIT.format(placed.name), change)
        self._model.selection.select({one.id for one in fresh})

    def make_whole(self) -> None:
        """Puts the part from which a chosen half was cut back in its place, and takes both halves away."""
        chosen = [one for one in self._model.job.parts if one.id in self._model.selection.parts]
        half = next((one for one in chosen if one.steps and isinstance(one.steps[-1], Split)), None)
        step = half.steps[-1] if half is not None else None
        if half is None or half.origin is None or not isinstance(step, Split):
            self._notifier.say(text.CHOOSE_A_HALF, False)
            return
        twins = [one for one in self._model.job.parts if _is_other_half(half, one)]
        form = PartForm(name=half.part.name, origin=half.origin, steps=half.steps[:-1])
        work = MakeAnew(form, self._model.loader.keep or "", self._model.loader.largest_machine)

        def came(found: Received) -> None:
            if any(self._model.job.part(one.id) is not one for one in (half, *twins[:1])):
                self._notifier.say(text.CHANGED_SO_LEFT.format(half.name), False)
                return
            self._model.ready.take(found)
            away = half.placement.matrix[:3, :3] @ step.normal
            move = away * (-_APART if step.side == "front" else _APART)
            made = replace(
                placed_part_of(half.id, found), placement=half.placement.then(Transform.moved(move)), origin=half.origin,
                steps=half.steps[:-1], material=half.material,
            )  # fmt: skip
            gone = {one.id for one in twins[:1]} | {half.id}

            def change(job: Job) -> Job:
                kept = [one for one in job.parts if one.id not in gone]
                return replace(job, parts=tuple(sorted((*kept, made), key=lambda one: one.id)))

            self._model.document.edit(text.WHOLE_AGAIN.format(made.part.name), change)
            self._model.selection.select({made.id})

        self._model.aside(work, came)


def _is_other_half(half: PlacedPart, other: PlacedPart) -> bool:
    if other is half or not other.steps or other.origin != half.origin or len(other.steps) != len(half.steps):
        return False
    one, two = half.steps[-1], other.steps[-1]
    if not isinstance(one, Split) or not isinstance(two, Split) or half.steps[:-1] != other.steps[:-1]:
        return False
    return one.model_copy(update={"side": two.side}) == two and one.side != two.side
