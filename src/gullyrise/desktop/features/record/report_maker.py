"""Makes the report of the job: draws what is not drawn yet in workers, lays the page out, and knows how far it is. No widgets."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Neighbour, Outcome
from gullyrise.core.checks.registry import checks
from gullyrise.core.errors import GullyriseError
from gullyrise.core.intake.repairs import BY_ID
from gullyrise.core.job import Job, PlacedPart
from gullyrise.core.job.between import Two, told_of
from gullyrise.core.job.origins import FileOrigin, Repairs, Split, Stretch, Unit
from gullyrise.core.job.store import digest_of
from gullyrise.core.report.album import Album
from gullyrise.core.report.cells import as_csv
from gullyrise.core.report.contract import as_json, check_document
from gullyrise.core.report.dimensions import DIMENSION_HEADS, rows_of
from gullyrise.core.report.findings_table import FINDING_HEADS, Cell, finding_rows, workbook
from gullyrise.core.report.job_report import ReportWish, Told, dimensions_told, distinct, each_once, report_of
from gullyrise.core.report.pack import Packed, archive
from gullyrise.core.report.part_chapter import limit_words
from gullyrise.core.report.report_model import MANY
from gullyrise.core.safe_files import ordinary, read_within
from gullyrise.desktop.features.record import text
from gullyrise.desktop.state.task_runner import RunningTask
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.upkeep.mishaps import tell
from gullyrise.desktop.viewport.aside import Aside
from gullyrise.pictures.findings import Illustrate, IllustrateLot, Wish, stem_of
from gullyrise.pictures.paper import page_of
from gullyrise.pictures.pdf import LayOut
from gullyrise.workers.batch import cores

_PORTION = 1 << 20
_MOST_KEPT, _MOST_PART, _LOT = 400, 2 << 30, 20

_Lean = dict[tuple[int, ...], tuple[tuple[object, ...], Outcome, Neighbour | None]]
"""By the ids of what an outcome is told from: that itself, held so that the ids stay its own; the outcome; the other part."""


@dataclass(frozen=True, slots=True, eq=False)
class Made:
    """A report that is there. html, pdf : the same page"""

    title: str
    html: str
    pdf: bytes
    told: tuple[Told, ...]
    albums: dict[int, Album]
    job: Job


class ReportMaker(QObject):
    """changed : it is further, done, or given up;  made : the report, None while there is none;  trouble : why there is none
    done, total : pictures drawn, of how many parts
    """

    changed = pyqtSignal()

    def __init__(self, parent: QObject, model: Workbench, aside: Aside) -> None:
        super().__init__(parent)
        self._model, self._aside = model, aside
        model.cancelled.connect(self.cancel)
        self.made: Made | None = None
        self.trouble = ""
        self.done, self.total = 0, 0
        self._running: list[RunningTask] = []
        self._run, self._open, self._writing = 0, 0, False
        self._lean: _Lean = {}
        self._albums: dict[int, tuple[tuple[object, ...], Album]] = {}
        self._laid: TemporaryDirectory[str] | None = None

    @property
    def busy(self) -> bool:
        """Whether one is being made."""
        # Work that somebody cancelled ends without a word.
        return self._writing or any(not task.ended for task in self._running)

    def make(self, wish: ReportWish) -> None:
        """Makes it anew; pictures of parts that did not change are kept from before."""
        self.cancel()
        self._run += 1
        run, job = self._run, self._model.job
        told = self.told(wish)
        self.made, self.trouble = None, ""
        self.done, self.total = 0, len(told)
        albums: dict[int, Album] = {}
        wanted: list[tuple[Told, tuple[object, ...]]] = []
        for one in told:
            stands = (one.placed.part, one.placed.placement, job.machine, *(found for found in one.outcomes if found.findings))
            kept = self._albums.get(one.placed.id)
            if kept is not None and len(kept[0]) == len(stands) and all(a is b for a, b in zip(kept[0], stands, strict=True)):
                albums[one.placed.id] = kept[1]
            else:
                wanted.append((one, stands))
        self.done = self.total - len(wanted)

        lots = _dealt(wanted)

        def drawn(lot: list[tuple[Told, tuple[object, ...]]]) -> Callable[[tuple[Album | None, ...]], None]:
            def take(found: tuple[Album | None, ...]) -> None:
                if run != self._run:
                    return
                for (one, stands), album in zip(lot, found, strict=True):
                    if album is not None:
                        albums[one.placed.id] = album
                        self._albums[one.placed.id] = (stands, album)
                while len(self._albums) > _MOST_KEPT:
                    del self._albums[next(iter(self._albums))]
                self._some_done(len(lot), run, job, told, albums, wish)

            return take

        def lost(lot: list[tuple[Told, tuple[object, ...]]]) -> Callable[[GullyriseError], None]:
            def tell(error: GullyriseError) -> None:
                # Parts without their pictures are told of all the same.
                if run == self._run:
                    self.trouble = str(error)
                    self._some_done(len(lot), run, job, told, albums, wish)

            return tell

        self._open = len(lots)
        for lot in lots:
            work = tuple(
                Illustrate(job.snapshot(one.placed), one.outcomes, Wish("", "", True, len(told) < MANY), one.beside)
                for one, _ in lot
            )
            self._running.append(self._model.task(IllustrateLot(work), drawn(lot), lost(lot)))
        if not wanted:
            self._write(run, job, told, albums, wish)
        self.changed.emit()

    def cancel(self) -> None:
        """Gives up what is being made."""
        self._run += 1
        for task in self._running:
            self._model.recall(task)
        self._running.clear()
        self._writing = False
        self._let_go()
        self.changed.emit()

    def close(self) -> None:
        """Leaves nothing behind."""
        self._let_go()

    def told(self, wish: ReportWish) -> list[Told]:
        """What there is to tell of the job's parts now."""
        before, self._lean = self._lean, {}
        return [self._told(placed, alike, before) for placed, alike in distinct(self._model.job, wish)]

    def _told(self, placed: PlacedPart, alike: tuple[PlacedPart, ...], before: _Lean) -> Told:
        found: list[Outcome] = []
        for name, check in self._model.document.active_checks():
            outcomes = self._model.results.outcomes_of(placed, name)
            if outcomes is None or any(one.first_look for one in outcomes):
                found.append(Outcome(check.ROW.id, placed.name, "not-run", text.NOT_JUDGED_YET, None, {}, (), "", None))
            else:
                found += [self._leaner(before, one, None, alike)[0] for one in outcomes]
        beside: list[Neighbour | None] = [None] * len(found)
        first: list[int | None] = [None] * len(found)
        numbers = {one.id for one in alike}
        # What lies between parts is judged apart from them, and no report may pass over it.
        between = self._model.between
        for two, outcome in between.pairs(alike):
            told, other = self._leaner(before, outcome, two, alike)
            found.append(told)
            beside.append(other)
            first.append(None if two is None or two[0].id in numbers else two[0].id)
        if between.is_waiting(alike):
            found.append(Outcome("clearances", placed.name, "not-run", text.NOT_JUDGED_YET, None, {}, (), "", None))
        return Told(placed, alike, tuple(found), repairs=tuple(_repairs(placed)), beside=tuple(beside), first=tuple(first))

    def _leaner(
        self, before: _Lean, outcome: Outcome, two: Two | None, alike: tuple[PlacedPart, ...]
    ) -> tuple[Outcome, Neighbour | None]:
        """An outcome without what a verdict could be given from anew, which is large and no picture wants; the same one for as
        long as it is made of the same, so that its pictures are kept. two : that it is about, where it is about two"""
        made_of = (outcome, *alike) if two is None else (outcome, *alike, *two)
        key = tuple(map(id, made_of))
        known = before.get(key)
        if known is None:
            told, other = (outcome, None) if two is None else told_of(two, outcome, alike)
            known = (made_of, told if told.evidence is None else replace(told, evidence=None), other)
        self._lean[key] = known
        return known[1], known[2]

    def _some_done(self, many: int, run: int, job: Job, told: list[Told], albums: dict[int, Album], wish: ReportWish) -> None:
        self.done += many
        self._open -= 1
        if not self._open:
            self._running.clear()
            self._write(run, job, told, albums, wish)
        self.changed.emit()

    def _write(self, run: int, job: Job, told: list[Told], albums: dict[int, Album], wish: ReportWish) -> None:
        title, names = self._model.document.title, [name for name, _ in self._model.document.active_checks()]
        self._laid = TemporaryDirectory(prefix="gullyrise-")
        folder = self._laid.name
        shown = {} if "findings" in wish.without else albums

        def page() -> tuple[str, tuple[Told, ...]]:
            known = tuple(replace(one, sha256=_sha256(one.placed)) for one in told)
            return page_of(report_of(job, title, list(known), shown, wish, names)), known

        def written() -> tuple[str, tuple[Told, ...]] | None:
            try:
                return page()
            except Exception as error:  # The window goes on without a report.
                tell(error)
                return None

        def lay_out(found: tuple[str, tuple[Told, ...]] | None) -> None:
            if run != self._run:
                return
            self._writing = False
            if found is None:
                self.trouble = text.NOT_MADE
                self.changed.emit()
                return
            html, known = found

            def take(pdf: bytes) -> None:
                if run == self._run:
                    self._let_go()
                    self._running.clear()
                    self.made = Made(title, html, pdf, known, albums, job)
                    self.changed.emit()

            def lost(error: GullyriseError) -> None:
                if run == self._run:
                    self._let_go()
                    self._running.clear()
                    self.trouble = str(error)
                    self.changed.emit()

            self._running.append(self._model.task(LayOut(html, folder), take, lost))

        self._writing = True
        self._aside.ask(written, lay_out)

    def _let_go(self) -> None:
        if self._laid is not None:
            self._laid.cleanup()
            self._laid = None


