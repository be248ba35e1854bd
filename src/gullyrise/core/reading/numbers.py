"""Large files of text in portions of whole lines, and many numbers out of text at once."""

from __future__ import annotations

import re
import warnings
from collections.abc import Iterator
from io import BufferedIOBase
from typing import Any

import numpy as np
import simdjson
from numpy.typing import NDArray

from gullyrise.core.geometry.arrays import Ints

_PORTION = 1 << 20
_LONGEST_LINE = 64 << 20
_BLANK_LINES = re.compile(rb"\n[ \t\n]*\n")
_COMMAS = bytes.maketrans(b" \t\n", b",,,")


def numbers_in(text: bytes, kind: type[np.generic] = np.float64) -> NDArray[Any]:
    """The numbers of a text, parted by white space, in one flat array. Raises ValueError for a word that is none."""
    try:
        return _as_json(text, kind)
    except (ValueError, TypeError, RuntimeError):
        pass
    with warnings.catch_warnings():
        # The library gives what it has read up to a wrong word, with a warning that it means to make an error one day.
        warnings.simplefilter("error", DeprecationWarning)
        try:
            return np.fromstring(text, dtype=kind, sep=" ")
        except DeprecationWarning as error:
            raise ValueError("a word that is no number") from error


def _as_json(text: bytes, kind: type[np.generic]) -> NDArray[Any]:
    """The same where the numbers are written as JSON writes them, one blank or newline between any two, which a parser of JSON
    reads in a third of the time. Raises ValueError, TypeError or RuntimeError for any other text."""
    listed = b"[" + text.strip().translate(_COMMAS) + b"]"
    found: Any = simdjson.Parser().parse(listed)
    return np.frombuffer(found.as_buffer(of_type="i" if kind is np.int64 else "d"), dtype=kind)


def portions(stream: BufferedIOBase, size: int = _PORTION) -> Iterator[bytes]:
    """A file of text in pieces of whole lines, each line ended by one newline whatever the file ends its lines with.

    Raises ValueError for a line of more than 64 MB.
    """
    rest = b""
    while True:
        fresh = stream.read(size)
        if not fresh:
            break
        piece = rest + fresh
        if piece.endswith(b"\r"):
            # The newline that may belong to it comes with the next piece.
            piece, tail = piece[:-1], b"\r"
        else:
            tail = b""
        if b"\r" in piece:
            piece = piece.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        cut = piece.rfind(b"\n") + 1
        rest = piece[cut:] + tail
        if len(rest) > _LONGEST_LINE:
            raise ValueError("a line has no end")
        if cut:
            yield piece[:cut]
    if rest:
        yield rest.replace(b"\r", b"\n").rstrip(b"\n") + b"\n"


class Lines:
    """Lines that are neither blank nor comments, taken by number, out of portions."""

    def __init__(self, pieces: Iterator[bytes], comment: bytes = b"#") -> None:
        self._pieces = pieces
        self._comment = re.compile(re.escape(comment) + rb"[^\n]*")
        self._mark = comment
        self._rest = b""

    def take(self, count: int) -> Iterator[bytes]:
        """The next `count` lines in pieces; fewer where the file ends before."""
        while count > 0:
            piece = self._rest or self._next()
            if not piece:
                return
            lines = piece.count(b"\n")
            if lines <= count:
                self._rest = b""
            else:
                ends = np.flatnonzero(np.frombuffer(piece, dtype=np.uint8) == 10)
                cut = int(ends[count - 1]) + 1
                piece, self._rest = piece[:cut], piece[cut:]
            count -= min(lines, count)
            yield piece

    def _next(self) -> bytes:
        for piece in self._pieces:
            if self._mark in piece:
                piece = self._comment.sub(b"", piece)
            piece = piece.lstrip()
            data = np.frombuffer(piece, dtype=np.uint8)
            if ((data[1:] <= 32) & (data[:-1] == 10)).any():
                piece = _BLANK_LINES.sub(b"\n", piece)
            if piece:
                return piece
        return b""


def words_per_line(lines: bytes) -> Ints:
    """(n,) how many words each of n lines holds; the last line must be ended too."""
    data = np.frombuffer(lines, dtype=np.uint8)
    solid = data > 32
    begins = solid.copy()
    begins[1:] &= ~solid[:-1]
    starts, ends = np.flatnonzero(begins), np.flatnonzero(data == 10)
    each = len(starts) // max(len(ends), 1)
    # Most often all lines hold as many, which is seen without counting.
    if (
        each
        and len(starts) == each * len(ends)
        and (starts[each - 1 :: each] < ends).all()
        and (starts[::each][1:] > ends[:-1]).all()
    ):
        return np.full(len(ends), each, dtype=np.int64)
    return np.diff(np.searchsorted(starts, ends), prepend=0)


def first_columns(lines: bytes, columns: int) -> NDArray[np.float64]:
    """(n, columns) first numbers of n ended lines of text, whatever follows. Raises ValueError for a line that holds fewer."""
    words = words_per_line(lines)
    if not len(words):
        return np.zeros((0, columns))
    if (words < columns).any():
        raise ValueError("a line with too few numbers")
    if (words == words[0]).all():
        try:
            return np.ascontiguousarray(numbers_in(lines).reshape(len(words), -1)[:, :columns])
        except ValueError:
            # What follows the numbers may be words.
            pass
    rows = [[float(word) for word in line.split(None, columns)[:columns]] for line in lines.splitlines()]
    return np.array(rows, dtype=np.float64)


def counted_lists(lines: bytes) -> tuple[Ints, Ints]:
    """((n,) leading counts of n ended lines, the whole numbers that each counts one line after another); what follows is passed
    over. Raises ValueError for a line that holds fewer than it counts, or words that are no numbers."""
    words = words_per_line(lines)
    try:
        flat = numbers_in(lines, np.int64)
    except ValueError:
        flat = numbers_in(lines)
    if len(words) and (words == words[0]).all():
        table = flat.reshape(len(words), -1)
        most = int(table[0, 0])
        if 0 <= most < words[0] and (table[:, 0] == most).all():
            return np.full(len(words), most, dtype=np.int64), table[:, 1 : most + 1].reshape(-1).astype(np.int64)
    heads = np.cumsum(words) - words
    counts = flat[heads].astype(np.int64)
    if (counts < 0).any() or (words < counts + 1).any():
        raise ValueError("a line with too few numbers")
    within = np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)
    return counts, flat[np.repeat(heads + 1, counts) + within].astype(np.int64)
