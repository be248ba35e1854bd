"""How the window was left: sizes, folds, the machine, the folders that were looked into. No settings: nobody sets them, they come
back by themselves."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field, fields
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from gullyrise.core.safe_files import read_within, write_safely

_MOST_BYTES = 1 << 16
_LONGEST = 20_000
_MOST_SIZES = 6


@dataclass(frozen=True, slots=True)
class WindowState:
    """size : width and height of the window, px, empty for the usual one;  filling : it filled the screen
    columns, left, below : sizes of the panels beside each other, of those at the left and of those below each other, px
    sides_folded, below_folded : what is folded away;  machine : its id
    folders : the last one of each kind of dialog;  guided : the first steps were shown and put away
    """

    size: list[int] = field(default_factory=list)
    filling: bool = False
    columns: list[int] = field(default_factory=list)
    left: list[int] = field(default_factory=list)
    below: list[int] = field(default_factory=list)
    sides_folded: bool = False
    below_folded: bool = False
    machine: str = ""
    folders: dict[str, str] = field(default_factory=dict)
    guided: bool = False


def state_file() -> Path:
    """Where it is kept."""
    return user_state_path("gullyrise") / "window.json"


def window_state() -> WindowState:
    """As it was left; what cannot be read or makes no sense is as at first, and nothing is said of it."""
    try:
        found = json.loads(read_within(state_file(), _MOST_BYTES))
    except (OSError, ValueError, RecursionError):
        return WindowState()
    if not isinstance(found, dict):
        return WindowState()
    return WindowState(**{one.name: found[one.name] for one in fields(WindowState) if _fits(one.name, found.get(one.name))})


def _fits(name: str, value: Any) -> bool:
    if name == "machine":
        return isinstance(value, str) and len(value) <= 200
    if name == "folders":
        return isinstance(value, dict) and all(isinstance(word, str) for pair in value.items() for word in pair)
    if name in ("size", "columns", "left", "below"):
        good = isinstance(value, list) and len(value) <= _MOST_SIZES
        return good and all(type(one) is int and 0 <= one <= _LONGEST for one in value)
    return isinstance(value, bool)


def keep_window_state(state: WindowState) -> None:
    """Raises nothing: where it cannot be kept the next window is as at first."""
    try:
        state_file().parent.mkdir(parents=True, exist_ok=True)
        write_safely(state_file(), json.dumps(asdict(state)).encode())
    except OSError:
        return
