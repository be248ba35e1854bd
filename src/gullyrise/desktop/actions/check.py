"""Looking at verdicts."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gullyrise.desktop.actions.registry import Run, action

if TYPE_CHECKING:
    from gullyrise.desktop.window import Window


def _show(check: str) -> Run:
    def run(window: Window) -> None:
        window.traveller.show_check(check)

    return run


health = action("check.health", "Show health", "K H", needs="part")(_show("health"))
fit = action("check.fit", "Show fit", "K F", needs="part")(_show("fit"))
walls = action("check.walls", "Show walls", "K W", needs="part")(_show("walls"))
overhangs = action("check.overhangs", "Show overhangs", "K O", needs="part")(_show("overhangs"))
clearances = action("check.clearances", "Show clearances", "K C", needs="part")(_show("clearances"))
access = action("check.access", "Show tool access", "K T", needs="part")(_show("access"))


@action("check.none", "No colours", "K N")
def none(window: Window) -> None:
    window.traveller.show_check(None)


@action("check.next-finding", "Next finding", "N", needs="part")
def next_finding(window: Window) -> None:
    window.traveller.step(1)


@action("check.previous-finding", "Previous finding", "Shift+N", needs="part")
def previous_finding(window: Window) -> None:
    window.traveller.step(-1)


@action("check.again", "Run again what was not run", "K A", needs="part")
def again(window: Window) -> None:
    window.model.run_again()
