"""The small pictures of findings, made beside the interface and kept."""

from __future__ import annotations

from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QIcon, QImage, QPixmap

from gullyrise.core.checks.protocol import FaceField, Finding
from gullyrise.core.geometry import Mesh
from gullyrise.core.job import PlacedPart
from gullyrise.core.report.finding_picture import picture_of, reach_of, surface_near
from gullyrise.desktop.features.checks.findings import Listed
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.timers import once
from gullyrise.drawing.colour_maps import scale_for

SIZE = (60, 42)
_MOST_KEPT, _TOLD_MS = 400, 60
_Key = tuple[int, str, float]


class FindingPictures(QObject):
    """changed : more of them are there"""

    changed = pyqtSignal()
    _made = pyqtSignal(object, object, object)

    def __init__(self, parent: QObject, model: Workbench) -> None:
        super().__init__(parent)
        self._model = model
        # The finding is held with its picture: an id comes back once a finding is gone.
        self._kept: OrderedDict[_Key, tuple[Finding, QIcon | None]] = OrderedDict()
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-pictures")
        self._open = 0
        self._made.connect(self._keep)
        self._soon = once(self, _TOLD_MS, self.changed.emit)

    @property
    def idle(self) -> bool:
        return not self._open and not self._soon.isActive()

    def close(self) -> None:
        self._beside.shutdown(wait=True, cancel_futures=True)

    def of(self, one: Listed, part_colour: str, ratio: float) -> QIcon | None:
        """The picture of a finding; None until it is made."""
        key = (id(one.finding), part_colour, ratio)
        known = self._kept.get(key)
        if known is not None:
            self._kept.move_to_end(key)
            return known[1]
        self._kept[key] = (one.finding, None)
        while len(self._kept) > _MOST_KEPT:
            self._kept.popitem(last=False)
        found = self._model.results.outcomes_of(one.placed, one.row.id)
        field = next((outcome.field for outcome in found or () if outcome.field is not None), None)
        self._open += 1
        self._beside.submit(self._make, key, one.finding, one.placed, field, part_colour, ratio)
        return None

    def _make(
        self, key: _Key, finding: Finding, placed: PlacedPart, field: FaceField | None, part_colour: str, ratio: float
    ) -> None:
        made = None
        try:
            made = _drawn(finding, placed, field, part_colour, ratio)
        except Exception as error:  # The finding stands without its picture.
            tell(error)
        self._made.emit(key, finding, made)

    def _keep(self, key: _Key, finding: Finding, made: QImage | None) -> None:
        self._open -= 1
        if made is not None:
            icon = QIcon()
            for state in (QIcon.State.Off, QIcon.State.On):
                icon.addPixmap(QPixmap.fromImage(made), QIcon.Mode.Normal, state)
            self._kept[key] = (finding, icon)
        self._soon.start()


def _drawn(finding: Finding, placed: PlacedPart, field: FaceField | None, part_colour: str, ratio: float) -> QImage | None:
    plain = QColor(part_colour)
    bare = np.array([plain.red(), plain.green(), plain.blue()], dtype=np.uint8)
    scale = None if field is None else scale_for(field)

    def colours(number: int, mesh: Mesh) -> np.ndarray:
        if field is None or scale is None or number >= len(field.values) or len(field.values[number]) != len(mesh.faces):
            return np.tile(bare, (len(mesh.faces), 1))
        return scale.colours(field.values[number])

    at = np.array(finding.at)
    length = finding.value if finding.unit == "mm" else None
    reach = reach_of(placed.part.box.diagonal, finding.area, length)
    near = surface_near(placed.part, colours, at, reach)
    if near is None:
        return None
    toward = None if finding.seen_from is None else np.array(finding.seen_from)
    width, height = (round(side * ratio) for side in SIZE)
    pixels = np.ascontiguousarray(picture_of(*near, at, toward, reach, (2 * width, 2 * height)))
    # Two rays across and two down are one pixel.
    wide = pixels.reshape(height, 2, width, 2, 4).astype(np.float32).mean(axis=(1, 3)).astype(np.uint8)
    image = QImage(wide.tobytes(), width, height, width * 4, QImage.Format.Format_RGBA8888).copy()
    image.setDevicePixelRatio(ratio)
    return image
