"""Cutting open: planes, slabs, sweeps, halves, and the cut laid flat."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_CUT, A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.sections.controller import SectionsController
    from gullyrise.desktop.features.sections.profile_view import ProfileView
    from gullyrise.desktop.features.sections.split import SplitController


def _across(axis: int) -> Run:
    def run(cutting: SectionsController) -> None:
        cutting.across(axis)

    return run


across_x = action("cut.x", "Cut across X", "C X", needs=A_PART)(_across(0))
across_y = action("cut.y", "Cut across Y", "C Y", needs=A_PART)(_across(1))
across_z = action("cut.z", "Cut across Z", "C Z", needs=A_PART)(_across(2))


@action("cut.face", "Cut on this face", "C P", needs=A_PART, on=("face",))
def face(cutting: SectionsController) -> None:
    cutting.on_face()


@action("cut.points", "Cut through three corners", "C 3", needs=A_PART)
def points(cutting: SectionsController) -> None:
    cutting.through_points()


@action("cut.axis", "Cut through the axis of a round face", "C A", needs=A_PART)
def axis(cutting: SectionsController) -> None:
    cutting.through_axis()


@action("cut.more", "One more cut", "C M", needs=A_PART)
def more(cutting: SectionsController) -> None:
    cutting.another()


@action("cut.next", "Take the next cut in hand", "C N")
def following(cutting: SectionsController) -> None:
    count = len(cutting.cuts)
    if count:
        cutting.take((cutting.active + 1) % count)


@action("cut.flip", "Flip the cut", "C F", needs=A_PART)
def flip(cutting: SectionsController) -> None:
    cutting.flip()


@action("cut.slab", "Keep only a slab, or all behind the cut", "C S", needs=A_PART)
def slab(cutting: SectionsController) -> None:
    cutting.switch_slab()


@action("cut.sweep", "Sweep the cut to and fro, or stop it", "C W", needs=A_PART)
def sweep(cutting: SectionsController) -> None:
    cutting.sweep.switch()


@action("cut.chosen", "Cut only what is chosen, or all", "C C", needs=A_PART)
def chosen(cutting: SectionsController) -> None:
    cutting.only_chosen()


@action("cut.handle", "Handle of the cut on the bench", "C H")
def handle(cutting: SectionsController) -> None:
    cutting.show_handle(not cutting.handle_shown)


@action("cut.close", "Close this cut", "C D")
def close(cutting: SectionsController) -> None:
    cutting.close()


@action("cut.off", "No cut", "C O")
def off(cutting: SectionsController) -> None:
    cutting.close_all()


@action("cut.split", "Split along the cut", "C B", needs=A_CUT)
def split(splitting: SplitController) -> None:
    splitting.open()


@action("cut.profile", "Flat profile over the bench, or back", "C L", needs=A_CUT)
def profile(profiling: ProfileView) -> None:
    profiling.switch()


@action("cut.export", "Save the section", "C E", needs=A_PART)
def export(profiling: ProfileView) -> None:
    profiling.ask_where()


@action("cut.whole", "Make a split part whole again", "C U", needs=A_SELECTION)
def whole(splitting: SplitController) -> None:
    splitting.make_whole()
