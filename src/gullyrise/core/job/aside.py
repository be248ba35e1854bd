"""Arrays of parts that are only there to be brought back by undo: laid aside on disk, and mapped from there.

The file has no name any more once it is mapped: its room is given back with the last array that lies in it, however that goes.
"""

from __future__ import annotations

import mmap
import os
import tempfile
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import Any

import numpy as np

_LEAST = 1 << 12
"""Bytes of an array from which on it is worth a place on disk."""
_ALIGN = 64


def arrays_in(value: Any, seen: set[int] | None = None) -> Iterator[tuple[Any, str, np.ndarray]]:
    """(record, field, array) of every array of some size in frozen records, each record once."""
    seen = set() if seen is None else seen
    if id(value) in seen:
        return
    if isinstance(value, tuple):
        for one in value:
            yield from arrays_in(one, seen)
    elif is_dataclass(value) and not isinstance(value, type):
        seen.add(id(value))
        for field in fields(value):
            held = getattr(value, field.name, None)
            if isinstance(held, np.ndarray):
                if held.nbytes >= _LEAST:
                    yield value, field.name, held
            elif not isinstance(held, (str, bytes, int, float, type(None))):
                yield from arrays_in(held, seen)


def is_mapped(array: np.ndarray) -> bool:
    """Whether an array lies on disk."""
    base: Any = array
    while isinstance(base, np.ndarray):
        base = base.base
    return isinstance(base.obj if isinstance(base, memoryview) else base, mmap.mmap)


def lay_aside(value: Any, folder: Path) -> int:
    """Puts the arrays of a frozen value on disk: how many bytes. They are the same to whoever reads them. Raises OSError, all
    then being as it was."""
    found = [one for one in arrays_in(value) if not is_mapped(one[2])]
    if not found:
        return 0
    folder.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=folder)
    try:
        os.unlink(name)  # noqa: PTH108 : it is known by its handle from here on
        places, end = [], 0
        for _, _, array in found:
            os.lseek(handle, end, os.SEEK_SET)
            left = memoryview(np.ascontiguousarray(array).reshape(-1).view(np.uint8).data)
            places.append(end)
            end += -(-array.nbytes // _ALIGN) * _ALIGN
            while left.nbytes:
                left = left[os.write(handle, left) :]
        os.ftruncate(handle, end)
        held = mmap.mmap(handle, end, prot=mmap.PROT_READ)
    finally:
        os.close(handle)
    for (record, field, array), place in zip(found, places, strict=True):
        mapped = np.frombuffer(held, array.dtype, array.size, place).reshape(array.shape)
        object.__setattr__(record, field, mapped)
        _forget(record)
    return end


def bring_back(value: Any) -> None:
    """Takes the arrays of a frozen value into memory again, before they are worked with."""
    for record, field, array in arrays_in(value):
        if is_mapped(array):
            fresh = array.copy()
            fresh.flags.writeable = False
            object.__setattr__(record, field, fresh)


def _forget(record: Any) -> None:
    """What a record had worked out of its arrays is worked out again when it is wanted."""
    kept = getattr(record, "_kept", None)
    if isinstance(kept, dict):
        kept.clear()
