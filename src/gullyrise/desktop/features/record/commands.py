"""For the record."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.record.controller import RecordController
from gullyrise.desktop.features.record.report_controller import ReportController

record = ActionsOn(RecordController)
report = ActionsOn(ReportController)

record("record.picture", "Save a picture of the view", "F12", "R P", do=lambda it: it.keep_picture(None))
record("record.note", "Write a note", "R N", do=lambda it: it.ask_for_note())
record("record.pin", "Pin a note here", "R H", do=lambda it: it.pin_note(), needs=A_PART, on=("part",))
record("record.panel", "Record", "R O", do=lambda it: it.open())
record("record.picture-as", "Save a picture as…", "R A", do=lambda it: it.ask_where())
report("record.report", "Report…", "R R", do=lambda it: it.open(), needs=A_PART)
report("record.findings", "Save the findings as a table…", "R F", do=lambda it: it.ask_for_table(), needs=A_PART)
