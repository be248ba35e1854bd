"""Files that were read, watched for becoming others or going away."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, pyqtSignal

from gullyrise.desktop.widgets.timers import every, once

_SETTLED_MS = 600
_GONE_EVERY_MS = 2000
_NOT_THERE = (0, 0)


class FileWatcher(QObject):
    """altered : other files than before have changed or gone

    changed : those that are other ones now than were read;  gone : those that are not there;  watches : whether anything is told
    """

    altered = pyqtSignal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._watches = True
        self.changed: set[str] = set()
        self.gone: set[str] = set()
        self._seen: dict[str, tuple[int, int]] = {}
        self._touched: set[str] = set()
        self._watcher = QFileSystemWatcher(self)
        self._watcher.fileChanged.connect(self._touch)
        self._settle = once(self, _SETTLED_MS, self._look)
        # A file that went away is not watched by the system any more: whether it has come back is asked now and then.
        self._come_back = every(self, _GONE_EVERY_MS, self._look_for_gone)

    def watch(self, on: bool) -> None:
        self._watches = on

    def begin(self, path: str) -> None:
        """The file is about to be read: what it is from now on counts."""
        self._seen[path] = _state(path)
        self._watch(path)

    def was_read(self, path: str) -> None:
        """What is on the bench is that of the file."""
        if path in self.changed | self.gone:
            self.changed.discard(path)
            self.gone.discard(path)
            self.altered.emit()

    def close(self) -> None:
        """Nothing is told any more: what looks at the files goes with the window."""
        self._watcher.blockSignals(True)
        self._settle.stop()
        self._come_back.stop()

    def _watch(self, path: str) -> None:
        if path and self._watches and path not in self._watcher.files() and Path(path).exists():
            self._watcher.addPath(path)

    def _touch(self, path: str) -> None:
        """A file may be written in many small steps: it is looked at once that has settled."""
        self._touched.add(path)
        self._settle.start()

    def _look(self) -> None:
        paths, self._touched = self._touched, set()
        before = (set(self.changed), set(self.gone))
        for path in paths:
            state, seen = _state(path), self._seen.get(path)
            self.gone.discard(path)
            self.changed.discard(path)
            if state == _NOT_THERE:
                self.gone.add(path)
            elif seen is not None and state != seen:
                self.changed.add(path)
            # A file that was put in the place of another has to be watched anew.
            self._watch(path)
        if self.gone:
            self._come_back.start()
        else:
            self._come_back.stop()
        if self._watches and (self.changed, self.gone) != before:
            self.altered.emit()

    def _look_for_gone(self) -> None:
        back = {path for path in self.gone if _state(path) != _NOT_THERE}
        if back:
            self._touched |= back
            self._settle.start()


def _state(path: str) -> tuple[int, int]:
    """(when it was last written, ns, and its length), zeros for a file that is not there."""
    try:
        found = Path(path).stat()
    except OSError:
        return _NOT_THERE
    return (found.st_mtime_ns, found.st_size)
