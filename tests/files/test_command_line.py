"""The command line as the contract says it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
import trimesh
from ezdxf import readfile

from gullyrise.command_line.app import run
from gullyrise.demo import demo_files


def said(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, Any, str]:
    """(exit status, JSON on standard output, standard error)."""
    status = run([*words, "--json", "-"])
    out = capsys.readouterr()
    return status, json.loads(out.out), out.err


@pytest.fixture
def block(tmp_path: Path) -> str:
    path = tmp_path / "block.stl"
    trimesh.creation.box((10, 20, 30)).export(path)
    return str(path)


def test_info(capsys: pytest.CaptureFixture[str], block: str) -> None:
    status, document, _ = said(capsys, "info", block)
    (part,) = document["parts"]
    assert status == 0 and document["schema"] == "gullyrise.info/1" and document["errors"] == []
    assert set(part) == {
        "file", "name", "format", "unit", "unit_source", "unit_doubt", "min", "max", "size", "volume", "area", "triangles",
        "bodies",
    }  # fmt: skip
    assert part["volume"] == pytest.approx(6000) and part["area"] == pytest.approx(2200) and part["triangles"] == 12
    assert set(part["bodies"][0]) == {
        "name", "count", "kind", "size", "volume", "area", "triangles", "vertices", "shells", "watertight", "boundary_edges",
        "nonmanifold_edges", "flipped_faces", "degenerate_faces", "duplicate_faces",
    }  # fmt: skip


def test_info_exits_zero_for_an_unhealthy_file(capsys: pytest.CaptureFixture[str]) -> None:
    tray = next(name for name in demo_files() if "tipping_tray" in name)
    status, document, _ = said(capsys, "info", tray)
    assert status == 0 and document["parts"][0]["volume"] is None
    assert document["parts"][0]["bodies"][0]["watertight"] is False


@pytest.mark.slow
def test_the_planted_faults_are_found(capsys: pytest.CaptureFixture[str]) -> None:
    status, document, _ = said(capsys, "check", *demo_files())
    assert status == 1 and document["schema"] == "gullyrise.check/1" and document["machine"]["id"] == "heron-220"
    verdicts: dict[tuple[str, str], list[dict[str, Any]]] = {}
    for check in document["checks"]:
        name = check["subject"] if isinstance(check["subject"], str) else check["subject"][0].split(" #")[0]
        verdicts.setdefault((name, check["check"]), []).append(check)
    assert all(check["verdict"] == "pass" for (name, _), found in verdicts.items() if name == "float_well" for check in found)
    (shroud,) = verdicts["sensor_shroud", "walls"]
    assert shroud["verdict"] == "fail" and shroud["worst"]["value"] == pytest.approx(0.5, abs=shroud["uncertainty"])
    assert verdicts["tipping_tray", "health"][0]["verdict"] == "fail"
    (pawl,) = verdicts["hinge_pawl", "clearances"]
    assert pawl["verdict"] == "fail" and pawl["measured"]["distance"] == pytest.approx(0.15, abs=pawl["uncertainty"])
    assert pawl["subject"] == ["hinge_pawl #1", "hinge_pawl #2"]
    assert verdicts["clamp_saddle", "overhangs"][0]["verdict"] == "fail"
    assert verdicts["gland_nut", "walls"][0]["verdict"] == "review"
    assert "tapers" in verdicts["gland_nut", "walls"][0]["findings"][0]["what"]
    doubts = {part["name"]: part["unit_doubt"] for part in document["parts"] if part["unit_doubt"]}
    assert list(doubts) == ["pulley"] and "inches" in doubts["pulley"]
    screws = next(part for part in document["parts"] if part["name"] == "screw_set")
    assert [(body["name"], body["count"]) for body in screws["bodies"]] == [("screw", 4), ("washer", 4)]


@pytest.mark.slow
def test_the_undercut_is_found_on_the_mill(capsys: pytest.CaptureFixture[str]) -> None:
    plate = next(name for name in demo_files() if "mount_plate" in name)
    status, document, _ = said(capsys, "check", plate, "--machine", "alder-mill", "--only", "access,fit")
    checks = {check["check"]: check for check in document["checks"]}
    assert status == 1 and list(checks) == ["fit", "access"]
    assert checks["access"]["verdict"] == "fail" and checks["access"]["measured"]["unreachable_area"] > 1000


def test_a_limits_file_is_used_and_an_unknown_key_named(capsys: pytest.CaptureFixture[str], block: str, tmp_path: Path) -> None:
    limits = tmp_path / "limits.toml"
    limits.write_text("min_wall = 12.0\n")
    status, document, _ = said(capsys, "check", block, "--limits", str(limits), "--only", "walls")
    assert (status, document["limits"]["min_wall"], document["checks"][0]["verdict"]) == (1, 12.0, "fail")
    limits.write_text("thinnest = 1\n")
    assert run(["check", block, "--limits", str(limits)]) == 2
    assert "thinnest" in capsys.readouterr().err


def test_a_machine_file_is_used(capsys: pytest.CaptureFixture[str], block: str, tmp_path: Path) -> None:
    machine = tmp_path / "small.toml"
    machine.write_text('id = "small"\nname = "Small"\nprocess = "print"\n[envelope]\nshape = "box"\nsize = [25, 15, 40]\n')
    status, document, _ = said(capsys, "check", block, "--machine", str(machine), "--only", "fit")
    assert status == 1 and document["machine"]["id"] == "small"
    assert document["checks"][0]["measured"]["slack"]["y"] == pytest.approx([-2.5, -2.5])
    assert document["checks"][0]["measured"]["fits_turned"] is True
    assert "small" not in document["checks"][0]["measured"]["machines_that_fit"]


def test_section_with_drawings(capsys: pytest.CaptureFixture[str], block: str, tmp_path: Path) -> None:
    svg, dxf = tmp_path / "s.svg", tmp_path / "s.dxf"
    status, document, _ = said(capsys, "section", block, "--plane", "z=4", "--svg", str(svg), "--dxf", str(dxf))
    assert status == 0 and document["area"] == pytest.approx(200) and document["perimeter"] == pytest.approx(60)
    assert document["centroid"] == pytest.approx([0, 0, 4]) and document["open_length"] == 0
    assert 'width="10.000000mm" height="20.000000mm"' in svg.read_text(encoding="utf-8")
    (outline,) = readfile(dxf).modelspace().query("LWPOLYLINE")
    assert outline.closed and len(outline) >= 4


def test_a_plane_may_begin_with_a_minus(capsys: pytest.CaptureFixture[str], block: str) -> None:
    for words in (["--plane", "-1,0,0,1,0,0"], ["--plane=-1,0,0,1,0,0"]):
        status, document, _ = said(capsys, "section", block, *words)
        assert status == 0 and document["area"] == pytest.approx(600)


def test_distance(capsys: pytest.CaptureFixture[str], block: str, tmp_path: Path) -> None:
    other = tmp_path / "other.stl"
    trimesh.creation.box(bounds=[[6, -10, -15], [9, 10, 15]]).export(other)
    status, document, _ = said(capsys, "distance", block, str(other))
    assert (status, document["distance"], document["interference_volume"]) == (0, pytest.approx(1.0), 0)
    status, document, _ = said(capsys, "distance", block, block)
    assert (document["distance"], document["interference_volume"]) == (0, pytest.approx(6000))


def test_convert_says_what_is_lost(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    screws = next(name for name in demo_files() if "screw_set" in name)
    assert run(["convert", screws, str(tmp_path / "out.stl")]) == 0
    assert "holds no names" in capsys.readouterr().err
    assert run(["convert", screws, str(tmp_path / "out.nope")]) == 2


def test_machines(capsys: pytest.CaptureFixture[str]) -> None:
    status, document, _ = said(capsys, "machines")
    assert status == 0 and [machine["id"] for machine in document["machines"]] == [
        "dipper-260", "heron-220", "lantern-130", "alder-mill",
    ]  # fmt: skip


@pytest.mark.parametrize("words", [["info"], ["check", "--bad"], ["section", "x.stl"], ["info", "x.stl", "--unit", "ell"]])
def test_wrong_words_exit_two(words: list[str], capsys: pytest.CaptureFixture[str]) -> None:
    assert run(words) == 2
    assert "Traceback" not in capsys.readouterr().err


@pytest.mark.slow
def test_reports(block: str, tmp_path: Path) -> None:
    assert run(["check", block, "--only", "walls,health", "--report", str(tmp_path / "r.html")]) == 0
    page = (tmp_path / "r.html").read_text(encoding="utf-8")
    assert "block" in page and "Closed, wound alike" in page
    done = subprocess.run(
        [sys.executable, "-m", "gullyrise", "check", block, "--only", "health", "--report", str(tmp_path / "r.pdf")],
        check=False, capture_output=True, timeout=300,
    )  # fmt: skip
    assert done.returncode == 0 and (tmp_path / "r.pdf").read_bytes()[:5] == b"%PDF-"


@pytest.mark.slow
def test_standard_output_carries_json_alone(block: str) -> None:
    screws = next(name for name in demo_files() if "screw_set" in name)
    done = subprocess.run(
        [sys.executable, "-m", "gullyrise", "info", screws, block, "--json", "-"], check=False, capture_output=True, timeout=300
    )
    assert json.loads(done.stdout)["parts"] and done.stderr == b""
