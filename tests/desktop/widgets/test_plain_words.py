"""What comes from a file is shown as words, whatever marks stand in it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QToolTip
from waiting import until

import zoo
from gullyrise.core.writing.threemf import write_3mf

MARKED = '<b style="color:green">Pass</b><img src="/etc/hostname">'


def test_a_file_cannot_write_a_verdict_into_the_window(window: Any, tmp_path: Path, unwalled: None) -> None:
    part = zoo.part(zoo.mesh_of(zoo.block((0, 0, 0), (20, 30, 8))), MARKED)
    part = replace(part, metadata=(("Title", MARKED), (MARKED, "x")), notes=(MARKED,))
    path = tmp_path / "part <b>pass.3mf"
    write_3mf(part, path)
    made = window(str(path))
    until(lambda: len(made.model.job.parts) == 1, 60)
    made.model.document.edit("Note", lambda job: job.noted(MARKED))
    made.model.selection.select({made.model.job.parts[0].id})
    made.notifications.say(f"{MARKED} is read.", False)
    QTest.qWait(50)
    marked = [one for one in made.findChildren(QLabel) if "<b" in one.text() and one.isVisibleTo(made)]
    from_elsewhere = [one for one in marked if "green" in one.text()]
    assert len(from_elsewhere) >= 2
    assert all(one.textFormat() == Qt.TextFormat.PlainText for one in from_elsewhere)
    assert not [one for one in made.findChildren(QLabel) if one.isVisible() and one.textFormat() == Qt.TextFormat.AutoText]
    QToolTip.showText(made.mapToGlobal(made.rect().center()), MARKED, made)
    QTest.qWait(50)
    tips = [one for one in QApplication.topLevelWidgets() if isinstance(one, QLabel) and one.text() == MARKED]
    assert tips and all(one.textFormat() == Qt.TextFormat.PlainText for one in tips)
    QToolTip.hideText()


def test_a_name_in_the_marks_of_keys_stays_as_it_is(window: Any) -> None:
    made = window()
    made.notifications.say("«bague» could not be read; see «check.walls».", False)
    assert made.notifications.sentences[-1] == "«bague» could not be read; see K W."
