"""Values as plain data: what a worker answers is told by a fixed schema, and nothing in an answer is ever run.

A value is None, a truth, a number, words, bytes, an array of numbers, a tuple, list, set or table of values, an error of
`core.errors`, or a record of this program: a dataclass, named tuple or pydantic model that a module of `gullyrise` defines.
Words of JSON hold the tree; arrays and bytes stand beside it. Where a record comes back its fields are held against their
annotations, so that the window sees no value that its own code could not have made.
"""

from __future__ import annotations

import importlib
import json
import math
import re
from collections.abc import Iterable
from dataclasses import dataclass, fields, is_dataclass
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel

from gullyrise.core import errors
from gullyrise.core.errors import GullyriseError
from gullyrise.workers.schema import Fits, annotation, fits_of

_MODULE = re.compile(r"gullyrise\.(core|workers)(\.[a-z][a-z_0-9]*)+")
_CLASS = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")
_DTYPE = re.compile(r"[<|][biuf][1248]")
_MOST_SIDES = 6
_MOST_SENTENCE, _MOST_FIELDS, _FIELDS = 4000, 20, (str, int, float, bool)
_HOLDERS: dict[type, str] = {tuple: "t", list: "l", set: "s", frozenset: "f"}
_MADE_BY = {mark: kind for kind, mark in _HOLDERS.items()}
_PLAIN = frozenset({type(None), bool, int, float, str})


class NotData(ValueError):
    """Something that is no value in the sense above, or words that tell none."""


# --- from values to words -----------------------------------------------------------------------------------------------


def packed(value: Any) -> tuple[bytes, list[memoryview]]:
    """A value as (words, the bytes that stand beside them). Raises NotData."""
    packer = _Packer()
    tree = packer.tree(value)
    words = json.dumps([list(packer.kinds), tree], separators=(",", ":"))
    return words.encode("ascii"), packer.beside


class _Packer:
    def __init__(self) -> None:
        self.kinds: dict[str, int] = {}
        self.beside: list[memoryview] = []
        self._arrays: dict[int, tuple[np.ndarray, list[Any]]] = {}
        self._told: dict[int, tuple[Any, int]] = {}

    def tree(self, value: Any) -> Any:
        kind = type(value)
        if kind in _PLAIN:
            return value
        mark = _HOLDERS.get(kind)
        if mark is not None:
            return [mark, *(one if type(one) in _PLAIN else self.tree(one) for one in value)]
        if kind is dict:
            return ["d", *(self.tree(one) for pair in value.items() for one in pair)]
        if isinstance(value, np.ndarray):
            return self._array(value)
        if isinstance(value, np.generic):
            return self.tree(value.item())
        if kind is bytes:
            self.beside.append(memoryview(value))
            return ["b", len(self.beside) - 1]
        if isinstance(value, Path):
            return ["p", str(value)]
        if isinstance(value, GullyriseError):
            known = next(one for one in kind.__mro__ if getattr(errors, one.__name__, None) is one)
            return ["e", known.__name__, value.sentence, *(one for pair in value.fields.items() for one in pair)]
        return self._record(value, kind)

    def _array(self, value: np.ndarray) -> list[Any]:
        known = self._arrays.get(id(value))
        if known is None:
            plain = np.ascontiguousarray(value)
            if not _DTYPE.fullmatch(plain.dtype.str):
                raise NotData(f"an array of {plain.dtype}")
            told = ["a", len(self.beside), plain.dtype.str, *plain.shape]
            self.beside.append(plain.reshape(-1).view(np.uint8).data if plain.size else memoryview(b""))
            known = self._arrays[id(value)] = (value, told)
        return known[1]

    def _record(self, value: Any, kind: type) -> list[Any]:
        # What has an identity is told once; what is equal by its fields can be told twice.
        known = self._told.get(id(value))
        if known is not None:
            return ["=", known[1]]
        name = f"{kind.__module__}:{kind.__qualname__}"
        if isinstance(value, BaseModel):
            _checked_name(name)
            self.beside.append(memoryview(value.model_dump_json(by_alias=True).encode()))
            return ["m", self._kind(name), len(self.beside) - 1]
        shape = _shape(name)
        told = ["r", self._kind(name), *(self.tree(getattr(value, field)) for field in shape.names)]
        if shape.has_identity:
            self._told[id(value)] = (value, len(self._told))
        return told

    def _kind(self, name: str) -> int:
        return self.kinds.setdefault(name, len(self.kinds))


# --- from words to values -----------------------------------------------------------------------------------------------


def unpacked(words: bytes | memoryview, beside: list[memoryview]) -> Any:
    """The value that words tell. Arrays are read-only and lie where their bytes lie. Raises NotData, MemoryError."""
    try:
        kinds, tree = json.loads(bytes(words))
        if not all(isinstance(name, str) for name in kinds):
            raise NotData("kinds without names")
        return _Unpacker(kinds, beside).value(tree)
    except (NotData, MemoryError):
        raise
    except RecursionError:
        raise NotData("values in values without end") from None
    except Exception as error:  # Whatever words somebody thought out: they tell no value.
        raise NotData(f"{type(error).__name__}: {error}"[:300]) from error


