"""The receiving report of the chosen part: what it is, in which unit, whether it is sound, and what would repair it."""

from __future__ import annotations

from functools import partial
from html import escape

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QWidget,
)

from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.intake.materials import MATERIALS, words_of
from gullyrise.core.intake.repairs import BY_ID
from gullyrise.core.job import PlacedPart
from gullyrise.core.report.part_facts import UNIT_WORDS, facts, faults
from gullyrise.core.report.repair_words import counted, volume_words
from gullyrise.desktop.commands.buttons import small
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.desktop.widgets.choice import Choice
from gullyrise.desktop.widgets.headed import HeadedPanel
from gullyrise.desktop.widgets.pieces import broken, caption, column_box, in_lines, named, paragraph, row_box
from gullyrise.desktop.widgets.stamp import WORDS
from gullyrise.drawing.palette import Palette

_MOST_REFUSED, _ASKED_WIDTH, _FAULT_WIDTH = 20, 210, 200


class ReportPanel(HeadedPanel):
    """unit_set, repairs_wanted, material_set : (id of a placed part, what);  fault_chosen : (its id, a code)
    finer_wanted, reload_wanted, part_chosen : the id of a placed part
    """

    unit_set = pyqtSignal(int, str)
    repairs_wanted = pyqtSignal(int, object)
    material_set = pyqtSignal(int, str)
    fault_chosen = pyqtSignal(int, str)
    finer_wanted = pyqtSignal(int)
    reload_wanted = pyqtSignal(int)
    part_chosen = pyqtSignal(int)
    refused_dismissed = pyqtSignal()

    def __init__(self, model: Workbench, palette: Palette) -> None:
        super().__init__("receiving_report", "DETAILS", palette)
        self._model = model
        self._shown: tuple[object, ...] = ()
        for changed in (model.document.changed, model.results.changed, model.selection.changed):
            changed.connect(self.refresh)
        model.loader.previewed.connect(lambda _: self.refresh())
        self.refresh()

    def wear(self, palette: Palette) -> None:
        self._palette = palette
        self._shown = ()
        self.refresh()

    @property
    def placed(self) -> PlacedPart | None:
        """The part that is reported on: the one chosen, or the only one."""
        found = self._model.selection.in_view()
        return found[0] if len(found) == 1 else None

    def refresh(self) -> None:
        """Brings the report in step; widgets are made anew only where something in it changed."""
        if self.isHidden():
            return
        placed = self.placed
        if placed is None:
            self._survey()
            return
        found = self._model.results.outcomes_of(placed, "health")
        health = found[0] if found else None
        faulty = health is not None and health.verdict in ("fail", "review") and any(b.kind == "mesh" for b in placed.part.bodies)
        previews = self._model.loader.previews_of(placed) if faulty else None
        stale = placed.id in self._model.loader.stale
        doubt = self._model.loader.doubt_of(placed)
        material = self._model.job.material_of(placed)
        refused = self._model.loader.refused
        shown = (placed, health, previews, stale, doubt, material, self._model.job.notes, self._palette, refused)
        if len(shown) == len(self._shown) and all(a is b or a == b for a, b in zip(shown, self._shown, strict=True)):
            return
        self._shown = shown
        self._clear()
        self.stamp.show_verdict(health.verdict if health is not None else "not-run", stale=False, palette=self._palette)
        self._say(placed.name, "title")
        if stale:
            self._say("Its file has changed on the disk since it was read.", "")
            self._answers([("Reload", "report_reload", partial(self.reload_wanted.emit, placed.id))])
        if doubt is not None:
            self._unit_question(placed, doubt.why, doubt.answers)
        self._refusals()
        self._facts(placed, material)
        self._mesh_health(placed, health)
        if previews:
            self._repairs(placed)
        for note in placed.part.notes:
            self._say(note, "quiet")
        own = [line.words for line in self._model.job.record if line.concerns(placed.id)]
        if own:
            self._say("RECORD", "head")
            for words in own[-8:]:
                self._say(words, "quiet")
        if placed.part.metadata:
            self._say("FROM THE FILE", "head")
            for name, value in placed.part.metadata[:12]:
                self._say(f"{name}: {value}", "quiet")
        self._column.addStretch(1)

    # --- one part --------------------------------------------------------------------------------------------------

    def _unit_question(self, placed: PlacedPart, why: str, answers: tuple[str, ...]) -> None:
        box = QFrame()
        box.setObjectName("unit_question")
        p = self._palette
        box.setStyleSheet(f"QFrame#unit_question {{ border: none; border-left: 4px solid {p.review}; background: {p.ground}; }}")
        column = column_box(box, (8, 6, 6, 6))
        words = QLabel(f"<b>Unit in doubt.</b> {escape(why[:1].upper() + why[1:])}.")
        words.setTextFormat(Qt.TextFormat.RichText)
        words.setWordWrap(True)
        column.addWidget(words)
        buttons = []
        for unit in (*answers, "mm"):
            label = "Keep mm" if unit == "mm" else f"Read as {UNIT_WORDS[unit]}"
            button = small(
                label,
                f"unit_{unit}",
                f"Take the numbers of the file for {UNIT_WORDS[unit]}",
                do=partial(self.unit_set.emit, placed.id, unit),
            )
            buttons.append(button)
        column.addLayout(in_lines(buttons, _ASKED_WIDTH))
        self._column.addWidget(box)

    def _facts(self, placed: PlacedPart, material: str) -> None:
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        for line, (name, value) in enumerate(facts(placed.part, placed.figures, placed.centre, material)):
            title = caption(name, "quiet")
            grid.addWidget(title, line, 0, Qt.AlignmentFlag.AlignTop)
            if name == "Material":
                grid.addWidget(self._material_choice(placed, material), line, 1)
                continue
            shown = caption(value, name=f"fact_{name.lower().replace(' ', '_')}", wrap=True)
            shown.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            shown.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            grid.addWidget(shown, line, 1)
        self._column.addWidget(holder)
        if any(body.chord_error for body in placed.part.bodies):
            finer = ("Mesh it finer", "report_finer", partial(self.finer_wanted.emit, placed.id))
            self._answers([finer])

    def _material_choice(self, placed: PlacedPart, chosen: str) -> QComboBox:
        choice = Choice()
        named(choice, "report_material", "Material of the part")
        choice.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        for one in MATERIALS:
            choice.addItem(one.name, one.id)
        if choice.findData(chosen) < 0:
            # Of another version; it stays until another is chosen.
            choice.addItem(words_of(chosen).capitalize(), chosen)
        choice.setCurrentIndex(choice.findData(chosen))
        choice.activated.connect(lambda _: self.material_set.emit(placed.id, choice.currentData()))
        return choice

    def _mesh_health(self, placed: PlacedPart, health: Outcome | None) -> None:
        self._say("MESH HEALTH", "head")
        if health is None:
            self._say("Being looked at…", "quiet")
            return
        colour = self._palette.verdict(health.verdict).name()
        self._say(f'<b style="color:{colour}">{WORDS[health.verdict]}</b>&nbsp; {escape(health.why)}', "", rich=True)
        for number, (what, count, words) in enumerate(faults(health)):
            button = QPushButton()
            button.setText(broken(f"{count} {words}\u00a0›", button.fontMetrics(), _FAULT_WIDTH))
            button.setObjectName(f"fault_{number}")
            button.setProperty("flat", True)
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.setToolTip("Fly to the next of them and flag it")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.clicked.connect(partial(self.fault_chosen.emit, placed.id, what))
            self._column.addWidget(button)

    def _repairs(self, placed: PlacedPart) -> None:
        previews = self._model.loader.previews_of(placed) or {}
        self._say("REPAIRS", "head")
        for id, changes in previews.items():
            title = BY_ID[id].title
            number = sum(change.count for _, change in changes)
            one, many = BY_ID[id].unit
            of = counted(changes[0][1]) if len(changes) == 1 else f"{number:,} {one if number == 1 else many}"
            holder = QWidget()
            row = row_box(holder, (0, 0, 0, 0), 6)
            after = volume_words(changes[0][1]) if len(changes) == 1 else f"{len(changes)} bodies"
            words = QLabel(
                f"{title}: {of}. <span style='color:{self._palette.quiet}'>{escape(after[:1].upper() + after[1:])}.</span>"
            )
            words.setTextFormat(Qt.TextFormat.RichText)
            words.setWordWrap(True)
            button = small(
                "Repair",
                f"mend_{id.replace('-', '_')}",
                f"{title}: {of}; undo brings it back",
                do=partial(self.repairs_wanted.emit, placed.id, (id,)),
            )
            row.addWidget(words, 1)
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
            self._column.addWidget(holder)
        if len(previews) > 1:
            self._answers([("Do all of these", "mend_all", partial(self.repairs_wanted.emit, placed.id, tuple(previews)))])

    # --- all parts -------------------------------------------------------------------------------------------------

    def _survey(self) -> None:
        """Without one part chosen: which of the received files want a look."""
        parts = self._model.selection.in_view()
        wanting = []
        for placed in parts:
            found = self._model.results.outcomes_of(placed, "health")
            verdict = found[0].verdict if found else "not-run"
            doubt = self._model.loader.doubt_of(placed)
            if doubt is not None or verdict in ("fail", "review"):
                wanting.append((placed, verdict, doubt is not None, found[0].why if found else ""))
        refused = self._model.loader.refused
        shown = (
            "survey", tuple((one[0].id, *one[1:]) for one in wanting), len(parts), self._palette, self._model.job.notes,
            refused,
        )  # fmt: skip
        if shown == self._shown:
            return
        self._shown = shown
        self._clear()
        gravest = "fail" if any(verdict == "fail" for _, verdict, _, _ in wanting) else "review" if wanting else "pass"
        self.stamp.show_verdict(gravest if parts else "not-run", stale=False, palette=self._palette)
        rest = len(parts) - len(wanting)
        if not parts:
            self._say("Nothing received yet. What each file holds, and what is wrong with it, stands here then.", "quiet")
        else:
            # Copies are parts as well, and no files.
            self._say(f"{len(parts)} parts, {rest} without a question.", "")
        self._refusals()
        if self._model.job.notes:
            self._say("RECORD", "head")
            for note in self._model.job.notes[-6:]:
                self._say(note, "quiet")
        for placed, verdict, doubted, why in wanting[:40]:
            words = "unit in doubt" if doubted else why
            button = QPushButton()
            button.setText(broken(placed.name, button.fontMetrics(), _FAULT_WIDTH))
            button.setObjectName(f"survey_{placed.id}")
            button.setProperty("flat", True)
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            button.setToolTip(f"{placed.name}. {WORDS[verdict]}: {words} Select it for its own details.")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.clicked.connect(partial(self.part_chosen.emit, placed.id))
            self._column.addWidget(button)
            reason = paragraph(words[:1].upper() + words[1:], "quiet")
            reason.setIndent(9)
            self._column.addWidget(reason)
        if len(wanting) > 40:
            self._say(f"and {len(wanting) - 40} more", "quiet")
        self._column.addStretch(1)

    def _refusals(self) -> None:
        """Files that could not be used, until they are dismissed."""
        refused = self._model.loader.refused
        if not refused:
            return
        self._say("REFUSED", "head")
        for _, sentence in refused[:_MOST_REFUSED]:
            self._say(sentence, "")
        rest = refused[_MOST_REFUSED:]
        if rest:
            self._say(f"and {len(rest)} more: {', '.join(name for name, _ in rest[:60])}", "quiet")
        self._answers([("Dismiss", "report_dismiss_refused", partial(self.refused_dismissed.emit))])

    # --- pieces ----------------------------------------------------------------------------------------------------

    def _clear(self) -> None:
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                # Out of the tree at once: what is found by name there is what is shown.
                widget.hide()
                widget.setParent(None)
                widget.deleteLater()

    def _say(self, words: str, role: str, *, rich: bool = False) -> None:
        """rich : words of ours with marks of HTML, in which what comes from elsewhere has been escaped"""
        self._column.addWidget(paragraph(words, role, rich=rich))

    def _answers(self, answers: list[tuple[str, str, partial[None]]]) -> None:
        holder = QWidget()
        row = row_box(holder, (0, 0, 0, 0))
        for words, name, run in answers:
            button = small(words, name, words, do=lambda _, run=run: run())
            row.addWidget(button)
        row.addStretch(1)
        self._column.addWidget(holder)
