"""Whether a value is what an annotation says: the schema of what workers answer is that of the program's own types."""

from __future__ import annotations

import builtins
import sys
import types
import typing
from collections.abc import Callable
from dataclasses import is_dataclass
from functools import cache
from typing import Any, Literal, Union, get_args, get_origin

import numpy as np

Fits = Callable[[Any], bool]
_KIND_OF = {np.bool_: "b", np.floating: "f", np.integer: "iu", np.number: "iuf", np.generic: "biuf"}


def annotation(text: Any, module: str) -> Any:
    """The type that an annotation of a module means."""
    if not isinstance(text, str):
        return text
    known = vars(sys.modules[module])
    # The words come from this program's own source, never from an answer.
    return eval(text, known, _Names(known))


class Unseen(type):
    """The kind of a fixture shape for a type that only type checkers see: it is known by its name."""


class _Names(dict[str, Any]):
    """Stands before a module's names, and gives a fixture shape for what neither it nor Python has."""

    def __init__(self, known: dict[str, Any]) -> None:
        super().__init__()
        self._known = known

    def __missing__(self, name: str) -> Any:
        if name in self._known or hasattr(builtins, name):
            raise KeyError(name)
        return Unseen(name, (), {})


def fits_of(hint: Any) -> Fits:
    """A test of values. What cannot be told of a value without running it, such as a function's, is let through as it cannot come
    from an answer."""
    try:
        return _made(hint)
    except TypeError:
        return _make(hint)


@cache
def _made(hint: Any) -> Fits:
    return _make(hint)


def _make(hint: Any) -> Fits:
    origin, args = get_origin(hint), get_args(hint)
    if hint is None or hint is type(None):
        return lambda value: value is None
    if hint is float:
        return lambda value: type(value) in (float, int)
    if hint in (int, bool, str, bytes):
        return lambda value: type(value) is hint
    if origin is typing.Annotated:
        return fits_of(args[0])
    if origin is Literal:
        return lambda value: any(type(value) is type(one) and value == one for one in args)
    if origin in (Union, types.UnionType):
        tests = [fits_of(one) for one in args]
        return lambda value: any(test(value) for test in tests)
    if origin is tuple:
        return _tuple(args)
    if origin in (list, set, frozenset) and args:
        test, kind = fits_of(args[0]), origin
        return lambda value: type(value) is kind and all(map(test, value))
    if origin is dict and args:
        key, held = fits_of(args[0]), fits_of(args[1])
        return lambda value: type(value) is dict and all(key(one) and held(two) for one, two in value.items())
    if origin is np.ndarray:
        return _array(args)
    if isinstance(hint, Unseen):
        # Of other words than classes, such as names for arrays, nothing is known here.
        return lambda value: not is_dataclass(value) or type(value).__name__ == hint.__name__
    bare = origin or hint
    if isinstance(bare, type) and not getattr(bare, "_is_protocol", False) and bare not in (object, Any):
        return lambda value: isinstance(value, bare)
    return lambda value: True


def _tuple(args: tuple[Any, ...]) -> Fits:
    if len(args) == 2 and args[1] is Ellipsis:
        test = fits_of(args[0])
        return lambda value: type(value) is tuple and all(map(test, value))
    tests = [fits_of(one) for one in args]
    return lambda value: (
        type(value) is tuple and len(value) == len(tests) and all(test(one) for test, one in zip(tests, value, strict=True))
    )


def _array(args: tuple[Any, ...]) -> Fits:
    (kind,) = get_args(args[1]) or (np.generic,)
    if not isinstance(kind, type):
        kind = np.generic
    letters = next((words for base, words in _KIND_OF.items() if issubclass(kind, base)), "biuf")
    return lambda value: isinstance(value, np.ndarray) and value.dtype.kind in letters
