"""Files, undo, the panels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.files.job_file import JobFile
    from gullyrise.desktop.features.files.open_export import Opening
    from gullyrise.desktop.features.navigation.controller import Looking
    from gullyrise.desktop.shell.panel_layout import Folding
    from gullyrise.desktop.state.document_model import BenchJob


@action("job.open", "Open parts or a job…", "Ctrl+O")
def open_parts(opening: Opening) -> None:
    opening.ask_for_files()


@action("job.demo", "Open the demo job")
def demo(opening: Opening) -> None:
    opening.open_demo()


@action("job.open-folder", "Open a folder…", "Ctrl+Shift+O")
def open_folder(opening: Opening) -> None:
    opening.ask_for_folder()


@action("job.reload", "Read files anew", "Ctrl+R", needs="part")
def reload(opening: Opening) -> None:
    opening.reload()


@action("job.write-parts", "Save the placed parts as…", "Ctrl+Shift+S", needs="part")
def write_parts(opening: Opening) -> None:
    opening.ask_to_write()


@action("job.new", "New job", "Ctrl+N")
def new(job_file: JobFile) -> None:
    job_file.begin_anew()


@action("job.save", "Save the job", "Ctrl+S")
def save(job_file: JobFile) -> None:
    job_file.save()


@action("job.save-as", "Save the job as…", "Ctrl+Alt+S", needs="part")
def save_as(job_file: JobFile) -> None:
    job_file.ask_where_to_save()


@action("job.write-beds", "Save the beds as 3MF…", "Ctrl+Shift+B", needs="part")
def write_beds(opening: Opening) -> None:
    opening.ask_to_write_beds()


@action("job.undo", "Undo", "Ctrl+Z")
def undo(model: BenchJob) -> None:
    model.undo()


@action("job.redo", "Redo", "Ctrl+Y")
def redo(model: BenchJob) -> None:
    model.redo()


@action("panels.sides", "Side panels", "F9")
def sides(folding: Folding) -> None:
    folding.sides()


@action("panels.report", "Receiving report", "F5")
def report(folding: Folding) -> None:
    folding.report()


@action("panels.strip", "Section strip", "F10")
def strip(folding: Folding) -> None:
    folding.strip()


@action("panels.bench-alone", "Bench alone", "F11")
def bench_alone(folding: Folding) -> None:
    folding.bench_alone()


@action("work.cancel", "Cancel background work", "Ctrl+.")
def cancel(model: BenchJob) -> None:
    model.cancel_all()


@action("panels.reset", "Panels as they came", "D Z")
def reset_panels(folding: Folding) -> None:
    folding.reset()


@action("record.picture", "Save a picture of the view", "F12", "R P")
def picture(looking: Looking) -> None:
    looking.keep_picture(None)


@action("record.note", "Write a note into the record", "R N")
def note(opening: Opening) -> None:
    opening.ask_for_note()


@action("record.list", "Save the parts list as…", "R L", needs="part")
def save_list(opening: Opening) -> None:
    opening.ask_to_save_list()


@action("record.list-copy", "Copy the parts list", "R C", needs="part")
def copy_list(opening: Opening) -> None:
    opening.copy_list()


@action("record.picture-as", "Save a picture of the view as…", "R A")
def picture_as(looking: Looking) -> None:
    looking.ask_where()
