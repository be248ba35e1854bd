"""Getting round."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART, A_SELECTION
from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.navigation.controller import NavigationController
    from gullyrise.desktop.preferences.store import Settings
    from gullyrise.desktop.viewport.camera_moves import CameraMoves
    from gullyrise.desktop.viewport.widget import Viewport


def _named(view: str) -> Run:
    def run(looking: NavigationController) -> None:
        looking.look(view)

    return run


front = action("view.front", "Front", "V F", on=("bench",))(_named("front"))
back = action("view.back", "Back", "V B")(_named("back"))
left = action("view.left", "Left", "V L")(_named("left"))
right = action("view.right", "Right", "V R", on=("bench",))(_named("right"))
top = action("view.top", "Top", "V T", on=("bench",))(_named("top"))
underside = action("view.underside", "Underside", "V U")(_named("underside"))
isometric = action("view.isometric", "Isometric", "V I", on=("bench",))(_named("isometric"))
dimetric = action("view.dimetric", "Dimetric", "V D")(_named("dimetric"))
trimetric = action("view.trimetric", "Trimetric", "V M")(_named("trimetric"))


@action("view.normal", "Straight at the face pointed at", "V N", needs=A_PART, on=("face",))
def normal(looking: NavigationController) -> None:
    looking.straight()


@action("view.centre", "Centre what is under the pointer", "V C", on=("part",))
def centre(moves: CameraMoves) -> None:
    moves.centre_pointer()


@action("view.all", "All in view", "Home", "V A", on=("bench",))
def all_in_view(looking: NavigationController) -> None:
    looking.frame_all()


@action("view.selection", "Selection in view", "Shift+Home", needs=A_SELECTION, on=("part",))
def selection_in_view(looking: NavigationController) -> None:
    looking.frame_selection()


@action("view.before", "View before", "Backspace")
def before(moves: CameraMoves) -> None:
    moves.go(back=True)


@action("view.after", "View after", "Shift+Backspace")
def after(moves: CameraMoves) -> None:
    moves.go(back=False)


@action("view.projection", "Parallel or perspective", "V P", on=("bench",))
def projection(moves: CameraMoves) -> None:
    moves.swap_projection()


def _field(step: float) -> Run:
    def run(looking: NavigationController) -> None:
        looking.widen(step)

    return run


wider = action("view.wider", "Wider field of view", "V W")(_field(5))
slimmer = action("view.slimmer", "Slimmer field of view", "V H")(_field(-5))


@action("view.save", "Save this view", "V S", on=("bench",))
def save(looking: NavigationController) -> None:
    looking.save()


@action("view.shelf", "Saved views", "V G")
def shelf(looking: NavigationController) -> None:
    looking.open_shelf()


@action("view.four", "Four panes or one", "F8", "V Q")
def four(looking: NavigationController) -> None:
    looking.swap_four()


@action("view.enlarge", "Enlarge this pane, or put it back", "F7", "V E")
def enlarge(looking: NavigationController) -> None:
    looking.enlarge()


@action("view.rectangle", "Zoom to a rectangle: draw it next", "V Z")
def rectangle(looking: NavigationController) -> None:
    looking.arm("frame")


@action("view.free", "Free or upright turning", "V O")
def free(settings: Settings) -> None:
    upright = settings["pointer.turning"] == "upright"
    settings.set("pointer.turning", "free" if upright else "upright")


@action("view.dial", "Type heading and elevation", "V Y")
def dial(viewport: Viewport) -> None:
    viewport.dial.type_bearing()


@action("view.dial-shown", "Bearing dial", "V J")
def dial_shown(settings: Settings) -> None:
    settings.set("dial.shown", not settings["dial.shown"])


def _turn(heading: float, elevation: float) -> Run:
    def run(moves: CameraMoves) -> None:
        moves.turn_by(heading, elevation)

    return run


turn_left = action("view.turn-left", "Turn left by 15°", "Left")(_turn(-15, 0))
turn_right = action("view.turn-right", "Turn right by 15°", "Right")(_turn(15, 0))
turn_up = action("view.turn-up", "Look from higher by 15°", "Up")(_turn(0, 15))
turn_down = action("view.turn-down", "Look from lower by 15°", "Down")(_turn(0, -15))
quarter_left = action("view.quarter-left", "Turn left by 90°", "Shift+Left")(_turn(-90, 0))
quarter_right = action("view.quarter-right", "Turn right by 90°", "Shift+Right")(_turn(90, 0))
quarter_up = action("view.quarter-up", "Look from higher by 90°", "Shift+Up")(_turn(0, 90))
quarter_down = action("view.quarter-down", "Look from lower by 90°", "Shift+Down")(_turn(0, -90))


def _slide(right: float, up: float) -> Run:
    def run(moves: CameraMoves) -> None:
        moves.slide_by(right, up)

    return run


slide_left = action("view.slide-left", "Slide the view left", "Ctrl+Left")(_slide(-0.1, 0))
slide_right = action("view.slide-right", "Slide the view right", "Ctrl+Right")(_slide(0.1, 0))
slide_up = action("view.slide-up", "Slide the view up", "Ctrl+Up")(_slide(0, 0.1))
slide_down = action("view.slide-down", "Slide the view down", "Ctrl+Down")(_slide(0, -0.1))


def _roll(degrees: float) -> Run:
    def run(moves: CameraMoves) -> None:
        moves.roll_by(degrees)

    return run


roll_left = action("view.roll-left", "Roll by 15° to the left", ",")(_roll(-15))
roll_right = action("view.roll-right", "Roll by 15° to the right", ".")(_roll(15))


@action("view.nearer", "Zoom in", "+")
def nearer(moves: CameraMoves) -> None:
    moves.zoom_by(0.8)


@action("view.farther", "Zoom out", "-")
def farther(moves: CameraMoves) -> None:
    moves.zoom_by(1.25)


def _ahead(share: float) -> Run:
    def run(moves: CameraMoves) -> None:
        if moves.camera.parallel:
            # Without an eye there is no going on.
            moves.zoom_by(0.8 if share > 0 else 1.25)
        else:
            moves.glide_to(moves.on_the_way.gone(share * moves.subject_size))

    return run


ahead = action("view.ahead", "Go straight on, through what is there", "PgUp")(_ahead(0.08))
away = action("view.away", "Go straight back", "PgDown")(_ahead(-0.08))


@action("bodies.rectangle", "Choose by rectangle: draw it next", "B W", needs=A_PART)
def choose_rectangle(looking: NavigationController) -> None:
    looking.arm("choose")
