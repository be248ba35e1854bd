"""The panel of parts: tree and list, assemblies, columns; unit, repairs and meshes of the chosen part."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.parts.controller import PartsController
    from gullyrise.desktop.features.parts.list_export import ListExport
    from gullyrise.desktop.features.parts.panel import PartsPanel


@action("parts.list", "Parts list with counts, or the tree", "B P", needs=A_PART)
def swap(parts: PartsPanel) -> None:
    parts.show_list(not parts.as_list)


@action("parts.inside", "Go into the assembly of what is chosen", "B G", needs=A_SELECTION)
def inside(part_work: PartsController) -> None:
    part_work.go_inside()


@action("parts.outside", "Back out of the assembly", "B U", needs=A_PART)
def outside(parts: PartsPanel) -> None:
    parts.go_into(parts.tree.trail[:-1])


@action("parts.columns", "Choose the columns of the parts", "B K", needs=A_PART)
def columns(parts: PartsPanel) -> None:
    parts.choose_columns()


@action("parts.finer", "Mesh the chosen solid finer", "B Y", needs=A_SELECTION)
def finer(part_work: PartsController) -> None:
    part_work.refine()


def _unit(unit: str) -> Run:
    def run(part_work: PartsController) -> None:
        part_work.set_unit(unit)

    return run


as_millimetres = action("parts.unit-mm", "Read the chosen part as millimetres", "P 1", needs=A_SELECTION)(_unit("mm"))
as_inches = action("parts.unit-inch", "Read the chosen part as inches", "P 2", needs=A_SELECTION)(_unit("inch"))
as_metres = action("parts.unit-m", "Read the chosen part as metres", "P 3", needs=A_SELECTION)(_unit("m"))
as_centimetres = action("parts.unit-cm", "Read the chosen part as centimetres", "P 4", needs=A_SELECTION)(_unit("cm"))
as_microns = action("parts.unit-micron", "Read the chosen part as microns", "P 5", needs=A_SELECTION)(_unit("micron"))
as_feet = action("parts.unit-foot", "Read the chosen part as feet", "P 6", needs=A_SELECTION)(_unit("foot"))


@action("parts.next-fault", "Next fault of the chosen part", "K X", needs=A_SELECTION)
def next_fault(part_work: PartsController) -> None:
    part_work.next_fault()


@action("parts.mend", "Do all repairs that would change the chosen part", "K M", needs=A_SELECTION)
def repair(part_work: PartsController) -> None:
    part_work.repair()


@action("job.reload", "Read files anew", "Ctrl+R", needs=A_PART)
def reload(part_work: PartsController) -> None:
    part_work.reload()


@action("panels.report", "PartLoader report", "F5")
def report(part_work: PartsController) -> None:
    part_work.swap_report()


@action("record.list", "Save the parts list as…", "R L", needs=A_PART)
def save_list(list_export: ListExport) -> None:
    list_export.ask_to_save()


@action("record.list-copy", "Copy the parts list", "R C", needs=A_PART)
def copy_list(list_export: ListExport) -> None:
    list_export.copy()


@action("bodies.show-all", "Show all", "B S", on=("part", "bench"))
def show_all(parts: PartsPanel) -> None:
    parts.show_all()
