"""3MF by way of lib3mf: unit, objects, components, build transforms."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any
from zipfile import ZipFile, ZipInfo

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, TooLarge
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.part import Colour, Part, Siblings
from gullyrise.core.progress import Progress
from gullyrise.core.reading.archives import checked_entries, refuse_entities
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh

FORMAT = "3mf"
ENDINGS = (".3mf",)
WANTS = ("lib3mf",)

# Namespaces of the consortium's extensions that leave the triangles as they are.
_EXTENSIONS = ("material", "production", "slice", "trianglesets")
_UNITS = {"MicroMeter": "micron", "MilliMeter": "mm", "CentiMeter": "cm", "Inch": "inch", "Foot": "foot", "Meter": "m"}


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be 3MF."""
    return head[:4] == b"PK\x03\x04"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Objects are bodies, every placement of one a copy. Raises the reader's own reason for a model that it refuses."""
    import lib3mf
    from lib3mf import get_wrapper

    entries = checked_entries(path, "3MF")
    for entry in entries:
        if entry.filename.lower().endswith((".model", ".rels", ".xml")):
            refuse_entities(path, entry)
        if entry.filename.lower().endswith(".model"):
            _refuse_unknown_extensions(path, entry)
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    try:
        reader.ReadFromFile(str(path))
    except lib3mf.ELib3MFException as error:
        raise Damaged(path.name, "3MF", _plain(str(error))) from error
    notes = tuple(_warnings(reader))
    walk = _Walk(path, model)
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        place = _transform(item.GetObjectTransform()) if item.HasObjectTransform() else Transform.identity()
        walk.take(item.GetObjectResource(), place, ())
        progress("reading bodies", len(walk.pieces), 0)
    if not walk.pieces:
        raise NothingInside(path.name, "no build items with triangles")
    return part_of(path, FORMAT, walk.pieces, options, _UNITS[model.GetUnit().name], notes, _metadata(model))


def _refuse_unknown_extensions(path: Path, entry: ZipInfo) -> None:
    """Raises Damaged for a model that needs an extension which changes its shape and is not read here (3MF Core 1.3, 2.3.1);
    the library passes over what it does not know."""
    with ZipFile(path) as archive, archive.open(entry) as stream:
        head = stream.read(1 << 16).decode("utf-8", errors="replace")
    root = re.search(r"<(?:\w+:)?model\b[^>]*>", head)
    required = re.search(r"\brequiredextensions\s*=\s*[\"']([^\"']*)", root[0]) if root is not None else None
    for prefix in required[1].split() if root is not None and required is not None else []:
        space = re.search(rf"\bxmlns:{re.escape(prefix)}\s*=\s*[\"']([^\"']*)", root[0]) if root is not None else None
        name = space[1] if space is not None else prefix
        if not any(f"/{known}/" in name for known in _EXTENSIONS):
            raise Damaged(path.name, "3MF", f"it needs the extension {name[:100]}, which is not read")


def _plain(words: str) -> str:
    return words.rsplit(":", 1)[-1].strip().rstrip(")")[:160] or "the library refuses it"


def _warnings(reader: Any) -> list[str]:
    return [f"3MF: {reader.GetWarning(number)[1]}" for number in range(min(reader.GetWarningCount(), 20))]


def _transform(given: Any) -> Transform:
    """3MF writes row vectors: its 4x3 fields are the transpose of ours."""
    matrix = np.eye(4)
    fields = np.array([[given.Fields[row][column] for column in range(3)] for row in range(4)], dtype=np.float64)
    matrix[:3, :] = fields.T
    return Transform(matrix)


class _Walk:
    """Gathers the meshes below build items as placed pieces; each mesh and colour is asked for once."""

    def __init__(self, path: Path, model: Any) -> None:
        self._path, self._model = path, model
        self._meshes: dict[int, tuple[Mesh, Colour | None]] = {}
        self._siblings = Siblings()
        self.pieces: list[Piece] = []

    def take(self, resource: Any, place: Transform, trail: tuple[str, ...]) -> None:
        if len(trail) > MOST_DEPTH:
            raise Damaged(self._path.name, "3MF", "its components are nested without end")
        number = resource.GetUniqueResourceID()
        name = resource.GetName() or f"object {resource.GetResourceID()}"
        if resource.IsMeshObject():
            if number not in self._meshes:
                found = self._model.GetMeshObjectByID(number)
                self._meshes[number] = _mesh(self._path, found), self._colour(found)
            mesh, colour = self._meshes[number]
            self.pieces.append(Piece(name, mesh, place, trail, colour))
            if len(self.pieces) > MOST_BODIES:
                raise TooLarge(self._path.name, "more placed bodies", f"{MOST_BODIES:,}")
            return
        components = self._model.GetComponentsObjectByID(number)
        here = self._siblings.below(trail, name)
        for index in range(components.GetComponentCount()):
            component = components.GetComponent(index)
            inner = _transform(component.GetTransform()) if component.HasTransform() else Transform.identity()
            self.take(component.GetObjectResource(), inner.then(place), here)

    def _colour(self, mesh: Any) -> Colour | None:
        """The colour of the whole object, by its base material or colour group (3MF Materials 1.2, 4 and 5)."""
        import lib3mf

        group, of, has = mesh.GetObjectLevelProperty()
        if not has:
            return None
        try:
            if self._model.GetPropertyTypeByID(group) == lib3mf.PropertyType.BaseMaterial:
                found = self._model.GetBaseMaterialGroupByID(group).GetDisplayColor(of)
            elif self._model.GetPropertyTypeByID(group) == lib3mf.PropertyType.Colors:
                found = self._model.GetColorGroupByID(group).GetColor(of)
            else:
                return None
        except lib3mf.ELib3MFException:
            return None
        return found.Red / 255, found.Green / 255, found.Blue / 255


def _metadata(model: Any) -> tuple[tuple[str, str], ...]:
    group = model.GetMetaDataGroup()
    found = (group.GetMetaData(number) for number in range(min(group.GetMetaDataCount(), 200)))
    return tuple((one.GetName()[:80], " ".join(one.GetValue().split())[:400]) for one in found)


def _mesh(path: Path, found: Any) -> Mesh:
    """Arrays straight out of the library's buffers: its lists hold views of one ctypes array, the base of each."""
    vertices, faces = found.GetVertices(), found.GetTriangleIndices()
    if not len(vertices) or not len(faces):
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    points = np.frombuffer(vertices[0]._b_base_, dtype=np.float32).reshape(-1, 3)
    corners = np.frombuffer(faces[0]._b_base_, dtype=np.uint32).reshape(-1, 3)
    return sound_mesh(path.name, "3MF", points, corners.astype(np.int64))
