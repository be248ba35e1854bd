"""For the record."""

from __future__ import annotations

from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.record.controller import RecordController

record = ActionsOn(RecordController)

record("record.picture", "Save a picture of the view", "F12", "R P", do=lambda it: it.keep_picture(None))
record("record.note", "Write a note", "R N", do=lambda it: it.ask_for_note())
record("record.picture-as", "Save a picture as…", "R A", do=lambda it: it.ask_where())
