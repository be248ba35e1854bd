"""Files, undo, the panels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


@action("job.open", "Open parts…", "Ctrl+O")
def open_parts(window: Window) -> None:
    window.ask_for_files()


@action("job.demo", "Open the demo job")
def demo(window: Window) -> None:
    window.open_demo()


@action("job.undo", "Undo", "Ctrl+Z")
def undo(window: Window) -> None:
    window.model.undo()


@action("job.redo", "Redo", "Ctrl+Y")
def redo(window: Window) -> None:
    window.model.redo()


@action("panels.sides", "Side panels", "F9")
def sides(window: Window) -> None:
    window.folding.sides()


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


@action("record.picture-as", "Save a picture of the view as…", "R A")
def picture_as(window: Window) -> None:
    window.ask_for_picture()