class _Unpacker:
    def __init__(self, kinds: list[str], beside: list[memoryview]) -> None:
        self._kinds, self._beside = kinds, beside
        self._arrays: dict[int, np.ndarray] = {}
        self._told: list[Any] = []

    def value(self, tree: Any) -> Any:
        if type(tree) is not list:
            if type(tree) not in _PLAIN:
                raise NotData("a table of JSON")
            return tree
        mark, *rest = tree
        holder = _MADE_BY.get(mark)
        if holder is not None:
            return holder([one if type(one) in _PLAIN else self.value(one) for one in rest])
        if mark == "d":
            return {self.value(key): self.value(held) for key, held in zip(rest[::2], rest[1::2], strict=True)}
        if mark == "a":
            return self._array(*rest)
        if mark == "b":
            return bytes(self._bytes(*rest))
        if mark == "p":
            (place,) = rest
            return Path(place)
        if mark == "e":
            return _error(*rest)
        if mark == "=":
            (number,) = rest
            if number < 0:
                raise NotData("a record before all others")
            return self._told[number]
        if mark == "m":
            number, place = rest
            return _model(self._kinds[number]).model_validate_json(bytes(self._bytes(place)))
        if mark == "r":
            return self._record(*rest)
        raise NotData("an unknown mark")

    def _bytes(self, number: int) -> memoryview:
        if type(number) is not int or not 0 <= number < len(self._beside):
            raise NotData("bytes that are not there")
        return self._beside[number]

    def _array(self, number: int, dtype: str, *shape: int) -> np.ndarray:
        if not _DTYPE.fullmatch(dtype) or len(shape) > _MOST_SIDES or any(type(side) is not int or side < 0 for side in shape):
            raise NotData("an array that cannot be")
        known = self._arrays.get(number)
        if known is not None and known.dtype.str == dtype and known.shape == shape:
            return known
        data, kind = self._bytes(number), np.dtype(dtype)
        if math.prod(shape) * kind.itemsize != data.nbytes:
            raise NotData("an array of another length than its bytes")
        if kind.kind == "b" and data.nbytes and int(np.frombuffer(data, np.uint8).max()) > 1:
            raise NotData("truths that are neither")
        found = np.frombuffer(data, kind).reshape(shape) if data.nbytes else np.zeros(shape, kind)
        found.flags.writeable = False
        self._arrays[number] = found
        return found

    def _record(self, number: int, *rest: Any) -> Any:
        shape = _shape(self._kinds[number])
        held = [one if type(one) in _PLAIN else self.value(one) for one in rest]
        for name, test, value in zip(shape.names, shape.tests, held, strict=True):
            if not test(value):
                raise NotData(f"{shape.kind.__name__}.{name} cannot be {type(value).__name__}")
        made = shape.kind(**dict(zip(shape.names, held, strict=True)))
        whole = getattr(made, "is_whole", True)
        if not whole:
            raise NotData(f"a {shape.kind.__name__} that is not whole")
        if shape.has_identity:
            self._told.append(made)
        return made


@dataclass(frozen=True, slots=True)
class _Shape:
    """Of a kind of record.

    names, tests : of its fields, in order
    has_identity : two that are equal are still two
    """

    kind: Any
    names: tuple[str, ...]
    tests: tuple[Fits, ...]
    has_identity: bool


@cache
def _shape(name: str) -> _Shape:
    kind = _class(name)
    if is_dataclass(kind):
        own: Iterable[tuple[str, Any]] = [(one.name, one.type) for one in fields(kind) if one.init]
        has_identity = kind.__eq__ is object.__eq__
    elif issubclass(kind, tuple) and hasattr(kind, "_fields"):
        own = [(one, kind.__annotations__[one]) for one in kind._fields]
        has_identity = False
    else:
        raise NotData(f"{name} is no record")
    tests = tuple(fits_of(annotation(text, kind.__module__)) for _, text in own)
    return _Shape(kind, tuple(field for field, _ in own), tests, has_identity)


@cache
def _model(name: str) -> type[BaseModel]:
    kind = _class(name)
    if not issubclass(kind, BaseModel):
        raise NotData(f"{name} is no model")
    found: type[BaseModel] = kind
    return found


def _checked_name(name: str) -> tuple[str, str]:
    module, _, words = name.partition(":")
    if not _MODULE.fullmatch(module) or not _CLASS.fullmatch(words):
        raise NotData(f"{name[:80]} is no record of this program")
    return module, words


def _class(name: str) -> Any:
    """Of this program, and of the module that defines it: what a module only knows is not its own."""
    module, words = _checked_name(name)
    try:
        found = getattr(importlib.import_module(module), words)
    except (ImportError, AttributeError):
        raise NotData(f"{name[:80]} is not there") from None
    if not isinstance(found, type) or found.__module__ != module:
        raise NotData(f"{name[:80]} is no record of this program")
    return found


def _error(name: str, sentence: str, *fields: Any) -> GullyriseError:
    kind = getattr(errors, name, None) if _CLASS.fullmatch(name) else None
    if not (isinstance(kind, type) and issubclass(kind, GullyriseError)) or type(sentence) is not str:
        raise NotData("an unknown error")
    names, values = fields[::2], fields[1::2]
    sound = all(type(one) is str and one.isidentifier() for one in names) and all(type(one) in _FIELDS for one in values)
    if len(fields) > _MOST_FIELDS or len(names) != len(values) or not sound:
        raise NotData("an error with odd fields")
    plain = {name: one[:_MOST_SENTENCE] if type(one) is str else one for name, one in zip(names, values, strict=True)}
    return errors.rebuilt(kind, sentence[:_MOST_SENTENCE], plain)
