"""The rules that keep the rooms apart and that no linter knows: import cycles, who may name the window, who may set what."""

from __future__ import annotations

import ast
import importlib
import importlib.util
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import grimp
import networkx as nx
import pytest

import gullyrise

SOURCE = Path(gullyrise.__file__).parent
THEIR_OWN = {"flags.writeable", "sys.excepthook", "threading.excepthook", "_log.propagate"}
"""What NumPy and the standard library want to be set so."""


def modules(*rooms: str) -> list[Path]:
    return [path for room in rooms for path in sorted((SOURCE / room).rglob("*.py"))]


def test_no_module_imports_itself_round_for_types_neither() -> None:
    graph = grimp.build_graph("gullyrise", cache_dir=None)
    edges = [(one, other) for one in graph.modules for other in graph.find_modules_directly_imported_by(one)]
    assert len(edges) > 1000
    assert [sorted(round_) for round_ in nx.strongly_connected_components(nx.DiGraph(edges)) if len(round_) > 1] == []


def test_nobody_names_the_window() -> None:
    naming = set()
    for path in modules("desktop"):
        names = {node.id for node in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(node, ast.Name)}
        aliases = [node.names for node in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(node, ast.ImportFrom)]
        if "Window" in names | {alias.name for found in aliases for alias in found}:
            naming.add(str(path.relative_to(SOURCE / "desktop")))
    assert naming and naming <= {"app.py", *(f"shell/{path.name}" for path in modules("desktop/shell"))}


def test_features_and_the_rooms_below_know_the_window_as_a_plain_widget() -> None:
    """What they are handed as their parent has no more than a widget has."""
    (context,) = [
        node
        for node in ast.walk(ast.parse((SOURCE / "desktop/context.py").read_text("utf-8")))
        if isinstance(node, ast.AnnAssign) and isinstance(node.target, ast.Name) and node.target.id == "window"
    ]
    assert ast.unparse(context.annotation) == "QWidget"


def declared(tree: ast.Module) -> set[str]:
    """Attributes that the classes of a module have of themselves."""
    out: set[str] = set()
    for one in [node for node in ast.walk(tree) if isinstance(node, ast.ClassDef)]:
        for node in ast.walk(one):
            match node:
                case ast.AnnAssign(target=ast.Name(id=name)) | ast.Assign(targets=[ast.Name(id=name)]):
                    out.add(name)
                case ast.Attribute(value=ast.Name(id="self"), attr=name, ctx=ast.Store()):
                    out.add(name)
    return out


def set_from_outside(path: Path) -> Iterator[str]:
    tree = ast.parse(path.read_text("utf-8"))
    own = declared(tree)
    for node in ast.walk(tree):
        match node:
            case ast.Attribute(value=ast.Name(id="self" | "cls"), ctx=ast.Store()):
                pass
            case ast.Attribute(attr=name, ctx=ast.Store()) if name not in own:
                words = ast.unparse(node)
                if not words.endswith(tuple(THEIR_OWN)):
                    yield f"{path.relative_to(SOURCE)}: {words}"
            case ast.Call(func=ast.Name(id="setattr")):
                yield f"{path.relative_to(SOURCE)}: {ast.unparse(node)}"


def test_no_attribute_is_set_on_another_object_from_outside() -> None:
    assert [words for path in modules("desktop", "drawing") for words in set_from_outside(path)] == []


def test_what_draws_has_no_widgets() -> None:
    found = [path for path in modules("drawing") if "QtWidgets" in path.read_text("utf-8")]
    assert found == []


@pytest.mark.parametrize("room", sorted(path.name for path in (SOURCE / "desktop/features").iterdir() if path.is_dir()))
def test_only_a_features_own_entry_sees_the_context(room: str) -> None:
    if room.startswith("__"):
        return
    seeing = {path.name for path in modules(f"desktop/features/{room}") if "desktop.context" in path.read_text("utf-8")}
    assert seeing == {"feature.py"}


def imported_by_scripts() -> Iterator[tuple[str, str, str]]:
    """(file, module, name) of ours that benchmarks, campaigns and makers of pages import, wherever in them they do."""
    root = Path(__file__).parents[2]
    for path in [path for folder in ("benchmarks", "docs", "tests") for path in sorted((root / folder).rglob("*.py"))]:
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.ImportFrom) and (node.module or "").partition(".")[0] == "gullyrise":
                yield from ((str(path.relative_to(root)), node.module or "", alias.name) for alias in node.names)


def test_what_is_run_beside_the_suite_finds_what_it_imports() -> None:
    missing = []
    for path, module, name in set(imported_by_scripts()):
        found = importlib.import_module(module)
        if not hasattr(found, name) and importlib.util.find_spec(f"{module}.{name}") is None:
            missing.append(f"{path}: {module}.{name}")
    assert missing == []


@pytest.mark.parametrize(
    ("begun", "slow"),
    [
        ("gullyrise.command_line.app", {"OCP", "PyQt6", "ezdxf", "lib3mf", "networkx", "trimesh", "vtkmodules", "weasyprint"}),
        (
            "gullyrise.desktop.app",
            {"OCP", "ezdxf", "lib3mf", "networkx", "trimesh", "weasyprint", "xlsxwriter"},
        ),
    ],
)
def test_nobody_waits_at_the_start_for_what_only_some_work_needs(begun: str, slow: set[str]) -> None:
    asked = f"import sys, {begun}; print(*sys.modules)"
    loaded = subprocess.run([sys.executable, "-c", asked], capture_output=True, encoding="utf-8", check=True).stdout.split()
    assert "numpy" in loaded and not slow & set(loaded)
