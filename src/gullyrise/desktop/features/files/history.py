"""What undo needs of parts that are not on the bench: on disk, within bounds. What nothing brings back any more is let go."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.aside import bring_back, lay_aside
from gullyrise.core.job.origins import FileOrigin
from gullyrise.core.job.placed_part import Hull
from gullyrise.core.part import Part
from gullyrise.core.picking.prepared import Prepared
from gullyrise.desktop.features.files import text
from gullyrise.desktop.features.files.autosave import Autosave
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.garbage import GarbageRun
from gullyrise.desktop.upkeep.memory import give_back
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.widgets.timers import once

Held = tuple[Part, tuple[Prepared, ...], Hull | None]
_AFTER_MS = 1500
_SWEPT_AFTER = 300.0
"""Seconds for which bytes stay that nobody wants: somebody may just be reading or opening them."""
MOST_STEPS = 250
MOST_BYTES = 4 << 30
"""Of parts that only undo brings back."""


@dataclass(frozen=True, slots=True)
class _Seen:
    """behind : of each part that only other states of the job have a placed part, by the part's identity
    weight : about how many bytes those take;  files : digests of all bytes that some state is made of
    """

    behind: dict[int, PlacedPart]
    weight: int
    files: set[str]


class History(QObject):
    """Looks through the job's history after each edit, beside the interface."""

    _looked = pyqtSignal(object)

    def __init__(self, parent: QObject, model: Workbench, notifier: Notifier, keeping: Autosave, garbage: GarbageRun) -> None:
        super().__init__(parent)
        self._model, self._notifier, self._keeping, self._garbage = model, notifier, keeping, garbage
        self._aside: dict[int, Held] = {}
        """By the identity of the part what has been laid aside, or could not be."""
        self._told = False
        self._beside = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-history")
        self._soon = once(self, _AFTER_MS, self.tidy)
        self._looked.connect(self._settle)
        self._model.document.changed.connect(self._touched)

    def _touched(self) -> None:
        for placed in self._model.job.parts:
            held = self._aside.pop(id(placed.part), None)
            if held is not None:
                # It is about to be worked with: what is read from disk then would hold up whoever reads it.
                self._do(bring_back, held)
        if not self._soon.isActive():
            self._soon.start()

    def close(self) -> None:
        self._soon.stop()
        self._beside.shutdown(wait=True, cancel_futures=True)

    def tidy(self) -> None:
        """Forgets what is too long ago, and looks for what is not on the bench."""
        self._forget(MOST_STEPS)
        states = tuple(self._model.document.history.states())

        def look() -> None:
            seen = _seen(states)
            with suppress(RuntimeError):
                self._looked.emit(seen)

        self._do(look)

    def _forget(self, most: int) -> None:
        if self._model.document.history.forget_beyond(most) and not self._told:
            self._told = True
            self._notifier.say(text.HISTORY_BOUNDED, False)

    def _settle(self, seen: _Seen) -> None:
        """Lays aside what is not on the bench, and lets go of all that was worked out of it."""
        parts = self._model.job.parts
        present = {id(one.part) for one in parts}
        # An edit may have come meanwhile.
        behind = {key: one for key, one in seen.behind.items() if key not in present}
        self._aside = {key: held for key, held in self._aside.items() if key in behind}
        fresh = {
            key: (one.part, self._model.ready.of(one) or (), one.hull) for key, one in behind.items() if key not in self._aside
        }
        self._aside |= fresh
        self._model.let_go({one.digest for one in (*parts, *behind.values())})
        if fresh:
            self._garbage.look_through()
            self._do(self._lay_aside, list(fresh.values()))
        if self._model.idle:
            self._do(self._keeping.store.sweep, seen.files, _SWEPT_AFTER)
        self._do(give_back)
        steps = self._model.document.history.can_undo
        if seen.weight > MOST_BYTES and steps > 1:
            self._forget(steps * 3 // 4)
            self._soon.start()

    def _lay_aside(self, held: list[Held]) -> None:
        folder = self._keeping.journal.folder / "aside"
        for one in held:
            lay_aside(one, folder)

    def _do(self, work: Callable[..., Any], *words: Any) -> None:
        """Beside the interface, one after another."""
        with suppress(RuntimeError):
            self._beside.submit(_quietly, work, *words)


def _seen(states: tuple[Job, ...]) -> _Seen:
    """states : of the job, the present one first"""
    present = {id(placed.part) for placed in states[0].parts}
    found = {id(placed.part): placed for job in states for placed in job.parts}
    files = {
        kept.digest
        for placed in found.values()
        if isinstance(placed.origin, FileOrigin)
        for kept in (placed.origin.file, *placed.origin.belongs)
    }
    behind = {key: placed for key, placed in found.items() if key not in present}
    return _Seen(behind, sum(_bytes_of(placed.part) for placed in behind.values()), files)


def _bytes_of(part: Part) -> int:
    """With about twice as much again for what the bench wants of it."""
    return sum(3 * (body.mesh.vertices.nbytes + body.mesh.faces.nbytes) + len(body.exact or b"") for body in part.bodies)


def _quietly(work: Callable[..., Any], *words: Any) -> None:
    """What cannot be put on disk stays in memory."""
    try:
        work(*words)
    except OSError:
        return
    except Exception as error:
        tell(error)
