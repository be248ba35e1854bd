"""The one table of actions, a line each; keys, cards and menus are made from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, Literal, TypeVar

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

Under = Literal["part", "face", "bench"]
C = TypeVar("C")


@dataclass(frozen=True, slots=True)
class Action:
    """id : dotted;  keys : `V F` for a two-stroke, else a key sequence as Qt writes it, before any remapping
    owner, run : what it does to the one instance of a class;  on : under what a right click offers it
    let_go : for an action that lasts while its key is held, what ends it
    """

    id: str
    label: str
    keys: tuple[str, ...]
    needs: tuple[Need, ...]
    owner: type
    run: Callable[[Any], object]
    on: tuple[Under, ...] = ()
    let_go: Callable[[Any], object] | None = None

    @property
    def group(self) -> str:
        """The first word of the id, under which the key sheet lists it."""
        return self.id.partition(".")[0]


_ACTIONS: dict[str, Action] = {}


class ActionsOn(Generic[C]):
    """Files actions that run on the one instance of a class that is served, see ActionRunner."""

    def __init__(self, owner: type[C]) -> None:
        self._owner = owner

    def __call__(
        self, id: str, label: str, *keys: str, do: Callable[[C], object], needs: Need | tuple[Need, ...] = (),
        on: tuple[Under, ...] = (), let_go: Callable[[C], object] | None = None,
    ) -> None:  # fmt: skip
        """Raises RuntimeError for an id or key that is taken."""
        if id in _ACTIONS:
            raise RuntimeError(f"two actions have the id {id}")
        taken = {key: other.id for other in _ACTIONS.values() for key in other.keys}
        for key in keys:
            if key in taken:
                raise RuntimeError(f"{key} is the key of {taken[key]} and of {id}")
        wants = needs if isinstance(needs, tuple) else (needs,)
        _ACTIONS[id] = Action(id, label, keys, wants, self._owner, do, on, let_go)


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
