"""The job's file: opening it, saving it, and never saving over what somebody else, or nobody, could read."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.errors import GullyriseError, JobChanged
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.file import ENDING, Opened
from gullyrise.core.job.form import JobForm, PartForm, form_of, job_from
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.recent import RecentJobs
from gullyrise.core.job.store import Store
from gullyrise.core.paths import plain_name
from gullyrise.desktop.features.files import text
from gullyrise.desktop.ports import FilePicker, Navigator, Notifier, Preferences
from gullyrise.desktop.state.part_loader import placed_part_of
from gullyrise.desktop.state.task_runner import RunningTask
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.viewport.widget import Viewport
from gullyrise.desktop.widgets.file_dialogs import Mode
from gullyrise.drawing.annotated_image import png_of
from gullyrise.workers.jobs import CompareJob, MakeAnew, MakeLot, OpenJob, SaveJob
from gullyrise.workers.work import Received

THUMBNAIL = (320, 200)
_LOT, _LOT_BYTES, _SMALL = 60, 8 << 20, 1 << 20
_MOST_TOLD = 6
_SAVING_OVER, _NEW_JOB = "saving over", "new job"


@dataclass(frozen=True, slots=True)
class Place:
    """A job's file. path : empty while there is none;  state : that in which this window knows it;  damaged : whether it gave
    less than it held, so that saving over it would lose the rest for good;  taken_up : whether it is what a session left"""

    path: str = ""
    state: str = ""
    damaged: bool = False
    taken_up: bool = False


@dataclass(slots=True)
class _Kept:
    """Of one job of this session: its file, and the job as that has it"""

    place: Place = Place()
    saved: Job | None = None


@dataclass(frozen=True, slots=True)
class _Writing:
    """A job as it was when it was to be saved. over : the state in which the file there has to be, None for any"""

    job: Job
    name: str
    path: str
    over: str | None
    thumbnail: bytes


class JobFile(QObject):
    """The file of the job that is open, and of those that undo brings back."""

    changed = pyqtSignal()
    written = pyqtSignal()

    def __init__(
        self, parent: QObject, model: Workbench, notifier: Notifier, preferences: Preferences, files: FilePicker,
        viewport: Viewport, navigator: Navigator, recent: RecentJobs,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._model, self._notifier, self._preferences, self._files = model, notifier, preferences, files
        self._viewport, self._navigator, self._recent = viewport, navigator, recent
        self._number = self._model.job.number
        self._kept = {self._number: _Kept()}
        self._saving: RunningTask | None = None
        self._waiting: list[_Writing] = []
        self._model.document.changed.connect(self._touched)
        self._model.job_file_wanted.connect(self.open)

    @property
    def place(self) -> Place:
        return self._kept[self._number].place

    @property
    def path(self) -> str:
        return self.place.path

    @property
    def dirty(self) -> bool:
        """Whether there is work that no job file has."""
        job = self._model.job
        return job is not self._kept[self._number].saved and bool(job.parts)

    @property
    def _store(self) -> str:
        return self._model.loader.keep or ""

    def _touched(self) -> None:
        job = self._model.job
        if job.number != self._number:
            self._turn_to(job)
        self.changed.emit()

    def _turn_to(self, job: Job) -> None:
        """Another job is open: a new one, or one that undo brought back, which has its own file and name again."""
        left, self._number = self._kept[self._number], job.number
        if job.number not in self._kept:
            # What was saved as an empty bench goes on as parts come. An emptied bench must not be saved over the file of before.
            self._kept[job.number] = _Kept(left.place if job.parts else Place())
            states = {id(state): state.number for state in self._model.document.history.states()}
            self._kept = {number: kept for number, kept in self._kept.items() if number in states.values()}
            for kept in self._kept.values():
                # Of what no step brings back nothing is held.
                kept.saved = kept.saved if id(kept.saved) in states else None
        # Asked about another job.
        for about in (_SAVING_OVER, _NEW_JOB):
            self._notifier.settled(about)

    # --- opening ---------------------------------------------------------------------------------------------------

    def ask_to_open(self) -> None:
        self._files.ask(text.OPEN_A, Mode.ExistingFile, [f"Jobs (*{ENDING})"], lambda names: self.open(names[0]))

    def open(self, path: str) -> None:
        """Opens a job file in place of what is open, which undo brings back."""

        def known(opened: Opened) -> None:
            if opened.form is None:
                self.open_loose(opened.files, opened.lost)
                return
            self.make(opened.form, opened.lost, Place(path, opened.state, bool(opened.lost)), lambda _: None)

        self._model.aside(OpenJob(path, self._store), known)

    def open_loose(self, files: tuple[FileOrigin, ...], lost: tuple[str, ...]) -> None:
        """Part files whose job is lost, on a bench of their own machine."""
        parts = tuple(PartForm(name=Path(one.file.name).stem[:400] or "part", origin=one) for one in files)
        receiving = self._model.loader

        def came(made: dict[int, PlacedPart], troubles: list[str]) -> None:
            fresh = [replace(made[number], id=receiving.fresh_id()) for number in sorted(made)]
            if fresh:
                name = text.ONE_PART_FILE if len(fresh) == 1 else text.PART_FILES.format(len(fresh))
                self._model.document.edit(text.OPEN.format(name), lambda job: job.with_parts(fresh), opens=True)
            self._notifier.say(" ".join([*lost, *troubles[:_MOST_TOLD]]), True)

        self._make_parts(parts, came)

    def make(self, form: JobForm, lost: tuple[str, ...], place: Place, then: Callable[[bool], None]) -> None:
        """Makes every part of a form anew, in workers; the job opens once all have come or failed.

        then : is called with whether all have come
        """

        def came(made: dict[int, PlacedPart], troubles: list[str]) -> None:
            told = [*lost, *troubles]
            name = form.name or plain_name(Path(place.path).stem) or "Job"
            job = replace(job_from(form, made, self._model.job.library), number=self._model.document.fresh_job(), title=name)
            self._model.document.edit(text.OPEN_THE_JOB.format(name), lambda _: job, opens=True)
            saved = None if place.taken_up or told else self._model.job
            self._kept[self._number] = _Kept(replace(place, damaged=place.damaged or bool(told)), saved)
            if told:
                more = text.MORE_THINGS.format(len(told) - _MOST_TOLD) if len(told) > _MOST_TOLD else ""
                self._notifier.say(" ".join(told[:_MOST_TOLD]) + more, True)
            self._viewport.moves.frame_all(glide=False)
            self.changed.emit()
            then(not troubles)

        self._make_parts(form.parts, came)

    def _make_parts(self, parts: tuple[PartForm, ...], done: Callable[[dict[int, PlacedPart], list[str]], None]) -> None:
        """done : is called with a placed part of each part that could be made, by its place, and sentences on the others"""
        made: dict[int, PlacedPart] = {}
        troubles: dict[int, str] = {}
        receiving = self._model.loader
        token = -1 - receiving.fresh_id()
        receiving.reading.add(token)

        def settle(numbers: tuple[int, ...], answers: tuple[Received | GullyriseError, ...]) -> None:
            for number, found in zip(numbers, answers, strict=True):
                if isinstance(found, GullyriseError):
                    troubles[number] = text.LOST.format(parts[number].name, found)
                else:
                    self._model.ready.take(found)
                    made[number] = replace(placed_part_of(0, found), steps=parts[number].steps)
            left.difference_update(numbers)
            if not left:
                receiving.reading.discard(token)
                done(made, [troubles[number] for number in sorted(troubles)])

        def send_each(numbers: tuple[int, ...]) -> None:
            for number in numbers:
                send((number,))

        def send(numbers: tuple[int, ...]) -> None:
            works = tuple(MakeAnew(parts[number], self._store, receiving.largest_machine) for number in numbers)
            if len(works) == 1:
                self._model.task(
                    works[0], lambda found: settle(numbers, (found,)), lambda error: settle(numbers, (error,)), receiving.bounds
                )
            else:
                # One that brings its process down costs no other its place: each is then made by itself.
                self._model.task(
                    MakeLot(works),
                    lambda found: settle(numbers, found),
                    lambda _: send_each(numbers),
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
        model = self._model
        if not model.job.parts:
            self._notifier.say(text.EMPTY_ALREADY, False)
            return

        def begin() -> None:
            model.document.edit(text.NEW_JOB, lambda job: job.without({one.id for one in job.parts}))

        if not (self.dirty and model.document.history.worked):
            begin()
            return
        self._notifier.say(
            text.JOB_NOT_SAVED.format(model.document.title),
            False,
            [(text.SAVE_FIRST, self.save), (text.BEGIN_A_NEW_JOB, begin)],
            _NEW_JOB,
        )

    def save(self) -> None:
        """Into the job's file; asks for one where there is none, and what to do where saving would lose something."""
        if not self.path:
            self.ask_where_to_save()
        elif self.place.damaged:
            self._ask(
                text.HOLDS_MORE.format(plain_name(Path(self.path).name)),
                [(text.SAVE_ELSEWHERE, self.ask_where_to_save), (text.SAVE_OVER, lambda: self._write(self.path, None))],
            )
        else:
            self._write(self.path, self.place.state)

    def ask_where_to_save(self) -> None:
        name = (self.path and plain_name(Path(self.path).name)) or f"{self._model.document.title}{ENDING}"
        self._files.ask_where(text.SAVE_THE_JOB, name, [f"Jobs (*{ENDING})"], self.save_to)

    def save_to(self, path: str) -> None:
        """To a place that was chosen. Where it is the job's own, that must be as it was known here."""
        if path == self.path:
            self.save()
        else:
            self._write(path, None)

    def _ask(self, sentence: str, answers: list[tuple[str, Callable[[], None]]]) -> None:
        self._notifier.say(sentence, True, answers, _SAVING_OVER)

    def _write(self, path: str, over: str | None) -> None:
        job = self._model.job
        name = self._model.document.title if path == self.path else plain_name(Path(path).stem)
        lost = [placed.name for placed in job.parts if placed.origin is None]
        if lost:
            self._notifier.say(text.BYTES_NOT_KEPT.format(lost[0]), True)
            return
        # One after another: what the first leaves is what the second has to find.
        self._waiting = [one for one in self._waiting if one.path != path]
        self._waiting.append(_Writing(job, name, path, over, png_of(self._navigator.view_image(), *THUMBNAIL)))
        self._write_next()

    def _write_next(self) -> None:
        # One that was cancelled is never heard of again.
        if not self._waiting or (self._saving is not None and not self._saving.ended):
            return
        one = self._waiting.pop(0)

        def done(state: str) -> None:
            self._saving = None
            self._is_saved(one, state)
            self._write_next()

        def failed(error: GullyriseError) -> None:
            self._saving = None
            if isinstance(error, JobChanged) and one.job.number == self._number:
                self._ask_about_theirs(one.path, str(error))
            else:
                self._notifier.say(str(error), True)
            self._write_next()

        work = SaveJob(form_of(one.job, one.name), self._store, one.thumbnail, one.path, one.over)
        self._saving = self._model.task(work, done, failed)

    def _is_saved(self, one: _Writing, state: str) -> None:
        known = plain_name(Path(one.path).name)
        for kept in self._kept.values():
            if kept.place.path == one.path:
                # Another job of this session may have had the same file, which says something else now.
                kept.saved = None
        for at, later in enumerate(self._waiting):
            if later.over is not None and (later.path, later.job.number) == (one.path, one.job.number):
                self._waiting[at] = replace(later, over=state)
        if one.job.number in self._kept:
            entitled = self._model.document.entitle(one.name, one.job.number)
            self._waiting = [replace(later, job=entitled(later.job)) for later in self._waiting]
            self._kept[one.job.number] = _Kept(Place(one.path, state), entitled(one.job))
        if one.job.number == self._number:
            self._notifier.settled(_SAVING_OVER)
            self._notifier.say(text.SAVED_WITH_LOSSES.format(known, self._missing()), False)
        else:
            self._notifier.say(text.SAVED.format(known), False)
        if self._preferences["files.recent"]:
            self._recent.keep(one.name, (one.path,), one.job.machine.id, png_of(self._navigator.view_image(), 184, 116))
        self.changed.emit()
        self.written.emit()

    def _missing(self) -> str:
        """What is on its way and not in what was saved."""
        count = len(self._model.loader.reading)
        if not count:
            return ""
        what = text.FILE_IS if count == 1 else text.FILES_ARE.format(count)
        return text.STILL_BEING.format(what)

    def _ask_about_theirs(self, path: str, sentence: str) -> None:
        self._ask(
            sentence,
            [
                ("Compare", lambda: self._compare(path, sentence)),
                (text.SAVE_ELSEWHERE, self.ask_where_to_save),
                (text.TAKE_THEIRS, lambda: self.open(path)),
                (text.SAVE_OVER, lambda: self._write(path, None)),
            ],
        )

    def _compare(self, path: str, sentence: str) -> None:
        def known(found: tuple[str, ...]) -> None:
            told = " ".join(found[:_MOST_TOLD]) or text.BOTH_SAY_THE_SAME
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
