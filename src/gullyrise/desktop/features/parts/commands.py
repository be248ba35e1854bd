"""The panel of parts: tree and list, assemblies, columns; unit, repairs and meshes of the chosen part."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import JOB, ActionsOn
from gullyrise.desktop.features.parts.controller import PartsController
from gullyrise.desktop.features.parts.list_export import ListExport
from gullyrise.desktop.features.parts.panel import PartsPanel

parts = ActionsOn(PartsPanel)
part_work = ActionsOn(PartsController, JOB)
list_export = ActionsOn(ListExport)

parts("parts.list", "Parts list or tree", "B P", do=lambda it: it.show_list(not it.as_list), needs=A_PART)
part_work("parts.inside", "Go into the assembly", "B G", do=lambda it: it.go_inside(), needs=A_SELECTION)
parts("parts.outside", "Back out of the assembly", "B U", do=lambda it: it.go_into(it.tree.trail[:-1]), needs=A_PART)
parts("parts.columns", "Columns of the parts", "B K", do=lambda it: it.choose_columns(), needs=A_PART)
part_work("parts.finer", "Mesh the solid finer", "B Y", do=lambda it: it.refine(), needs=A_SELECTION)
part_work("parts.unit-mm", "Read as millimetres", "P 1", do=lambda it: it.set_unit("mm"), needs=A_SELECTION)
part_work("parts.unit-inch", "Read as inches", "P 2", do=lambda it: it.set_unit("inch"), needs=A_SELECTION)
part_work("parts.unit-m", "Read as metres", "P 3", do=lambda it: it.set_unit("m"), needs=A_SELECTION)
part_work("parts.unit-cm", "Read as centimetres", "P 4", do=lambda it: it.set_unit("cm"), needs=A_SELECTION)
part_work("parts.unit-micron", "Read as microns", "P 5", do=lambda it: it.set_unit("micron"), needs=A_SELECTION)
part_work("parts.unit-foot", "Read as feet", "P 6", do=lambda it: it.set_unit("foot"), needs=A_SELECTION)
part_work("parts.next-fault", "Next mesh fault", "K X", do=lambda it: it.next_fault(), needs=A_SELECTION)
part_work("parts.mend", "Repair the mesh", "K M", do=lambda it: it.repair(), needs=A_SELECTION)
part_work("job.reload", "Reload files", "Ctrl+R", do=lambda it: it.reload(), needs=A_PART)
part_work("panels.report", "Details of the part", "F5", do=lambda it: it.swap_report())
list_export("record.list", "Save the parts list as…", "R L", do=lambda it: it.ask_to_save(), needs=A_PART)
list_export("record.list-copy", "Copy the parts list", "R C", do=lambda it: it.copy(), needs=A_PART)
parts("bodies.show-all", "Show all", "B S", do=lambda it: it.show_all(), on=("part", "bench"))
