"""Which keys run which action: the registry's own and what the user changed, in one table that all else reads."""

from __future__ import annotations

from typing import cast

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence

from gullyrise.desktop.commands.registry import FAMILIES, Action


def canonical(keys: str) -> str:
    """Keys as the table writes them: `V F`, or a sequence as Qt writes it. Raises ValueError for no key at all."""
    first, _, second = keys.strip().partition(" ")
    if second:
        if first.upper() not in FAMILIES or not QKeySequence(second).toString():
            raise ValueError(f"'{keys}' does not begin with a family key ({', '.join(FAMILIES)}).")
        return f"{first.upper()} {QKeySequence(second).toString()}"
    words = QKeySequence(first).toString()
    if not words:
        raise ValueError(f"'{keys}' is no key.")
    return words


def words_of_press(event: QKeyEvent) -> str:
    """The keys that are pressed together, as the map writes them; those of the number pad are as the others."""
    held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    # A key that Qt has no name for is a number all the same.
    return QKeySequence(event.key() | cast(int, held.value)).toString()


class KeyMap:
    """changed : action id to the keys that the user gave it, which replace its own; ids that are gone are passed over."""

    def __init__(self, actions: dict[str, Action], changed: dict[str, list[str]] | None = None) -> None:
        self._actions = actions
        self.changed = {id: keys for id, keys in (changed or {}).items() if id in actions}
        self._keys = {
            id: tuple(canonical(keys) for keys in self.changed.get(id, list(entry.keys))) for id, entry in actions.items()
        }
        self.direct: dict[str, str] = {}
        self.second: dict[tuple[str, str], str] = {}
        for id, all_keys in self._keys.items():
            for keys in all_keys:
                first, _, last = keys.partition(" ")
                if last:
                    self.second.setdefault((first, last), id)
                else:
                    self.direct.setdefault(keys, id)

    def keys_of(self, id: str) -> tuple[str, ...]:
        return self._keys[id]

    def words_of(self, id: str) -> str:
        """Keys to read, such as `V F` or `Home, V A`."""
        return ", ".join(self._keys[id])

    def family(self, letter: str) -> list[tuple[str, Action]]:
        """(second key, action) of a family, in the registry's order."""
        return [
            (keys.partition(" ")[2], self._actions[id])
            for id, all_keys in self._keys.items()
            for keys in all_keys
            if keys.startswith(letter + " ")
        ]

    def on(self, under: str) -> list[tuple[str, Action]]:
        """(keys, action) that a right click on something offers."""
        return [(next(iter(self._keys[id]), ""), entry) for id, entry in self._actions.items() if under in entry.on]

    def clashes(self) -> list[str]:
        """A sentence for each key that two actions want, and for each direct key that hides a family."""
        taken: dict[str, str] = {}
        out = []
        for id, all_keys in self._keys.items():
            for keys in all_keys:
                other = taken.setdefault(keys, id)
                if other != id:
                    out.append(f"{keys} is wanted by “{self._actions[other].label}” and by “{self._actions[id].label}”.")
                if keys in FAMILIES:
                    out.append(f"{keys} opens the {FAMILIES[keys]} family and is wanted by “{self._actions[id].label}”.")
        return out

    def with_keys(self, id: str, keys: list[str]) -> KeyMap:
        """The table with other keys for one action. Raises ValueError with a sentence for keys that clash or are none."""
        wanted = [canonical(one) for one in keys]
        fresh = KeyMap(self._actions, {**self.changed, id: wanted})
        found = fresh.clashes()
        if found:
            raise ValueError(found[0])
        return fresh

    def without_change(self, id: str) -> KeyMap:
        """The table with an action's own keys again. Raises ValueError where somebody else has them by now."""
        fresh = KeyMap(self._actions, {other: keys for other, keys in self.changed.items() if other != id})
        found = fresh.clashes()
        if found:
            raise ValueError(found[0])
        return fresh
