"""AMF (ISO/ASTM 52915), plain or zipped: objects, volumes, constellations, unit, names, colours, metadata."""

from __future__ import annotations

from array import array
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO
from xml.parsers import expat
from zipfile import ZipFile

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, TooLarge, UnsafeContent
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.part import Colour, Part, Siblings
from gullyrise.core.progress import Progress
from gullyrise.core.reading.archives import checked_entries
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, MOST_TRIANGLES, ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh

FORMAT = "amf"
ENDINGS = (".amf",)

_UNITS = {
    "millimeter": "mm", "millimetre": "mm", "inch": "inch", "feet": "foot", "foot": "foot", "meter": "m", "metre": "m",
    "micron": "micron", "micrometer": "micron", "centimeter": "cm",
}  # fmt: skip
_PORTION = 1 << 20
_MOST_WORDS = 1 << 16
_CURVED = ("normal", "edge")
_AXES = {"x": 0, "y": 1, "z": 2}


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be AMF."""
    return b"<amf" in head.lower() and head.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] == b"<"


@dataclass(slots=True)
class _Volume:
    material: str = ""
    corners: array[int] = field(default_factory=lambda: array("q"))
    colour: list[float] | None = None


@dataclass(slots=True)
class _Object:
    name: str = ""
    points: array[float] = field(default_factory=lambda: array("d"))
    volumes: list[_Volume] = field(default_factory=list)
    colour: list[float] | None = None


@dataclass(slots=True)
class _Instance:
    of: str
    moves: dict[str, float] = field(default_factory=dict)

    def place(self) -> Transform:
        """Turned about X, Y and Z in that order, then moved (52915, constellations)."""
        at = Transform.identity()
        for number, turn in enumerate(("rx", "ry", "rz")):
            at = at.then(Transform.turned(np.eye(3)[number], self.moves.get(turn, 0.0)))
        return at.then(Transform.moved(np.array([self.moves.get(f"delta{axis}", 0.0) for axis in "xyz"])))


class _Document:
    """Takes the elements as they come; nothing of the text is kept but what is asked for."""

    def __init__(self, name: str) -> None:
        self._name = name
        self.unit: str | None = None
        self.objects: dict[str, _Object] = {}
        self.constellations: dict[str, list[_Instance]] = {}
        self.constellation_names: dict[str, str] = {}
        self.materials: dict[str, list[float] | None] = {}
        self.metadata: list[tuple[str, str]] = []
        self.curved = False
        self._stack: list[str] = []
        self._words: list[str] = []
        self._length = 0
        self._kind = ""
        self._object = _Object()
        self._volume = _Volume()
        self._material = ""
        self._constellation = ""
        self._colour = [0.8, 0.8, 0.8]
        self._vertex = [0.0, 0.0, 0.0]
        self._have = 0
        self._triangles = 0

    def start(self, tag: str, said: dict[str, str]) -> None:
        tag = tag.rpartition(":")[2]
        stack = self._stack
        stack.append(tag)
        if len(stack) > MOST_DEPTH:
            raise Damaged(self._name, "AMF", "its elements are nested without end")
        self._words.clear()
        self._length = 0
        if tag == "triangle" or tag == "coordinates":
            self._have = 0
        elif len(stack) == 1:
            if tag != "amf":
                raise Damaged(self._name, "AMF", f"its first element is {tag[:40]}, not amf")
            self.unit = said.get("unit", "millimeter").lower()
        elif tag == "object":
            self._object = self.objects[said.get("id", f"object {len(self.objects) + 1}")] = _Object()
        elif tag == "volume":
            self._volume = _Volume(said.get("materialid", ""))
            self._object.volumes.append(self._volume)
        elif tag == "material":
            self._material = said.get("id", "")
            self.materials[self._material] = None
        elif tag == "constellation":
            self._constellation = said.get("id", f"constellation {len(self.constellations) + 1}")
            self.constellations[self._constellation] = []
        elif tag == "instance":
            self.constellations.setdefault(self._constellation, []).append(_Instance(said.get("objectid", "")))
        elif tag == "metadata":
            self._kind = said.get("type", "")
        elif tag == "color":
            self._take_colour([0.8, 0.8, 0.8])
        elif tag in _CURVED:
            self.curved = True

    def _take_colour(self, colour: list[float]) -> None:
        parent = self._stack[-2] if len(self._stack) > 1 else ""
        if parent == "object":
            self._object.colour = colour
        elif parent == "volume":
            self._volume.colour = colour
        elif parent == "material":
            self.materials[self._material] = colour
        self._colour = colour

    def text(self, words: str) -> None:
        if self._length < _MOST_WORDS:
            self._words.append(words)
            self._length += len(words)

    def end(self, tag: str) -> None:
        tag = tag.rpartition(":")[2]
        stack = self._stack
        stack.pop()
        parent = stack[-1] if stack else ""
        if parent == "coordinates":
            if tag in _AXES:
                self._vertex[_AXES[tag]] = self._number(float)
                self._have += 1
        elif parent == "triangle":
            if tag in ("v1", "v2", "v3"):
                # The corners come in this order in every file that keeps to the standard.
                self._volume.corners.append(int(self._number(int)))
                self._have += 1
        elif tag == "coordinates":
            if self._have != 3:
                raise Damaged(self._name, "AMF", "a vertex has more or fewer than three coordinates")
            self._object.points.extend(self._vertex)
        elif parent == "color" and tag in ("r", "g", "b"):
            self._colour["rgb".index(tag)] = min(max(self._number(float), 0.0), 1.0)
        elif parent == "instance":
            self.constellations[self._constellation][-1].moves[tag] = self._number(float)
        elif tag == "metadata":
            self._metadata(parent, " ".join("".join(self._words).split()))
        if tag == "triangle":
            self._triangles += 1
            if self._have != 3:
                raise Damaged(self._name, "AMF", "a triangle has more or fewer than three corners")
            if self._triangles > MOST_TRIANGLES:
                raise TooLarge(self._name, f"more than {MOST_TRIANGLES:,} triangles", f"{MOST_TRIANGLES:,}")
        self._words.clear()

    def _number(self, kind: type[float] | type[int]) -> float:
        words = "".join(self._words)
        try:
            return kind(words)
        except ValueError:
            raise Damaged(self._name, "AMF", f"'{' '.join(words.split())[:20]}' stands where a number should be") from None

    def _metadata(self, parent: str, words: str) -> None:
        if parent == "amf" and len(self.metadata) < 200:
            self.metadata.append((self._kind[:80], words[:400]))
        elif self._kind.lower() == "name" and parent == "object":
            self._object.name = words
        elif self._kind.lower() == "name" and parent == "constellation":
            self.constellation_names[self._constellation] = words


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Objects are bodies (their volumes, where there are several), instances in constellations are copies."""
    document = _Document(path.name)
    parser = expat.ParserCreate()
    parser.buffer_text = True
    parser.StartElementHandler = document.start
    parser.EndElementHandler = document.end
    parser.CharacterDataHandler = document.text

    def refuse(*_: object) -> None:
        raise UnsafeContent(path.name, "it declares a document type, whose entities may unfold without end")

    parser.StartDoctypeDeclHandler = refuse
    done = 0
    with _opened(path) as (stream, size):
        try:
            while portion := stream.read(_PORTION):
                done += len(portion)
                progress("reading text", done, size)
                parser.Parse(portion, False)
            parser.Parse(b"", True)
        except expat.ExpatError as error:
            why = expat.errors.messages[error.code]
            raise Damaged(path.name, "AMF", f"its text breaks off or breaks the rules in line {error.lineno} ({why})") from error
    unit = _UNITS.get(document.unit or "")
    if unit is None:
        raise Damaged(path.name, "AMF", f"its unit '{(document.unit or '')[:40]}' is none")
    pieces = list(_pieces(path, document))
    if not pieces:
        raise NothingInside(path.name)
    notes = ("AMF: curved triangles are read as flat ones.",) if document.curved else ()
    return part_of(path, FORMAT, pieces, options, unit, notes, tuple(document.metadata))


