"""Files, undo, the panels."""

from __future__ import annotations

from collections.abc import Callable

from gullyrise.core.job.recent import MOST
from gullyrise.desktop.commands.needs import A_PART, TO_REDO, TO_UNDO, WORK, recent_job
from gullyrise.desktop.commands.registry import JOB, RECENT, ActionsOn
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.features.files.open_export import OpenExport
from gullyrise.desktop.state.workbench import Workbench

opening = ActionsOn(OpenExport, JOB)
job_file = ActionsOn(JobFile, JOB)
model = ActionsOn(Workbench, JOB)


def _open_recent(number: int) -> Callable[[OpenExport], None]:
    return lambda it: it.open_recent_number(number)


job_file("job.new", "New job", "Ctrl+N", do=lambda it: it.begin_anew())
opening("job.open", "Open parts or a job…", "Ctrl+O", do=lambda it: it.ask_for_files())
opening("job.open-folder", "Open a folder…", "Ctrl+Shift+O", do=lambda it: it.ask_for_folder())
opening("job.demo", "Open the demo job", do=lambda it: it.open_demo())
for _n in range(1, MOST + 1):
    opening(f"{RECENT}{_n}", f"Recent job {_n}", do=_open_recent(_n), needs=recent_job(_n))
job_file("job.save", "Save the job", "Ctrl+S", do=lambda it: it.save())
job_file("job.save-as", "Save the job as…", "Ctrl+Alt+S", do=lambda it: it.ask_where_to_save(), needs=A_PART)
opening("job.write-parts", "Save the placed parts as…", "Ctrl+Shift+S", do=lambda it: it.ask_to_write(), needs=A_PART)
opening("job.write-beds", "Save the beds as 3MF…", "Ctrl+Shift+B", do=lambda it: it.ask_to_write_beds(), needs=A_PART)
model("job.undo", "Undo", "Ctrl+Z", do=lambda it: it.document.undo(), needs=TO_UNDO)
model("job.redo", "Redo", "Ctrl+Y", do=lambda it: it.document.redo(), needs=TO_REDO)
model("work.cancel", "Cancel background work", "Ctrl+.", do=lambda it: it.cancel_all(), needs=WORK)
