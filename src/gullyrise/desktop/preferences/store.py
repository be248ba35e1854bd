"""Settings as they are kept: one small file in the user's configuration folder."""

from __future__ import annotations

import copy
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from platformdirs import user_config_path
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.paths import printable
from gullyrise.core.safe_files import read_within, write_safely
from gullyrise.desktop.preferences.rows import BY_ID, RENAMED, ROWS

_MOST_BYTES = 1 << 20


class Settings(QObject):
    """changed : the id of a setting that has another value; said : a sentence on a file that could not be used."""

    changed = pyqtSignal(str)
    said = pyqtSignal(str, bool)

    def __init__(self, path: Path | None = None) -> None:
        super().__init__()
        self.path = path or user_config_path("gullyrise") / "settings.json"
        self._values: dict[str, Any] = {}
        self._foreign: dict[str, Any] = {}
        self.trouble = ""
        self._load()

    def __getitem__(self, id: str) -> Any:
        return copy.deepcopy(self._values.get(id, BY_ID[id].default))

    def set(self, id: str, value: Any) -> None:
        """Keeps a value. Raises ValueError with a sentence for one that the setting cannot take."""
        fresh = BY_ID[id].checked(value)
        if fresh == self[id]:
            return
        self._values[id] = fresh
        self._save()
        self.changed.emit(id)

    def swap(self, id: str, one: object = True, other: object = False) -> None:
        self.set(id, other if self[id] == one else one)

    def follow(self, ids: tuple[str, ...], call: Callable[[], object]) -> None:
        """Calls now, and as often as a setting changes whose id begins so."""
        self.changed.connect(lambda id: call() if id.startswith(ids) else None)
        call()

    def reset(self, page: str) -> None:
        """A page's settings as they came."""
        for row in ROWS:
            if row.page == page and row.id in self._values:
                del self._values[row.id]
                self.changed.emit(row.id)
        self._save()

    def _load(self) -> None:
        try:
            found = json.loads(read_within(self.path, _MOST_BYTES).decode("utf-8-sig"))
            if not isinstance(found, dict):
                raise ValueError("it holds no table")
        except FileNotFoundError:
            return
        except OSError as error:
            self._unread(error.strerror or "the disk refuses")
            return
        except RecursionError:
            self._unread("it is nested without end")
            return
        except ValueError:
            self._unread("it is no table of settings")
            return
        for name, value in found.items():
            id = RENAMED.get(name, name)
            if id not in BY_ID:
                # A newer version's setting is kept for it.
                self._foreign[name] = value
                continue
            try:
                self._values[id] = BY_ID[id].checked(value)
            except (TypeError, ValueError, OverflowError) as error:
                self.trouble = f"A setting could not be used: {printable(str(error))[:200]} The usual one is used."

    def _unread(self, why: str) -> None:
        self.trouble = f"The settings in {self.path.name} could not be read ({why}); the usual ones are used."

    def _save(self) -> None:
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            write_safely(self.path, json.dumps({**self._foreign, **self._values}, indent=1).encode())
        except OSError as error:
            self.said.emit(f"The settings could not be kept ({error.strerror}); they hold until the window closes.", True)
