"""Fixtures, and the `gui` mark for every test that asks for a window."""

from __future__ import annotations

import faulthandler
import gc
import os
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PyQt6 import sip
from PyQt6.QtTest import QTest

from gullyrise.core.job.visibility import Visibility
from gullyrise.desktop.upkeep.log import end_log
from gullyrise.drawing.display import Display

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
faulthandler.enable()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if {"window", "long_lived"} & set(getattr(item, "fixturenames", ())):
            item.add_marker(pytest.mark.gui)
    # Those without a window first: while the process is small, so is each worker that is forked off it.
    items.sort(key=lambda item: bool({"desktop", "drawing", "soak", "attack"} & set(item.path.parts)))


def ended(window: Any) -> None:
    """Closes a window and gives back all that it held: hundreds follow each other in one process, which starting one freezes."""
    window.close()
    end_log()
    said, met = window.notifications.sentences, window.mishaps.met
    sip.delete(window)
    gc.unfreeze()
    assert not [sentence for sentence in said if "could not be drawn" in sentence]
    assert not met, "\n".join(mishap.details for mishap in met.values())


@pytest.fixture(autouse=True)
def own_home(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No test reads or writes the user's own folder."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "home"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "configuration"))
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


@pytest.fixture(scope="module")
def long_lived(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Callable[..., object]]:
    """Opens a real window that the tests of a module share, parts ready but not judged; each test begins with `as_opened`."""
    from gullyrise.desktop import launch

    home = tmp_path_factory.mktemp("home")
    opened = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_DATA_HOME", str(home))
        patch.setenv("XDG_CONFIG_HOME", str(home))
        patch.setenv("XDG_STATE_HOME", str(home))

        def start(*words: str) -> object:
            _, made = launch(list(words))
            opened.append(made)
            made.activateWindow()
            end = time.monotonic() + 240
            while time.monotonic() < end and len(made.model.ready.prepared) < len(words):
                QTest.qWait(10)
            made.model.cancel_all()
            assert made.wait_until_idle(240)
            return made

        yield start
        for made in opened:
            ended(made)


def as_opened(made: Any) -> None:
    """A window that several tests share, as it was when its parts had been opened. Nothing glides."""
    for page in ("Pointer", "View", "Looks", "Keys", "Files", "Parts", "Cut and measure"):
        made.settings.reset(page)
    made.settings.set("view.glide", 0)
    made.scene.show_display(Display())
    made.notifications.dismiss_all()
    made.keys.let_go()
    made.bench.hold_keys(frozenset())
    made.bench.hand.abandon()
    made.bench.drop_tool()
    made.choice.set_kind("body")
    made.measure.clear()
    made.sections.close_all()
    made.dimensions.choose(None)
    if made.bench.panes.four:
        made.bench.set_four(False)
    made.bench.moves.draw_out((1.0, 1.0, 1.0))
    made.model.shown.look(Visibility())
    made.model.selection.select_bodies(())
    made.activateWindow()
    made.bench.setFocus()
    if made.bench.camera.parallel:
        made.do("view.projection")
    made.do("view.isometric")
    made.scene.bring_in_step()


@pytest.fixture
def unwalled(monkeypatch: pytest.MonkeyPatch) -> None:
    """For tests of other things: walls, which cost most of what opening a part does, are not measured."""
    _judged_by(monkeypatch, lambda check: check != "walls")


@pytest.fixture
def few_checks(monkeypatch: pytest.MonkeyPatch) -> None:
    """For tests of where parts stand: nothing else is judged."""
    _judged_by(monkeypatch, lambda check: check in ("health", "fit", "clearances"))


def _judged_by(monkeypatch: pytest.MonkeyPatch, wanted: Callable[[str], bool]) -> None:
    from gullyrise.desktop.state.document_model import DocumentModel

    every = DocumentModel.active_checks
    monkeypatch.setattr(DocumentModel, "active_checks", lambda self: [row for row in every(self) if wanted(row[0])])


@pytest.fixture
def window(request: pytest.FixtureRequest) -> Iterator[Callable[..., object]]:
    """Opens a real window: `window("file.stl", "--machine", "heron-220")`; closed after the test."""
    from gullyrise.desktop import launch

    opened = []

    def start(*words: str) -> object:
        _, made = launch(list(words))
        opened.append(made)
        made.activateWindow()
        assert made.wait_until_idle(240)
        return made

    yield start
    for made in opened:
        ended(made)
