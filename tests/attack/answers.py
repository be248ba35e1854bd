"""Answers of readers garbled, stalled, oversized or thought out by somebody: each costs one piece of work and nothing else."""

from __future__ import annotations

import json
import os
import pickle
import random
import socket
import struct
from collections.abc import Iterator
from contextlib import suppress
from multiprocessing.connection import Connection
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import numpy as np

from gullyrise.core.progress import silent
from gullyrise.core.reading import ReadOptions
from gullyrise.workers.process import Bounds, Report, Worker
from gullyrise.workers.records import packed
from gullyrise.workers.wire import Incoming, Outgoing
from gullyrise.workers.work import Read, Received


class Harmful:
    """Runs something where it is unpickled."""

    def __reduce__(self) -> Any:
        return os.mkdir, ("/tmp/gullyrise-was-here",)


def framed(words: bytes, beside: list[bytes] | list[memoryview]) -> bytes:
    pieces = [bytes(one) for one in beside]
    head = struct.pack("<QQ", len(words), len(pieces)) + b"".join(struct.pack("<Q", len(one)) for one in pieces)
    return head + words + b"".join(pieces)


def sound_answer(path: Path) -> bytes:
    words, beside = packed(("done", Read(str(path), ReadOptions(), 300.0).run(silent)))
    return framed(words, beside)


def _thought_out() -> Iterator[bytes]:
    """What somebody would send who knows the form."""

    def said(tree: Any, kinds: Any = (), beside: tuple[bytes, ...] = ()) -> bytes:
        return framed(json.dumps([list(kinds), ["t", "done", tree]]).encode(), list(beside))

    deep: Any = 1
    for _ in range(900):
        deep = ["t", deep]
    array = ["a", 0, "<f8", 3]
    yield said(["r", 0, 1], ["os:system"])
    yield said(["r", 0, "true"], ["subprocess:Popen"])
    yield said(["m", 0, 0], ["pydantic.main:BaseModel"], (b"{}",))
    yield said(["r", 0], ["gullyrise.desktop.shell.main_window:Window"])
    yield said(["r", 0, 1], ["gullyrise.core.job.store:Path"])
    yield said(["r", 0, "/etc"], ["gullyrise.core.job.store:Store"])
    yield said(["r", 0, ["e", "GullyriseError", "x"]], ["gullyrise.core.errors:GullyriseError"])
    yield said(["r", 0, 1, 2], ["gullyrise.core.geometry.mesh:Mesh"])
    yield said(["r", 0, ["a", 0, "<f8", 1, 3], ["a", 1, "<i4", 1, 3]], ["gullyrise.core.geometry.mesh:Mesh"],
               (np.zeros(3).tobytes(), np.array([5, 6, 7], np.int32).tobytes()))  # fmt: skip
    yield said(["r", 0, ["a", 0, "<f8", 2**40, 3], ["a", 1, "<i4", 0, 3]], ["gullyrise.core.geometry.mesh:Mesh"], (b"", b""))
    yield said(["a", 0, "|O", 1], (), (b"\0" * 8,))
    yield said(["a", 0, "<f8", -1], (), (b"\0" * 8,))
    yield said(["a", 7, "<f8", 1], (), (b"\0" * 8,))
    yield said(["a", 0, "|b1", 3], (), (b"\7\7\7",))
    yield said(array, (), (b"\0" * 7,))
    yield said(["=", 0])
    yield said(["=", -1])
    yield said(["d", ["l", 1], 2])
    yield said(["d", 1])
    yield said(["e", "Exception", "x"])
    yield said(["e", "__builtins__", "x"])
    yield said(["e", "ReadError", 7])
    yield said(["b", 2**70])
    yield said(["z"])
    yield said([])
    yield said({"a": 1})
    yield said(deep)
    yield said(["s", ["l"]])
    yield said(None)
    yield said("done")
    yield said(["t"] + [1] * 1000)
    yield framed(b"[" * 200_000, [])
    yield framed(b"9" * 100_000, [])
    yield framed(b"[[], [" + b"9" * 5_000 + b"]]", [])
    yield framed(b"\xff\xfe", [])
    yield framed(b"", [])
    yield framed(b"null", [])
    yield framed(b'[[],["t","progress",["t",7,8,9]]]', [])
    yield framed(b'[[],["t","fault",["l"]]]', [])
    yield framed(b'[[],["t","error","no error"]]', [])
    yield framed(b'[[],["t","memory",null,null]]', [])
    yield framed(pickle.dumps(Harmful()), [])
    yield pickle.dumps(Harmful(), protocol=5)
    yield struct.pack("<QQ", 2**63, 1)
    yield struct.pack("<QQ", 4, 2**63)
    yield struct.pack("<QQ", 4, 2) + struct.pack("<QQ", 2**62, 2**62) + b"null"
    yield struct.pack("<QQ", 4, 1) + struct.pack("<Q", 2**40) + b"null"


