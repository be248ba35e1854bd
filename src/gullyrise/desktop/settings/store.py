"""Settings as they are kept: one small file in the user's configuration folder."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

from platformdirs import user_config_path
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.desktop.settings.rows import BY_ID, RENAMED, ROWS

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

    def reset(self, page: str) -> None:
        """A page's settings as they came."""
        for row in ROWS:
            if row.page == page and row.id in self._values:
                del self._values[row.id]
                self.changed.emit(row.id)
        self._save()

    def _load(self) -> None:
        try:
            if self.path.stat().st_size > _MOST_BYTES:
                raise ValueError("it is too large")
            found = json.loads(self.path.read_text(encoding="utf-8"))
            if not isinstance(found, dict):
                raise ValueError("it holds no table")
        except FileNotFoundError:
            return
        except (OSError, ValueError, RecursionError) as error:
            self.trouble = f"The settings in {self.path.name} could not be read ({error}); the usual ones are used."
            return
        for name, value in found.items():
            id = RENAMED.get(name, name)
            if id not in BY_ID:
                # A newer version's setting is kept for it.
                self._foreign[name] = value
                continue
            try:
                self._values[id] = BY_ID[id].checked(value)
            except (TypeError, ValueError) as error:
                self.trouble = f"A setting could not be used: {error} The usual one is used."

    def _save(self) -> None:
        fresh = self.path.with_suffix(".new")
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            fresh.write_text(json.dumps({**self._foreign, **self._values}, indent=1), encoding="utf-8")
            fresh.replace(self.path)
        except OSError as error:
            self.said.emit(f"The settings could not be kept ({error.strerror}); they hold until the window closes.", True)
