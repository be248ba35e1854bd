"""OFF."""

from __future__ import annotations

import codecs
import re
from io import BufferedReader
from itertools import chain
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import Lines, counted_lists, first_columns, portions
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import single

FORMAT = "off"
ENDINGS = (".off",)

_HEAD = re.compile(rb"\s*(?:(?:ST)?C?N?OFF\b)?\s*(\d{1,12})\s+(\d{1,12})(?:\s+\d+)?[ \t]*\n")
_MOST_HEAD = 1 << 16


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be OFF."""
    return re.match(rb"\s*(ST)?C?N?OFF\b", head) is not None


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body; polygons are split into triangles, colours and normals passed over. The opening word may be missing.

    The libraries at hand read triangles only or fold concave polygons over, so the lines are taken apart here.
    """
    progress("reading text", 0, 0)
    with path.open("rb") as stream:
        pieces = portions(_without_mark(stream))
        first = next(pieces, b"")
        bare = re.sub(rb"#[^\n]*", b"", first[:_MOST_HEAD]) + first[_MOST_HEAD:]
        head = _HEAD.match(bare)
        if head is None:
            raise Damaged(path.name, "OFF", "its first words are not OFF and two counts")
        vertices, faces = int(head[1]), int(head[2])
        if not vertices or not faces:
            raise NothingInside(path.name)
        # The shortest vertex is three digits and their blanks, the shortest face four.
        if 6 * vertices + 8 * faces > path.stat().st_size + 8:
            raise Truncated(path.name, f"{vertices:,} vertices and {faces:,} faces", f"{path.stat().st_size:,} bytes")
        lines = Lines(chain([bare[head.end() :]], pieces))
        try:
            points = np.concatenate([np.zeros((0, 3)), *(first_columns(piece, 3) for piece in lines.take(vertices))])
            lists = [(np.zeros(0, dtype=np.int64),) * 2, *(counted_lists(piece) for piece in lines.take(faces))]
        except ValueError as error:
            raise Damaged(path.name, "OFF", "a line holds too few numbers or words that are none") from error
    sides, corners = (np.concatenate(column) for column in zip(*lists, strict=True))
    if len(points) < vertices or len(sides) < faces:
        present = f"{len(points):,} and {len(sides):,}"
        raise Truncated(path.name, f"{vertices:,} vertices and {faces:,} faces", present)
    if len(corners) == 0 or corners.min() < 0 or corners.max() >= vertices:
        raise Damaged(path.name, "OFF", "a face names a vertex that is not there")
    del lists
    triangles, _ = split_all(points, sides, corners)
    return single(path, FORMAT, points, triangles, options)


def _without_mark(stream: BufferedReader) -> BufferedReader:
    """The stream, past a byte-order mark."""
    if stream.peek(3)[:3] == codecs.BOM_UTF8:
        stream.read(3)
    return stream
