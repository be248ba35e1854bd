"""Placing: the tray and the panel, moves of what is chosen, copies, beds, machines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.commands.needs import A_PART
from gullyrise.desktop.commands.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.features.placement.controller import PlacementController
    from gullyrise.desktop.features.placement.form import PlacementForm


@action("place.slip", "Placement panel, or the receiving report", "P P", "F6")
def panel(form: PlacementForm) -> None:
    form.swap_panel()


@action("place.handles", "The tray under what is chosen", "P H")
def handles(placing: PlacementController) -> None:
    placing.show_handles(not placing.shows_handles)


@action("place.middle", "To the middle of the bed", "P M", needs=A_PART)
def middle(placing: PlacementController) -> None:
    placing.to_middle()


@action("place.drop", "Drop on the bed", "P D", needs=A_PART)
def drop(placing: PlacementController) -> None:
    placing.drop()


@action("place.lay", "Lay on this face", "P F", needs=A_PART, on=("face",))
def lay(placing: PlacementController) -> None:
    placing.lay_on_pointed()


@action("place.best", "Stand on the best face", "P B", needs=A_PART)
def best(form: PlacementForm) -> None:
    form.suggest(stand_at_best=True)


@action("place.suggest", "Suggested placements", "P G", needs=A_PART)
def suggest(form: PlacementForm) -> None:
    form.suggest()


@action("place.reset", "Turned as it came", "P R", needs=A_PART)
def reset(placing: PlacementController) -> None:
    placing.as_it_came()


@action("place.copy", "Copy as many times as the placement panel says", "P C", needs=A_PART)
def copy(form: PlacementForm) -> None:
    form.copy()


@action("place.arrange", "Arrange all on the bed", "P A", needs=A_PART)
def arrange(placing: PlacementController) -> None:
    placing.arrange()


@action("place.align-faces", "Lay the first chosen face against the second", "P L", needs=A_PART)
def align_faces(placing: PlacementController) -> None:
    placing.align_faces()


@action("place.align-axes", "Bring the first chosen axis onto the second", "P O", needs=A_PART)
def align_axes(placing: PlacementController) -> None:
    placing.align_axes()


@action("place.fit-level", "Turn about the vertical to where it fits", "P T", needs=A_PART)
def fit_level(form: PlacementForm) -> None:
    form.fit_turned("about_z")


@action("place.fit-any", "Lay it so that it fits", "P U", needs=A_PART)
def fit_any(form: PlacementForm) -> None:
    form.fit_turned("any")


def _field(name: str) -> Run:
    def run(form: PlacementForm) -> None:
        form.type_into(name)

    return run


type_place = action("place.type-place", "Type where it stands", "P V", needs=A_PART)(_field("place_at"))
type_turn = action("place.type-turn", "Type a turn", "P W", needs=A_PART)(_field("place_turn"))
type_size = action("place.type-size", "Type its size", "P S", needs=A_PART)(_field("place_size"))


@action("place.stand-in", "Add a plain solid as a fixture shape", "P N")
def fixture(form: PlacementForm) -> None:
    form.type_fixture()


def _turn(axis: int) -> Run:
    def run(placing: PlacementController) -> None:
        placing.turn(axis, 90.0)

    return run


turn_x = action("place.turn-x", "Quarter turn about X", "P X", needs=A_PART)(_turn(0))
turn_y = action("place.turn-y", "Quarter turn about Y", "P Y", needs=A_PART)(_turn(1))
turn_z = action("place.turn-z", "Quarter turn about Z", "P Z", needs=A_PART)(_turn(2))


def _mirror(axis: int) -> Run:
    def run(placing: PlacementController) -> None:
        placing.mirror(axis)

    return run


mirror_x = action("place.mirror-x", "Mirror along X", "P 7", needs=A_PART)(_mirror(0))
mirror_y = action("place.mirror-y", "Mirror along Y", "P 8", needs=A_PART)(_mirror(1))
mirror_z = action("place.mirror-z", "Mirror along Z", "P 9", needs=A_PART)(_mirror(2))


def _nudge(axis: int, sign: int) -> Run:
    def run(placing: PlacementController) -> None:
        placing.nudge(axis, sign)

    return run


left = action("place.left", "Nudge to the left", "P Left", needs=A_PART)(_nudge(0, -1))
right = action("place.right", "Nudge to the right", "P Right", needs=A_PART)(_nudge(0, 1))
front = action("place.front", "Nudge to the front", "P Down", needs=A_PART)(_nudge(1, -1))
back = action("place.back", "Nudge to the back", "P Up", needs=A_PART)(_nudge(1, 1))
higher = action("place.higher", "Nudge up", "P PgUp", needs=A_PART)(_nudge(2, 1))
lower = action("place.lower", "Nudge down", "P PgDown", needs=A_PART)(_nudge(2, -1))
