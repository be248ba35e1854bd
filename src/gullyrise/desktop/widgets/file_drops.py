"""Files that are dropped on a widget."""

from __future__ import annotations

from PyQt6.QtGui import QDragEnterEvent, QDropEvent


def accept_files(event: QDragEnterEvent | None) -> None:
    data = event.mimeData() if event is not None else None
    if event is not None and data is not None and data.hasUrls():
        event.acceptProposedAction()


def dropped_files(event: QDropEvent | None) -> list[str]:
    """The paths of those that lie on this machine."""
    data = event.mimeData() if event is not None else None
    if event is None or data is None:
        return []
    event.acceptProposedAction()
    return [url.toLocalFile() for url in data.urls() if url.isLocalFile()]
