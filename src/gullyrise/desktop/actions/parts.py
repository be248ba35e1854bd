"""The panel of parts: tree and list, assemblies, columns; unit, mends and meshes of the chosen part."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


@action("parts.list", "Parts list with counts, or the tree", "B P", needs="part")
def swap(window: Window) -> None:
    window.parts.show_list(not window.parts.as_list)


@action("parts.inside", "Go into the assembly of what is chosen", "B G", needs="selection")
def inside(window: Window) -> None:
    if not window.parts.tree.enter_chosen():
        window.notices.say("What is chosen is in no assembly of its own; choose a body of one, or a file of several.", False)


@action("parts.outside", "Back out of the assembly", "B U", needs="part")
def outside(window: Window) -> None:
    window.parts.go_into(window.parts.tree.trail[:-1])


@action("parts.columns", "Choose the columns of the parts", "B K", needs="part")
def columns(window: Window) -> None:
    window.parts.choose_columns()


@action("parts.finer", "Mesh the chosen solid finer", "B Y", needs="selection")
def finer(window: Window) -> None:
    for number in sorted(window.model.selection):
        window.model.receiving.refine(number)


def _unit(unit: str) -> Run:
    def run(window: Window) -> None:
        for number in sorted(window.model.selection):
            window.model.receiving.set_unit(number, unit)

    return run


as_millimetres = action("parts.unit-mm", "Read the chosen part as millimetres", "P 1", needs="selection")(_unit("mm"))
as_inches = action("parts.unit-inch", "Read the chosen part as inches", "P 2", needs="selection")(_unit("inch"))
as_metres = action("parts.unit-m", "Read the chosen part as metres", "P 3", needs="selection")(_unit("m"))
as_centimetres = action("parts.unit-cm", "Read the chosen part as centimetres", "P 4", needs="selection")(_unit("cm"))
as_microns = action("parts.unit-micron", "Read the chosen part as microns", "P 5", needs="selection")(_unit("micron"))
as_feet = action("parts.unit-foot", "Read the chosen part as feet", "P 6", needs="selection")(_unit("foot"))


@action("parts.next-fault", "Next fault of the chosen part", "K X", needs="selection")
def next_fault(window: Window) -> None:
    window.do("check.health")
    window.do("check.next-finding")


@action("parts.mend", "Do all mends that would change the chosen part", "K M", needs="selection")
def mend(window: Window) -> None:
    for number in sorted(window.model.selection):
        standing = window.model.job.standing(number)
        found = window.model.receiving.previews_of(standing) if standing is not None else None
        if standing is None or found is None:
            window.notices.say("What mends would change is being found out; try again in a moment.", False)
        elif not found:
            window.notices.say(f"No mend would change {standing.name}.", False)
        else:
            window.model.receiving.mend(number, tuple(found))
