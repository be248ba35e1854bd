"""Notes and pictures for the record."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage

from gullyrise.core.geometry.spots import Spot, spot
from gullyrise.core.job.record import Line
from gullyrise.core.report.dating import now
from gullyrise.core.report.picture_place import fresh_path
from gullyrise.desktop.features.record import text
from gullyrise.desktop.features.record.panel import PANEL
from gullyrise.desktop.ports import FilePicker, Notifier, PanelPlaces, Preferences
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.annotated_image import recorded
from gullyrise.pictures.findings import png_of

_KEPT_WIDTH = 640


class RecordController:
    """Of what is seen, and of what the user has to say of it."""

    def __init__(
        self, model: Workbench, notifier: Notifier, preferences: Preferences, files: FilePicker, viewport: Viewport,
        panels: PanelPlaces,
    ) -> None:  # fmt: skip
        self._model, self._notifier, self._preferences, self._files = model, notifier, preferences, files
        self._viewport, self._panels = viewport, panels

    def open(self) -> None:
        """Turns the record up below the parts, or puts it away."""
        if self._panels.slot == PANEL:
            self._panels.show_first_slot()
        else:
            self._panels.show_slot(PANEL)

    def put(self, done: str, lines: tuple[Line, ...]) -> None:
        """The record as it is to be."""
        self._model.document.edit(done, lambda job: job.with_record(lines))

    def ask_for_note(self) -> None:
        # What is chosen is what it is about; without a choice it is the job.
        self._ask(tuple(sorted(self._model.selection.parts)), None)

    def pin_note(self) -> None:
        """A note at the place under the pointer."""
        hit = self._viewport.aim.hit_under_pointer()
        key = self._viewport.scene.items[hit.item].key if hit is not None else None
        placed = self._model.job.part(key[0]) if key is not None else None
        if hit is None or placed is None:
            self._notifier.say(text.PIN_NEEDS_A_PLACE, False)
            return
        self._ask((placed.id,), spot(placed.placement.inverse().apply(np.asarray(hit.point)[None])[0]))

    def _ask(self, of: tuple[int, ...], at: Spot | None) -> None:
        def write(words: str) -> None:
            line = " ".join(words.split())[: text.LONGEST]
            if line:
                fresh = Line(line, of, when=_when(), at=at)
                self._model.document.edit(text.NOTE, lambda job: job.recorded(fresh))

        self._files.ask_words(text.NOTE_TITLE, "Note", write)

    def ask_where(self) -> None:
        self._files.ask_where(text.SAVE_PICTURE, "view.png", [text.PICTURES_PNG], self.keep_picture)

    def keep_picture(self, name: str | None) -> None:
        """Saves the view with what it shows; name : None chooses a fresh one in the folder for pictures, and keeps a smaller one
        in the job's record."""
        self._viewport.once_current(lambda: self._keep_picture(name))

    def _keep_picture(self, name: str | None) -> None:
        bench, scene = self._viewport, self._viewport.scene
        folder, job = self._preferences["record.folder"], self._model.document.title
        names = list(dict.fromkeys(item.name for item in scene.items))
        view = bench.bare_grab()
        image = recorded(view, bench.camera, bench.view_size()[1], names, scene.machine.name, scene.palette)
        cuts = ", ".join(cut.words for cut in scene.cuts)
        looked_at = bench.evidence.shown.shown
        about = looked_at.finding.what if looked_at is not None and looked_at.finding.what else bench.camera.name()
        caption = f"{about}, cut {cuts}" if cuts else about
        of = tuple(sorted({item.owner for item in scene.items if item.selected and item.owner >= 0}))

        def write() -> tuple[Path, bool, bytes]:
            # Named only now: of two pictures in one second the second must see the first.
            path = Path(name) if name else fresh_path(folder, job)
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
                return path, image.save(str(path), "PNG"), b"" if name else _smaller(view)
            except OSError:
                return path, False, b""

        def tell(written: tuple[Path, bool, bytes]) -> None:
            path, saved, kept = written
            if kept:
                line = Line(caption[: text.LONGEST], of, "picture", _when(), picture=kept)
                self._model.document.edit(text.PICTURE_TAKEN, lambda job: job.recorded(line))
            if saved:
                self._notifier.say(text.PICTURE_WRITTEN.format(path.name, path.parent), False)
            else:
                self._notifier.say(text.COULD_NOT_BE_WRITTEN.format(path.name, path.parent), True)

        # Packing a large picture takes longer than the interface may stand still.
        bench.aside.ask(write, tell)


def _when() -> str:
    return now().strftime("%Y-%m-%dT%H:%M")


def _smaller(view: QImage) -> bytes:
    """A picture that a job file can hold many of."""
    return png_of(view.scaledToWidth(min(_KEPT_WIDTH, view.width()), Qt.TransformationMode.SmoothTransformation))
