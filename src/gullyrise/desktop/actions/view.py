"""Getting round."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


def _named(view: str) -> Run:
    def run(window: Window) -> None:
        window.bring_in_step()
        window.bench.look(view)

    return run


front = action("view.front", "Front", "V F")(_named("front"))
back = action("view.back", "Back", "V B")(_named("back"))
left = action("view.left", "Left", "V L")(_named("left"))
right = action("view.right", "Right", "V R")(_named("right"))
top = action("view.top", "Top", "V T")(_named("top"))
underside = action("view.underside", "Underside", "V U")(_named("underside"))
isometric = action("view.isometric", "Isometric", "V I")(_named("isometric"))


@action("view.all", "All in view", "Home", "V A")
def all_in_view(window: Window) -> None:
    window.bring_in_step()
    window.bench.frame_all()


@action("view.selection", "Selection in view", "Shift+Home", needs="selection")
def selection_in_view(window: Window) -> None:
    window.bring_in_step()
    window.bench.frame_selection()


@action("view.projection", "Parallel or perspective", "V P")
def projection(window: Window) -> None:
    window.bench.swap_projection()


def _turn(heading: float, elevation: float) -> Run:
    def run(window: Window) -> None:
        window.bench.turn_by(heading, elevation)

    return run


turn_left = action("view.turn-left", "Turn left by 15°", "Left")(_turn(-15, 0))
turn_right = action("view.turn-right", "Turn right by 15°", "Right")(_turn(15, 0))
turn_up = action("view.turn-up", "Look from higher by 15°", "Up")(_turn(0, 15))
turn_down = action("view.turn-down", "Look from lower by 15°", "Down")(_turn(0, -15))


@action("view.nearer", "Zoom in", "+")
def nearer(window: Window) -> None:
    window.bench.zoom_by(0.8)


@action("view.farther", "Zoom out", "-")
def farther(window: Window) -> None:
    window.bench.zoom_by(1.25)


@action("display.theme", "Limestone or Slate", "D T")
def theme(window: Window) -> None:
    window.swap_theme()
