"""The one table of actions. A decorator files a function and returns it unchanged; keys, cards and menus are made from it."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, TypeVar

import gullyrise.desktop.actions as package

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window

FAMILIES = {"V": "View", "D": "Display", "B": "Bodies", "C": "Cut", "K": "Check", "P": "Place", "R": "Record"}
"""Family keys and their names; a family key and a second key make a two-stroke."""

Run = Callable[["Window"], None]
F = TypeVar("F", bound=Callable[..., Any])


@dataclass(frozen=True, slots=True)
class Action:
    """id : dotted;  keys : `V F` for a two-stroke, else a key sequence as Qt writes it;  needs : `part` or nothing."""

    id: str
    label: str
    keys: tuple[str, ...]
    needs: str
    run: Run

    @property
    def two_stroke(self) -> tuple[str, str] | None:
        """(family, second) where the first of the keys is a two-stroke."""
        for keys in self.keys:
            first, _, second = keys.partition(" ")
            if second and first in FAMILIES:
                return first, second
        return None

    @property
    def key_words(self) -> str:
        return "  ".join(self.keys)


_ACTIONS: dict[str, Action] = {}


def action(id: str, label: str, *keys: str, needs: str = "") -> Callable[[F], F]:
    """Files the decorated function under an id. Raises RuntimeError for an id or key that is taken."""

    def file(function: F) -> F:
        if id in _ACTIONS:
            raise RuntimeError(f"two actions have the id {id}")
        taken = {key: other.id for other in _ACTIONS.values() for key in other.keys}
        for key in keys:
            if key in taken:
                raise RuntimeError(f"{key} is the key of {taken[key]} and of {id}")
        _ACTIONS[id] = Action(id, label, keys, needs, function)
        return function

    return file


def all_actions() -> dict[str, Action]:
    """Every action by id, found by walking this package."""
    for module in pkgutil.iter_modules(package.__path__):
        if module.name != "registry":
            importlib.import_module(f"{package.__name__}.{module.name}")
    return _ACTIONS
