"""For the record."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.registry import action

if TYPE_CHECKING:
    from gullyrise.desktop.features.record.controller import Record


@action("record.picture", "Save a picture of the view", "F12", "R P")
def picture(record: Record) -> None:
    record.keep_picture(None)


@action("record.note", "Write a note into the record", "R N")
def note(record: Record) -> None:
    record.ask_for_note()


@action("record.picture-as", "Save a picture of the view as…", "R A")
def picture_as(record: Record) -> None:
    record.ask_where()
