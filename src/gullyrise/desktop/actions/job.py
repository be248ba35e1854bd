"""Files, undo, the panels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


@action("job.open", "Open parts or a job…", "Ctrl+O")
def open_parts(window: Window) -> None:
    window.opening.ask_for_files()


@action("job.demo", "Open the demo job")
def demo(window: Window) -> None:
    window.opening.open_demo()


@action("job.open-folder", "Open a folder…", "Ctrl+Shift+O")
def open_folder(window: Window) -> None:
    window.opening.ask_for_folder()


@action("job.reload", "Read files anew", "Ctrl+R", needs="part")
def reload(window: Window) -> None:
    window.opening.reload()


@action("job.write-parts", "Save the placed parts as…", "Ctrl+Shift+S", needs="part")
def write_parts(window: Window) -> None:
    window.opening.ask_to_write()


@action("job.new", "New job", "Ctrl+N")
def new(window: Window) -> None:
    window.job_file.begin_anew()


@action("job.save", "Save the job", "Ctrl+S")
def save(window: Window) -> None:
    window.job_file.save()


@action("job.save-as", "Save the job as…", "Ctrl+Alt+S", needs="part")
def save_as(window: Window) -> None:
    window.job_file.ask_where_to_save()


@action("job.write-beds", "Save the beds as 3MF…", "Ctrl+Shift+B", needs="part")
def write_beds(window: Window) -> None:
    window.opening.ask_to_write_beds()


@action("job.undo", "Undo", "Ctrl+Z")
def undo(window: Window) -> None:
    window.model.undo()


@action("job.redo", "Redo", "Ctrl+Y")
def redo(window: Window) -> None:
    window.model.redo()


@action("panels.sides", "Side panels", "F9")
def sides(window: Window) -> None:
    window.folding.sides()


@action("panels.report", "Receiving report", "F5")
def report(window: Window) -> None:
    window.folding.report()


@action("panels.strip", "Section strip", "F10")
def strip(window: Window) -> None:
    window.folding.strip()


@action("panels.bench-alone", "Bench alone", "F11")
def bench_alone(window: Window) -> None:
    window.folding.bench_alone()


@action("work.cancel", "Cancel background work", "Ctrl+.")
def cancel(window: Window) -> None:
    window.model.cancel_all()


@action("panels.reset", "Panels as they came", "D Z")
def reset_panels(window: Window) -> None:
    window.folding.reset()


@action("record.picture", "Save a picture of the view", "F12", "R P")
def picture(window: Window) -> None:
    window.looking.keep_picture(None)


@action("record.note", "Write a note into the record", "R N")
def note(window: Window) -> None:
    window.opening.ask_for_note()


@action("record.list", "Save the parts list as…", "R L", needs="part")
def save_list(window: Window) -> None:
    window.opening.ask_to_save_list()


@action("record.list-copy", "Copy the parts list", "R C", needs="part")
def copy_list(window: Window) -> None:
    window.opening.copy_list()


@action("record.picture-as", "Save a picture of the view as…", "R A")
def picture_as(window: Window) -> None:
    window.ask_for_picture()