def _dealt(wanted: list[tuple[Told, tuple[object, ...]]]) -> list[list[tuple[Told, tuple[object, ...]]]]:
    """Lots for a process each, which takes a while to begin: about as much to draw in each, few enough that cores share them and
    that it is told how far they are."""
    lots = min(len(wanted), max(cores(), len(wanted) // _LOT))
    heavy = sorted(wanted, key=lambda one: -sum(len(outcome.findings) + 1 for outcome in one[0].outcomes))
    out: list[list[tuple[Told, tuple[object, ...]]]] = [[] for _ in range(lots)]
    for place, one in enumerate(heavy):
        # There and back again, so that no lot gets the heaviest of every round.
        turn = place % (2 * lots)
        out[turn if turn < lots else 2 * lots - 1 - turn].append(one)
    return out


def _repairs(placed: PlacedPart) -> list[str]:
    """What was done to its shape since it was read, in the order of time."""
    out: list[str] = []
    for step in placed.steps:
        if isinstance(step, Repairs):
            out += [BY_ID[word].title for word in step.mends]
        elif isinstance(step, Unit):
            out.append(text.READ_AS.format(step.unit))
        elif isinstance(step, Stretch):
            out.append(text.STRETCHED)
        elif isinstance(step, Split):
            out.append(text.SPLIT)
    return out


def _sha256(placed: PlacedPart) -> str:
    """Of its file's bytes, where the file that was read is still there; empty where it is not."""
    origin = placed.origin
    if not isinstance(origin, FileOrigin) or not origin.place:
        return ""
    path = Path(origin.place)
    try:
        if digest_of(path) != origin.file.digest:
            return ""
        found = hashlib.sha256()
        with ordinary(path) as stream:
            while portion := stream.read(_PORTION):
                found.update(portion)
    except OSError:
        return ""
    return found.hexdigest()


# --- what goes out of the window ---------------------------------------------------------------------------------------


def findings_of(made_of: Iterable[Told], job: Job) -> list[dict[str, Cell]]:
    """A row each finding of all parts that are told of, one between two of them with the first."""
    rows: list[dict[str, Cell]] = []
    known = checks()
    for one, own in each_once(made_of):
        placed = one.placed

        def notes(outcome: Outcome, placed: PlacedPart = placed) -> list[str]:
            found = [job.acceptance_of(placed, outcome.check, finding) for finding in outcome.findings]
            return [accepted.note if accepted is not None else "" for accepted in found]

        outcomes = [
            (outcome, limit_words(known[outcome.check].ROW if outcome.check in known else None, job.limits), notes(outcome))
            for outcome in own
        ]
        rows += finding_rows(placed.name, Path(placed.part.file).name, outcomes)
    return rows


def dimensions_of(job: Job) -> list[dict[str, Cell]]:
    """A row each kept dimension."""
    # A list of parts is one cell.
    return [{**row, "parts": ", ".join(row["parts"])} for row in rows_of(dimensions_told(job))]


def workbook_of(told: Iterable[Told], job: Job) -> bytes:
    """Findings and dimensions, a sheet each."""
    sheets = (("Findings", FINDING_HEADS, findings_of(told, job)), ("Dimensions", DIMENSION_HEADS, dimensions_of(job)))
    return workbook(sheets)


def packed(made: Made, parts: Iterable[PlacedPart]) -> list[Packed]:
    """All that goes back to the designer. parts : whose files go along"""
    out = [
        Packed("report.pdf", made.pdf, text.THE_REPORT),
        Packed("report.html", made.html.encode("utf-8"), text.THE_REPORT_ON_SCREEN),
        Packed("findings.json", _as_json(made).encode(), text.FINDINGS_JSON),
        Packed("findings.csv", as_csv(FINDING_HEADS, findings_of(made.told, made.job)).encode("utf-8-sig"), text.FINDINGS_CSV),
        Packed("findings.xlsx", workbook_of(made.told, made.job), text.FINDINGS_XLSX),
    ]
    if made.job.dimensions:
        table = as_csv(DIMENSION_HEADS, dimensions_of(made.job))
        out.append(Packed("dimensions.csv", table.encode("utf-8-sig"), text.DIMENSIONS_CSV))
    for one in made.told:
        album = made.albums.get(one.placed.id)
        if album is None:
            continue
        stem, number = stem_of(one.placed.name), 0
        for outcome, row in zip(one.outcomes, album.findings, strict=True):
            for drawn in row:
                number += 1
                if drawn.picture is not None:
                    name = f"pictures/{stem}-{outcome.check}-{number}.png"
                    out.append(Packed(name, drawn.picture.data, drawn.picture.alt))
    for placed in parts:
        origin = placed.origin
        if isinstance(origin, FileOrigin) and origin.place:
            data = read_within(Path(origin.place), _MOST_PART)
            out.append(Packed(f"parts/{Path(origin.place).name}", data, text.PART_FILE))
    return out


def archive_of(made: Made, parts: Iterable[PlacedPart]) -> bytes:
    """The same as the bytes of a zip. Raises OSError for a part's file that cannot be read."""
    return archive(packed(made, parts))


def _as_json(made: Made) -> str:
    # Whoever it is sent to has no use for where it lay on this machine.
    figures = [{**one.placed.figures, "file": Path(one.placed.part.file).name} for one in made.told]
    outcomes = [outcome for _, own in each_once(made.told) for outcome in own]
    return as_json(check_document(made.job.machine, made.job.limits, figures, outcomes, [])) + "\n"
