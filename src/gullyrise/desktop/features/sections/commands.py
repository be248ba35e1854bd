"""Cutting open: planes, slabs, sweeps, halves, and the cut laid flat."""

from __future__ import annotations

from gullyrise.desktop.commands.needs import A_CUT, A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import ActionsOn
from gullyrise.desktop.features.sections.controller import SectionsController
from gullyrise.desktop.features.sections.profile_view import ProfileView
from gullyrise.desktop.features.sections.split import SplitController

cutting = ActionsOn(SectionsController)
splitting = ActionsOn(SplitController)
profiling = ActionsOn(ProfileView)

cutting("cut.x", "Cut across X", "C X", do=lambda it: it.across(0), needs=A_PART)
cutting("cut.y", "Cut across Y", "C Y", do=lambda it: it.across(1), needs=A_PART)
cutting("cut.z", "Cut across Z", "C Z", do=lambda it: it.across(2), needs=A_PART)
cutting("cut.face", "Cut on this face", "C P", do=lambda it: it.on_face(), needs=A_PART, on=("face",))
cutting("cut.points", "Cut through three corners", "C 3", do=lambda it: it.through_points(), needs=A_PART)
cutting("cut.axis", "Cut through a round face's axis", "C A", do=lambda it: it.through_axis(), needs=A_PART)
cutting("cut.more", "Add a cut", "C M", do=lambda it: it.another(), needs=A_PART)


def _following(cutting: SectionsController) -> None:
    count = len(cutting.cuts)
    if count:
        cutting.take((cutting.active + 1) % count)


cutting("cut.next", "Next cut", "C N", do=_following)
cutting("cut.flip", "Flip the cut", "C F", do=lambda it: it.flip(), needs=A_PART)
cutting("cut.slab", "Keep a slab or all behind", "C S", do=lambda it: it.switch_slab(), needs=A_PART)
cutting("cut.sweep", "Sweep the cut or stop", "C W", do=lambda it: it.sweep.switch(), needs=A_PART)
cutting("cut.chosen", "Cut the selection only or all", "C C", do=lambda it: it.only_chosen(), needs=A_PART)
cutting("cut.handle", "Handle of the cut", "C H", do=lambda it: it.show_handle(not it.handle_shown))
cutting("cut.close", "Close this cut", "C D", do=lambda it: it.close())
cutting("cut.off", "Close all cuts", "C O", do=lambda it: it.close_all())
splitting("cut.split", "Split along the cut", "C B", do=lambda it: it.open(), needs=A_CUT)
profiling("cut.profile", "Flat profile over the bench or back", "C L", do=lambda it: it.switch(), needs=A_CUT)
profiling("cut.export", "Save the section", "C E", do=lambda it: it.ask_where(), needs=A_PART)
splitting("cut.whole", "Make a split part whole again", "C U", do=lambda it: it.make_whole(), needs=A_SELECTION)
