"""What of a check's evidence is drawn on the bench: the ball under the pointer or at the flagged place, the flagged finding's
lines and solid."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from scipy.spatial import cKDTree

from gullyrise.core.checks.registry import checks
from gullyrise.core.checks.wall_evidence import BodyWalls
from gullyrise.core.cutting.cuts import Cut, gone
from gullyrise.core.geometry import Floats, Plane, Points, Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.visibility import Key
from gullyrise.core.number_words import number
from gullyrise.core.report.check_rows import alike_in
from gullyrise.desktop.features.checks import text
from gullyrise.desktop.features.checks.finding_pictures import FindingPictures
from gullyrise.desktop.ports import Notifier, Sections
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.evidence import Ball
from gullyrise.drawing.marks import Flag

_MOST_FLAGS = 30


class EvidenceOverlay(QObject):
    """Keeps the marks on the bench in step with what is flagged and pointed at. Nothing is measured for it: the ball is the
    nearest one that was."""

    _ready = pyqtSignal()

    def __init__(
        self, parent: QObject, model: Workbench, notifier: Notifier, viewport: Viewport, sections: Sections,
        pictures: FindingPictures,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._pictures = pictures
        self._model, self._notifier, self._viewport, self._sections = model, notifier, viewport, sections
        self._trees: dict[int, tuple[BodyWalls, cKDTree | None]] = {}
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-readings")
        self._pointer: Floats | None = None
        self._ready.connect(self.refresh)
        pictures.changed.connect(self.show_flags)
        self._viewport.pointed.connect(self._pointed)
        for signal in (
            self._model.shown.changed,
            self._model.results.changed,
            self._model.document.changed,
            self._sections.changed,
        ):
            signal.connect(self.refresh)

    def show_flags(self) -> None:
        self._viewport.evidence.show(flags=tuple(self._flags()))

    def close(self) -> None:
        self._beside.shutdown(wait=True, cancel_futures=True)

    def _pointed(self, place: Floats | None, _: str) -> None:
        if self._shows_balls or self._pointer is not None:
            self._pointer = place if self._shows_balls else None
            self.refresh()

    @property
    def _shows_balls(self) -> bool:
        """Whether the check that is shown has measured balls."""
        return self._model.shown.measure is not None and checks()[self._model.shown.measure].ROW.balls

    def refresh(self) -> None:
        # With nothing to mark nothing is painted anew: a cut that is dragged asks many times a second.
        ball, lines = self._marks()
        self._viewport.evidence.show(ball=ball, lines=lines)

    def _marks(self) -> tuple[Ball | None, Points | None]:
        model = self._model
        flagged = model.flag.held
        ball, lines = None, None
        placed = model.job.part(flagged[0]) if flagged is not None else None
        if flagged is not None and placed is not None:
            finding = flagged[1]
            if finding.lines is not None and model.flag.stands:
                lines = placed.placement.apply(finding.lines.reshape(-1, 3)).reshape(-1, 2, 3)
        if self._shows_balls:
            key = self._viewport.hover.key
            under = model.job.part(key[0]) if key is not None else None
            if self._pointer is not None and key is not None and under is not None:
                ball = self._ball_near(under, key, self._pointer)
            elif flagged is not None and placed is not None:
                place = placed.placement.apply(np.array(flagged[1].at)[None])[0]
                ball = self._ball_near(placed, None, place)
        return ball, lines

    def _flags(self) -> list[Flag]:
        """Numbered tags for the findings of the check that is shown."""
        model = self._model
        shown = next(((name, check) for name, check in model.document.active_checks() if name == model.shown.measure), None)
        if shown is None:
            return []
        row = model.results.row(*shown)
        out = []
        # By the number of their line: copies that are alike have one.
        lines = {id(finding): number for number, (_, finding, _) in enumerate(alike_in(row.findings), 1)}
        for placed, finding in row.findings[:_MOST_FLAGS]:
            number = lines[id(finding)]
            place = placed.placement.apply(np.array(finding.at)[None])[0]
            value = finding.figure
            verdict = "review" if row.verdict == "review" else "fail"
            chosen = model.is_flagged(placed, finding)
            if not chosen and self._is_cut_away(placed, place):
                continue
            where = (float(place[0]), float(place[1]), float(place[2]))
            palette, ratio = self._viewport.scene.palette, self._viewport.devicePixelRatioF()
            picture = self._pictures.image_of(placed, finding, shown[0], palette, ratio)
            out.append(Flag(number, value or finding.what, where, verdict, chosen, picture))
        return out

    def _is_cut_away(self, placed: PlacedPart, place: Floats) -> bool:
        """Whether a cut has taken away what stands at a place of a part."""
        if not self._sections.cuts:
            return False
        keys = [key for key in self._model.copies() if key[0] == placed.id]
        through = tuple(cut for cut in self._sections.cuts if any(map(cut.touches, keys)))
        return bool(through) and bool(gone(through, place[None])[0])

    def flagged_ball(self) -> Ball | None:
        """The ball at the flagged place of the walls."""
        flagged = self._model.flag.held
        placed = self._model.job.part(flagged[0]) if flagged is not None else None
        if flagged is None or placed is None or not self._shows_balls:
            return None
        return self._ball_near(placed, None, placed.placement.apply(np.array(flagged[1].at)[None])[0], wait=True)

    def _ball_near(self, placed: PlacedPart, key: Key | None, place: Floats, *, wait: bool = False) -> Ball | None:
        """The measured ball nearest to a place on the bench. key : of the copy that is meant, None for the nearest of the part"""
        outcomes = self._model.checks.cache.evidence(placed, self._model.shown.measure or "")
        if outcomes is None:
            return None
        best: tuple[float, Ball] | None = None
        copy = 0
        for body, walls in zip(placed.part.bodies, outcomes[0].evidence.bodies, strict=True):
            for where in body.placements:
                if (key is None or key[1] == copy) and not walls.empty:
                    # Readings stand where the first copy does.
                    move = body.placements[0].inverse().then(where).then(placed.placement)
                    found = self._nearest(walls, move, place, wait=wait)
                    if found is not None and (best is None or found[0] < best[0]):
                        best = found
                copy += 1
        return None if best is None else best[1]

    def _nearest(self, walls: BodyWalls, move: Transform, place: Floats, *, wait: bool) -> tuple[float, Ball] | None:
        tree = self._tree(walls, wait=wait)
        if tree is None:
            return None
        distance, index = tree.query(move.inverse().apply(place[None])[0])
        if not np.isfinite(distance):
            return None
        one = int(index)
        radius = walls.diameter[one] / 2
        local = np.stack([walls.points[one], walls.points[one] - walls.normals[one] * radius, walls.contact[one]])
        a, centre, b = move.apply(local)
        words = f"{'≥ ' if walls.capped[one] else ''}{number(float(walls.diameter[one]))} mm"
        across = self._across(centre, radius)
        return float(distance), Ball(centre, float(radius), a, centre * 2 - a if walls.capped[one] else b, words, across)

    def _across(self, centre: Floats, radius: float) -> Plane | None:
        """The cut that goes through a ball."""
        for cut in self._sections.cuts:
            side = cut.sides()[0]
            if abs(float(side.heights(centre[None])[0])) < radius:
                return side
        return None

    def _tree(self, walls: BodyWalls, *, wait: bool) -> cKDTree | None:
        """A tree of the walls' readings, made beside the interface; None while it is not there yet."""
        kept = self._trees.get(id(walls))
        if kept is not None and kept[0] is walls and (kept[1] is not None or not wait):
            return kept[1]
        self._trees[id(walls)] = (walls, None)

        def make() -> cKDTree:
            # Edges and corners have no ball of their own.
            tree = cKDTree(np.where(walls.wall[:, None], walls.points, 1e30))
            self._trees[id(walls)] = (walls, tree)
            return tree

        if wait:
            return make()

        def work() -> None:
            try:
                make()
            except Exception as error:  # The thread goes on; without the readings there is no ball.
                tell(error)
            self._ready.emit()

        self._beside.submit(work)
        return None

    def cut_through_ball(self) -> None:
        """A cut through the flagged ball, square to the wall's run, so that the ball is seen whole in it."""
        ball = self.flagged_ball()
        if ball is None:
            self._notifier.say(text.CUT_NEEDS_A_BALL, False)
            return
        way = ball.b - ball.a
        # Of the planes that hold both contacts that which lies nearest to a flat view.
        side = np.cross(way, np.array([0.0, 0.0, 1.0]))
        if np.linalg.norm(side) < 0.2 * np.linalg.norm(way):
            side = np.cross(way, np.array([0.0, 1.0, 0.0]))
        side /= max(float(np.linalg.norm(side)), 1e-300)
        # What stands before the cut, as seen now, goes away.
        flipped = float(side @ self._viewport.camera.frame()[2]) < 0
        self._sections.show((Cut.through(ball.centre, side, flipped=flipped),))
