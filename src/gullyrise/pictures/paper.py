"""The report's page with the typeface that ships with the application."""

from __future__ import annotations

from pathlib import Path

import gullyrise.drawing
from gullyrise.core.report.report_model import Report
from gullyrise.core.report.report_page import html_of

_FONTS = Path(gullyrise.drawing.__file__).parent / "fonts"


def page_of(report: Report) -> str:
    """The whole page, which refers to nothing outside itself."""
    return html_of(report, _FONTS)
