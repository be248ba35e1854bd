"""Running actions: each belongs to one controller, and runs where what it needs is there."""

from __future__ import annotations

from collections.abc import Callable

from gullyrise.desktop.commands.keymap import KeyMap
from gullyrise.desktop.commands.needs import Present
from gullyrise.desktop.commands.registry import Action, all_actions
from gullyrise.desktop.ports import Notifier

_OPENS = "job.open"
"""The action that opens parts."""


class ActionRunner:
    """actions : by their dotted id;  keymap : of now"""

    def __init__(
        self,
        present: Callable[[], Present],
        notifier: Notifier,
        changed_keys: dict[str, list[str]],
        about_to: Callable[[str], None],
    ) -> None:
        """about_to : is told the id of what is about to run"""
        self._present, self._notifier, self._about_to = present, notifier, about_to
        self.actions: dict[str, Action] = dict(all_actions())
        self.keymap = KeyMap(self.actions, changed_keys)
        self._owners: dict[type, object] = {}

    def serve(self, *controllers: object) -> None:
        """Actions on one of these classes run on these."""
        self._owners |= {type(one): one for one in controllers}

    def take_keys(self, changed_keys: dict[str, list[str]]) -> None:
        self.keymap = KeyMap(self.actions, changed_keys)

    def words_of(self, id: str) -> str:
        return self.keymap.words_of(id)

    def lacks(self, entry: Action) -> str:
        """In a word, why an action cannot run now; empty where it can."""
        present = self._present()
        return next((need.word for need in entry.needs if not need.met(present)), "")

    def do(self, id: str) -> None:
        """Runs an action where what it needs is there; else says what is missing."""
        entry = self.actions[id]
        present = self._present()
        missing = next((need.missing for need in entry.needs if not need.met(present)), None)
        if missing is not None:
            opens = self.words_of(_OPENS)
            self._notifier.say(missing.format(label=entry.label, opens=opens, bodies=present.bodies), False)
            return
        self._about_to(id)
        entry.run(self._owners[entry.owner])

    def let_go(self, id: str) -> None:
        """Ends what lasts while its key is held."""
        entry = self.actions[id]
        if entry.let_go is not None:
            entry.let_go(self._owners[entry.owner])
