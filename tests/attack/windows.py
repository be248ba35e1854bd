"""The real window under attack: odd jobs are opened in it, odd files stand where it starts, and its own methods fail on
purpose."""

from __future__ import annotations

import ast
import functools
import importlib
import inspect
import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import gullyrise
from attack.jobs import Case, data_of, write_job
from gullyrise.core.errors import JobError
from gullyrise.core.job.form import JobForm
from gullyrise.core.job.sound import sound_form
from gullyrise.core.job.store import Store

_PATIENCE = 40.0
_SOURCE = Path(gullyrise.__file__).parent


class Broken(Exception):
    """Raised on purpose."""


def lived(made: Any, seconds: float) -> None:
    """Lets the window live for a while."""
    from PyQt6.QtTest import QTest

    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QTest.qWait(5)


def _comes(made: Any, condition: Callable[[], bool], seconds: float = _PATIENCE) -> bool:
    end = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > end:
            return False
        lived(made, 0.01)
    return True


def opened_fault(made: Any, case: Case, before: JobForm, store: Store, folder: Path) -> str:
    """What goes wrong while a changed job is opened, looked at, saved and opened again; empty where nothing does."""
    path, copy = folder / "odd.gullyrise", folder / "copy.gullyrise"
    write_job(case.tree, store, before, path)
    data = path.read_bytes()
    copy.unlink(missing_ok=True)
    said = len(made.notifications.sentences)
    edits = made.model.document.history.steps
    made.job_file.open(str(path))
    if not _comes(made, lambda: made.model.document.history.steps > edits or len(made.notifications.sentences) > said):
        return "it never opens, and nothing is said"
    made.model.checks.cancel_all()
    if not made.wait_until_idle(_PATIENCE):
        return "it is never done"
    try:
        form, cost = sound_form(data_of(case.tree), "odd.gullyrise")
    except JobError:
        form, cost = None, ()
    words = " ".join(made.notifications.sentences[said:])
    if form is not None and cost and cost[0] not in words:
        return f"not told: {cost[0]}"
    if form is not None and len(made.model.job.parts) < len(form.stands) and not words:
        return "parts are missing without a word"
    made.model.selection.select({one.id for one in made.model.job.parts})
    made.do("view.front")
    made.grab()
    made.do("job.save")
    made.wait_until_idle(_PATIENCE)
    if form is not None and cost and path.read_bytes() != data:
        return "saved over without a question"
    if made.model.job.parts:
        made.job_file.save_to(str(copy))
        if not _comes(made, lambda: made.job_file.path == str(copy) or made.mishaps.met):
            return f"it cannot be saved: {made.notifications.sentences[-1:]}"
    return mishaps_in(made)


def mishaps_in(made: Any) -> str:
    """What nobody caught since this was asked last."""
    met = list(made.mishaps.met.values())
    made.mishaps.met.clear()
    return met[0].details[-600:] if met else ""


# --- methods broken on purpose ----------------------------------------------------------------------------------------------

_SPARED = {
    # What tells of a failure, and what this walk itself asks for, has to stand.
    "Mishaps", "Notifications", "Window.closeEvent", "Window.wait_until_idle", "Desk.do", "TaskRunner._hear",
    "TaskRunner._hand_over", "TaskRunner.close",
}  # fmt: skip


def methods() -> list[tuple[str, str, str]]:
    """(module, class, name) of every method of the window but those that make it."""
    found = []
    for path in sorted(path for room in ("desktop", "drawing") for path in (_SOURCE / room).rglob("*.py")):
        module = ".".join(("gullyrise", *path.relative_to(_SOURCE).with_suffix("").parts))
        for made in ast.parse(path.read_text(encoding="utf-8")).body:
            if isinstance(made, ast.ClassDef) and made.name not in _SPARED:
                found += [
                    (module.removesuffix(".__init__"), made.name, one.name)
                    for one in made.body
                    if isinstance(one, ast.FunctionDef)
                    and not one.name.startswith("__")
                    and not one.decorator_list
                    and f"{made.name}.{one.name}" not in _SPARED
                ]
    return found


