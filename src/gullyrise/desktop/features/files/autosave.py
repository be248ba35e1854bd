"""Keeping the work while it goes on: the journal beside it, and taking up again what a session left behind."""

from __future__ import annotations

import queue
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from functools import partial

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from gullyrise.core.errors import GullyriseError, JobError
from gullyrise.core.job import Job
from gullyrise.core.job.form import JobForm, form_of
from gullyrise.core.job.journal import MOST_OFFERED, Found, Journal, left_behind
from gullyrise.core.job.store import Store
from gullyrise.desktop.features.files import text
from gullyrise.desktop.features.files.job_file import JobFile, Place
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.jobs import TakeOver

_AFTER_MS = 1500
_LOOK_AFTER_MS = 400
_AGAIN_MS = 10_000


@dataclass(frozen=True, slots=True)
class _State:
    """Of the work, to be kept; job : None where there is none that is not saved;  found : what may go once this is kept"""

    job: Job | None
    name: str
    place: Place
    found: tuple[Found, ...] = ()


class Autosave(QObject):
    """The work in hand is kept within seconds of each change, in a thread of its own."""

    _found = pyqtSignal(object)
    _outcome = pyqtSignal(str)

    def __init__(self, parent: QObject, model: Workbench, notifier: Notifier, file: JobFile) -> None:
        super().__init__(parent)
        self._model, self._notifier, self._file = model, notifier, file
        self.journal = Journal()
        self._trouble = False
        self._offered: list[Found] = []
        self._looked: list[Found] = []
        self._closed = False
        self._taken_up: tuple[Found, ...] = ()
        self._instead_of: list[str] = []
        self._queue: queue.Queue[_State | None] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="gullyrise-keeping", daemon=True)
        self._soon, self._again = once(self, _AFTER_MS, self._keep), once(self, _AGAIN_MS, self._keep)
        self._outcome.connect(self._hear)
        self._found.connect(self._offer)
        try:
            self.journal.begin()
        except JobError as error:
            self._trouble = True
            self._notifier.say(str(error), True)
        self._model.loader.keep_in(str(self.journal.store.folder))
        self._thread.start()
        self._file.changed.connect(self._touched)
        # At once: ended before that, the next session would offer what is saved, and take its file for somebody else's.
        self._file.written.connect(self._keep)

    @property
    def store(self) -> Store:
        return self.journal.store

    # --- the journal -----------------------------------------------------------------------------------------------

    def _touched(self) -> None:
        # Not put off by further edits: what is kept is never older than this.
        if not self._soon.isActive():
            self._soon.start()

    def _keep(self) -> None:
        found, self._taken_up = self._taken_up, ()
        self._queue.put(
            _State(self._model.job if self._file.dirty else None, self._model.document.title, self._file.place, found)
        )

    def _run(self) -> None:
        """Writes beside the interface; of several states that wait only the last."""
        found: list[Found] = []
        while True:
            state = self._queue.get()
            if state is None:
                return
            found += state.found
            self._instead_of += [one.folder.name for one in state.found]
            if not self._queue.empty() and self._queue.queue[0] is not None:
                continue
            trouble = self._written(state)
            if not trouble:
                # What was left is safe with this session, and only now needed no more.
                for one in found:
                    one.throw_away()
                found.clear()
            with suppress(RuntimeError):
                self._outcome.emit(trouble)

    def _written(self, state: _State) -> str:
        """Why a state is not kept, in a sentence; empty where it is."""
        try:
            if state.job is None:
                self.journal.settle()
            else:
                self.journal.write(form_of(state.job, state.name), state.place.path, state.place.state, tuple(self._instead_of))
        except JobError as error:
            return str(error)
        except Exception as error:  # The next state is written all the same.
            tell(error)
            return text.WORK_NOT_KEPT
        return ""

    def _hear(self, trouble: str) -> None:
        """Said once while it lasts, and tried again; said too when it is over."""
        if trouble:
            if not self._trouble:
                self._notifier.say(trouble, True, about="keeping")
            self._again.start()
        elif self._trouble and self._file.dirty and self.journal.is_safe:
            self._notifier.say(text.KEPT_AGAIN, False, about="keeping")
        self._trouble = bool(trouble)

    def close(self) -> None:
        """Ends the session. Parts that were only looked at are not offered again; work on them is."""
        self._soon.stop()
        self._again.stop()
        keep = self._file.dirty and (self._model.document.history.worked or self._file.place.taken_up)
        self._queue.put(
            _State(
                self._model.job if keep else None, self._model.document.title, self._file.place, self._taken_up if keep else ()
            )
        )
        self._queue.put(None)
        self._thread.join(10)
        if not self._thread.is_alive():
            # Over a disk that hangs nothing is swept away; the system lets go of the lock.
            self.journal.close()
        self._closed = True
        self._let_go()

    def _let_go(self) -> None:
        for one in (*self._offered, *self._looked):
            one.let_go()

    # --- what was left behind --------------------------------------------------------------------------------------

    def look_for_work(self) -> None:
        """Looks, beside the interface, whether an earlier session ended without saving."""

        def look() -> None:
            try:
                self._looked = left_behind()
            except Exception as error:
                tell(error)
                return
            if self._closed:
                self._let_go()
                return
            with suppress(RuntimeError):
                self._found.emit(self._looked)

        QTimer.singleShot(_LOOK_AFTER_MS, lambda: threading.Thread(target=look, daemon=True).start())

    def _offer(self, found: list[Found]) -> None:
        """All that was found is held until this session has done with it, or ends: nobody else is offered the same."""
        for one in found[MOST_OFFERED:]:
            one.let_go()
        self._offered += found[:MOST_OFFERED]
        self._show(found[:MOST_OFFERED])

    def _show(self, found: list[Found]) -> None:
        for one in reversed(found):
            away = (text.THROW_IT, lambda one=one: self._throw_away(one))
            if one.form is None:
                files = (text.OPEN_ITS_FILES, lambda one=one: self._take_files(one))
                there = bool(one.store.origins())
                rest = text.FILES_STILL_THERE if there else text.NOTHING_CAN_BE_OPENED
                self._notifier.say(
                    text.WORK_DAMAGED.format(_when(one), rest),
                    True,
                    [files, away] if there else [away],
                    f"left {one.folder.name}",
                )
                continue
            what = f"{one.form.name or 'Work'} ({_parts(one.form)})"
            self._notifier.say(
                text.WAS_NOT_SAVED.format(what, _when(one)),
                False,
                [(text.TAKE_IT_UP, partial(self.take_up, one)), away],
                f"left {one.folder.name}",
            )

    def _throw_away(self, found: Found) -> None:
        self._offered.remove(found)
        threading.Thread(target=found.throw_away, daemon=True).start()

    def take_up(self, found: Found) -> None:
        """Opens what was left, and keeps its bytes with this session's. It is thrown away once this session's journal has it."""

        def taken(whole: bool) -> None:
            assert found.form is not None
            name = found.form.name or text.THE_WORK
            if not whole:
                # A worker may have been killed, or memory short: what is left out now may come the next time.
                self._notifier.say(text.STAYS_OFFERED.format(name), False)
                return
            self._offered.remove(found)
            self._taken_up = (*self._taken_up, found)
            self._notifier.say(text.TAKEN_UP.format(name), False)
            self._keep()

        def at_hand(_: None) -> None:
            assert found.form is not None
            self._file.make(found.form, found.cost, Place(found.path, found.state, taken_up=True), taken)

        self._bring(found, at_hand)

    def _take_files(self, found: Found) -> None:
        """The part files of work that is damaged. It stays where it is: somebody may yet repair it."""
        files = found.store.origins()

        def at_hand(_: None) -> None:
            self._file.open_loose(files, found.cost)

        self._bring(found, at_hand)

    def _bring(self, found: Found, then: Callable[[None], None]) -> None:
        """Brings the bytes of what was left into this session's store; where that fails it is offered as before."""

        def failed(error: GullyriseError) -> None:
            self._notifier.say(str(error), True)
            self._show([found])

        self._model.task(TakeOver(str(found.store.folder), str(self.store.folder)), then, failed)


def _parts(form: JobForm) -> str:
    count = len(form.stands)
    return "1 part" if count == 1 else f"{count} parts"


def _when(found: Found) -> str:
    """The hour, and the day where that is another than today. A clock that was never right says nothing."""
    try:
        when = datetime.fromtimestamp(found.when)
    except (OverflowError, OSError, ValueError):
        return ""
    now = datetime.now()
    day = "" if when.date() == now.date() else f" on {when:%d %B}" if when.year == now.year else f" on {when:%d %B %Y}"
    return f" at {when:%H:%M}{day}"