@contextmanager
def _opened(path: Path) -> Iterator[tuple[BinaryIO, int]]:
    """The text and its length, out of its archive where it is zipped."""
    with path.open("rb") as stream:
        if stream.read(4) != b"PK\x03\x04":
            stream.seek(0)
            yield stream, path.stat().st_size
            return
    entries = [entry for entry in checked_entries(path, "AMF") if entry.filename.lower().endswith(".amf")]
    if not entries:
        raise Damaged(path.name, "AMF", "its archive holds no .amf entry")
    with ZipFile(path) as archive, archive.open(entries[0]) as inner:
        yield inner, entries[0].file_size  # type: ignore[misc]


def _pieces(path: Path, document: _Document) -> Iterator[Piece]:
    """Every placed body: roots are constellations that no other places, and objects that none does."""
    bodies = {id: list(_bodies(path, document, id, made)) for id, made in document.objects.items()}
    placed = {instance.of for inside in document.constellations.values() for instance in inside}
    siblings, count = Siblings(), 0
    waiting: list[tuple[str, Transform, tuple[str, ...]]] = [
        (id, Transform.identity(), ()) for id in [*document.constellations, *bodies] if id not in placed
    ]
    reached: set[str] = set()
    while waiting:
        id, place, trail = waiting.pop(0)
        reached.add(id)
        for name, mesh, colour in bodies.get(id, ()):
            count += 1
            if count > MOST_BODIES:
                raise TooLarge(path.name, "more placed bodies", f"{MOST_BODIES:,}")
            yield Piece(name, mesh, place, trail, colour)
        if id in document.constellations:
            if len(trail) > MOST_DEPTH or len(waiting) > MOST_BODIES:
                raise Damaged(path.name, "AMF", "its constellations are nested without end")
            here = siblings.below(trail, document.constellation_names.get(id) or f"constellation {id}")
            inside = document.constellations[id]
            waiting += [(instance.of, instance.place().then(place), here) for instance in inside]
    if not reached >= set(document.constellations):
        raise Damaged(path.name, "AMF", "its constellations contain one another")


def _bodies(path: Path, document: _Document, id: str, made: _Object) -> Iterator[tuple[str, Mesh, Colour | None]]:
    points = np.frombuffer(made.points, dtype=np.float64).reshape(-1, 3)
    name = made.name or f"object {id}"
    filled = [volume for volume in made.volumes if len(volume.corners)]
    for number, volume in enumerate(filled, 1):
        corners = np.frombuffer(volume.corners, dtype=np.int64).reshape(-1, 3)
        colour = volume.colour or document.materials.get(volume.material) or made.colour
        whole = name if len(filled) == 1 else f"{name}, volume {number}"
        yield whole, sound_mesh(path.name, "AMF", points, corners), None if colour is None else (colour[0], colour[1], colour[2])
