"""Files, undo, the panels."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.features.files.open_export import OpenExport
from gullyrise.desktop.state.workbench import Workbench

opening = ActionsOn(OpenExport)
job_file = ActionsOn(JobFile)
model = ActionsOn(Workbench)

opening("job.open", "Open parts or a job…", "Ctrl+O", do=lambda it: it.ask_for_files())
opening("job.demo", "Open the demo job", do=lambda it: it.open_demo())
opening("job.open-folder", "Open a folder…", "Ctrl+Shift+O", do=lambda it: it.ask_for_folder())
opening("job.write-parts", "Save the placed parts as…", "Ctrl+Shift+S", do=lambda it: it.ask_to_write(), needs=A_PART)
job_file("job.new", "New job", "Ctrl+N", do=lambda it: it.begin_anew())
job_file("job.save", "Save the job", "Ctrl+S", do=lambda it: it.save())
job_file("job.save-as", "Save the job as…", "Ctrl+Alt+S", do=lambda it: it.ask_where_to_save(), needs=A_PART)
opening("job.write-beds", "Save the beds as 3MF…", "Ctrl+Shift+B", do=lambda it: it.ask_to_write_beds(), needs=A_PART)
model("job.undo", "Undo", "Ctrl+Z", do=lambda it: it.document.undo())
model("job.redo", "Redo", "Ctrl+Y", do=lambda it: it.document.redo())
model("work.cancel", "Cancel background work", "Ctrl+.", do=lambda it: it.cancel_all())
