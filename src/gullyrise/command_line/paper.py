"""A report as PDF, by Qt's own printing of the HTML page."""

from __future__ import annotations

import os
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from gullyrise.core.report.page import write_page


def write_pdf(document: dict[str, Any], owners: list[int], path: Path, title: str) -> None:
    """A4 pages of the report. Raises OSError where the place cannot be written."""
    path.open("ab").close()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtGui import QGuiApplication, QPageSize, QPdfWriter, QTextDocument

    application = QGuiApplication.instance() or QGuiApplication(["gullyrise"])
    with TemporaryDirectory() as folder:
        page = Path(folder) / "report.html"
        write_page(document, owners, page, title)
        text = QTextDocument()
        text.setHtml(page.read_text(encoding="utf-8"))
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setTitle(title)
    text.print(writer)
    del writer, application
