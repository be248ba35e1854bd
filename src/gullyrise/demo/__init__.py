"""The demo job: parts of a river-gauging station, some with planted faults. `python -m gullyrise.demo` makes them anew."""

from __future__ import annotations

from pathlib import Path

FILES = Path(__file__).parent / "files"

PLANTED = {
    "float_well.stl": "sound: every check passes on the square-bed printer",
    "sensor_shroud.3mf": "a rib of 0.5 mm",
    "tipping_tray.stl": "an open mesh: a piece of the floor is missing",
    "hinge_pawl.stl": "a gap of 0.15 mm between pin and pawl, print in place",
    "clamp_saddle.step": "a jaw that overhangs",
    "pulley.obj": "drawn in inches, in a format that declares no unit",
    "gland_nut.stl": "a lip that tapers to nothing",
    "mount_plate.step": "an undercut slot that no cutter sees from above or below",
    "screw_set.step": "an assembly with counts: four screws, four washers",
}
"""What each file of the demo job is there to show."""


def demo_files() -> list[str]:
    """Paths of the demo parts, in the order in which they are received."""
    return [str(FILES / name) for name in PLANTED]
