"""The one table of actions, a line each; keys, cards and menus are made from it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Generic, Literal, TypeVar

from gullyrise.desktop.commands.needs import Need
from gullyrise.desktop.commands.synonyms import SYNONYMS

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

JOB = "J"
CARDS = {JOB: "Job", **FAMILIES}
"""The cards of the family bar by their letters: that of the job, and one a family. Every action stands on one of them."""

RECENT = "job.recent-"
"""How the ids of those begin that open recent jobs."""
Under = Literal["part", "face", "bench"]
C = TypeVar("C")


@dataclass(frozen=True, slots=True)
class Action:
    """id : dotted;  keys : `V F` for a two-stroke, else a key sequence as Qt writes it, before any remapping
    owner, run : what it does to the one instance of a class;  on : under what a right click offers it
    card : the letter of the card on which it stands;  also : further words by which people look for it
    let_go : for an action that lasts while its key is held, what ends it
    """

    id: str
    label: str
    keys: tuple[str, ...]
    needs: tuple[Need, ...]
    owner: type
    run: Callable[[Any], object]
    card: str
    also: str = ""
    on: tuple[Under, ...] = ()
    let_go: Callable[[Any], object] | None = None

    @property
    def group(self) -> str:
        """The first word of the id, under which the key sheet lists it."""
        return self.id.partition(".")[0]


_ACTIONS: dict[str, Action] = {}


class ActionsOn(Generic[C]):
    """Files actions that run on the one instance of a class that is served, see ActionRunner."""

    def __init__(self, owner: type[C], card: str = "") -> None:
        """card : on which those stand that have no two-stroke"""
        self._owner, self._card = owner, card

    def __call__(
        self, id: str, label: str, *keys: str, do: Callable[[C], object], needs: Need | tuple[Need, ...] = (),
        on: tuple[Under, ...] = (), let_go: Callable[[C], object] | None = None,
    ) -> None:  # fmt: skip
        """Raises RuntimeError for an id or key that is taken, and for an action that no card would have."""
        if id in _ACTIONS:
            raise RuntimeError(f"two actions have the id {id}")
        taken = {key: other.id for other in _ACTIONS.values() for key in other.keys}
        for key in keys:
            if key in taken:
                raise RuntimeError(f"{key} is the key of {taken[key]} and of {id}")
        card = next((key[0] for key in keys if key[1:2] == " "), self._card)
        if card not in CARDS:
            raise RuntimeError(f"the action {id} stands on no card")
        wants = needs if isinstance(needs, tuple) else (needs,)
        _ACTIONS[id] = Action(id, label, keys, wants, self._owner, do, card, SYNONYMS.get(id, ""), on, let_go)


def all_actions() -> dict[str, Action]:
    """Every action by id, group by group, of the features that have been imported."""
    return {entry.id: entry for entry in sorted(_ACTIONS.values(), key=lambda entry: entry.group)}


def on_card(letter: str) -> list[Action]:
    """The actions of one card of the family bar: those that a card is named after first, and on that of the job help last."""
    found = [entry for entry in all_actions().values() if entry.card == letter]
    own = CARDS[letter].lower()
    return sorted(found, key=lambda entry: (entry.group == "help", entry.group != own))


def found_by_words(words: str, among: Iterable[Action] | None = None) -> list[Action]:
    """Actions that every word fits, best first. A word fits the beginning of a word of the label best, then one of the words that
    people bring, then the family and id; what is found within a word only comes last.

    among : those that may be found; all where none are given
    """
    asked = _words(words)
    scored = []
    for place, entry in enumerate(all_actions().values() if among is None else among):
        costs = [_cost(word, entry) for word in asked]
        if None not in costs:
            # The words of a label count as a whole: what says just this comes before what says more.
            spare = len(_words(entry.label)) - len(asked)
            scored.append((sum(cost or 0.0 for cost in costs), spare, place, entry))
    return [row[-1] for row in sorted(scored, key=lambda row: row[:-1])]


@lru_cache(4096)
def _words(text: str) -> tuple[str, ...]:
    """Kept: for every letter that is typed, those of all actions are asked again."""
    return tuple(re.findall(r"\w+", text.casefold()))


@lru_cache(4096)
def _folded(text: str) -> str:
    return text.casefold()


def _cost(word: str, entry: Action) -> float | None:
    """How ill a word fits an action; None where it does not. Of the further words the first fit best."""
    label, also = _words(entry.label), _words(entry.also)
    family = f"{CARDS[entry.card]} {entry.id}"
    if word not in _folded(f"{entry.label} {entry.also} {family}"):
        return None
    other = _words(family)
    if word == entry.id.rpartition(".")[2]:
        return -0.1
    ways = ((0.0, True, label), (0.5, True, also), (1.0, False, label), (2.0, False, also), (3.0, False, other))
    for cost, whole, known in ways:
        at = next((at for at, one in enumerate(known) if (one == word if whole else one.startswith(word))), None)
        if at is not None:
            # The first word of a label is what the action is about.
            return cost + (0.02 * at if known is not label else 0.2 if at else 0.0)
    return 4.0 if len(word) > 2 and any(word in one for one in (*label, *also)) else None
