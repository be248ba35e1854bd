"""Slow questions about what is pointed at, answered in a thread beside the interface."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

T = TypeVar("T")


class Aside(QObject):
    """One question after the other; the answer comes back in the interface's thread."""

    _answered = pyqtSignal(object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="gullyrise-aside")
        self._answered.connect(lambda take: take())
        self._open = 0

    @property
    def busy(self) -> bool:
        return self._open > 0

    def ask(self, question: Callable[[], T], then: Callable[[T], None]) -> None:
        """Works the question out; `then` gets the answer. A question that fails raises in the interface's thread."""
        self._open += 1
        self._thread.submit(self._work, question, then)

    def write(self, write: Callable[[], object], told: Callable[[str], None]) -> None:
        """Writes a file. told : is called with what went wrong, empty for nothing"""

        def trouble() -> str:
            try:
                write()
            except OSError as error:
                return error.strerror or "the place cannot be written to"
            return ""

        self.ask(trouble, told)

    def _work(self, question: Callable[[], T], then: Callable[[T], None]) -> None:
        try:
            answer = question()
        except Exception as error:  # Told where it can be seen; the thread goes on.
            self._answered.emit(lambda error=error: self._raise(error))
            return
        self._answered.emit(lambda: self._take(then, answer))

    def _take(self, then: Callable[[T], None], answer: T) -> None:
        self._open -= 1
        then(answer)

    def _raise(self, error: Exception) -> None:
        self._open -= 1
        raise error

    def close(self) -> None:
        self._thread.shutdown(wait=True, cancel_futures=True)
