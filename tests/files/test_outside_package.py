"""A reader and a check of another package, installed beside the application, work everywhere: on the command line, in machine
files, in the window and its machine library, in folders that are dropped, and in the report."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

OUTSIDE = Path(__file__).parents[1] / "fixtures" / "outside"
BLOCKS = "BLOCKS\nupright 20 20 15\nleaning 20 14 15\n"


@pytest.fixture
def installed(tmp_path: Path) -> dict[str, str]:
    """The surroundings of a program that has the package installed."""
    site = tmp_path / "site"
    shutil.copytree(OUTSIDE, site)
    path = os.pathsep.join([str(site), *(one for one in (os.environ.get("PYTHONPATH"),) if one)])
    return dict(os.environ, PYTHONPATH=path)


@pytest.fixture
def blocks(tmp_path: Path) -> Path:
    path = tmp_path / "parts" / "pair.blk"
    path.parent.mkdir()
    path.write_text(BLOCKS)
    return path


def run(surroundings: dict[str, str], *words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "gullyrise", *words], env=surroundings, capture_output=True, encoding="utf-8", timeout=200
    )


def check(surroundings: dict[str, str], blocks: Path, *more: str) -> tuple[int, dict[str, object]]:
    out = blocks.parent.parent / "out.json"
    done = run(surroundings, "check", str(blocks), "--only", "draft", "--json", str(out), *more)
    return done.returncode, json.loads(out.read_text(encoding="utf-8"))


def test_the_command_line_judges_it_by_its_own_limit(installed: dict[str, str], blocks: Path, tmp_path: Path) -> None:
    status, told = check(installed, blocks)
    (outcome,) = told["checks"]  # type: ignore[misc]
    assert status == 1 and (outcome["check"], outcome["verdict"]) == ("draft", "fail")  # type: ignore[index]
    assert [finding["what"] for finding in outcome["findings"]] == ["upright leans by 0.0° only"]  # type: ignore[index]
    assert told["limits"]["draft_angle"] == 2.0  # type: ignore[index]
    limits = tmp_path / "limits.toml"
    limits.write_text("draft_angle = 0.0\n")
    status, told = check(installed, blocks, "--limits", str(limits))
    assert status == 0 and told["limits"]["draft_angle"] == 0.0  # type: ignore[index]
    limits.write_text("draft_angle = 12.0\ndraft_height = 5.0\n")
    _, told = check(installed, blocks, "--limits", str(limits))
    assert len(told["checks"][0]["findings"]) == 2  # type: ignore[index]


@pytest.mark.parametrize(
    ("line", "says"),
    [("draft_angel = 2.0", "draft_angel"), ("draft_angle = 31.0", "draft_angle"), ('draft_angle = "2"', "draft_angle")],
)
def test_a_limit_that_it_cannot_take_is_named(
    installed: dict[str, str], blocks: Path, tmp_path: Path, line: str, says: str
) -> None:
    limits = tmp_path / "limits.toml"
    limits.write_text(line + "\n")
    done = run(installed, "check", str(blocks), "--limits", str(limits))
    assert done.returncode == 2 and says in done.stderr and "Traceback" not in done.stderr


def test_a_machine_file_and_the_report_have_it(installed: dict[str, str], blocks: Path, tmp_path: Path) -> None:
    machine = tmp_path / "mould.toml"
    machine.write_text(
        'id = "mould"\nname = "Mould press"\nprocess = "print"\n[envelope]\nshape = "box"\nsize = [200, 200, 200]\n'
        "[limits]\ndraft_angle = 12.0\n"
    )
    report = tmp_path / "report.html"
    status, told = check(installed, blocks, "--machine", str(machine), "--report", str(report))
    assert status == 1 and len(told["checks"][0]["findings"]) == 2  # type: ignore[index]
    text = report.read_text(encoding="utf-8")
    assert "draft" in text and "2 of 2 bodies stick in the mould" in text


def test_without_the_package_nothing_of_it_is_known(blocks: Path, tmp_path: Path) -> None:
    limits = tmp_path / "limits.toml"
    limits.write_text("draft_angle = 2.0\n")
    done = run(dict(os.environ), "check", str(blocks), "--limits", str(limits))
    assert done.returncode == 2 and "unknown key 'draft_angle'" in done.stderr


IN_THE_WINDOW = """
import json, sys
from pathlib import Path
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton, QWidget
from gullyrise.desktop import launch

folder = Path(sys.argv[1])
_, made = launch([])
dropped = QMimeData()
dropped.setUrls([QUrl.fromLocalFile(str(folder))])
made.dropEvent(
    QDropEvent(
        QPointF(400, 300), Qt.DropAction.CopyAction, dropped, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
)
assert made.wait_until_idle(120)
told = {"parts": [one.name for one in made.model.job.parts]}
made.do("check.draft")
assert made.wait_until_idle(120)
row = made.traveller.rows["draft"]
told["row"] = [row.title.text(), row.worst.text(), row.limit.value(), row.view.verdict, len(row.view.findings)]
told["options"] = sorted(row.options.numbers)
told["legend"] = made.bench.scene.items[0].scale.title
row.limit.setFocus()
row.limit.setValue(12.0)
assert made.wait_until_idle(120)
told["stricter"] = [made.model.job.limits.value("draft_angle"), len(row.view.findings), len(made.bench.evidence.shown.flags)]
row.options.numbers["draft_height"].setValue(16.0)
assert made.wait_until_idle(120)
told["tall ones"] = [row.view.verdict, len(row.view.findings)]
made.model.document.undo()
made.model.document.undo()
assert made.wait_until_idle(120)
told["undone"] = [made.model.job.limits.value("draft_angle"), len(row.view.findings)]
QTest.mouseClick(made.findings_list.findChild(QPushButton, "listed_1"), Qt.MouseButton.LeftButton)
told["flagged"] = made.model.flag.held[1].code
sheet = made.machines.open_library()
told["library"] = sheet.form.findChild(QWidget, "machine_limits_draft_angle") is not None
made.job_file.save_to(str(folder.parent / "kept.gullyrise"))
assert made.wait_until_idle(120)
print(json.dumps(told))
made.close()
"""


def test_the_window_has_its_row_its_limits_its_findings_and_its_files(
    installed: dict[str, str], blocks: Path, tmp_path: Path
) -> None:
    surroundings = dict(installed, QT_QPA_PLATFORM="offscreen")
    for place in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
        surroundings[place] = str(tmp_path / place)
    done = subprocess.run(
        [sys.executable, "-c", IN_THE_WINDOW, str(blocks.parent)],
        env=surroundings,
        capture_output=True,
        encoding="utf-8",
        timeout=400,
    )
    assert done.returncode == 0, done.stderr[-2000:]
    told = json.loads(done.stdout.splitlines()[-1])
    assert told["parts"] == ["pair"]
    assert told["row"] == ["Draft", "0.0° of draft", 2.0, "fail", 1]
    assert told["options"] == ["draft_height"] and told["legend"] == "draft angle"
    assert told["stricter"] == [12.0, 2, 2] and told["tall ones"] == ["pass", 0]
    assert told["undone"] == [2.0, 1] and told["flagged"] == "draft" and told["library"]
