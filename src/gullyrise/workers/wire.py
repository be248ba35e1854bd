"""Answers on their way from a worker to who asked: read as they come, never waited for, bounded before any of it is kept.

A frame is its number of words in bytes, how many pieces stand beside them and the length of each, then the words and the pieces.
What the window sends to a worker is pickled: a worker may trust the window, and never the other way round.
"""

from __future__ import annotations

import os
import pickle
import select
import struct
import time
from multiprocessing.connection import Connection
from typing import Any

import numpy as np

from gullyrise.workers.records import NotData, packed, unpacked

_HEAD = struct.Struct("<QQ")
_LENGTH = struct.Struct("<Q")
_MOST_WORDS, _MOST_BESIDE = 32 << 20, 1_000_000
_AT_ONCE = 1 << 20
_TURN = 0.05
"""Seconds for which one answer is read in a row, so that others have their turn."""


# --- at the worker's end, which may wait -----------------------------------------------------------------------------------


def answer(pipe: Connection, value: Any) -> None:
    """Sends an answer as data. Raises NotData for what is none, BrokenPipeError where nobody listens any more."""
    words, beside = packed(value)
    head = _HEAD.pack(len(words), len(beside)) + b"".join(_LENGTH.pack(one.nbytes) for one in beside)
    for piece in (memoryview(head), memoryview(words), *beside):
        left = piece
        while left.nbytes:
            left = left[os.write(pipe.fileno(), left) :]


def receive_work(pipe: Connection) -> Any:
    """What the window wants done. Raises EOFError where it is gone."""
    head = pipe.recv_bytes()
    buffers = [pipe.recv_bytes() for _ in range(int.from_bytes(head[:8], "little"))]
    return pickle.loads(memoryview(head)[8:], buffers=buffers)


# --- at the window's end, which never waits ---------------------------------------------------------------------------------


class Outgoing:
    """Work on its way to a worker, as `receive_work` takes it."""

    def __init__(self, value: Any) -> None:
        buffers: list[pickle.PickleBuffer] = []
        words = pickle.dumps(value, protocol=5, buffer_callback=buffers.append)
        self._left: list[memoryview] = []
        for piece in (memoryview(len(buffers).to_bytes(8, "little") + words), *(buffer.raw() for buffer in buffers)):
            # As a Connection frames what it sends.
            short = piece.nbytes <= 0x7FFFFFFF
            self._left.append(memoryview(struct.pack("!i", piece.nbytes) if short else struct.pack("!iQ", -1, piece.nbytes)))
            self._left.append(piece.cast("B") if piece.nbytes else memoryview(b""))

    @property
    def is_sent(self) -> bool:
        return not self._left

    def send(self, handle: int) -> bool:
        """Writes what the pipe takes; whether it took anything. Raises OSError where the other end is gone."""
        moved, until = False, time.monotonic() + _TURN
        while self._left and time.monotonic() < until:
            try:
                count = os.write(handle, self._left[0][:_AT_ONCE])
            except BlockingIOError:
                return moved
            moved = True
            self._left[0] = self._left[0][count:]
            while self._left and not self._left[0].nbytes:
                del self._left[0]
        return moved


class Incoming:
    """Answers from one pipe.

    most : bytes that one may have in all
    moved : when something came last, s on the monotonic clock
    """

    def __init__(self, handle: int, most: int) -> None:
        self._handle, self._most = handle, most
        self.moved = time.monotonic()
        self._begin()

    def _begin(self) -> None:
        self._head = bytearray(_HEAD.size)
        self._pieces: list[np.ndarray] = []
        self._stage = 0
        self._target = memoryview(self._head)
        self._at = 0

    @property
    def is_in_the_middle(self) -> bool:
        """Whether an answer has begun that has not ended."""
        return self._stage > 0 or self._target.nbytes < _HEAD.size

    def take(self) -> list[memoryview] | None:
        """The next answer that has come whole: its words and what stands beside them, for `told`. None where more is to come.

        Raises EOFError where the other end is gone, NotData for one out of all bounds, MemoryError, OSError.
        """
        until = time.monotonic() + _TURN
        while True:
            while not self._target.nbytes:
                if self._next():
                    found = [piece.data for piece in self._pieces]
                    self._begin()
                    return found
            try:
                count = os.readv(self._handle, [self._target[:_AT_ONCE]])
            except BlockingIOError:
                # What flows is worth a moment's patience: going round the whole loop for each portion costs more.
                if self._stage < 2 or time.monotonic() >= until or not _comes(self._handle):
                    return None
                continue
            if not count:
                raise EOFError
            self.moved = time.monotonic()
            self._target = self._target[count:]
            if self.moved >= until:
                return None

    def _next(self) -> bool:
        """What is to be read after what was; True where that was the last of an answer."""
        if self._stage == 0:
            words, count = _HEAD.unpack(self._head)
            if words > _MOST_WORDS or count > _MOST_BESIDE:
                raise NotData("an answer without bounds")
            self._words = words
            self._lengths = bytearray(count * _LENGTH.size)
            self._target = memoryview(self._lengths)
            self._stage = 1
        elif self._stage == 1:
            lengths = [self._words, *(one for (one,) in _LENGTH.iter_unpack(self._lengths))]
            if sum(lengths) > self._most:
                raise MemoryError
            self._pieces = [np.empty(length, np.uint8) for length in lengths]
            self._stage, self._at = 2, 0
            self._target = self._pieces[0].data
        else:
            self._at += 1
            if self._at == len(self._pieces):
                return True
            self._target = self._pieces[self._at].data
        return False


def _comes(handle: int) -> bool:
    poll = select.poll()
    poll.register(handle, select.POLLIN)
    return bool(poll.poll(2))


def told(pieces: list[memoryview]) -> Any:
    """The value of an answer that came whole. Raises NotData, MemoryError."""
    return unpacked(pieces[0], pieces[1:])
