"""Keeping the work: the job file, the journal beside it, and taking up again what a session left behind."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gullyrise.core.errors import GullyriseError, JobError
from gullyrise.core.job import Job, Standing
from gullyrise.core.job.file import ENDING, Opened
from gullyrise.core.job.form import JobForm, form_of, job_from
from gullyrise.core.job.journal import MOST_OFFERED, Found, Journal, left_behind, throw_away
from gullyrise.core.job.store import Store
from gullyrise.desktop.asking import Mode, ask, ask_where
from gullyrise.desktop.mishaps import tell
from gullyrise.desktop.picture import png_of
from gullyrise.desktop.receiving import standing_of
from gullyrise.workers.placing import MakeAnew, OpenJob, SaveJob
from gullyrise.workers.work import Received

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

_AFTER_MS = 1500
_LOOK_AFTER_MS = 400
THUMBNAIL = (320, 200)


class Keeping(QObject):
    """path : of the job file, or empty while there is none;  saved : the job as that file has it."""

    changed = pyqtSignal()
    _found = pyqtSignal(object)
    _troubled = pyqtSignal(str)

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self._window, self._model = window, window.model
        self.path = ""
        self.saved: Job | None = None
        self._before: list[tuple[int, str, str]] = []
        """Of each job that was opened in place of another: how many edits there were then, and that other's path and name."""
        self.journal = Journal()
        self._told = False
        self._queue: queue.Queue[tuple[Job, str, str] | str | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="gullyrise-keeping", daemon=True)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_AFTER_MS)
        self._soon.timeout.connect(self._keep)
        self._troubled.connect(self._lament)
        self._found.connect(self._offer)
        try:
            self.journal.begin()
            self._model.receiving.keep = str(self.journal.store.folder)
        except JobError as error:
            window.notices.say(str(error), True)
        self._thread.start()
        self._model.job_changed.connect(self._touched)
        self._model.job_file_wanted.connect(self.open)

    # --- the journal -----------------------------------------------------------------------------------------------

    @property
    def dirty(self) -> bool:
        """Whether there is work that no job file has."""
        job = self._model.job
        return job is not self.saved and bool(job.standings)

    def _touched(self) -> None:
        # Undone past its opening, a job is none any more that may be saved into its file.
        while self._before and len(self._model.document.done_names) < self._before[-1][0]:
            _, self.path, name = self._before.pop()
            self._window.job_name.setText(name)
        if self.path and not self._model.job.standings:
            # An emptied bench is a new job: it must not be saved over the old one's file.
            self._before.append((len(self._model.document.done_names), self.path, self._window.job_name.text()))
            self.path = ""
        # Not put off by further edits: what is kept is never older than this.
        if not self._soon.isActive():
            self._soon.start()
        self.changed.emit()

    def _keep(self) -> None:
        self._queue.put((self._model.job, self._window.job_name.text(), self.path) if self.dirty else None)

    def _run(self) -> None:
        """Writes beside the interface; of several states that wait only the last."""
        while True:
            wanted = self._queue.get()
            if isinstance(wanted, str):
                return
            if not self._queue.empty() and not isinstance(self._queue.queue[0], str):
                continue
            try:
                if wanted is None:
                    self.journal.settle()
                else:
                    job, name, path = wanted
                    self.journal.write(form_of(job, name), path)
            except JobError as error:
                self._troubled.emit(str(error))
            except Exception as error:  # The next state is written all the same.
                tell(error)
                self._troubled.emit("The work could not be kept in case the program ends; save the job into a file.")

    def _lament(self, sentence: str) -> None:
        if not self._told:
            self._told = True
            self._window.notices.say(sentence, True)

    def close(self) -> None:
        """Ends the session. Parts that were only looked at are not offered again; work on them is."""
        self._soon.stop()
        worked = any(not name.startswith("Open ") for name in self._model.document.done_names)
        keep = self.dirty and worked
        self._queue.put((self._model.job, self._window.job_name.text(), self.path) if keep else None)
        self._queue.put("end")
        self._thread.join(10)
        self.journal.close()

    # --- what was left behind --------------------------------------------------------------------------------------

    def look_for_work(self) -> None:
        """Looks, beside the interface, whether an earlier session ended without saving."""

        def look() -> None:
            with suppress(RuntimeError):
                self._found.emit(left_behind())

        QTimer.singleShot(_LOOK_AFTER_MS, lambda: threading.Thread(target=look, daemon=True).start())

    def _offer(self, found: list[Found]) -> None:
        for one in reversed(found[:MOST_OFFERED]):
            when = datetime.fromtimestamp(one.when)
            day = "" if when.date() == datetime.now().date() else f" on {when:%d %B}"
            count = len(one.form.stands)
            what = f"{one.form.name or 'Work'} ({'1 part' if count == 1 else f'{count} parts'})"
            self._window.notices.say(
                f"{what} was not saved when the program ended at {when:%H:%M}{day}.",
                False,
                [("Take it up", lambda one=one: self.take_up(one)), ("Throw it away", lambda one=one: throw_away(one))],
                f"left {one.folder.name}",
            )  # fmt: skip

    def take_up(self, found: Found) -> None:
        """Opens what was left, and keeps its bytes with this session's."""
        store = self.journal.store
        with suppress(OSError):
            for source in found.store.folder.iterdir():
                store.put(source.name, source)

        def taken() -> None:
            throw_away(found)
            name = found.form.name or "The work"
            self._window.notices.say(
                f"{name} is as it was when the program ended. The steps before that were not kept and cannot be undone.", False
            )

        self._make(found.form, (), found.path, taken, saved=False)

    # --- the job file ----------------------------------------------------------------------------------------------

    def ask_to_open(self) -> None:
        ask(self._window, "Open a job", Mode.ExistingFile, [f"Jobs (*{ENDING})"], lambda names: self.open(names[0]))

    def open(self, path: str) -> None:
        """Opens a job file in place of what is open, which undo brings back."""

        def known(opened: Opened) -> None:
            if opened.form is None:
                self._window.notices.say(" ".join(opened.lost), True)
                self._open_loose(opened.files)
                return
            self._make(opened.form, opened.lost, path, lambda: None, saved=not opened.lost)

        self._model.aside(OpenJob(path, str(self.journal.store.folder)), known)

    def _open_loose(self, digests: tuple[str, ...]) -> None:
        self._model.receiving.open_files([str(self.journal.store.path_of(digest)) for digest in digests])

    def _make(self, form: JobForm, lost: tuple[str, ...], path: str, then: Callable[[], None], *, saved: bool) -> None:
        """Makes every part of a form anew, in workers; the job opens once all have come or failed."""
        made: dict[int, Standing] = {}
        troubles = list(lost)
        left = set(range(len(form.parts)))
        receiving = self._model.receiving
        token = -1 - receiving.fresh_id()
        receiving.reading.add(token)

        def arrived(number: int, found: Received) -> None:
            self._model.take_ready(found)
            made[number] = _with_steps(standing_of(0, found), form, number)
            settled(number)

        def failed(number: int, error: GullyriseError) -> None:
            troubles.append(f"{form.parts[number].name} is lost: {error}")
            settled(number)

        def settled(number: int) -> None:
            left.discard(number)
            if not left:
                finish()

        def finish() -> None:
            receiving.reading.discard(token)
            job = job_from(form, made, self._model.job.library)
            before = (self.path, self._window.job_name.text())
            self._model.edit(f"Open the job {form.name or Path(path).stem}", lambda _: job)
            self._before.append((len(self._model.document.done_names), *before))
            self._window.job_name.setText(form.name or Path(path).stem)
            self.path = path
            self.saved = self._model.job if saved and not troubles else None
            if troubles:
                self._window.notices.say(" ".join(troubles[:6]), True)
            self._window.bench.frame_all(glide=False)
            self._keep()
            self.changed.emit()
            then()

        if not left:
            finish()
        for number, part in enumerate(form.parts):
            work = MakeAnew(part, str(self.journal.store.folder), receiving.largest_machine)
            self._model.errand(
                work, lambda found, n=number: arrived(n, found), lambda error, n=number: failed(n, error), receiving.bounds
            )

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
        """Into the job's file; asks for one where there is none."""
        if self.path:
            self.save_to(self.path)
        else:
            self.ask_where_to_save()

    def ask_where_to_save(self) -> None:
        name = (self.path and Path(self.path).name) or f"{self._window.job_name.text()}{ENDING}"
        ask_where(self._window, "Save the job", name, [f"Jobs (*{ENDING})"], self.save_to)

    def save_to(self, path: str) -> None:
        job, window = self._model.job, self._window
        name = window.job_name.text() if path == self.path else Path(path).stem
        thumbnail = png_of(window.looking.view_image(), *THUMBNAIL)
        lost = [standing.name for standing in job.standings if standing.origin is None]
        if lost:
            window.notices.say(f"The bytes of {lost[0]} were not kept; read it anew (Ctrl+R), then save.", True)
            return

        def done(_: object) -> None:
            self.path, self.saved = path, job
            window.job_name.setText(name)
            window.notices.say(f"{Path(path).name} is saved.", False)
            if window.settings["files.recent"]:
                window.opening.recent.keep(name, (path,), job.machine.id, png_of(window.looking.view_image(), 184, 116))
            self._keep()
            self.changed.emit()

        self._model.aside(SaveJob(form_of(job, name), str(self.journal.store.folder), thumbnail, path), done)

    @property
    def store(self) -> Store:
        return self.journal.store


def _with_steps(standing: Standing, form: JobForm, number: int) -> Standing:
    return replace(standing, steps=form.parts[number].steps)
