"""The job's file: opening it, saving it, and never saving over what somebody else, or nobody, could read."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.errors import GullyriseError, JobChanged
from gullyrise.core.job import Job, Standing
from gullyrise.core.job.file import ENDING, Opened
from gullyrise.core.job.form import JobForm, PartForm, form_of, job_from
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.store import Store
from gullyrise.core.paths import plain_name
from gullyrise.desktop.asking import Mode, ask, ask_where
from gullyrise.desktop.crew import Errand
from gullyrise.desktop.picture import png_of
from gullyrise.desktop.receiving import standing_of
from gullyrise.workers.placing import CompareJob, MakeAnew, MakeLot, OpenJob, SaveJob
from gullyrise.workers.work import Received

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

THUMBNAIL = (320, 200)
_LOT, _LOT_BYTES, _SMALL = 25, 8 << 20, 1 << 20
_MOST_TOLD = 6


@dataclass(frozen=True, slots=True)
class Place:
    """A job's file. path : empty while there is none;  state : that in which this window knows it;  damaged : whether it gave
    less than it held, so that saving over it would lose the rest for good;  taken_up : whether it is what a session left"""

    path: str = ""
    state: str = ""
    damaged: bool = False
    taken_up: bool = False


class JobFile(QObject):
    """saved : the job as its file has it."""

    changed = pyqtSignal()

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window, self._model = window, window.model
        self.place = Place()
        self.saved: Job | None = None
        self._before: list[tuple[int, Place, str]] = []
        """Of each job that was opened in place of another: how many edits there were then, and that other's file and name."""
        self._saving: Errand | None = None
        self._again: Callable[[], None] | None = None
        self._model.job_changed.connect(self._touched)
        self._model.job_file_wanted.connect(self.open)

    @property
    def path(self) -> str:
        return self.place.path

    @property
    def dirty(self) -> bool:
        """Whether there is work that no job file has."""
        job = self._model.job
        return job is not self.saved and bool(job.standings)

    @property
    def _store(self) -> str:
        return str(self._window.keeping.store.folder)

    def _touched(self) -> None:
        # Undone past its opening, a job is none any more that may be saved into its file.
        while self._before and self._model.document.steps < self._before[-1][0]:
            _, self.place, name = self._before.pop()
            self._window.job_name.setText(name)
        if self.path and not self._model.job.standings:
            # An emptied bench is a new job: it must not be saved over the old one's file.
            self._before.append((self._model.document.steps, self.place, self._window.job_name.text()))
            self.place = Place()
        self.changed.emit()

    # --- opening ---------------------------------------------------------------------------------------------------

    def ask_to_open(self) -> None:
        ask(self._window, "Open a job", Mode.ExistingFile, [f"Jobs (*{ENDING})"], lambda names: self.open(names[0]))

    def open(self, path: str) -> None:
        """Opens a job file in place of what is open, which undo brings back."""

        def known(opened: Opened) -> None:
            if opened.form is None:
                self.open_loose(opened.files, opened.lost)
                return
            self.make(opened.form, opened.lost, Place(path, opened.state, bool(opened.lost)), lambda: None)

        self._model.aside(OpenJob(path, self._store), known)

    def open_loose(self, files: tuple[FileOrigin, ...], lost: tuple[str, ...]) -> None:
        """Part files whose job is lost, on a bench of their own machine."""
        parts = tuple(PartForm(name=Path(one.file.name).stem[:400] or "part", origin=one) for one in files)
        receiving = self._model.receiving

        def came(made: dict[int, Standing], troubles: list[str]) -> None:
            fresh = [replace(made[number], id=receiving.fresh_id()) for number in sorted(made)]
            if fresh:
                name = "1 part file" if len(fresh) == 1 else f"{len(fresh)} part files"
                self._model.edit(f"Open {name}", lambda job: job.with_parts(fresh))
            self._window.notices.say(" ".join([*lost, *troubles[:_MOST_TOLD]]), True)

        self._make_parts(parts, came)

    def make(self, form: JobForm, lost: tuple[str, ...], place: Place, then: Callable[[], None]) -> None:
        """Makes every part of a form anew, in workers; the job opens once all have come or failed."""

        def came(made: dict[int, Standing], troubles: list[str]) -> None:
            told = [*lost, *troubles]
            job = job_from(form, made, self._model.job.library)
            before = (self.place, self._window.job_name.text())
            name = form.name or plain_name(Path(place.path).stem) or "Job"
            self._model.edit(f"Open the job {name}", lambda _: job)
            self._before.append((self._model.document.steps, *before))
            self._window.job_name.setText(name)
            self.place = replace(place, damaged=place.damaged or bool(told))
            self.saved = None if place.taken_up or told else self._model.job
            if told:
                more = f" {len(told) - _MOST_TOLD} more things are lost." if len(told) > _MOST_TOLD else ""
                self._window.notices.say(" ".join(told[:_MOST_TOLD]) + more, True)
            self._window.bench.frame_all(glide=False)
            self.changed.emit()
            then()

        self._make_parts(form.parts, came)

    def _make_parts(self, parts: tuple[PartForm, ...], done: Callable[[dict[int, Standing], list[str]], None]) -> None:
        """done : is called with a standing of each part that could be made, by its place, and sentences on the others"""
        made: dict[int, Standing] = {}
        troubles: dict[int, str] = {}
        receiving = self._model.receiving
        token = -1 - receiving.fresh_id()
        receiving.reading.add(token)

        def settle(numbers: tuple[int, ...], answers: tuple[Received | GullyriseError, ...]) -> None:
            for number, found in zip(numbers, answers, strict=True):
                if isinstance(found, GullyriseError):
                    troubles[number] = f"{parts[number].name} is lost: {found}"
                else:
                    self._model.take_ready(found)
                    made[number] = replace(standing_of(0, found), steps=parts[number].steps)
            left.difference_update(numbers)
            if not left:
                receiving.reading.discard(token)
                done(made, [troubles[number] for number in sorted(troubles)])

        def send(numbers: tuple[int, ...]) -> None:
            works = tuple(MakeAnew(parts[number], self._store, receiving.largest_machine) for number in numbers)
            if len(works) == 1:
                self._model.errand(
                    works[0], lambda found: settle(numbers, (found,)), lambda error: settle(numbers, (error,)), receiving.bounds
                )
            else:
                # One that brings its process down costs no other its place: each is then made by itself.
                self._model.errand(
                    MakeLot(works),
                    lambda found: settle(numbers, found),
                    lambda _: [send((number,)) for number in numbers],
                    receiving.bounds,
                )

        store = Store(Path(self._store))
        # Of bytes that are not there it has been told already that they are lost.
        left = {n for n, part in enumerate(parts) if not isinstance(part.origin, FileOrigin) or store.has(part.origin)}
        if not left:
            receiving.reading.discard(token)
            done(made, [])
        for numbers in _lots(parts, sorted(left), store):
            send(numbers)

    # --- saving ----------------------------------------------------------------------------------------------------

    def begin_anew(self) -> None:
        """Empties the bench, which begins a new job; asks first where work is unsaved. Undo brings the old one back."""
        window, model = self._window, self._model
        if not model.job.standings:
            window.notices.say("The bench is empty: this is a new job already.", False)
            return

        def begin() -> None:
            model.edit("New job", lambda job: job.without({one.id for one in job.standings}))

        worked = any(not name.startswith("Open ") for name in model.document.done_names)
        if not (self.dirty and worked):
            begin()
            return
        window.notices.say(
            f"The job {window.job_name.text()} is not saved.",
            False,
            [("Save first", self.save), ("Begin a new job", begin)],
            "new job",
        )

    def save(self) -> None:
        """Into the job's file; asks for one where there is none, and what to do where saving would lose something."""
        if not self.path:
            self.ask_where_to_save()
        elif self.place.damaged:
            self._ask(
                f"{plain_name(Path(self.path).name)} holds more than could be opened; saved over, that is lost for good.",
                [("Save elsewhere", self.ask_where_to_save), ("Save over it", lambda: self._write(self.path, None))],
            )
        else:
            self._write(self.path, self.place.state)

    def ask_where_to_save(self) -> None:
        name = (self.path and plain_name(Path(self.path).name)) or f"{self._window.job_name.text()}{ENDING}"
        ask_where(self._window, "Save the job", name, [f"Jobs (*{ENDING})"], self.save_to)

    def save_to(self, path: str) -> None:
        """To a place that was chosen. Where it is the job's own, that must be as it was known here."""
        if path == self.path:
            self.save()
        else:
            self._write(path, None)

    def _ask(self, sentence: str, answers: list[tuple[str, Callable[[], None]]]) -> None:
        self._window.notices.say(sentence, True, answers, "saving over")

    def _write(self, path: str, over: str | None) -> None:
        # One that was cancelled is never heard of again.
        if self._saving is not None and not self._saving.ended:
            # One after another: what the first leaves is what the second has to find.
            self._again = lambda: self._write(path, over if path != self.path else self.place.state)
            return
        job, window = self._model.job, self._window
        name = window.job_name.text() if path == self.path else plain_name(Path(path).stem)
        thumbnail = png_of(window.looking.view_image(), *THUMBNAIL)
        lost = [standing.name for standing in job.standings if standing.origin is None]
        if lost:
            window.notices.say(f"The bytes of {lost[0]} were not kept; read it anew (Ctrl+R), then save.", True)
            return

        def done(state: str) -> None:
            self.place, self.saved = Place(path, state), job
            window.job_name.setText(name)
            window.notices.settled("saving over")
            window.notices.say(f"{plain_name(Path(path).name)} is saved.{self._missing()}", False)
            if window.settings["files.recent"]:
                window.opening.recent.keep(name, (path,), job.machine.id, png_of(window.looking.view_image(), 184, 116))
            self.changed.emit()
            self._next()

        def failed(error: GullyriseError) -> None:
            if isinstance(error, JobChanged):
                self._ask_about_theirs(path, str(error))
            else:
                window.notices.say(str(error), True)
            self._next()

        self._saving = self._model.errand(SaveJob(form_of(job, name), self._store, thumbnail, path, over), done, failed)

    def _next(self) -> None:
        self._saving = None
        again, self._again = self._again, None
        if again is not None:
            again()

    def _missing(self) -> str:
        """What is on its way and not in what was saved."""
        count = len(self._model.receiving.reading)
        if not count:
            return ""
        what = "1 file is" if count == 1 else f"{count} files are"
        return f" {what} still being read and not in it; save again once read."

    def _ask_about_theirs(self, path: str, sentence: str) -> None:
        self._ask(
            sentence,
            [
                ("Compare", lambda: self._compare(path, sentence)),
                ("Save elsewhere", self.ask_where_to_save),
                ("Take theirs", lambda: self.open(path)),
                ("Save over it", lambda: self._write(path, None)),
            ],
        )

    def _compare(self, path: str, sentence: str) -> None:
        def known(found: tuple[str, ...]) -> None:
            told = " ".join(found[:_MOST_TOLD]) or "Both say the same."
            self._ask_about_theirs(path, f"{sentence} {told}")

        self._model.aside(CompareJob(form_of(self._model.job), path, self._store), known)


def _lots(parts: tuple[PartForm, ...], numbers: list[int], store: Store) -> list[tuple[int, ...]]:
    """Small parts some at a time, as starting a process takes longer than reading one; others by themselves."""
    out: list[tuple[int, ...]] = []
    lot: list[int] = []
    weight = 0
    for number in numbers:
        part = parts[number]
        size = store.size_of(part.origin) if isinstance(part.origin, FileOrigin) else 0
        if size > _SMALL or part.steps:
            out.append((number,))
            continue
        if lot and (len(lot) == _LOT or weight + size > _LOT_BYTES):
            out.append(tuple(lot))
            lot, weight = [], 0
        lot.append(number)
        weight += size
    return [*out, *([tuple(lot)] if lot else [])]