def some_methods(count: int, seed: int) -> list[tuple[str, str, str]]:
    found = methods()
    return random.Random(seed).sample(found, min(count, len(found)))


@contextmanager
def breaking(module: str, kind: str, name: str) -> Iterator[list[bool]]:
    """The method raises at its first call; whether it did."""
    owner = getattr(importlib.import_module(module), kind)
    method = vars(owner)[name]
    fell = [False]
    takes = list(inspect.signature(method).parameters.values())
    most = sum(one.kind in (one.POSITIONAL_ONLY, one.POSITIONAL_OR_KEYWORD) for one in takes)
    anything = any(one.kind is one.VAR_POSITIONAL for one in takes)

    @functools.wraps(method)
    def called(*words: Any, **named: Any) -> Any:
        if not fell[0]:
            fell[0] = True
            raise Broken(f"{kind}.{name}")
        return method(*(words if anything else words[:most]), **named)

    setattr(owner, name, called)
    try:
        yield fell
    finally:
        setattr(owner, name, method)


def walk(made: Any, file: str, chance: random.Random) -> None:
    """A part is opened, looked at, moved, cut, measured, undone, saved and removed."""
    import strokes
    from PyQt6.QtCore import QPointF

    # What this walk calls straight would be caught by the event that calls it otherwise.
    with suppress(Broken):
        made.model.open_files([file])
    lived(made, 0.25)
    if made.model.job.parts:
        with suppress(Broken):
            made.model.selection.select({made.model.job.parts[-1].id})
    asking = {id for id, entry in made.runner.actions.items() if entry.label.endswith("…")}
    for id in chance.sample(sorted(set(made.runner.actions) - asking - {"job.demo"}), 12):
        # What an action calls straight is caught by who pressed its key: here nobody did.
        with suppress(Broken):
            made.do(id)
        lived(made, 0.01)
    middle = QPointF(made.bench.width() / 2, made.bench.height() / 2)
    with suppress(Broken):
        strokes.drag(made.bench, {"left"}, middle, QPointF(60, 20))
        strokes.drag(made.bench, {"right"}, middle, QPointF(-40, 20))
        strokes.wheel(made.bench, middle, 1)
    with suppress(Broken):
        made.model.document.set_limit("min_wall", 1.0 + chance.random())
    with suppress(Broken):
        made.grab()
    lived(made, 0.15)


def broken_fault(made: Any, which: tuple[str, str, str], file: str, chance: random.Random, folder: Path) -> str:
    """What goes wrong for good where a method fails once; empty where the window goes on."""
    from PyQt6.QtWidgets import QApplication

    with breaking(*which) as fell:
        walk(made, file, chance)
    for other in QApplication.topLevelWidgets():
        if other is not made and other.isVisible():
            other.close()
    made.mishaps.met.clear()
    if not fell[0]:
        return ""
    # Some actions go on until somebody stops them.
    made.sections.sweep.stop()
    made.model.cancel_all()
    if not made.wait_until_idle(_PATIENCE):
        return f"{which[1]}.{which[2]}: it is never done again"
    made.bench.hand.abandon()
    made.model.document.edit("New job", lambda job: job.without({one.id for one in job.parts}))
    said = len(made.notifications.sentences)
    made.model.open_files([file])
    if not _comes(made, lambda: len(made.model.job.parts) == 1):
        return f"{which[1]}.{which[2]}: no file is opened any more ({made.notifications.sentences[said:]})"
    path = folder / f"after-{which[2]}.gullyrise"
    made.job_file.save_to(str(path))
    if not _comes(made, path.exists):
        return f"{which[1]}.{which[2]}: nothing is saved any more ({made.notifications.sentences[said:]})"
    made.model.cancel_all()
    fault = mishaps_in(made)
    return f"{which[1]}.{which[2]}: {fault}" if fault else ""
