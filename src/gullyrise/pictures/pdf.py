"""A report's page as PDF: searchable text, bookmarks, title and language. The only import of the library that lays out pages."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from gullyrise.core.progress import Progress
from gullyrise.workers.batch import Watch, run_all
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task

_TYPEFACES = ("/usr/share/fonts", "/usr/local/share/fonts", "/etc/fonts", "/usr/share/fontconfig", "/var/cache/fontconfig")


def laid_out(html: str, watch: Watch | None = None) -> bytes:
    """The PDF of a page that refers to nothing outside itself. Raises GullyriseError."""
    with TemporaryDirectory(prefix="gullyrise-") as folder:
        (report,) = run_all([LayOut(html, folder)], watch)
    if report.kind != "done":
        raise report.value
    return bytes(report.value)


@dataclass(frozen=True, slots=True)
class LayOut(Task):
    """Lays a page out on paper: gives the bytes of the PDF. html : a page that refers to nothing outside itself
    folder : for what it writes meanwhile
    """

    html: str
    folder: str

    @property
    def title(self) -> str:
        return "report"

    def beforehand(self, progress: Progress) -> LayOut:
        # Typefaces of the machine, for names in other scripts, are looked for while they can be reached.
        tempfile.tempdir = self.folder
        _laid_out("<p>Aä</p>")
        return self

    def grants(self) -> Grants:
        return Grants(tuple(one for one in _TYPEFACES if Path(one).is_dir()), (self.folder,))

    def run(self, progress: Progress) -> bytes:
        progress("laying out pages", 0, 0)
        return _laid_out(self.html)


def _laid_out(html: str) -> bytes:
    import logging

    from weasyprint import HTML
    from weasyprint.urls import URLFetcher

    # What it finds odd about a style is nobody's business who reads a report.
    logging.getLogger("weasyprint").setLevel(logging.CRITICAL)
    logging.getLogger("fontTools").setLevel(logging.CRITICAL)
    return bytes(
        HTML(string=html, base_url=None, url_fetcher=URLFetcher(allowed_protocols=("data",))).write_pdf(pdf_tags=True) or b""
    )
