"""Parts and jobs in and out, and what is kept against loss."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QSize

from gullyrise.core.job.recent import RecentJobs
from gullyrise.desktop.context import Context
from gullyrise.desktop.features.files import commands as commands
from gullyrise.desktop.features.files.autosave import Autosave
from gullyrise.desktop.features.files.history import History
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.features.files.open_export import OpenExport
from gullyrise.desktop.features.files.start_page import StartPage
from gullyrise.desktop.ports import Arranger, MachineChoice, Navigator
from gullyrise.desktop.upkeep.garbage import GarbageRun
from gullyrise.desktop.widgets.placing import in_the_middle


@dataclass(frozen=True, slots=True)
class FilesFeature:
    job_file: JobFile
    keeping: Autosave
    garbage: GarbageRun
    history: History
    opening: OpenExport
    page: StartPage


def attach(context: Context, navigator: Navigator, machines: MachineChoice, arranger: Arranger) -> FilesFeature:
    model, notifier, preferences = context.model, context.notifier, context.preferences
    recent = RecentJobs()
    page = StartPage(context.palette, recent, context.viewport)
    job_file = JobFile(context.window, model, notifier, preferences, context.files, context.viewport, navigator, recent)
    keeping = Autosave(context.window, model, notifier, job_file)
    garbage = GarbageRun(context.window)
    history = History(context.window, model, notifier, keeping, garbage)
    opening = OpenExport(
        context.window, model, notifier, preferences, context.files, navigator, machines, arranger, recent, job_file
    )
    page.wanted.connect(context.commands.do)
    page.demo_wanted.connect(opening.open_demo)
    page.recent_wanted.connect(opening.open_recent)
    context.viewport.files_dropped.connect(model.open_files)

    def show_page() -> None:
        """The page stands on an empty bench."""
        empty = not model.job.parts
        if empty:
            page.show_machine(model.job.machine.name)
        if empty != page.isVisible():
            page.show_recent()
            page.setVisible(empty)
            page.raise_()
            context.floating.settle()

    def settle(room: QSize) -> None:
        page.fit(room.width() - 16)
        in_the_middle(page, room)

    model.document.changed.connect(show_page)
    context.floating.add(settle)
    preferences.follow(("files.",), opening.settle)
    context.looks.changed.connect(page.wear)
    context.commands.serve(job_file, opening)
    show_page()
    return FilesFeature(job_file, keeping, garbage, history, opening, page)
