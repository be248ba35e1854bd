"""OFF."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import first_columns, numbers_in
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import single

FORMAT = "off"
ENDINGS = (".off",)

_COUNTS = re.compile(r"\s*(?:(?:ST)?C?N?OFF\b)?\s*(\d{1,12})\s+(\d{1,12})(?:\s+\d+)?[ \t]*\r?\n")


def sniff(head: bytes) -> bool:
    return re.match(rb"\s*(ST)?C?N?OFF\b", head) is not None


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body; polygons are split into triangles, colours and normals passed over. The opening word may be missing.

    The libraries at hand read triangles only or fold concave polygons over, so the lines are taken apart here.
    """
    progress("reading text", 0, 0)
    text = path.read_text("utf-8-sig", errors="replace")
    if "#" in text:
        text = re.sub(r"#[^\n]*", "", text)
    head = _COUNTS.match(text)
    if head is None:
        raise Damaged(path.name, "OFF", "its first words are not OFF and two counts")
    vertices, faces = int(head[1]), int(head[2])
    if not vertices or not faces:
        raise NothingInside(path.name)
    lines = [line for line in text[head.end() :].splitlines() if line and not line.isspace()]
    if len(lines) < vertices + faces:
        raise Truncated(path.name, f"{vertices:,} vertices and {faces:,} faces", f"{len(lines):,} lines")
    try:
        points = first_columns(lines[:vertices], 3)
        polygons = [line.split() for line in lines[vertices : vertices + faces]]
        sides = np.array([int(words[0]) for words in polygons], dtype=np.int64)
        named = [word for words, count in zip(polygons, sides.tolist(), strict=True) for word in words[1 : count + 1]]
        corners = numbers_in(" ".join(named), np.int64)
    except ValueError as error:
        raise Damaged(path.name, "OFF", "a line holds too few numbers or words that are none") from error
    if len(corners) != sides.sum() or len(corners) == 0 or corners.min() < 0 or corners.max() >= vertices:
        raise Damaged(path.name, "OFF", "a face names a vertex that is not there")
    triangles, _ = split_all(points, sides, corners)
    return single(path, FORMAT, points, triangles, options)
