"""Questions on what came in: units that look wrong, files that are other ones by now."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from gullyrise.core.intake.units import Doubt
from gullyrise.core.job import PlacedPart
from gullyrise.core.name_words import some_of
from gullyrise.core.report.part_facts import UNIT_WORDS
from gullyrise.desktop.features.parts import text
from gullyrise.desktop.ports import Notifier
from gullyrise.desktop.state.workbench import Workbench


class Questions:
    """changed : called when a part's file is another, or gone, or there again"""

    def __init__(self, model: Workbench, notifier: Notifier, changed: Callable[[], None]) -> None:
        self._model, self._notifier, self._changed = model, notifier, changed
        self._in_doubt: set[int] = set()
        self._asked_units: dict[tuple[str, tuple[str, ...]], tuple[int, ...]] = {}
        """Ids of the parts that each question stands for, by their unit and the answers."""
        self._told_of: dict[str, frozenset[int]] = {}
        """Ids of the parts whose files a notice says to be other ones, or gone."""
        receiving = model.loader
        receiving.doubted.connect(self._ask_unit)
        model.document.changed.connect(self._ask_units)
        receiving.files.altered.connect(self._tell_of_files)
        model.document.changed.connect(self._tell_of_files)

    def _ask_unit(self, number: int) -> None:
        self._in_doubt.add(number)
        self._ask_units()

    def _ask_units(self) -> None:
        """One question for all parts whose unit is in doubt in the same way; what was answered, or is gone, is asked no more. The
        report of each asks of it alone for as long as it stands."""
        model, notices = self._model, self._notifier
        alike: dict[tuple[str, tuple[str, ...]], list[tuple[PlacedPart, Doubt]]] = {}
        for number in sorted(self._in_doubt):
            placed = model.job.part(number)
            doubt = model.loader.doubt_of(placed) if placed is not None else None
            if placed is not None and doubt is not None:
                alike.setdefault((placed.part.unit, tuple(sorted(doubt.answers))), []).append((placed, doubt))
        asked = {key: tuple(placed.id for placed, _ in found) for key, found in alike.items()}
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
            who = some_of([placed.name for placed, _ in alike[key]])
            which = text.UNIT_LOOKS_WRONG_BECAUSE.format(who, first.name) if many else text.UNIT_LOOKS_WRONG.format(who)
            every = " all" if many else ""
            answers = [
                (text.READ_AS.format(every, UNIT_WORDS[unit]), partial(self._answer_units, asked[key], unit))
                for unit in doubt.answers
            ]
            answers.append((f"Keep {held}{' for all' if many else ''}", partial(self._answer_units, asked[key], held)))
            notices.say(f"{which}: {doubt.why}.", False, answers, about)
        self._asked_units = asked

    def _answer_units(self, numbers: tuple[int, ...], unit: str) -> None:
        merging = ("unit", object())
        for number in numbers:
            self._model.loader.set_unit(number, unit, merging)

    def _tell_of_files(self) -> None:
        """Says which files are other ones now, or gone, as long as they are."""
        receiving = self._model.loader
        for about, numbers in (("reload", receiving.stale), ("gone", receiving.gone)):
            if numbers == self._told_of.get(about, frozenset()):
                continue
            self._told_of[about] = numbers
            self._changed()
            if not numbers:
                self._notifier.settled(about)
                continue
            first = next(placed.name for placed in self._model.job.parts if placed.id in numbers)
            many = len(numbers) > 1
            if about == "reload":
                self._notifier.say(
                    text.CHANGED_ON_DISK.format(f'{len(numbers)} files have' if many else f'{first} has'), False,
                    [(text.READ_ANEW, partial(receiving.reload, numbers))], about,
                )  # fmt: skip
            else:
                what = text.MANY_FILES.format(len(numbers)) if many else text.ONE_FILE.format(first)
                self._notifier.say(text.NOT_ON_DISK.format(what), False, about=about)
        self._changed()
