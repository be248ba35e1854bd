"""Cutting open."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


def _across(axis: int) -> Run:
    def run(window: Window) -> None:
        window.strip.cut_across(axis)

    return run


across_x = action("cut.x", "Cut across X", "C X", needs="part")(_across(0))
across_y = action("cut.y", "Cut across Y", "C Y", needs="part")(_across(1))
across_z = action("cut.z", "Cut across Z", "C Z", needs="part")(_across(2))


@action("cut.flip", "Flip the cut", "C F", needs="part")
def flip(window: Window) -> None:
    window.strip.flip()


@action("cut.off", "No cut", "C O")
def off(window: Window) -> None:
    window.strip.close_cut()
