"""What a report says, as plain values: words and numbers as they are read, pictures as bytes."""

from __future__ import annotations

from dataclasses import dataclass, field

from gullyrise.core.checks.protocol import Verdict

Row = tuple[str, str]
"""(what, how much), as they are read."""


MANY = 60
"""Parts of a report from which on it is told of them as closely as it can be read."""


@dataclass(frozen=True, slots=True)
class Picture:
    """data : PNG;  alt : what it shows, for whoever cannot see it"""

    data: bytes = field(repr=False)
    alt: str


@dataclass(frozen=True, slots=True)
class FindingBox:
    """One finding.

    number : in its part;  number_words : value with its unit and uncertainty;  limit : that it was held against
    where : its place in the file's coordinates
    picture : its evidence with where on the part that is, None where none could be drawn;  unseen : why it shows no place
    accepted : the note of whoever accepted it, empty where nobody did
    """

    number: int
    verdict: Verdict
    what: str
    number_words: str
    limit: str
    where: str
    area: str
    remedy: str
    picture: Picture | None
    unseen: str = ""
    accepted: str = ""


@dataclass(frozen=True, slots=True)
class CheckPart:
    """What one check says of one subject. more : how many findings are counted and not shown"""

    id: str
    title: str
    subject: str
    verdict: Verdict
    why: str
    worst: str
    limit: str
    findings: tuple[FindingBox, ...]
    method: str
    sampling: str
    uncertainty: str


@dataclass(frozen=True, slots=True)
class BodyRow:
    name: str
    count: int
    kind: str
    size: str
    volume: str
    mass: str
    triangles: str
    closed: bool


@dataclass(frozen=True, slots=True)
class PartChapter:
    """One part.

    picture : of all of it;  sha256 : of its file's bytes, empty where they are not at hand
    facts : what it is;  faults : of its mesh, (count, what);  repairs : done to it, in the order of time
    doubt : why its unit looks wrong, empty where it does not;  notes : of its file, and of people
    """

    name: str
    file: str
    sha256: str
    quantity: int
    verdict: Verdict
    picture: Picture | None
    facts: tuple[Row, ...]
    bodies: tuple[BodyRow, ...]
    doubt: str
    faults: tuple[Row, ...]
    repairs: tuple[str, ...]
    checks: tuple[CheckPart, ...]
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class LimitLine:
    """name : as people call it;  source : where it came from"""

    name: str
    value: str
    source: str


@dataclass(frozen=True, slots=True)
class DimensionLine:
    name: str
    parts: str
    what: str
    value: str
    uncertainty: str
    tolerance: str
    verdict: Verdict | None
    stale: bool


@dataclass(frozen=True, slots=True)
class SectionPart:
    """A cut that was kept. drawing : its flat profile as SVG, without anything from outside;  rows : its figures"""

    caption: str
    picture: Picture | None
    drawing: str
    rows: tuple[Row, ...]


@dataclass(frozen=True, slots=True)
class RecordPart:
    """Something of the record, in the order of time. when : as it is read, empty where nobody kept it"""

    kind: str
    caption: str
    words: str
    when: str
    picture: Picture | None = None


@dataclass(frozen=True, slots=True)
class PartsTable:
    """The parts list: its titles, its rows in words, and which columns are numbers."""

    titles: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    numeric: frozenset[int] = frozenset()


@dataclass(frozen=True, slots=True)
class Report:
    """A whole report.

    machine : its name;  process : what it does;  envelope : in words
    date : as it is read;  prepared_by, prepared_for : as the settings have them, empty where they say nothing
    missing : files that could not be used, (file, why)
    """

    title: str
    machine: str
    process: str
    envelope: str
    limits: tuple[LimitLine, ...]
    units: str
    date: str
    version: str
    verdict: Verdict
    parts: tuple[PartChapter, ...]
    missing: tuple[Row, ...] = ()
    prepared_by: str = ""
    prepared_for: str = ""
    dimensions: tuple[DimensionLine, ...] = ()
    sections: tuple[SectionPart, ...] = ()
    record: tuple[RecordPart, ...] = ()
    parts_table: PartsTable | None = None
    paper: str = "A4"

    @property
    def flows(self) -> bool:
        """Whether parts follow one another on a page: a page of its own for each of very many would be half empty."""
        return len(self.parts) >= MANY
