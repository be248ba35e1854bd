"""The small pictures of findings, made beside the interface and kept."""

from __future__ import annotations

from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QObject, QPointF, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QImage, QPainter, QPen, QPixmap

from gullyrise.core.checks.protocol import FaceField, Finding
from gullyrise.core.checks.registry import checks
from gullyrise.core.evidence.composing import compose
from gullyrise.core.evidence.room import Copy, Room
from gullyrise.core.evidence.small_picture import Surface, marks_in
from gullyrise.core.geometry.blocks import blocks_of
from gullyrise.core.job import PlacedPart
from gullyrise.core.machines import Machine
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.features.checks.findings import Listed
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.evidence_picture import items_of
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.ray_image import ray_image, surface_of
from gullyrise.drawing.scene import Item

SIZE = (60, 42)
_MOST_KEPT, _TOLD_MS = 400, 60
_Key = tuple[int, str, float]
_Stands = tuple[PlacedPart, tuple[Prepared, ...] | None, FaceField | None]
"""A part, its prepared bodies, the colours of the check."""


class FindingPictures(QObject):
    """changed : more of them are there"""

    changed = pyqtSignal()
    _made = pyqtSignal(object, object, object)

    def __init__(self, parent: QObject, model: Workbench) -> None:
        super().__init__(parent)
        self._model = model
        # The finding is held with its picture: an id comes back once a finding is gone.
        self._kept: OrderedDict[_Key, tuple[Finding, QIcon | None, QImage | None]] = OrderedDict()
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-pictures")
        self._open = 0
        self._made.connect(self._keep)
        self._soon = once(self, _TOLD_MS, self.changed.emit)

    @property
    def idle(self) -> bool:
        return not self._open and not self._soon.isActive()

    def close(self) -> None:
        self._beside.shutdown(wait=True, cancel_futures=True)

    def icon_of(self, one: Listed, palette: Palette, ratio: float) -> QIcon | None:
        """The picture of a finding; None until it is made."""
        return self._of(one.placed, one.finding, one.row.id, palette, ratio)[0]

    def image_of(self, placed: PlacedPart, finding: Finding, check: str, palette: Palette, ratio: float) -> QImage | None:
        """The same as an image."""
        return self._of(placed, finding, check, palette, ratio)[1]

    def _of(
        self, placed: PlacedPart, finding: Finding, check: str, palette: Palette, ratio: float
    ) -> tuple[QIcon | None, QImage | None]:
        key = (id(finding), palette.name, ratio)
        known = self._kept.get(key)
        if known is not None:
            self._kept.move_to_end(key)
            return known[1:]
        self._kept[key] = (finding, None, None)
        while len(self._kept) > _MOST_KEPT:
            self._kept.popitem(last=False)
        found = self._model.results.outcomes_of(placed, check)
        field = next((outcome.field for outcome in found or () if outcome.field is not None), None)
        self._open += 1
        ready, machine = self._model.ready.of(placed), self._model.job.machine
        other = self._model.between.other_of(placed, finding) if checks()[check].ROW.between else None
        parts = [(placed, ready, field)]
        if other is not None:
            parts.append((other, self._model.ready.of(other), None))
        self._beside.submit(self._make, key, finding, parts, palette, machine, ratio)
        return None, None

    def _make(self, key: _Key, finding: Finding, parts: list[_Stands], palette: Palette, machine: Machine, ratio: float) -> None:
        made = None
        try:
            made = _drawn(finding, parts, palette, machine, ratio)
        except Exception as error:  # The finding stands without its picture.
            tell(error)
        self._made.emit(key, finding, made)

    def _keep(self, key: _Key, finding: Finding, made: QImage | None) -> None:
        self._open -= 1
        if made is not None:
            icon = QIcon()
            for state in (QIcon.State.Off, QIcon.State.On):
                icon.addPixmap(QPixmap.fromImage(made), QIcon.Mode.Normal, state)
            self._kept[key] = (finding, icon, made)
        self._soon.start()


def _drawn(finding: Finding, parts: list[_Stands], palette: Palette, machine: Machine, ratio: float) -> QImage:
    """The evidence view of it. parts : the one that it is told of, and the other that it is about"""
    items = [
        item
        for placed, ready, field in parts
        for item in items_of(placed.part, placed.placement, palette, placed.id, field, 0, ready)
    ]
    surfaces = [surface_of(replace(item, colour=""), palette) for item in items]
    first = parts[0][0]
    here = finding.placed(first.placement)
    view = compose(here, Room(tuple(_body_of(item) for item in items), machine, about=first.id), tuple(machine.tool))
    if view.faded and here.solid is not None and len(here.solid.faces):
        meant = np.tile(np.array(_rgb(palette.failed), dtype=np.uint8), (len(here.solid.faces), 1))
        surfaces = [Surface(here.solid, np.eye(4), meant)]
    width, height = (round(side * ratio) for side in SIZE)
    image = ray_image(surfaces, view.camera, view.cuts, SIZE, palette, ratio)
    _mark(image, marks_in(view, (width, height)), palette, ratio)
    image.setDevicePixelRatio(ratio)
    return image


def _body_of(item: Item) -> Copy:
    blocks = blocks_of(item.mesh) if item.blocks is None else item.blocks
    return Copy(item.key, item.mesh, item.matrix, item.box, blocks)


def _mark(image: QImage, marks: np.ndarray, palette: Palette, ratio: float) -> None:
    places = [QPointF(float(x), float(y)) for x, y in marks]
    with QPainter(image) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for colour, wide in ((palette.panel, 3.4), (palette.failed, 1.8)):
            painter.setPen(QPen(QColor(colour), wide * ratio))
            if len(places) == 2:
                painter.drawLine(*places)
            else:
                painter.drawEllipse(places[0], 3.5 * ratio, 3.5 * ratio)


def _rgb(colour: str) -> tuple[int, int, int]:
    shade = QColor(colour)
    return shade.red(), shade.green(), shade.blue()
