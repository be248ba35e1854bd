"""The demo jobs: parts of a river-gauging station, some with planted faults. `python -m gullyrise.demo` makes them anew."""

from __future__ import annotations

from dataclasses import dataclass
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
"""What each file of the first demo job is there to show."""
FAULTY = {
    "silt_trap.stl": "holes, doubled and turned faces, a sealed cavity, a stray chip and a wall that crosses another",
    "winch_box.step": "an assembly in an assembly, with colours",
}
"""What the files of the other demo jobs show beside those."""


@dataclass(frozen=True, slots=True)
class DemoJob:
    """files : names in the folder of demo files, in the order in which they are received"""

    id: str
    title: str
    sentence: str
    files: tuple[str, ...]

    def paths(self) -> list[str]:
        return [str(FILES / name) for name in self.files]


JOBS: tuple[DemoJob, ...] = (
    DemoJob("station", "The whole station", "nine parts, most with one fault", tuple(PLANTED)),
    DemoJob("faults", "Faults", "unsound meshes, a wrong unit", ("silt_trap.stl", "tipping_tray.stl", "pulley.obj")),
    DemoJob("assembly", "Assemblies", "copies, counts and colours", ("winch_box.step", "screw_set.step")),
)
"""The first is the one that `gullyrise demo` opens."""


def demo_files() -> list[str]:
    """Paths of the parts of the first demo job."""
    return JOBS[0].paths()
