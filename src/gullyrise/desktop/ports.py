"""What controllers may ask of the rest of the window: each receives just those that it uses, and none the window itself."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Protocol

from PyQt6.QtCore import pyqtBoundSignal
from PyQt6.QtWidgets import QFileDialog, QInputDialog

from gullyrise.core.checks.protocol import Finding
from gullyrise.core.job import Standing
from gullyrise.desktop.commands.keymap import KeyMap
from gullyrise.drawing.palette import Palette

Answer = tuple[str, Callable[[], object]]
"""The words of a button and what it does."""


class Notifier(Protocol):
    """Sentences that stay until they are read."""

    def say(self, sentence: str, grave: bool, answers: Sequence[Answer] = (), about: str = "") -> None:
        """about : what it hangs on, by which `settled` takes it away; it stands for one before it"""

    def settled(self, about: str) -> None: ...


class StatusLine(Protocol):
    """The line that says what the hand can do now."""

    def show_tool(self, words: str) -> None: ...
    def show_elsewhere(self, words: str) -> None: ...


class FilePicker(Protocol):
    """Dialogs for files and words; each answer comes later."""

    def ask(self, title: str, mode: QFileDialog.FileMode, kinds: list[str], then: Callable[[list[str]], None]) -> QFileDialog: ...
    def ask_where(self, title: str, name: str, kinds: list[str], then: Callable[[str], None]) -> QFileDialog: ...
    def ask_words(self, title: str, label: str, then: Callable[[str], None]) -> QInputDialog: ...


class Preferences(Protocol):
    """Settings by their id."""

    @property
    def changed(self) -> pyqtBoundSignal:
        """The id of one that has another value."""

    def __getitem__(self, id: str) -> Any: ...
    def set(self, id: str, value: Any) -> None: ...


class Commands(Protocol):
    """Actions by their id."""

    def do(self, id: str) -> None: ...
    def words_of(self, id: str) -> str:
        """Its keys, in words."""

    @property
    def keymap(self) -> KeyMap:
        """All keys as they are now."""


class Navigator(Protocol):
    """Leads the eye to places."""

    def fly_to(self, standing: Standing, finding: Finding) -> None: ...


class FloatingLayout(Protocol):
    """Places what floats over the bench."""

    def settle(self) -> None: ...
    def settle_bars(self) -> None: ...


class Looks(Protocol):
    """What is worn now."""

    @property
    def palette(self) -> Palette: ...
