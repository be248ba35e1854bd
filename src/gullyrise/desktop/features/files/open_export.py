"""What comes into the window and goes out of it: files asked for, demo and recent jobs, lists and parts written, questions on
what came."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.geometry import Transform
from gullyrise.core.job.file import ENDING, is_job_file
from gullyrise.core.job.recent import PICTURE, RecentJob, RecentJobs
from gullyrise.core.name_words import some_of
from gullyrise.core.placing.bed import bed_offset
from gullyrise.core.reading import endings
from gullyrise.core.writing import endings as written_endings
from gullyrise.demo import JOBS
from gullyrise.desktop.commands.registry import RECENT
from gullyrise.desktop.features.files import text
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.ports import Arranger, FilePicker, MachineChoice, Navigator, Notifier, Preferences
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.file_dialogs import Mode
from gullyrise.drawing.annotated_image import png_of
from gullyrise.workers.process import Bounds


class OpenExport(QObject):
    """Ties the receiving of parts to dialogs, notifications and the start page. demo_opened : a demo job is on its way"""

    demo_opened = pyqtSignal()

    def __init__(
        self, parent: QObject, model: Workbench, notifier: Notifier, preferences: Preferences, files: FilePicker,
        navigator: Navigator, machines: MachineChoice, arranger: Arranger, recent: RecentJobs, job_file: JobFile,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._model, self._notifier, self._preferences, self._files = model, notifier, preferences, files
        self._navigator, self._machines, self._arranger = navigator, machines, arranger
        self.recent, self._job_file = recent, job_file
        self.recent_jobs: list[RecentJob] = recent.all()
        self.settle()

    def settle(self) -> None:
        """Brings the reading of files in step with the settings."""
        settings = self._preferences
        bounds = Bounds(int(settings["files.memory"] * 2**30), float(settings["files.seconds"]))
        self._model.loader.read_within(bounds, watch=settings["files.watch"])

    # --- in --------------------------------------------------------------------------------------------------------

    def ask_for_files(self) -> None:
        kinds = " ".join(f"*{ending}" for ending in endings())
        filters = [text.PARTS_AND.format(kinds, ENDING), f"Jobs (*{ENDING})", text.ALL_FILES]
        self._files.ask(text.OPEN_PARTS, Mode.ExistingFiles, filters, self._model.open_files)

    def ask_for_folder(self) -> None:
        self._files.ask(text.OPEN_FOLDER, Mode.Directory, [], self._model.open_files)

    def open_demo(self, id: str = JOBS[0].id) -> None:
        job = next(one for one in JOBS if one.id == id)
        self._model.document.entitle_opened(text.RIVER_GAUGING if job is JOBS[0] else job.title)
        self._model.open_files(job.paths())
        self.demo_opened.emit()

    def recent_names(self) -> dict[str, str]:
        """What the actions that open recent jobs are called, as those of now are named."""
        return {f"{RECENT}{number}": f"Recent: {job.name[:40]}" for number, job in enumerate(self.recent_jobs, 1)}

    def open_recent_number(self, number: int) -> None:
        """number : the latest is 1"""
        self.open_recent(self.recent_jobs[number - 1])

    def open_recent(self, job: RecentJob) -> None:
        """The files of a recent job that are still there, on its machine where that is still in the library."""
        self._model.document.entitle_opened(job.name)
        if not any(is_job_file(file) for file in job.files):
            self._machines.use_machine(job.machine)
        there = [file for file in job.files if Path(file).is_file()]
        self._model.open_files(there)
        gone = [Path(file).name for file in job.files if file not in there]
        if gone:
            self._notifier.say(text.NOT_THERE_ANY_MORE.format(", ".join(gone[:4]), "is" if len(gone) == 1 else "are"), False)

    def keep_recent(self) -> None:
        """Keeps what is open as a recent job, with a picture of the bench."""
        stands = [one for one in self._model.job.parts if one.part.file]
        files = tuple(dict.fromkeys(str(Path(one.part.file).absolute()) for one in stands))
        if self._job_file.path:
            files = (str(Path(self._job_file.path).absolute()),)
        if not files or not self._preferences["files.recent"]:
            return
        picture = png_of(self._navigator.view_image(), *PICTURE)
        self.recent.keep(self._model.document.title, files, self._model.job.machine.id, picture)

    # --- out -------------------------------------------------------------------------------------------------------

    def ask_to_write(self) -> None:
        kinds = [f"{ending[1:].upper()} (*{ending})" for ending in written_endings()]
        kinds.insert(0, kinds.pop(list(written_endings()).index(".3mf")))
        self._files.ask_where(text.SAVE_PARTS, "parts.3mf", kinds, self.write_parts)

    def write_parts(self, name: str) -> None:
        """The chosen parts as they stand, else all, into one file."""
        model = self._model
        model.loader.write_parts([(name, [(one, one.placement) for one in model.selection.in_view()])])

    def ask_to_write_beds(self) -> None:
        fixtures = [one.name for one in self._model.job.parts if one.is_fixture]
        title = text.SAVE_BEDS_WITHOUT.format("fixture shape" if len(fixtures) == 1 else "fixture shapes", some_of(fixtures))
        self._files.ask_where(title if fixtures else text.SAVE_BEDS, "bed.3mf", [text.THREE_MF], self.write_beds)

    def write_beds(self, name: str, agreed: frozenset[int] | None = None) -> None:
        """The parts of every bed, where they stand on it, into a file each; fixture shapes stay out of it. What would be missing
        and what would be replaced is said before anything is written. agreed : ids of those that may be missing
        """
        model, notices = self._model, self._notifier
        job, path = model.job, Path(name)
        files, left = [], []
        for bed in (*range(job.beds), None):
            own = [one for one in job.parts if job.bed_of(one) == bed and not one.is_fixture]
            if bed is None:
                left = own
            elif own:
                home = Transform.moved(-bed_offset(job.machine, bed))
                place = path if job.beds == 1 else path.with_name(f"{path.stem}-{bed + 1}{path.suffix}")
                files.append((str(place), [(one, one.placement.then(home)) for one in own]))
        # The dialog asked about the name that was chosen, not about those that are made of it.
        replaced = [Path(place).name for place, _ in files if place != name and Path(place).exists()]
        missing = frozenset(one.id for one in left)
        if not files:
            notices.say(text.NO_PART_ON_A_BED, False)
        elif (agreed is None and replaced) or not missing <= (agreed or frozenset()):
            words = []
            if left:
                words.append(text.WOULD_BE.format(some_of([one.name for one in left])))
            if replaced:
                words.append(text.WOULD_BE_REPLACED.format(some_of(replaced)))
            answers = [(text.WRITE_ALL_THE_SAME, lambda: self.write_beds(name, missing))]
            if left:
                answers.append((text.ARRANGE_ALL, self._arranger.arrange))
            notices.say(text.NOTHING_WRITTEN_YET.format(" ".join(words)), True, answers, "write beds")
        else:
            model.loader.write_parts(files)