def answers(sound: bytes, count: int, seed: int) -> Iterator[tuple[bytes, bool]]:
    """(bytes of an answer, whether the worker stays alive without another word)."""
    chance = random.Random(seed)
    thought_out = list(_thought_out())
    yield sound, False
    for number in range(count):
        if number < len(thought_out):
            yield thought_out[number], False
            continue
        kind = chance.randrange(5)
        spoilt = bytearray(sound)
        if kind == 0:
            yield bytes(spoilt[: chance.randrange(len(spoilt))]), False
        elif kind == 1:
            for _ in range(chance.randrange(1, 20)):
                spoilt[chance.randrange(min(len(spoilt), 6000))] ^= 1 << chance.randrange(8)
            yield bytes(spoilt), False
        elif kind == 2:
            start = chance.randrange(len(spoilt))
            del spoilt[start : start + chance.randrange(1, 200)]
            yield bytes(spoilt), False
        elif kind == 3:
            yield bytes(spoilt[: chance.randrange(1, len(spoilt))]), True
        else:
            flood = framed(b'[[],["t","progress",["t","reading",1,2]]]', [])
            yield flood * chance.randrange(1, 3000) + sound, False


def heard(data: bytes, stays: bool, path: Path) -> Report:
    """What the window makes of an answer. Raises whatever it raises, AssertionError where nothing comes."""
    mine, theirs = socket.socketpair()
    worker = Worker(Read(str(path), ReadOptions(), 300.0), "fork", Bounds(1 << 30, 1.0))
    worker._process = SimpleNamespace(pid=1, exitcode=None, kill=lambda: None, join=lambda _=None: None)
    worker.pipe = Connection(mine.detach())
    os.set_blocking(worker.pipe.fileno(), False)
    worker._started = worker._sent = 0.0 if stays else 1e18
    worker._outgoing = Outgoing(None)
    worker._incoming = Incoming(worker.pipe.fileno(), 1 << 30)
    theirs.setblocking(False)
    left = memoryview(data)
    for _ in range(200_000):
        with suppress(BlockingIOError, BrokenPipeError):
            left = left[theirs.send(left[:65536]) :] if left.nbytes else left
        if not left.nbytes and not stays:
            with suppress(OSError):
                theirs.shutdown(socket.SHUT_WR)
        report = worker.hear()
        if report is not None and report.kind != "progress":
            theirs.close()
            return report
    raise AssertionError("nothing comes of it")


def answer_fault(data: bytes, stays: bool, path: Path) -> str:
    """What is wrong with how an answer is taken; empty where nothing is."""
    try:
        report = heard(data, stays, path)
    except BaseException as error:
        return f"{type(error).__name__}: {error}"[:300]
    if Path("/tmp/gullyrise-was-here").exists():
        return "code in an answer was run"
    if report.kind == "done":
        whole = isinstance(report.value, Received) and all(body.mesh.is_whole for body in report.value.part.bodies)
        return "" if whole else "an answer that is none"
    said = str(report.value)
    if "probably damaged" in said:
        return f"a file is accused: {said}"
    return "" if said.endswith(".") and "\n" not in said and len(said) < 600 else f"no sentence: {said[:200]!r}"
