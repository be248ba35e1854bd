"""What comes into the window and goes out of it: files asked for, demo and recent jobs, lists and parts written, questions on
what came."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from gullyrise.core.geometry import Transform
from gullyrise.core.intake.units import Doubt
from gullyrise.core.job import Standing
from gullyrise.core.job.file import ENDING, is_job_file
from gullyrise.core.name_words import some_of
from gullyrise.core.placing.bed import bed_offset
from gullyrise.core.reading import endings
from gullyrise.core.report.contract import as_json
from gullyrise.core.report.parts_list import Grouping, ListRow, as_csv, as_document
from gullyrise.core.writing import endings as written_endings
from gullyrise.demo import JOBS
from gullyrise.desktop.features.checks.panel import Traveller
from gullyrise.desktop.features.files.job_file import JobFile
from gullyrise.desktop.features.files.recent_jobs import PICTURE, RecentJob, RecentJobs
from gullyrise.desktop.features.navigation.controller import Looking
from gullyrise.desktop.features.parts.panel import PartsPanel
from gullyrise.desktop.features.parts.report_panel import ReceivingReport
from gullyrise.desktop.features.parts.report_text import UNIT_WORDS
from gullyrise.desktop.features.placement.controller import Placing
from gullyrise.desktop.features.placement.form import Slips
from gullyrise.desktop.ports import FilePicker, Notifier, Preferences
from gullyrise.desktop.state.document_model import BenchJob
from gullyrise.desktop.widgets.file_dialogs import Mode
from gullyrise.drawing.annotated_image import png_of
from gullyrise.workers.process import Bounds


class Opening:
    """Ties the receiving of parts to dialogs, notices and the receiving page."""

    def __init__(
        self, model: BenchJob, notifier: Notifier, preferences: Preferences, files: FilePicker, looking: Looking,
        recent: RecentJobs, job_file: JobFile, placing: Placing, slips: Slips, parts: PartsPanel, report: ReceivingReport,
        traveller: Traveller,
    ) -> None:  # fmt: skip
        self._model, self._notifier, self._preferences, self._files = model, notifier, preferences, files
        self._looking, self.recent, self._job_file, self._placing = looking, recent, job_file, placing
        self._slips, self._parts, self._report, self._traveller = slips, parts, report, traveller
        receiving = self._model.receiving
        receiving.doubted.connect(self._ask_unit)
        self._in_doubt: set[int] = set()
        self._asked_units: dict[tuple[str, tuple[str, ...]], tuple[int, ...]] = {}
        """Ids of the parts that each question stands for, by their unit and the answers."""
        self._model.job_changed.connect(self._ask_units)
        self._told_of: dict[str, frozenset[int]] = {}
        """Ids of the parts whose files a notice says to be other ones, or gone."""
        receiving.files.altered.connect(self._tell_of_files)
        self._model.job_changed.connect(self._tell_of_files)
        report = self._report
        report.unit_set.connect(receiving.set_unit)
        report.refused_dismissed.connect(receiving.dismiss_refused)
        report.mends_wanted.connect(receiving.mend)
        report.material_set.connect(receiving.set_material)
        report.finer_wanted.connect(receiving.refine)
        report.reload_wanted.connect(lambda number: receiving.reload([number]))
        report.part_chosen.connect(lambda number: self._model.select({number}))
        report.fault_chosen.connect(self.step_fault)
        self.settle()

    def settle(self) -> None:
        """Brings the reading of files in step with the settings."""
        settings, receiving = self._preferences, self._model.receiving
        receiving.bounds = Bounds(int(settings["files.memory"] * 2**30), float(settings["files.seconds"]))
        receiving.files.watches = settings["files.watch"]
        self._parts.tree.columns.show(settings["parts.columns"])
        self._parts.table.columns.show(settings["parts.list_columns"])

    # --- in --------------------------------------------------------------------------------------------------------

    def ask_for_files(self) -> None:
        kinds = " ".join(f"*{ending}" for ending in endings())
        filters = [f"Parts and jobs ({kinds} *{ENDING})", f"Jobs (*{ENDING})", "All files (*)"]
        self._files.ask("Open parts or a job", Mode.ExistingFiles, filters, self._model.open_files)

    def ask_for_folder(self) -> None:
        self._files.ask("Open all parts of a folder", Mode.Directory, [], self._model.open_files)

    def open_demo(self, id: str = JOBS[0].id) -> None:
        job = next(one for one in JOBS if one.id == id)
        self._model.entitle("River-gauging station" if job is JOBS[0] else job.title)
        self._model.open_files(job.paths())

    def open_recent(self, job: RecentJob) -> None:
        """The files of a recent job that are still there, on its machine where that is still in the library."""
        self._model.entitle(job.name)
        if not any(is_job_file(file) for file in job.files):
            self._slips.use_machine(job.machine)
        there = [file for file in job.files if Path(file).is_file()]
        self._model.open_files(there)
        gone = [Path(file).name for file in job.files if file not in there]
        if gone:
            self._notifier.say(f"{', '.join(gone[:4])} {'is' if len(gone) == 1 else 'are'} not there any more.", False)

    def keep_recent(self) -> None:
        """Keeps what is open as a recent job, with a picture of the bench."""
        stands = [one for one in self._model.job.standings if one.part.file]
        files = tuple(dict.fromkeys(str(Path(one.part.file).absolute()) for one in stands))
        if self._job_file.path:
            files = (str(Path(self._job_file.path).absolute()),)
        if not files or not self._preferences["files.recent"]:
            return
        picture = png_of(self._looking.view_image(), *PICTURE)
        self.recent.keep(self._model.title, files, self._model.job.machine.id, picture)

    # --- questions -------------------------------------------------------------------------------------------------

    def _ask_unit(self, number: int) -> None:
        self._in_doubt.add(number)
        self._ask_units()

    def _ask_units(self) -> None:
        """One question for all parts whose unit is in doubt in the same way; what was answered, or is gone, is asked no more. The
        report of each asks of it alone for as long as it stands."""
        model, notices = self._model, self._notifier
        alike: dict[tuple[str, tuple[str, ...]], list[tuple[Standing, Doubt]]] = {}
        for number in sorted(self._in_doubt):
            standing = model.job.standing(number)
            doubt = model.receiving.doubt_of(standing) if standing is not None else None
            if standing is not None and doubt is not None:
                alike.setdefault((standing.part.unit, tuple(sorted(doubt.answers))), []).append((standing, doubt))
        asked = {key: tuple(standing.id for standing, _ in found) for key, found in alike.items()}
        for key in self._asked_units.keys() | asked.keys():
            if self._asked_units.get(key) == asked.get(key):
                continue
            about = f"unit {key}"
            if key not in asked:
                notices.settled(about)
                continue
            held = key[0]
            first, doubt = alike[key][0]
            many = len(asked[key]) > 1
            who = some_of([standing.name for standing, _ in alike[key]])
            which = f"{who}: the unit looks wrong. {first.name}" if many else f"{who}: the unit looks wrong"
            every = " all" if many else ""
            answers = [
                (f"Read{every} as {UNIT_WORDS[unit]}", partial(self._answer_units, asked[key], unit)) for unit in doubt.answers
            ]
            answers.append((f"Keep {held}{' for all' if many else ''}", partial(self._answer_units, asked[key], held)))
            notices.say(f"{which}: {doubt.why}.", False, answers, about)
        self._asked_units = asked

    def _answer_units(self, numbers: tuple[int, ...], unit: str) -> None:
        merging = ("unit", object())
        for number in numbers:
            self._model.receiving.set_unit(number, unit, merging)

    def _tell_of_files(self) -> None:
        """Says which files are other ones now, or gone, as long as they are."""
        receiving = self._model.receiving
        for about, numbers in (("reload", receiving.stale), ("gone", receiving.gone)):
            if numbers == self._told_of.get(about, frozenset()):
                continue
            self._told_of[about] = numbers
            self._report.refresh()
            if not numbers:
                self._notifier.settled(about)
                continue
            first = next(standing.name for standing in self._model.job.standings if standing.id in numbers)
            many = len(numbers) > 1
            if about == "reload":
                self._notifier.say(
                    f"{f'{len(numbers)} files have' if many else f'{first} has'} changed on the disk since reading; placement, "
                    "views and limits are kept when read anew.", False,
                    [("Read anew", partial(receiving.reload, numbers))], about,
                )  # fmt: skip
            else:
                what = f"{len(numbers)} files are" if many else f"The file of {first} is"
                self._notifier.say(
                    f"{what} not on the disk any more; what was read of it stays on the bench.", False, about=about
                )
        self._report.refresh()

    def reload(self) -> None:
        """Reads the chosen parts anew, else those whose files have changed, else all."""
        model = self._model
        numbers = model.selection or frozenset(model.receiving.stale) or {standing.id for standing in model.job.standings}
        model.receiving.reload(numbers)

    def step_fault(self, number: int, code: str) -> None:
        """Flies to the next fault of a kind on a part, and flags it."""
        standing = self._model.job.standing(number)
        found = self._model.outcomes_of(standing, "health") if standing is not None else None
        findings = [finding for finding in found[0].findings if finding.code == code] if found else []
        if standing is None or not findings:
            return
        self._traveller.show_check("health")
        flagged = self._model.flagged
        here = next((at for at, one in enumerate(findings) if flagged is not None and flagged[1] is one), -1)
        self._looking.fly_to(standing, findings[(here + 1) % len(findings)])

    # --- out -------------------------------------------------------------------------------------------------------

    def ask_to_write(self) -> None:
        kinds = [f"{ending[1:].upper()} (*{ending})" for ending in written_endings()]
        kinds.insert(0, kinds.pop(list(written_endings()).index(".3mf")))
        self._files.ask_where("Save the placed parts", "parts.3mf", kinds, self.write_parts)

    def write_parts(self, name: str) -> None:
        """The chosen parts as they stand, else all, into one file."""
        model = self._model
        model.receiving.write_parts([(name, [(one, one.placement) for one in model.in_view()])])

    def ask_to_write_beds(self) -> None:
        stand_ins = [one.name for one in self._model.job.standings if one.is_stand_in]
        title = f"Save the beds, without {'stand-in' if len(stand_ins) == 1 else 'stand-ins'} {some_of(stand_ins)}"
        self._files.ask_where(title if stand_ins else "Save the beds", "bed.3mf", ["3MF (*.3mf)"], self.write_beds)

    def write_beds(self, name: str, agreed: frozenset[int] | None = None) -> None:
        """The parts of every bed, where they stand on it, into a file each; stand-ins stay out of it. What would be missing and
        what would be replaced is said before anything is written. agreed : ids of those that may be missing
        """
        model, notices = self._model, self._notifier
        job, path = model.job, Path(name)
        files, left = [], []
        for bed in (*range(job.beds), None):
            own = [one for one in job.standings if job.bed_of(one) == bed and not one.is_stand_in]
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
            notices.say("No part stands on a bed; put one there first.", False)
        elif (agreed is None and replaced) or not missing <= (agreed or frozenset()):
            words = []
            if left:
                words.append(f"{some_of([one.name for one in left])} would be missing: on no bed.")
            if replaced:
                words.append(f"{some_of(replaced)} would be replaced.")
            answers = [("Write all the same", lambda: self.write_beds(name, missing))]
            if left:
                answers.append(("Arrange all first", self._placing.arrange))
            notices.say(f"Nothing is written yet. {' '.join(words)}", True, answers, "write beds")
        else:
            model.receiving.write_parts(files)

    def ask_for_note(self) -> None:
        model = self._model

        def write(words: str) -> None:
            line = " ".join(words.split())[:400]
            if line:
                # What is chosen is what it is about; without a choice it is the job.
                model.edit("Note", lambda job: job.noted(line, sorted(model.selection)))

        self._files.ask_words("A note for the record", "Note", write)

    def ask_to_save_list(self) -> None:
        kinds = ["Tables (*.csv)", "JSON (*.json)"]
        self._files.ask_where("Save the parts list", "parts-list.csv", kinds, self.save_list)

    def save_list(self, name: str) -> None:
        """The parts list as it is shown, by its ending as JSON or CSV."""
        rows, fields, grouping = self._list()
        words = as_json(as_document(rows, fields, grouping)) + "\n" if name.lower().endswith(".json") else as_csv(rows, fields)
        try:
            Path(name).write_text(words, encoding="utf-8", newline="")
        except OSError as error:
            self._notifier.say(f"{Path(name).name} could not be written ({error.strerror}); choose another folder.", True)
            return
        self._notifier.say(f"{Path(name).name} is written: {len(rows)} lines.", False)

    def copy_list(self) -> None:
        """The parts list to the clipboard, parted by tabs, as tables take it."""
        rows, fields, _ = self._list()
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            clipboard.setText(as_csv(rows, fields, "\t"))
            self._notifier.say(f"{len(rows)} lines are on the clipboard.", False)

    def _list(self) -> tuple[list[ListRow], list[str], Grouping]:
        parts = self._parts
        if not parts.as_list:
            parts.show_list(True)
        return parts.lines(), parts.table.columns.shown(), parts.grouping.currentData()
