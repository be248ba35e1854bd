"""Nothing is cut off, nothing lies on anything else, no two lines of a list say the same: walked through the demo job."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QPushButton, QWidget
from sight import overlapping, rows_of, unread

from gullyrise.desktop.commands.registry import CARDS
from gullyrise.drawing.palette import THEMES

SIZES = ((1024, 680), (1280, 800))
SHARES = {(1280, 800): 0.48, (1920, 1080): 0.60}
_LOOKS = 60
CHECKS = ("health", "fit", "walls", "overhangs", "clearances")


@pytest.fixture(scope="module")
def opened(tmp_path_factory: pytest.TempPathFactory) -> Any:
    from conftest import ended
    from gullyrise.desktop import launch

    home = str(tmp_path_factory.mktemp("home"))
    with pytest.MonkeyPatch.context() as patch:
        for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
            patch.setenv(name, home)
        _, made = launch(["--demo"])
        assert made.wait_until_idle(240)
        made.first_steps.end()
        yield made
        ended(made)


def wrong(made: Any) -> list[str]:
    panels = (made.bench, made.parts_panel, made.traveller, made.head, made.area_strip, made.area_strip.line, made.status)
    told: list[str] = []
    for _ in range(_LOOKS):
        # Words are laid out soon; the picture under them takes longer, and has none.
        QTest.qWait(30)
        told = [*unread(made), *(found for panel in panels for found in overlapping(panel))]
        if not told:
            break
    return told


# Where words are cut off hangs on the size, not on the colours: each theme at one of them.
@pytest.mark.parametrize(("size", "theme"), list(zip(SIZES, THEMES, strict=True)))
def test_every_word_of_the_window_is_read_as_a_whole(opened: Any, theme: str, size: tuple[int, int]) -> None:
    made = opened
    made.settings.set("looks.theme", theme)
    made.resize(*size)
    told: list[tuple[str, str]] = []

    def tell(where: str) -> None:
        told.extend((where, words) for words in wrong(made))

    tell("as it came")
    for check in CHECKS:
        made.do(f"check.{check}")
        tell(check)
    made.do("check.next-finding")
    tell("a finding")
    made.do("check.none")
    for placed in made.model.job.parts:
        made.model.selection.select({placed.id})
        tell(placed.name)
    made.model.selection.select({next(one.id for one in made.model.job.parts if one.name == "clamp_saddle")})
    made.do("place.slip")
    tell("placing")
    made.do("panels.report")
    made.do("cut.x")
    tell("a cut")
    made.do("cut.split")
    tell("splitting")
    made.split_form.hide()
    made.do("cut.off")
    made.do("check.matrix")
    tell("the matrix")
    made.matrix_panel.hide()
    made.do("parts.list")
    tell("the parts list")
    made.do("parts.list")
    for letter in CARDS:
        made.family_bar.open(letter)
        tell(f"card {letter}")
        assert made.rect().contains(made.key_card.geometry()), f"the whole card of {letter}"
        last = made.key_card.list.visualRect(made.key_card.rows_model.index(len(made.key_card.rows) - 1))
        assert made.key_card.list.viewport().rect().contains(last), f"with its last row, {letter}"
    made.family_bar.close_card()
    made.model.selection.select(set())
    for open_sheet in (made.sheets.open_settings, made.sheets.open_keys, made.sheets.open_about, made.machines.open_library):
        sheet = open_sheet()
        QTest.qWait(200)
        told.extend((sheet.windowTitle(), words) for words in unread(sheet))
        sheet.close()
    assert not told, "\n".join(f"{where}: {words}" for where, words in told)


def test_the_bench_is_the_window(opened: Any) -> None:
    made = opened
    for size, least in SHARES.items():
        made.resize(*size)
        made.panels.reset()
        made.wait_until_idle(60)
        share = made.bench.width() * made.bench.height() / (size[0] * size[1])
        assert share >= least, f"{share:.3f} of {size}"
    made.resize(1280, 800)


def test_no_two_lines_of_a_list_say_the_same(opened: Any) -> None:
    made = opened
    made.wait_until_idle(60)
    made.do("check.none")
    made.wait_until_idle(60)
    folds = [one for one in made.findings_list.findChildren(QPushButton) if one.objectName().startswith("fold_")]
    heads = [fold.accessibleName().partition(" ")[2] for fold in folds]
    assert len(heads) > 8 and len(set(heads)) == len(heads)
    buttons = [one for one in made.findings_list.findChildren(QPushButton) if one.property("finding") and one.isVisible()]
    lines = {one.accessibleName() for one in buttons}
    assert len(lines) == len(buttons) >= 8
    names = [row.data() for row in rows_of(made.parts_panel.tree)]
    assert len(names) == 9 and len(set(names)) == 9


def test_a_check_is_one_line_and_groups_of_findings_fold(opened: Any) -> None:
    made = opened
    made.do("check.none")
    made.wait_until_idle(60)
    assert {row.height() for row in made.traveller.rows.values()} == {40}
    before = len([one for one in made.findings_list.findChildren(QPushButton) if one.property("finding") and one.isVisible()])
    fold = made.findings_list.findChild(QPushButton, "fold_1")
    QTest.mouseClick(fold, Qt.MouseButton.LeftButton)
    after = [one for one in made.findings_list.findChildren(QPushButton) if one.property("finding") and one.isVisible()]
    assert len(after) != before
    QTest.mouseClick(made.findings_list.findChild(QPushButton, "fold_1"), Qt.MouseButton.LeftButton)
    made.wait_until_idle(60)
    shown = [one for one in made.findings_list.findChildren(QPushButton) if one.property("finding") and one.isVisible()]
    assert len(shown) == before and all(not one.icon().isNull() for one in shown), "each with its picture"


def test_the_walker_sees_what_is_cut_off(opened: Any) -> None:
    """A check that cannot fail would be worth nothing."""
    made = opened
    box = QWidget(made)
    label = QLabel("far too long for its room", box)
    label.setGeometry(0, 0, 40, 20)
    box.setGeometry(300, 300, 30, 30)
    box.show()
    told = unread(box)
    assert len(told) == 2 and "wants" in told[0] and "sticks out" in told[1]
    other = QLabel("x", box)
    other.setGeometry(5, 5, 20, 20)
    other.show()
    assert overlapping(box)
    box.setParent(None)
    box.deleteLater()


_TWICE = """
import sys
sys.path.insert(0, {tests!r})
from sight import unread
from gullyrise.desktop import launch
from gullyrise.desktop.starting import end
_, window = launch(["--demo"])
window.resize(1280, 800)
assert window.wait_until_idle(200)
window.first_steps.end()
assert window.devicePixelRatioF() == 2
told = unread(window)
end(window)
sys.exit("\\n".join(told) if told else 0)
"""


@pytest.mark.slow
def test_at_twice_the_pixels_nothing_is_cut_off_either(tmp_path: Path) -> None:
    tests = str(Path(__file__).parents[1])
    homes = {name: str(tmp_path) for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME")}
    asked = subprocess.run(
        [sys.executable, "-c", _TWICE.format(tests=tests)], env={**os.environ, "QT_SCALE_FACTOR": "2", **homes},
        capture_output=True, encoding="utf-8", timeout=280,
    )  # fmt: skip
    assert asked.returncode == 0, asked.stderr[-3000:]
