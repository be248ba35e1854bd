"""Files, undo, the panels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.files.job_file import JobFile
    from gullyrise.desktop.features.files.open_export import OpenExport
    from gullyrise.desktop.state.workbench import Workbench


@action("job.open", "Open parts or a job…", "Ctrl+O")
def open_parts(opening: OpenExport) -> None:
    opening.ask_for_files()


@action("job.demo", "Open the demo job")
def demo(opening: OpenExport) -> None:
    opening.open_demo()


@action("job.open-folder", "Open a folder…", "Ctrl+Shift+O")
def open_folder(opening: OpenExport) -> None:
    opening.ask_for_folder()


@action("job.write-parts", "Save the placed parts as…", "Ctrl+Shift+S", needs=A_PART)
def write_parts(opening: OpenExport) -> None:
    opening.ask_to_write()


@action("job.new", "New job", "Ctrl+N")
def new(job_file: JobFile) -> None:
    job_file.begin_anew()


@action("job.save", "Save the job", "Ctrl+S")
def save(job_file: JobFile) -> None:
    job_file.save()


@action("job.save-as", "Save the job as…", "Ctrl+Alt+S", needs=A_PART)
def save_as(job_file: JobFile) -> None:
    job_file.ask_where_to_save()


@action("job.write-beds", "Save the beds as 3MF…", "Ctrl+Shift+B", needs=A_PART)
def write_beds(opening: OpenExport) -> None:
    opening.ask_to_write_beds()


@action("job.undo", "Undo", "Ctrl+Z")
def undo(model: Workbench) -> None:
    model.document.undo()


@action("job.redo", "Redo", "Ctrl+Y")
def redo(model: Workbench) -> None:
    model.document.redo()


@action("work.cancel", "Cancel background work", "Ctrl+.")
def cancel(model: Workbench) -> None:
    model.cancel_all()
