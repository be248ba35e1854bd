"""Members of a zip archive whose end is lost, found by their own heads one after another (APPNOTE 6.3, local file headers)."""

from __future__ import annotations

import struct
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import IO

from gullyrise.core.reading.archives import MOST_ENTRIES, MOST_RATIO, MOST_UNPACKED

_LOCAL = struct.Struct("<4sHHHHHIIIHH")
_PORTION = 1 << 20
_ROOM = 64 << 20
_LATER = 8
"""The flag of a member whose length stands after it, and is not known from its head."""


@dataclass(slots=True)
class _Left:
    """Bytes that may still be unpacked from one file, however many members it pretends to have."""

    bytes: int


class Member:
    """One member.

    start : where its bytes begin in the file
    is_whole : whether all of it came out, once it has been unpacked
    """

    def __init__(self, stream: IO[bytes], name: str, head: tuple[int, int, int, int], start: int, left: _Left) -> None:
        self.name, self.start = name, start
        self._stream, self._left = stream, left
        self._method, self._crc, self._packed, self._unpacked = head
        self.is_whole = False

    def portions(self, most: int | None) -> Iterator[bytes]:
        """What it unpacks to, never more than its head says, nor than `most` bytes."""
        inflate = zlib.decompressobj(-15) if self._method == zipfile.ZIP_DEFLATED else None
        if inflate is None and self._method != zipfile.ZIP_STORED:
            return
        bound = min(self._unpacked, self._left.bytes, self._unpacked if most is None else most)
        sum_, out, unread = 0, 0, self._packed
        self._stream.seek(self.start)
        waiting = b""
        while True:
            if not waiting and unread:
                waiting = self._stream.read(min(_PORTION, unread))
                if not waiting:
                    return
                unread -= len(waiting)
            try:
                data = inflate.decompress(waiting, _PORTION) if inflate is not None else waiting
            except zlib.error:
                return
            waiting = inflate.unconsumed_tail if inflate is not None else b""
            if not data and not waiting and not unread:
                break
            if out + len(data) > bound:
                return
            out += len(data)
            self._left.bytes -= len(data)
            sum_ = zlib.crc32(data, sum_)
            yield data
        self.is_whole = sum_ == self._crc and out == self._unpacked


def members(stream: IO[bytes], size: int) -> Iterator[Member]:
    """Those that stand whole in the first `size` bytes of an archive, in order, within the bounds that hold for archives."""
    left = _Left(min(MOST_UNPACKED, max(MOST_RATIO * size, _ROOM)))
    place = 0
    for _ in range(MOST_ENTRIES):
        stream.seek(place)
        head = stream.read(_LOCAL.size)
        if len(head) < _LOCAL.size:
            return
        mark, _, flags, method, _, _, crc, packed, unpacked, name_length, more = _LOCAL.unpack(head)
        if mark != b"PK\x03\x04" or flags & _LATER:
            return
        name = stream.read(name_length).decode("utf-8", errors="replace")
        start = place + _LOCAL.size + name_length + more
        place = start + packed
        if place > size:
            return
        yield Member(stream, name, (method, crc, packed, unpacked), start, left)
