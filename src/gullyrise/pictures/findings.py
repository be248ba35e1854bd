"""Pictures of what the checks found on a part, drawn in a worker process; and the part's chapter of a report."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import zip_longest
from pathlib import Path

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice
from PyQt6.QtGui import QImage

from gullyrise.core.checks.protocol import Finding, Neighbour, Outcome, Snapshot
from gullyrise.core.errors import GullyriseError, WriteError
from gullyrise.core.evidence.composing import compose
from gullyrise.core.evidence.room import Room
from gullyrise.core.machines.library import default_machine
from gullyrise.core.progress import Progress, silent
from gullyrise.core.report.album import Album, Drawn
from gullyrise.core.report.picture_form import picture_form
from gullyrise.core.report.report_model import Picture
from gullyrise.drawing.evidence_picture import RATIO, Shot, items_of, part_picture, picture
from gullyrise.drawing.palette import LIMESTONE
from gullyrise.pictures.at_hand import studio
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task

_LONGEST = 60
_OF_PART, _COARSE = (720, 540), (480, 360)
_UNSEEN = "No view was found in which this place is seen; it is marked through what hides it."


@dataclass(frozen=True, slots=True)
class Wish:
    """What is wanted of pictures. folder : into which they are written, empty for none;  stem : what their names begin with
    report : whether they come back for a report
    fine : so that they can be enlarged; those of a report of very many parts are as large as they are printed
    """

    folder: str
    stem: str
    report: bool
    fine: bool = True


@dataclass(frozen=True, slots=True, eq=False)
class Illustrate(Task):
    """Draws a picture of each finding: gives an Album.

    outcomes : with their colours
    beside : with each of them the other part that it is about, placed in the file's coordinates of this one, or None; none at all
        where every one is about this part alone
    """

    snapshot: Snapshot
    outcomes: tuple[Outcome, ...]
    wish: Wish
    beside: tuple[Neighbour | None, ...] = ()

    @property
    def title(self) -> str:
        return f"pictures of {self.snapshot.part.name}"

    def beforehand(self, progress: Progress) -> Illustrate:
        studio()
        return self

    def grants(self) -> Grants:
        return Grants((), (self.wish.folder,) if self.wish.folder else ())

    def run(self, progress: Progress) -> Album:
        return illustrated(self.snapshot, self.outcomes, self.wish, progress, self.beside)


@dataclass(frozen=True, slots=True, eq=False)
class IllustrateLot(Task):
    """Several parts in one process: gives their Albums, in their order. One that cannot be drawn gives none."""

    lot: tuple[Illustrate, ...]

    @property
    def title(self) -> str:
        return self.lot[0].title if len(self.lot) == 1 else f"pictures of {len(self.lot)} parts"

    def beforehand(self, progress: Progress) -> IllustrateLot:
        studio()
        return self

    def run(self, progress: Progress) -> tuple[Album | None, ...]:
        out: list[Album | None] = []
        for done, one in enumerate(self.lot):
            progress("drawing", done, len(self.lot))
            try:
                out.append(one.run(silent))
            except GullyriseError:
                out.append(None)
        return tuple(out)


def illustrated(
    snapshot: Snapshot, outcomes: tuple[Outcome, ...], wish: Wish, progress: Progress, beside: Sequence[Neighbour | None] = ()
) -> Album:
    """Draws them here. beside : see `Illustrate`. Raises WriteError where the folder takes no picture."""
    part, machine = snapshot.part, snapshot.machine or default_machine()
    total = sum(len(outcome.findings) for outcome in outcomes)
    room = Room.of_part(part, snapshot.placement, machine) if total else None
    back = snapshot.placement.inverse()
    done = 0
    rows: list[tuple[Drawn, ...]] = []
    for outcome, other in zip_longest(outcomes, beside):
        row: list[Drawn] = []
        items = items_of(part, snapshot.placement, LIMESTONE, 0, outcome.field) if outcome.findings else []
        stage = room
        if outcome.findings and room is not None and other is not None:
            place = other.placement.then(snapshot.placement)
            stage = room.beside(Room.of_part(other.part, place, machine, 1), about=0)
            items += items_of(other.part, place, LIMESTONE, 1, before=len(part.bodies))
        for finding in outcome.findings:
            progress("drawing", done, total)
            done += 1
            assert stage is not None
            here = finding.placed(snapshot.placement)
            view = compose(here, stage, tuple(machine.tool))
            shot = Shot(view, here, here.figure, title_of(finding, part.name))
            image = picture(studio(), items, machine, shot, ratio=RATIO if wish.fine else 1.0)
            data = png_of(image)
            form = None
            if wish.folder:
                name = f"{wish.stem}-{outcome.check}-{done}.png"
                _write(Path(wish.folder), name, data)
                form = picture_form(view, part, back, name)
            kept = Picture(data, f"{finding.what}: {here.figure}".rstrip(": ")) if wish.report else None
            row.append(Drawn(form, kept, "" if view.proof.holds else _UNSEEN))
        rows.append(tuple(row))
    whole = None
    if wish.report and part.bodies:
        shown = items_of(part, snapshot.placement, LIMESTONE)
        whole = Picture(
            png_of(part_picture(studio(), shown, machine, _OF_PART if wish.fine else _COARSE)),
            f"{part.name} from the front right",
        )
    return Album(tuple(rows), whole)


def title_of(finding: Finding, part: str) -> str:
    """What stands over its picture."""
    return finding.what if finding.names(part) else f"{finding.what} · {part}"


def png_of(image: QImage) -> bytes:
    """The bytes of a PNG, the same for the same picture."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    # Eight bits a colour and no clear ones pack best; palettes of few colours better still, but lose shades.
    image.convertToFormat(QImage.Format.Format_RGB888).save(buffer, "PNG")
    return bytes(data.data())


def _write(folder: Path, name: str, data: bytes) -> None:
    try:
        (folder / name).write_bytes(data)
    except OSError as error:
        raise WriteError(f"{name} cannot be written into {folder} ({error.strerror}); choose another folder.") from None


def stem_of(words: str) -> str:
    """Words as a file's name may hold them."""
    return re.sub(r"[^\w-]+", "-", words).strip("-_")[:_LONGEST].strip("-_") or "part"


def stems_of(files: list[str]) -> list[str]:
    """What the names of each file's pictures begin with: like the file's, and no two alike."""
    out: list[str] = []
    for name in files:
        stem = stem_of(Path(name).stem)
        # Letters that differ in case alone are one file in many a folder.
        taken = {one.casefold() for one in out}
        tries = (stem, *(f"{stem}-{number}" for number in range(2, len(files) + 2)))
        out.append(next(one for one in tries if one.casefold() not in taken))
    return out


def without_fields(outcomes: tuple[Outcome, ...]) -> tuple[Outcome, ...]:
    """Without what is large and only for pictures."""
    return tuple(replace(one, field=None) for one in outcomes)
