"""For the record."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.record.controller import RecordController


@action("record.picture", "Save a picture of the view", "F12", "R P")
def picture(record: RecordController) -> None:
    record.keep_picture(None)


@action("record.note", "Write a note into the record", "R N")
def note(record: RecordController) -> None:
    record.ask_for_note()


@action("record.picture-as", "Save a picture of the view as…", "R A")
def picture_as(record: RecordController) -> None:
    record.ask_where()
