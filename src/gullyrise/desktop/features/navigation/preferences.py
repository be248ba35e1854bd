"""From settings to what the bench wants to know."""

from __future__ import annotations

from gullyrise.desktop.pointer.schemes import OWN, READY, own_scheme
from gullyrise.desktop.preferences.store import Settings
from gullyrise.desktop.viewport.pointer.hand import Habits
from gullyrise.desktop.widgets.bearing_dial import DialLook


def habits_of(settings: Settings) -> Habits:
    name = settings["pointer.scheme"]
    scheme = own_scheme([(gesture, words) for gesture, words in settings["pointer.own"]]) if name == OWN else READY[name]
    return Habits(
        scheme=scheme,
        upright=settings["pointer.turning"] == "upright",
        turn_speed=settings["pointer.turn_speed"],
        slide_speed=settings["pointer.slide_speed"],
        zoom_speed=settings["pointer.zoom_speed"],
        invert_zoom=settings["pointer.invert_zoom"],
        invert_heading=settings["pointer.invert_heading"],
        invert_elevation=settings["pointer.invert_elevation"],
    )


def dial_look(settings: Settings) -> DialLook:
    return DialLook(settings["dial.shown"], settings["dial.corner"], settings["dial.size"], settings["dial.faded"])
