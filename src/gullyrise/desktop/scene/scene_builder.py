"""What of the job stands on the bench: items and flags, made from the model; what did not change stays the same object."""

from __future__ import annotations

import numpy as np

from gullyrise.core.checks.protocol import FaceField, Finding
from gullyrise.core.checks.registry import checks
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.job import PlacedPart
from gullyrise.core.job.visibility import Key
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.drawing.body_colours import colour_of
from gullyrise.drawing.colour_maps import Scale, scale_for
from gullyrise.drawing.display import BodyColours
from gullyrise.drawing.job_scene import title
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.scene import Carry, Item

_FADED = 0.28
SHARED = -1
"""Stands in the key of a body for one that is no part: what two parts share."""


class SceneBuilder:
    """Remembers the items of before, so that an unchanged bench is not drawn anew."""

    def __init__(self, model: Workbench) -> None:
        self._model = model
        self._kept: dict[Key, tuple[tuple[object, ...], tuple[bool, float, str], Item]] = {}
        self._scales: dict[int, tuple[FaceField, Scale]] = {}
        self._last: tuple[Item, ...] = ()
        self._carry: Carry | None = None
        self._shared: tuple[Finding | None, Item | None] = (None, None)

    def items(self, colours: BodyColours, palette: Palette) -> tuple[Item, ...]:
        """The bodies that are seen; the same tuple as before where none has changed."""
        model = self._model
        which = 0
        out: list[Item] = []
        shared = self._shared_solid()
        before, self._kept = self._kept, {}
        for placed in model.job.parts:
            field = self._field_of(placed)
            number = 0
            verdict = model.results.verdict_of(placed)[0] if colours == "verdict" else "not-run"
            # What is in the hand stands in the picture as before, and is drawn where the scene says that it has come.
            stands = placed.placement if model.carried.by is not None else model.carried.placement_of(placed)
            ready = model.ready.of(placed)
            for index, body in enumerate(placed.part.bodies):
                colour = colour_of(colours, palette, which, body.colour, verdict)
                which += 1
                for place in body.placements:
                    key = (placed.id, number)
                    values = field.values[number] if field is not None and number < len(field.values) else None
                    prepared = ready[index] if ready is not None else None
                    opacity = model.shown.visibility.opacity(key) * (1.0 if shared is None else _FADED)
                    # The things themselves, not their ids: those come back once a thing is gone.
                    made_of = (body.mesh, stands, place, values, field, prepared)
                    state = (key in model.selection.bodies, opacity, colour)
                    kept = before.get(key)
                    if kept is None or kept[1] != state or any(a is not b for a, b in zip(kept[0], made_of, strict=True)):
                        where = kept[0][:3] + kept[0][5:] if kept is not None else ()
                        if kept is not None and all(a is b for a, b in zip(where, made_of[:3] + made_of[5:], strict=True)):
                            matrix, box = kept[2].matrix, kept[2].box
                        else:
                            matrix, box = _placed(placed, stands, place, prepared, kept[2] if kept is not None else None)
                        item = Item(
                            key, title(placed, body.name), body.mesh, matrix, box, key in model.selection.bodies, values,
                            self._scale_of(field) if values is not None else None, opacity, prepared, colour,
                        )  # fmt: skip
                        kept = (made_of, state, item)
                    self._kept[key] = kept
                    if opacity > 0:
                        out.append(kept[2])
                    number += 1
        if shared is not None:
            out.append(shared)
        if len(out) != len(self._last) or any(one is not other for one, other in zip(out, self._last, strict=True)):
            self._last = tuple(out)
        return self._last

    def _shared_solid(self) -> Item | None:
        """What two bodies both fill, where such a finding is flagged: as a body of its own, the others faded round it."""
        flagged = self._model.flag.held
        placed = self._model.job.part(flagged[0]) if flagged is not None else None
        if flagged is None or placed is None or flagged[1].solid is None or not self._model.flag.stands:
            self._shared = (None, None)
        elif self._shared[0] is not flagged[1] or self._shared[1] is None:
            mesh, matrix = flagged[1].solid, placed.placement.matrix
            values = np.ones(len(mesh.faces), dtype=np.float32)
            scale = Scale(
                flagged[1].what if flagged[1].own else "shared by two bodies", "", 0.0, 1.0, 0.5, bad_below=False, yes_or_no=True
            )
            box = mesh.placed(placed.placement).box
            self._shared = (flagged[1], Item((SHARED, 0), flagged[1].what, mesh, matrix, box, False, values, scale))
        return self._shared[1]

    def _scale_of(self, field: FaceField | None) -> Scale | None:
        if field is None:
            return None
        kept = self._scales.get(id(field))
        if kept is None or kept[0] is not field:
            kept = self._scales[id(field)] = (field, scale_for(field))
        return kept[1]

    def _field_of(self, placed: PlacedPart) -> FaceField | None:
        if self._model.shown.measure is None:
            return None
        found = self._model.results.outcomes_of(placed, self._model.shown.measure)
        if found is None or (found and found[0].first_look and not found[0].check):
            # While another verdict is made the colours of before stand: they would blink at each step of a limit.
            found = self._model.checks.cache.last_seen.get((placed.id, self._model.shown.measure))
        return next((outcome.field for outcome in found or () if outcome.field is not None), None)

    def carry(self) -> Carry | None:
        """What is in the hand, where all of it has come the same way."""
        by = self._model.carried.by
        if by is None:
            self._carry = None
        elif self._carry is None or self._carry.move is not by.matrix:
            self._carry = Carry(frozenset(self._model.carried.placements), by.matrix)
        return self._carry

    def angles(self) -> Scale | None:
        """The colours of angles from the vertical, while those are shown and something is in the hand."""
        model = self._model
        row = checks()[model.shown.measure].ROW if model.shown.measure is not None else None
        limit = row.own_limit if row is not None and row.angle else None
        if row is None or limit is None or model.carried.by is None:
            return None
        value = model.checks.cache.limits(model.job).value(limit.name) or 0.0
        return Scale(row.measure, limit.unit, limit.low, limit.high, value, bad_below=row.small_is_bad)

    def out_of_room(self) -> bool:
        """Whether a part does not stand in the machine's room."""
        of_room = [name for name, check in self._model.document.active_checks() if check.ROW.room]
        return any(
            outcome.verdict == "fail"
            for placed in self._model.job.parts
            for name in of_room
            for outcome in self._model.results.outcomes_of(placed, name) or ()
        )


def _placed(
    placed: PlacedPart, stands: Transform, place: Transform, prepared: Prepared | None, before: Item | None
) -> tuple[np.ndarray, Box]:
    """(matrix from body to bench, box on the bench: of the body itself once it is ready, before that of the whole part)."""
    matrix = stands.matrix @ place.matrix
    own = prepared.blocks.box if prepared is not None else None
    if own is None:
        return matrix, placed.ground
    if before is not None and before.prepared is prepared and (before.matrix[:3, :3] == matrix[:3, :3]).all():
        # Most things are only moved, at times hundreds at once.
        way = matrix[:3, 3] - before.matrix[:3, 3]
        return matrix, Box(before.box.low + way, before.box.high + way)
    return matrix, Box.of(own.corners() @ matrix[:3, :3].T + matrix[:3, 3])
