"""Files read in the background, their units settled, repairs, finer meshes, files that change on disk."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.errors import GullyriseError
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.intake.repairs import BY_ID, Change
from gullyrise.core.intake.units import Doubt, declared_doubt, doubt
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.origins import Change as Step
from gullyrise.core.job.origins import Finer, Repairs, Stretch, Unit
from gullyrise.core.job.placed_part import Hull
from gullyrise.core.reading import ReadOptions
from gullyrise.core.reading.folders import MOST_FILES
from gullyrise.core.report.repair_words import change_words
from gullyrise.desktop.state import text
from gullyrise.desktop.state.document_model import DocumentModel
from gullyrise.desktop.state.file_watcher import FileWatcher
from gullyrise.desktop.state.ready_bodies import ReadyBodies
from gullyrise.desktop.state.task_runner import TaskRunner
from gullyrise.desktop.widgets.timers import once
from gullyrise.workers.process import Bounds
from gullyrise.workers.receiving import ListFolders, PreviewRepairs, Reshape, WriteParts
from gullyrise.workers.work import Read, Received

_GATHER_MS = 300
_AT_ONCE = 50
Previews = dict[str, list[tuple[int, Change]]]


class PartLoader(QObject):
    """doubted : a part whose unit looks wrong has come;  previewed : what repairs would do to a part is known"""

    doubted = pyqtSignal(int)
    previewed = pyqtSignal(int)

    def __init__(self, document: DocumentModel, ready: ReadyBodies, tasks: TaskRunner) -> None:
        super().__init__()
        self._document, self._ready, self._tasks = document, ready, tasks
        self.keep: str | None = None
        """The folder that keeps the bytes of what is read; none where they are not kept."""
        self._ids = itertools.count(1)
        self.refused: tuple[tuple[str, str], ...] = ()
        """(name, sentence) of each file that could not be used; they stand in the report until they are dismissed."""
        self.reading: set[int] = set()
        self.bounds = Bounds()
        self._previews: dict[str, Previews] = {}
        self._asked: set[str] = set()
        self.files = FileWatcher(self)
        self._arrived: list[PlacedPart] = []
        self._came_in: dict[int, int] = {}
        self._lot = 0
        self._to_read: list[tuple[int, int, str]] = []
        self._unkept: list[str] = []
        self.starting = once(self, 0, self._read_next)
        self.gathering = once(self, _GATHER_MS, self._put_arrived)

    @property
    def largest_machine(self) -> float:
        """The longest side of any machine of the library, mm; what unit doubts are weighed against."""
        return max(float(machine.envelope.box.size.max()) for machine in self._document.job.library)

    def read_within(self, bounds: Bounds, *, watch: bool) -> None:
        """What reading a file may cost, and whether files that change on disk are told of."""
        self.bounds = bounds
        self.files.watch(watch)

    def keep_in(self, folder: str) -> None:
        self.keep = folder

    @property
    def idle(self) -> bool:
        return not self.gathering.isActive() and not self.starting.isActive()

    def fresh_id(self) -> int:
        """The id of a part that is to come; above all that stand in the job, wherever those came from."""
        return self.fresh_ids(1)

    def fresh_ids(self, count: int) -> int:
        """The first of so many ids in a row, none of which is anybody else's."""
        taken = max((placed.id for placed in self._document.job.parts), default=0)
        first = max(next(self._ids), taken + 1)
        self._ids = itertools.count(first + count)
        return first

    # --- files -----------------------------------------------------------------------------------------------------

    def open_files(self, paths: list[str]) -> None:
        """Files, and those in folders, in the order in which they were given."""
        number = next(self._ids)
        if not any(Path(path).is_dir() for path in paths):
            self._read(list(paths))
            return
        # Until its files are known, a folder counts as something that is being read.
        self.reading.add(number)

        def known(found: list[list[str]]) -> None:
            self.reading.discard(number)
            for path, inside in zip(paths, found, strict=True):
                if not inside:
                    sentence = text.HOLDS_NO_PARTS.format(Path(path).name)
                    self._document.said.emit(sentence, True)
            self._read([path for inside in found for path in inside])
            self._document.changed.emit()

        self._tasks.send(ListFolders(tuple(paths)), known, partial(self._refused, number, ""), first=True)

    def _read(self, paths: list[str]) -> None:
        if len(paths) > MOST_FILES:
            self._document.said.emit(text.FIRST_FILES_OPENED.format(MOST_FILES, len(paths)), False)
        lot = next(self._ids)
        numbered = [(self.fresh_id(), lot, path) for path in paths[:MOST_FILES]]
        self.reading |= {number for number, _, _ in numbered}
        self._to_read += numbered
        self._read_next()

    def _read_next(self) -> None:
        """Some files a turn of the loop: a thousand at once would hold the interface up."""
        now, self._to_read = self._to_read[:_AT_ONCE], self._to_read[_AT_ONCE:]
        largest = self.largest_machine
        for number, lot, path in now:
            self.files.begin(path)
            self._tasks.send(
                Read(path, ReadOptions(), largest, self.keep),
                partial(self._came, number, lot),
                partial(self._refused, number, path),
                first=True,
                bounds=self.bounds,
                group="files",
            )
        if self._to_read:
            self.starting.start()

    def close(self) -> None:
        """Nothing more is sent, put in its place or looked at."""
        self._to_read.clear()
        for timer in (self.starting, self.gathering):
            timer.stop()
        self.files.close()

    def forget(self) -> None:
        """Nothing is being read any more; what has come stays."""
        self.starting.stop()
        self._to_read.clear()
        self.reading.clear()
        self._put_arrived()

    def _came(self, number: int, lot: int, found: Received) -> None:
        """A part joins the job at once where nothing else is on its way; many at a time come in portions, as one edit a lot."""
        self.reading.discard(number)
        if lot != self._lot:
            self._put_arrived()
        self._lot = lot
        if found.unkept:
            self._unkept.append(found.unkept)
        self._ready.take(found)
        self._arrived.append(placed_part_of(number, found))
        if not self.reading:
            self._put_arrived()
        elif not self.gathering.isActive():
            self.gathering.start()

    def _put_arrived(self) -> None:
        self.gathering.stop()
        arrived, self._arrived = self._arrived, []
        unkept, self._unkept = self._unkept, []
        if unkept:
            more = text.SO_WITH_MORE.format(len(unkept) - 1) if len(unkept) > 1 else ""
            self._document.said.emit(unkept[0] + more, True)
        if not arrived:
            return
        # Copies that were made meanwhile may have taken its number.
        taken = {placed.id for placed in self._document.job.parts}
        fresh = [replace(one, id=self.fresh_id()) if one.id in taken else one for one in arrived]
        count = self._came_in.get(self._lot, 0) + len(fresh)
        self._came_in = {self._lot: count}
        name = f"Open {Path(fresh[0].part.file).name}" if count == 1 else text.OPEN_FILES.format(count)
        self._document.edit(name, lambda job: job.with_parts(fresh), ("lot", self._lot), opens=True)
        for placed in fresh:
            self.files.was_read(placed.part.file)
            if placed.figures["unit_doubt"]:
                self.doubted.emit(placed.id)

    def _refused(self, number: int, path: str, error: GullyriseError) -> None:
        self.reading.discard(number)
        if path:
            self.refused = (*self.refused, (Path(path).name, str(error)))
        self._document.said.emit(str(error), True)
        if not self.reading:
            self._put_arrived()
        self._document.changed.emit()

    # --- units -----------------------------------------------------------------------------------------------------

    def dismiss_refused(self) -> None:
        self.refused = ()
        self._document.changed.emit()

    def doubt_of(self, placed: PlacedPart) -> Doubt | None:
        """Why the unit of a part looks wrong, with likely answers; None where it does not, or was settled."""
        part, size = placed.part, np.array(placed.figures["size"])
        if placed.figures["unit_doubt"] is None or part.unit_source == "given":
            return None
        if part.unit_source == "declared":
            return declared_doubt(size, part.unit, self.largest_machine)
        return doubt(size, self.largest_machine)

    def set_unit(self, number: int, unit: str, merging: object = None) -> None:
        """Takes the numbers of a part's file for that unit; one that stays is thereby confirmed. merging : shared by the parts of
        one answer, which is undone as one"""
        placed = self._document.job.part(number)
        if placed is None or (placed.part.unit == unit and placed.part.unit_source == "given"):
            return
        self._reshape(
            placed, Unit(unit=unit), text.UNIT_OF.format(placed.part.name, unit),
            lambda _: text.UNIT_TAKEN.format(placed.part.name, unit), set_out=placed.part.unit != unit,
            merging=merging,
        )  # fmt: skip

    # --- repairs -----------------------------------------------------------------------------------------------------

    def previews_of(self, placed: PlacedPart) -> Previews | None:
        """What each repair would change, or None while that is being found out."""
        found = self._previews.get(placed.digest)
        if found is None and placed.digest not in self._asked:
            self._asked.add(placed.digest)
            self._tasks.send(
                PreviewRepairs(placed.part),
                lambda found: self._previewed(placed, found),
                lambda error: self._asked.discard(placed.digest),
            )
        return found

    def _previewed(self, placed: PlacedPart, found: Previews) -> None:
        self._previews[placed.digest] = found
        self.previewed.emit(placed.id)

    def repair(self, number: int, repairs: tuple[str, ...]) -> None:
        """Does some repairs of a part, as one edit with a line each in the record."""
        placed = self._document.job.part(number)
        if placed is None or not repairs:
            return
        title = BY_ID[repairs[0]].title if len(repairs) == 1 else text.ALL_REPAIRS

        def note(changes: list[tuple[int, Change]]) -> str:
            return "\n".join(change_words(placed, body, change) for body, change in changes)

        self._reshape(placed, Repairs(mends=repairs), f"{title}, {placed.part.name}", note)

    # --- meshes ----------------------------------------------------------------------------------------------------

    def refine(self, number: int) -> None:
        """Meshes a part's solids anew within half the chord error."""
        placed = self._document.job.part(number)
        chords = [body.chord_error for body in placed.part.bodies if body.chord_error] if placed is not None else []
        if placed is None or not chords:
            self._document.said.emit(text.ONLY_SOLIDS, False)
            return
        chord = min(chords) / 2
        self._reshape(
            placed, Finer(chord=chord), text.MESH_FINER.format(placed.part.name),
            lambda _: text.MESHED_ANEW.format(placed.part.name, chord),
        )  # fmt: skip

    def stretch(self, number: int, linear: np.ndarray, name: str, merging: object = None) -> None:
        """Makes a part larger or smaller by a linear map (3, 3) of its file's coordinates, where it stands. name : of the step;
        merging : shared by the parts of one command, which is undone as one"""
        placed = self._document.job.part(number)
        if placed is not None:
            rows = tuple((float(row[0]), float(row[1]), float(row[2])) for row in linear)
            step = Stretch(linear=(rows[0], rows[1], rows[2]))
            note = f"{placed.part.name}: {name[:1].lower()}{name[1:]}."
            self._reshape(placed, step, name, lambda _: note, settled=True, merging=merging)

    def _reshape(
        self, placed: PlacedPart, step: Step, name: str, note: Callable[[Any], str], *,
        set_out: bool = False, settled: bool = False, merging: object = None,
    ) -> None:  # fmt: skip
        """Does one more step to a part's shape, and to its copies, which are of the same."""

        def made(found: Received) -> None:
            self._put_in_place(
                placed,
                found,
                (*placed.steps, step),
                name,
                note(found.told),
                set_out=set_out,
                settled=settled,
                merging=merging,
            )

        work = Reshape(placed.part, step, self.largest_machine)
        self._tasks.send(work, made, lambda error: self._document.said.emit(str(error), True), first=True, bounds=self.bounds)

    def _put_in_place(
        self, placed: PlacedPart, found: Received, steps: tuple[Any, ...], name: str, note: str, *,
        set_out: bool = False, settled: bool = False, merging: object = None,
    ) -> None:  # fmt: skip
        """Puts what work made of a part in its place, as one edit, where it still stands as it did."""
        now = self._document.job.part(placed.id)
        if now is None or now.digest != placed.digest:
            self._document.said.emit(text.CHANGED_SINCE.format(name), False)
            return
        origin = found.origin or now.origin
        resized = isinstance(steps[-1], (Stretch, Unit)) if steps else False
        # A stretch is of the one copy that it was asked for; what is said of the file is said of all that came from it.
        alike = [one for one in self._document.job.parts if one.part is now.part and (not settled or one.id == now.id)]
        fresh = []
        for one in alike:
            self._ready.take(found)
            made = replace(
                placed_part_of(one.id, found), placement=one.placement, material=one.material, copy=one.copy, steps=steps
            )
            made = replace(made, origin=origin)
            fresh.append(one.reshaped(made) if settled or (self._document.job.settled and set_out) else made)

        def change(job: Job) -> Job:
            changed = job.with_resized(fresh, note) if resized else job.with_changed(fresh, note)
            return changed.set_out() if set_out else replace(changed, settled=True) if settled else changed

        self._document.edit(name, change, merging)

    def set_material(self, number: int, material: str) -> None:
        placed = self._document.job.part(number)
        if placed is not None and placed.material != material:
            fresh = replace(placed, material=material)
            self._document.edit(text.MATERIAL_OF.format(placed.part.name), lambda job: job.with_replaced(fresh))

    # --- writing ---------------------------------------------------------------------------------------------------

    def write_parts(self, files: Iterable[tuple[str, Iterable[tuple[PlacedPart, Transform]]]]) -> None:
        """Parts to a file each group; what the format cannot hold is said. files : (path, (part, placement) each)"""
        groups = tuple((path, tuple((one.part, place, one.name) for one, place in stands)) for path, stands in files)

        def done(sentences: list[str]) -> None:
            names = ", ".join(Path(path).name for path, _ in groups)
            self._document.said.emit(" ".join([f"{names} {'is' if len(groups) == 1 else 'are'} written.", *sentences]), False)

        self._tasks.send(WriteParts(groups), done, lambda error: self._document.said.emit(str(error), True), first=True)

    # --- files that change -----------------------------------------------------------------------------------------

    @property
    def stale(self) -> frozenset[int]:
        """Ids of parts whose files are other ones now."""
        return frozenset(one.id for one in self._document.job.parts if one.part.file in self.files.changed)

    @property
    def gone(self) -> frozenset[int]:
        """Ids of parts whose files are not there any more."""
        return frozenset(one.id for one in self._document.job.parts if one.part.file in self.files.gone)

    def reload(self, numbers: Iterable[int]) -> None:
        """Reads files anew; each part keeps its place, and what hangs on no shape of it."""
        wanted = list(numbers)
        # One command is one step, however many files it reads.
        merging = ("reload", object())
        for number in wanted:
            placed = self._document.job.part(number)
            if placed is None:
                continue
            name = f"Reload {placed.part.name}" if len(wanted) == 1 else text.RELOAD_FILES.format(len(wanted))
            self.files.begin(placed.part.file)
            given = placed.part.unit if placed.part.unit_source == "given" else None

            def came(found: Received, placed: PlacedPart = placed, name: str = name) -> None:
                self.files.was_read(placed.part.file)
                note = text.READ_ANEW.format(placed.part.name)
                self._put_in_place(placed, found, (), name, note, merging=merging)

            self._tasks.send(
                Read(placed.part.file, ReadOptions(unit=given), self.largest_machine, self.keep),
                came, lambda error: self._document.said.emit(str(error), True), first=True, bounds=self.bounds,
            )  # fmt: skip


def placed_part_of(number: int, found: Received) -> PlacedPart:
    """A part as it was received, where its file puts it."""
    box = Box(np.array(found.figures["min"]), np.array(found.figures["max"]))
    hull = Hull(found.hull) if found.hull is not None and len(found.hull) else None
    return PlacedPart(
        number, found.part, box, found.figures, found.digest, Transform.identity(), found.centre, hull=hull, origin=found.origin
    )
