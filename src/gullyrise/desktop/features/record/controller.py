"""Notes and pictures for the record."""

from __future__ import annotations

from pathlib import Path

from gullyrise.core.report.picture_place import fresh_path
from gullyrise.desktop.features.record import text
from gullyrise.desktop.ports import FilePicker, Notifier, Preferences
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.drawing.annotated_image import recorded


class RecordController:
    """Of what is seen, and of what the user has to say of it."""

    def __init__(
        self, model: Workbench, notifier: Notifier, preferences: Preferences, files: FilePicker, viewport: Viewport
    ) -> None:
        self._model, self._notifier, self._preferences, self._files = model, notifier, preferences, files
        self._viewport = viewport

    def ask_for_note(self) -> None:
        model = self._model

        def write(words: str) -> None:
            line = " ".join(words.split())[:400]
            if line:
                # What is chosen is what it is about; without a choice it is the job.
                model.document.edit(text.NOTE, lambda job: job.noted(line, sorted(model.selection.parts)))

        self._files.ask_words(text.NOTE_TITLE, "Note", write)

    def ask_where(self) -> None:
        self._files.ask_where(text.SAVE_PICTURE, "view.png", [text.PICTURES_PNG], self.keep_picture)

    def keep_picture(self, name: str | None) -> None:
        """Saves the view with what it shows; name : None chooses a fresh one in the folder for pictures."""
        self._viewport.once_current(lambda: self._keep_picture(name))

    def _keep_picture(self, name: str | None) -> None:
        bench, scene = self._viewport, self._viewport.scene
        folder, job = self._preferences["record.folder"], self._model.document.title
        names = list(dict.fromkeys(item.name for item in scene.items))
        image = recorded(bench.bare_grab(), bench.camera, bench.view_size()[1], names, scene.machine.name, scene.palette)

        def write() -> tuple[Path, bool]:
            # Named only now: of two pictures in one second the second must see the first.
            path = Path(name) if name else fresh_path(folder, job)
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
                return path, image.save(str(path), "PNG")
            except OSError:
                return path, False

        def tell(written: tuple[Path, bool]) -> None:
            path, saved = written
            if saved:
                self._notifier.say(text.PICTURE_WRITTEN.format(path.name, path.parent), False)
            else:
                self._notifier.say(text.COULD_NOT_BE_WRITTEN.format(path.name, path.parent), True)

        # Packing a large picture takes longer than the interface may stand still.
        bench.aside.ask(write, tell)
