"""The cut laid over the bench, and the section saved as a drawing, a table or a picture."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QEvent, QObject

from gullyrise.core.geometry.outline import Outline
from gullyrise.core.report.outlines import EXPORTS, extent_of, outlines_of
from gullyrise.core.report.section_figures import figures_of
from gullyrise.desktop.features.sections import text
from gullyrise.desktop.features.sections.controller import SectionsController
from gullyrise.desktop.features.sections.panel import SectionStrip
from gullyrise.desktop.ports import FilePicker, Notifier, Preferences, StatusLine
from gullyrise.desktop.viewport.widget import Viewport

KINDS = [*(f"{words} (*{ending})" for ending, (words, _) in EXPORTS.items()), text.PICTURE_PNG]
_PIXELS_PER_MM, _MOST_PIXELS = 20.0, 4000


class ProfileView(QObject):
    """One flat profile, at home in the strip, that can be laid over the bench."""

    def __init__(
        self, parent: QObject, notifier: Notifier, status: StatusLine, preferences: Preferences, files: FilePicker,
        viewport: Viewport, cutting: SectionsController, strip: SectionStrip,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._notifier, self._preferences, self._files = notifier, preferences, files
        self._viewport, self._cutting, self._strip = viewport, cutting, strip
        self.large = False
        self._strip.profile.put_back.connect(lambda: self.lay_over(False))
        self._strip.profile.said.connect(status.show_elsewhere)
        self._viewport.installEventFilter(self)

    def switch(self) -> None:
        self.lay_over(not self.large)

    def lay_over(self, shown: bool) -> None:
        """Over the bench, or back into the strip."""
        profile = self._strip.profile
        if shown == self.large:
            return
        self.large = shown
        if shown:
            profile.setParent(self._viewport)
            profile.setGeometry(self._viewport.rect())
        else:
            self._strip.take_profile()
        profile.show()
        profile.raise_()
        profile.show_all()
        profile.setFocus()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if self.large and event is not None and event.type() == QEvent.Type.Resize:
            self._strip.profile.setGeometry(self._viewport.rect())
        return False

    # --- saving ----------------------------------------------------------------------------------------------------

    def ask_where(self) -> None:
        if self._cutting.section is None:
            self._notifier.say(text.NO_SECTION_YET, False)
            return
        self._files.ask_where(text.SAVE_THE_SECTION, "section.dxf", KINDS, self.save)

    def save(self, name: str) -> None:
        """Writes the section in the form that the ending of its name says."""
        cutting = self._cutting
        if cutting.section is None:
            return
        path = Path(name)
        outlines = self.outlines()
        if path.suffix.lower() == ".png":
            low, high = extent_of(outlines)
            scale = min(_PIXELS_PER_MM, _MOST_PIXELS / max(float((high - low).max()), 1e-6))
            image = self._strip.profile.picture(scale)

            def write() -> None:
                if not image.save(str(path), "PNG"):
                    raise OSError
        else:
            figures = figures_of(cutting.section, cutting.exact)

            def write() -> None:
                EXPORTS.get(path.suffix.lower(), EXPORTS[".dxf"])[1](outlines, figures, path)

        def tell(trouble: str) -> None:
            if trouble:
                self._notifier.say(text.CANNOT_BE_WRITTEN.format(path.name, trouble), True)
            else:
                self._notifier.say(text.SECTION_WRITTEN.format(path.name, path.parent), False)

        self._viewport.aside.write(write, tell)

    def outlines(self) -> tuple[Outline, ...]:
        """What is saved: from exact surfaces their lines and arcs, from triangles their corners, with arcs where settings ask
        for it."""
        cutting = self._cutting
        if cutting.exact is not None:
            return tuple(cutting.exact.outlines)
        if cutting.section is None:
            return ()
        return outlines_of(cutting.section, float(self._preferences["cut.arcs"]))
