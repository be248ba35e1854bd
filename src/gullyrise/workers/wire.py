"""Values across a pipe with their arrays beside them: nothing large is copied while the interpreter's lock is held."""

from __future__ import annotations

import pickle
from multiprocessing.connection import Connection
from typing import Any


def send(pipe: Connection, value: Any) -> None:
    """Sends a value; its arrays go as raw bytes after it (pickle protocol 5, PEP 574). Blocks until it is taken."""
    buffers: list[pickle.PickleBuffer] = []
    words = pickle.dumps(value, protocol=5, buffer_callback=buffers.append)
    pipe.send_bytes(len(buffers).to_bytes(8, "little") + words)
    for buffer in buffers:
        pipe.send_bytes(buffer.raw())


def receive(pipe: Connection) -> Any:
    """The next value; waits for it. Its arrays are read-only. Raises EOFError where the other end is gone."""
    head = pipe.recv_bytes()
    count = int.from_bytes(head[:8], "little")
    buffers = [pipe.recv_bytes() for _ in range(count)]
    return pickle.loads(memoryview(head)[8:], buffers=buffers)
