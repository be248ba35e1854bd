"""Fixtures, and the `gui` mark for every test that asks for a window."""

from __future__ import annotations

import faulthandler
import os
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
faulthandler.enable()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    for item in items:
        if "window" in getattr(item, "fixturenames", ()):
            item.add_marker(pytest.mark.gui)


@pytest.fixture(autouse=True)
def own_home(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """No test reads or writes the user's own folder."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "home"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "configuration"))


@pytest.fixture
def window(request: pytest.FixtureRequest) -> Iterator[Callable[..., object]]:
    """Opens a real window: `window("file.stl", "--machine", "heron-220")`; closed after the test."""
    from gullyrise.desktop import launch

    opened = []

    def start(*words: str) -> object:
        _, made = launch(list(words))
        opened.append(made)
        made.activateWindow()
        assert made.wait_until_idle(120)
        return made

    yield start
    for made in opened:
        made.close()
        assert not [sentence for sentence in made.notices.sentences if "could not be drawn" in sentence]
