"""The one table of actions. A decorator files a function and returns it unchanged; keys, cards and menus are made from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from gullyrise.desktop.commands.needs import Need

FAMILIES = {
    "V": "View",
    "D": "Display",
    "B": "Bodies",
    "C": "Cut",
    "M": "Measure",
    "P": "Place",
    "K": "Check",
    "R": "Record",
}
"""Family keys and their names; a family key and a second key make a two-stroke."""

Run = Callable[[Any], None]
"""Takes the controller that it is typed by."""
Under = Literal["part", "face", "bench"]
F = TypeVar("F", bound=Callable[..., Any])


@dataclass(frozen=True, slots=True)
class Action:
    """id : dotted;  keys : `V F` for a two-stroke, else a key sequence as Qt writes it, before any remapping
    on : under what a right click offers it
    let_go : for an action that lasts while its key is held, what ends it
    """

    id: str
    label: str
    keys: tuple[str, ...]
    needs: tuple[Need, ...]
    run: Run
    on: tuple[Under, ...] = ()
    let_go: Run | None = None

    @property
    def group(self) -> str:
        """The first word of the id, under which the key sheet lists it."""
        return self.id.partition(".")[0]


def owner_of(run: Run) -> str:
    """The name of the class whose instance an action runs on, by which its only parameter is typed."""
    (owner,) = (kind for name, kind in run.__annotations__.items() if name != "return")
    return str(owner)


_ACTIONS: dict[str, Action] = {}


def action(
    id: str, label: str, *keys: str, needs: Need | tuple[Need, ...] = (), on: tuple[Under, ...] = (), let_go: Run | None = None
) -> Callable[[F], F]:
    """Files the decorated function under an id. Raises RuntimeError for an id or key that is taken."""

    def file(function: F) -> F:
        if id in _ACTIONS:
            raise RuntimeError(f"two actions have the id {id}")
        taken = {key: other.id for other in _ACTIONS.values() for key in other.keys}
        for key in keys:
            if key in taken:
                raise RuntimeError(f"{key} is the key of {taken[key]} and of {id}")
        _ACTIONS[id] = Action(id, label, keys, needs if isinstance(needs, tuple) else (needs,), function, on, let_go)
        return function

    return file


def all_actions() -> dict[str, Action]:
    """Every action by id, group by group, of the features that have been imported."""
    return {entry.id: entry for entry in sorted(_ACTIONS.values(), key=lambda entry: entry.group)}


def found_by_words(words: str) -> list[Action]:
    """Actions whose label, family or id holds every word, best first: labels that begin with the words, then word beginnings."""
    asked = words.casefold().split()
    scored = []
    for entry in all_actions().values():
        label = entry.label.casefold()
        text = f"{label} {entry.id.replace('.', ' ').replace('-', ' ')}"
        if not all(word in text for word in asked):
            continue
        beginnings = sum(any(part.startswith(word) for part in label.split()) for word in asked)
        scored.append((not label.startswith(words.casefold().strip()), -beginnings, len(label), entry.label, entry))
    return [row[-1] for row in sorted(scored, key=lambda row: row[:-1])]
