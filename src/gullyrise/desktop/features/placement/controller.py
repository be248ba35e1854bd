"""Placing in the window: what is chosen moves as one, by the tray, by numbers, by what it is laid on; copies, beds, fixtures."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.geometry import Box, Floats, Points, Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.placed_part import outline_of
from gullyrise.core.job.placing import MOST_COPIES, arranged, with_copies
from gullyrise.core.name_words import some_of
from gullyrise.core.picking import face_geometry as features
from gullyrise.core.picking.feature import Feature
from gullyrise.core.placing import moves
from gullyrise.core.placing.bed import MOST_BEDS, bed_offset, bed_under
from gullyrise.core.placing.fixture_shapes import FixtureShape
from gullyrise.core.placing.gizmo import Gizmo, Grip, slack_lines
from gullyrise.core.placing.packing import Packed, Wishes
from gullyrise.core.placing.stretching import stretch_of
from gullyrise.desktop.features.placement import text
from gullyrise.desktop.features.placement.gizmo_tool import GizmoTool
from gullyrise.desktop.features.placement.panel import PlacementPanel
from gullyrise.desktop.ports import Notifier, Preferences, StatusLine
from gullyrise.desktop.state.part_loader import placed_part_of
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.workers.placing import Arrange, MakeFixture
from gullyrise.workers.work import FindAxis, Received

_NAMES: dict[Grip, str] = {
    "carry": "Carry", "x": text.MOVE_ALONG_X, "y": text.MOVE_ALONG_Y, "lift": "Lift", "spin": "Turn", "tilt-x": "Tilt",
    "tilt-y": "Tilt",
}  # fmt: skip


class PlacementController(QObject):
    """changed : where something stands, or what is in the hand, is another now."""

    changed = pyqtSignal()

    def __init__(
        self, parent: QObject, model: Workbench, notifier: Notifier, status: StatusLine, preferences: Preferences,
        viewport: Viewport, tray: GizmoTool, panel: PlacementPanel,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._model, self._notifier, self._preferences, self._viewport, self._panel = (
            model,
            notifier,
            preferences,
            viewport,
            panel,
        )
        self._tray = tray
        self.handles: bool | None = None
        """Whether the tray is shown under what is chosen; None while it comes and goes with the panel."""
        self._in_hand: list[PlacedPart] = []
        self._dragged = 0
        """How many edits there were after the last drag."""
        self._outline = np.zeros((0, 3))
        self._taken = Box(np.zeros(3), np.zeros(3))
        hand = tray
        hand.carried.connect(self._carried)
        hand.put.connect(self._put)
        hand.lamented.connect(lambda sentence: self._notifier.say(sentence, True))
        hand.held.connect(status.show_tool)
        for signal in (self._model.document.changed, self._model.selection.changed):
            signal.connect(self.settle)

    # --- what is chosen --------------------------------------------------------------------------------------------

    def chosen(self) -> list[PlacedPart]:
        """The parts that are chosen; the only one where there is but one."""
        parts = self._model.job.parts
        if len(parts) == 1 and not self._model.selection.parts:
            return list(parts)
        return [placed for placed in parts if placed.id in self._model.selection.parts]

    def title(self) -> str:
        found = self.chosen()
        return found[0].name if len(found) == 1 else f"{len(found)} parts"

    def ground(self) -> Box | None:
        """The box round what is chosen, as it is seen."""
        found = self.chosen()
        if not found:
            return None
        by = self._model.carried.by
        if by is not None and self._in_hand:
            if (by.matrix[:3, :3] == np.eye(3)).all():
                return Box(self._taken.low + by.matrix[:3, 3], self._taken.high + by.matrix[:3, 3])
            return Box.of(by.apply(self._outline))
        return Box.around([one.ground for one in found])

    def outline(self) -> Points:
        """(n, 3) corners of what is chosen, as it is seen."""
        by = self._model.carried.by
        return by.apply(self._outline) if by is not None and self._in_hand else outline_of(self.chosen())

    def home_of(self, box: Box) -> Floats:
        """(3,) from the first bed to the one over which a box is."""
        job = self._model.job
        number = bed_under(box, job.machine, job.beds)
        return bed_offset(job.machine, 0 if number is None else number)

    # --- moves -----------------------------------------------------------------------------------------------------

    def move(self, name: str, make: Callable[[Points], Transform], merging: object = None) -> bool:
        """Moves what is chosen as one. make : the move for its outline. Whether anything moved."""
        found = self.chosen()
        if not found:
            self._notifier.say(text.NEEDS_A_PART.format(name), False)
            return False
        move = make(outline_of(found))
        if np.allclose(move.matrix, np.eye(4), atol=1e-12, rtol=0):
            return False
        numbers = [placed.id for placed in found]
        self._model.document.edit(f"{name}, {self.title()}", lambda job: job.moved(numbers, move), merging)
        return True

    def to_middle(self) -> None:
        def make(points: Points) -> Transform:
            home = self.home_of(Box.of(points))
            return moves.to_middle(points, self._model.job.machine.envelope.middle + home)

        self.move(text.TO_THE_MIDDLE, make)

    def drop(self) -> None:
        """Each of what is chosen down to the bed by itself."""
        found = [placed for placed in self.chosen() if abs(float(placed.ground.low[2])) > 1e-9]
        if found:
            fresh = [placed.moved(moves.dropped(placed.outline())) for placed in found]
            self._model.document.edit(text.DROP.format(self.title()), lambda job: job.placed(fresh))
        elif not self.chosen():
            self.move("Drop", moves.dropped)

    def turn(self, axis: int, degrees: float) -> None:
        self.move(
            text.TURN_ABOUT.format(degrees, "XYZ"[axis]),
            lambda points: moves.landed(points, moves.turned(points, np.eye(3)[axis], degrees)),
        )

    def nudge(self, axis: int, sign: int) -> None:
        step = self._preferences["place.step"] * sign
        self.move(text.NUDGE_ALONG.format("XYZ"[axis]), lambda _: Transform.moved(np.eye(3)[axis] * step), ("nudge", axis))

    def mirror(self, axis: int) -> None:
        self.move(text.MIRROR_ALONG.format("XYZ"[axis]), lambda points: moves.mirrored(points, axis))

    def put_at(self, x: float | None, y: float | None, z: float | None) -> None:
        """The middle to x and y on its bed, the foot to z."""

        def make(points: Points) -> Transform:
            home = self.home_of(Box.of(points))
            return moves.to_place(points, None if x is None else x + home[0], None if y is None else y + home[1], z)

        self.move("Put", make)

    def as_it_came(self) -> None:
        found = self.chosen()
        fresh = [placed.as_it_came() for placed in found]
        changed = any(not np.array_equal(a.placement.matrix, b.placement.matrix) for a, b in zip(found, fresh, strict=True))
        if changed:
            self._model.document.edit(text.AS_IT_CAME.format(self.title()), lambda job: job.placed(fresh))

    def lay_on_pointed(self) -> None:
        """Lays the part under the pointer on the face that is pointed at."""
        bench = self._viewport
        hit = bench.aim.hit_under_pointer()
        if hit is None or hit.on_cut:
            self._notifier.say(text.NO_FACE_TO_LAY_ON, False)
            return
        item = bench.scene.items[hit.item]
        flat = item.prepared and features.plane_of(
            self._model, Feature("face", item.key, int(item.prepared.anatomy.face_of[hit.face]))
        )
        # Of a flat face the mean of its triangles is truer than the one that is pointed at.
        corners = item.mesh.vertices[item.mesh.faces[hit.face]] @ item.matrix[:3, :3].T
        normal = np.cross(corners[1] - corners[0], corners[2] - corners[0])
        normal = flat.direction if flat else -normal if item.mirrored else normal
        if not float(np.linalg.norm(normal)) > 0:
            self._notifier.say(text.FACE_WITHOUT_AREA, False)
            return
        if item.owner not in self._model.selection.parts:
            self._model.selection.select_bodies({item.key})
        self.move(text.LAY_ON, lambda points: moves.laid_on(points, normal))

    def apply(self, name: str, move: Transform) -> None:
        self.move(name, lambda _: move)

    def align_faces(self) -> None:
        """The first chosen face against the second."""
        self._align("face", features.plane_of, moves.face_against, text.TWO_FLAT_FACES)

    def align_axes(self) -> None:
        """The axis of the first chosen face onto that of the second."""
        chosen = self._model.selection.features
        if len(chosen) == 2 and any(features.exact_axis_of(self._model, one) is None for one in chosen):
            self._align_fitted(chosen)
            return
        self._align("axis", features.exact_axis_of, moves.axis_onto, text.TWO_ROUND_FACES)

    def _align(self, what: str, find: Callable[..., features.Line | None], make: Callable[..., Transform], wanted: str) -> None:
        chosen = self._model.selection.features
        lines = [find(self._model, one) for one in chosen] if len(chosen) == 2 else []
        if len(lines) != 2 or lines[0] is None or lines[1] is None or chosen[0].key[0] == chosen[1].key[0]:
            self._notifier.say(text.CHOOSE_FIRST.format(wanted), False)
            return
        self._put_onto(chosen[0].key[0], what, make, lines[0], lines[1])

    def _put_onto(self, number: int, what: str, make: Callable[..., Transform], a: features.Line, b: features.Line) -> None:
        move = make(a.point, a.direction, b.point, b.direction)
        self._model.document.edit(text.ALIGN.format("faces" if what == "face" else "axes"), lambda job: job.moved([number], move))

    def _align_fitted(self, chosen: tuple[Any, ...]) -> None:
        """Axes of meshes are fitted beside the interface."""
        found: list[features.Line | None] = [features.exact_axis_of(self._model, one) for one in chosen]

        def know(place: int, line: features.Line | None) -> None:
            found[place] = line
            if line is None:
                self._notifier.say(text.NO_CYLINDER, False)
            elif found[0] is not None and found[1] is not None and chosen[0].key[0] != chosen[1].key[0]:
                self._put_onto(chosen[0].key[0], "axis", moves.axis_onto, found[0], found[1])

        def placed(place: int, whole: Transform, axis: features.Line | None) -> None:
            know(place, features.placed_axis(axis, whole))

        for place, feature in enumerate(chosen):
            body = features.body_placed(self._model, feature) if found[place] is None else None
            if body is not None:
                mesh, whole, face = body
                self._model.aside_as_it_stands(
                    FindAxis(mesh, face),
                    partial(placed, place, whole),
                    lambda: self._notifier.say(text.MOVED_SO_NOT_ALIGNED, False),
                )

    # --- size ------------------------------------------------------------------------------------------------------

    def stretch(self, factors: Floats) -> None:
        """Makes what is chosen larger or smaller along the machine's axes."""
        words = " × ".join(f"{100 * value:.4g} %" for value in (factors[:1] if np.ptp(factors) < 1e-12 else factors))
        found, merging = self.chosen(), ("size", object())
        for placed in found:
            linear = stretch_of(placed.placement.matrix[:3, :3], factors)
            self._model.loader.stretch(placed.id, linear, text.SIZE_OF.format(self.title(), words), merging)

    # --- copies and beds -------------------------------------------------------------------------------------------

    def copy(self, count: int) -> None:
        numbers = [placed.id for placed in self.chosen()]
        gap = self._preferences["place.gap"]
        if not numbers:
            self._notifier.say(text.COPYING_NEEDS, False)
        else:
            words = "1 copy" if count == 1 else f"{count} copies"
            # A file that is still being read has its id already.
            first = self._model.loader.fresh_ids(count * len(numbers))
            before = len(self._model.job.parts)
            self._model.document.edit(
                text.COPIED_OF.format(words, self.title()), lambda job: with_copies(job, numbers, count, gap, first)
            )
            made = (len(self._model.job.parts) - before) // len(numbers)
            if made < count:
                most = text.BEDS_OR.format(MOST_BEDS, MOST_COPIES)
                said = text.OF_COPIES.format(made, count, most)
                self._notifier.say(said, True)

    def arrange(self) -> None:
        """All parts on as many beds as they need; fixture shapes stay where they are."""
        job, settings = self._model.job, self._preferences
        stay = [placed for placed in job.parts if placed.is_fixture]
        moved = [placed for placed in job.parts if not placed.is_fixture]
        wishes = Wishes(settings["place.gap"], settings["place.outline"], settings["place.turning"])
        work = Arrange(
            {placed.digest: placed.part for placed in job.parts},
            _stood(moved),
            _stood(stay),
            job.machine,
            job.limits,
            wishes,
        )
        words = text.MOVED_SO_NOT_ARRANGED
        self._model.aside_as_it_stands(work, self._arranged, lambda: self._notifier.say(words, False))

    def _arranged(self, packed: Packed) -> None:
        left = [placed.name for placed in self._model.job.parts if placed.id in packed.left]
        self._model.document.edit(text.ARRANGE, lambda job: arranged(job, packed))
        beds = text.THEY_NEED_BEDS.format(packed.bed_count) if packed.bed_count > 1 else ""
        lost = text.NO_BED.format(some_of(left), "it waits" if len(left) == 1 else "they wait") if left else ""
        if beds or lost:
            self._notifier.say(" ".join(words for words in (beds, lost) if words), bool(left))
        self._viewport.moves.frame_all()

    def add_fixture(self, spec: FixtureShape) -> None:
        """A plain solid that stands for a thing of the shop."""

        def made(found: Received) -> None:
            self._model.ready.take(found)
            # Now, not when it was asked for: meanwhile others may have come, or another job.
            number = self._model.loader.fresh_id()
            placed = placed_part_of(number, found)
            self._model.document.edit(text.ADD_FIXTURE.format(spec.shape), lambda job: job.with_parts([placed]))
            self._model.selection.select({number})

        self._model.aside(MakeFixture(spec, self._model.loader.largest_machine), made)

    # --- the tray --------------------------------------------------------------------------------------------------

    @property
    def shows_handles(self) -> bool:
        return self._panel.isVisible() if self.handles is None else self.handles

    def show_handles(self, shown: bool) -> None:
        self.handles = shown
        self.settle()

    def settle(self) -> None:
        """Brings the tray and the slack lines in step with what is chosen."""
        box = self.ground() if self.shows_handles and self._model.selection.parts else None
        if box is None:
            self._tray.show_tray(None, [])
        elif not self._tray.holds:
            self._tray.show_tray(Gizmo(box), self.slacks(box))
        self._tray.go_by(self._preferences["place.step"], self._preferences["place.turn_step"])
        self.changed.emit()

    def slacks(self, box: Box) -> list[tuple[Floats, Floats, float]]:
        """Lines from what is chosen to the sides of the room that its machine leaves it."""
        job = self._model.job
        limits, room, home = job.limits, job.machine.envelope.box, self.home_of(box)
        edge, top = limits.edge_margin or 0.0, limits.top_margin or 0.0
        low, high = room.low + home + [edge, edge, 0], room.high + home - [edge, edge, top]
        if job.machine.envelope.shape == "box":
            return slack_lines(box, Box(low, high))
        points = self.outline()
        away = np.hypot(*(points[:, :2] - home[:2]).T)
        far = points[int(np.argmax(away))]
        radius = float(room.high[0]) - edge
        ahead = (far[:2] - home[:2]) / max(float(away.max()), 1e-9)
        end = np.array([*(home[:2] + ahead * radius), far[2]])
        ceiling = slack_lines(box, Box(low, high))[-1]
        return [(far, end, radius - float(away.max())), ceiling]

    def _carried(self, move: Transform) -> None:
        if not self._in_hand:
            found, ground = self.chosen(), self.ground()
            if ground is None:
                return
            self._in_hand, self._outline, self._taken = found, outline_of(found), ground
        self._model.carried.carry({placed.id: placed.placement.then(move) for placed in self._in_hand}, move)
        box = self.ground()
        if box is not None:
            self._tray.show_tray(Gizmo(box), self.slacks(box))

    def _put(self, move: Transform | None, grip: Grip, again: bool) -> None:
        """What was carried is let go: one edit. again : a number typed for the same grip takes the place of the drag."""
        self._in_hand = []
        self._model.carried.carry({})
        name = _NAMES[grip]
        # Undone meanwhile, there is nothing of the drag left to take the place of.
        if again and self._model.document.history.can_undo == self._dragged:
            self._model.document.undo()
        if move is not None:
            # A tilt goes about the middle; carried and lifted it stays where the hand put it.
            tilts = grip in ("tilt-x", "tilt-y")
            self.move(name, lambda points: moves.landed(points, move) if tilts else move)
            self._dragged = self._model.document.history.can_undo
        self.settle()


def _stood(parts: list[PlacedPart]) -> tuple[tuple[int, str, Transform], ...]:
    return tuple((placed.id, placed.digest, placed.placement) for placed in parts)
