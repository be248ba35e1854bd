"""The picture of a finding: its evidence view, what is marked in it, and small beside it where on the part that is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage

from gullyrise.core.camera.camera import Camera
from gullyrise.core.checks.protocol import FaceField, Finding
from gullyrise.core.cutting.cuts import Cut
from gullyrise.core.evidence.view import EvidenceView
from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.job.visibility import SEEN_THROUGH
from gullyrise.core.machines import Machine
from gullyrise.core.part import Part
from gullyrise.core.picking.prepared import Prepared
from gullyrise.drawing import captions
from gullyrise.drawing.body_colours import colour_of
from gullyrise.drawing.canvas import Canvas
from gullyrise.drawing.colour_maps import Scale, scale_for
from gullyrise.drawing.display import Display
from gullyrise.drawing.evidence_marks import paint_marks
from gullyrise.drawing.insets import SIZE as INSET
from gullyrise.drawing.insets import mark_beside, mark_where, paint_insets
from gullyrise.drawing.palette import LIMESTONE, Palette
from gullyrise.drawing.scene import Item, Scene
from gullyrise.drawing.studio import Studio

SIZE, RATIO = (640, 480), 1.5
"""Points and pixels for each: 960 x 720 px, with type that is read at a third of their width on paper, too."""
_MIDDLE = Qt.TextElideMode.ElideMiddle
MEANT = (-1, 0)
"""Key of a body that is drawn besides those of the part: what two share, or one shell of many."""
_MEANT_SCALE = Scale("what is meant", "", 0.0, 1.0, 0.5, bad_below=False, yes_or_no=True)


@dataclass(frozen=True, slots=True)
class Shot:
    """words : the number at the marks;  title : of the picture, over it"""

    view: EvidenceView
    finding: Finding
    words: str
    title: str


def items_of(
    part: Part,
    placement: Transform,
    palette: Palette,
    number: int = 0,
    field: FaceField | None = None,
    before: int = 0,
    ready: Sequence[Prepared] | None = None,
) -> list[Item]:
    """The copies of a part as they are drawn, with the colours of a check or each body its own.

    before : bodies of other parts that have their colours already
    ready : what is prepared of each of its bodies, None for nothing
    """
    out: list[Item] = []
    scale = None if field is None else scale_for(field)
    for index, body in enumerate(part.bodies):
        colour = colour_of("own", palette, before + index, body.colour, "not-run")
        for place in body.placements:
            matrix = placement.matrix @ place.matrix
            box = Box.of(body.mesh.vertices @ matrix[:3, :3].T + matrix[:3, 3])
            values = None
            if field is not None and len(out) < len(field.values) and len(field.values[len(out)]) == len(body.mesh.faces):
                values = field.values[len(out)]
            shown = scale if values is not None else None
            made = None if ready is None else ready[index]
            key = (number, len(out))
            out.append(Item(key, body.name, body.mesh, matrix, box, False, values, shown, prepared=made, colour=colour))
    return out


def meant(solid: Mesh) -> Item:
    """A body that is what a finding is about."""
    values = np.ones(len(solid.faces), dtype=np.float32)
    return Item(MEANT, "", solid, np.eye(4), solid.box, False, values, _MEANT_SCALE)


def picture(
    studio: Studio, items: Sequence[Item], machine: Machine, shot: Shot, palette: Palette = LIMESTONE, ratio: float = RATIO
) -> QImage:
    """640 x 480 points. items : all that stands in the room, in its coordinates as the shot's are;  ratio : pixels a point"""
    view = shot.view
    shown = [replace(item, opacity=SEEN_THROUGH, values=None, scale=None) if item.key in view.faded else item for item in items]
    if shot.finding.solid is not None and len(shot.finding.solid.faces):
        shown.append(meant(shot.finding.solid))
    display = Display(bed=view.on_bed, rulers=False, grid=view.on_bed)

    def scene(cuts: tuple[Cut, ...], of: Sequence[Item]) -> Scene:
        return Scene(tuple(of), machine, palette, cuts, display=display)

    insets = _insets(studio, view, scene, items, ratio)

    def paint(canvas: Canvas) -> None:
        paint_marks(canvas, view, shot.finding, shot.words)
        captions.scale_bar(canvas)
        _title(canvas, shot.title)
        paint_insets(canvas, insets)

    return studio.picture(scene(view.cuts, shown), view.camera, SIZE, paint, ratio=ratio)


_Stage = Callable[[tuple[Cut, ...], Sequence[Item]], Scene]


def _insets(studio: Studio, view: EvidenceView, scene: _Stage, items: Sequence[Item], ratio: float) -> list[QImage]:
    """Where on the part it is, and what is shown beside it."""
    out = []
    whole, beside = view.whole, view.beside
    if whole is not None:
        out.append(studio.picture(scene((), items), whole, INSET, lambda canvas: mark_where(canvas, view), ratio=ratio))
    if beside is not None:
        shown = scene(beside.cuts, items)
        out.append(studio.picture(shown, beside.camera, INSET, lambda canvas: mark_beside(canvas, view, beside), ratio=ratio))
    return out


def _title(canvas: Canvas, words: str) -> None:
    if not words:
        return
    most = canvas.size[0] - 40
    canvas.length_of(words, 13)
    told = canvas.painter.fontMetrics().elidedText(words, _MIDDLE, most - 24)
    box = QRectF(8, 8, canvas.length_of(told, 13) + 20, 26)
    canvas.plate(box, told, edge="line")


def saved(image: QImage, path: str) -> bool:
    """Written as PNG; whether that worked."""
    return image.save(path, "PNG")


def part_picture(
    studio: Studio, items: Sequence[Item], machine: Machine, size: tuple[int, int], palette: Palette = LIMESTONE
) -> QImage:
    """A part from where a person would look first, with its scale."""
    display = Display(bed=False, rulers=False, grid=False)
    scene = Scene(tuple(items), machine, palette, display=display)
    camera = Camera(np.zeros(3), 30.0, 25.0, parallel=True).framing(scene.subject, *size)
    return studio.picture(scene, camera, size, captions.scale_bar)
