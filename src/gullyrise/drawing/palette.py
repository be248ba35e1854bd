"""The two themes as plain colours; every colour on screen comes from here."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtGui import QColor


@dataclass(frozen=True, slots=True)
class Palette:
    """Named by use; `#rrggbb` each. Text on ground or panel reaches a contrast of 4.5 to 1."""

    name: str
    ground: str
    ground_far: str
    panel: str
    field: str
    ink: str
    quiet: str
    line: str
    accent: str
    on_accent: str
    passed: str
    review: str
    failed: str
    part: str
    inside: str
    cut: str
    bed: str
    bed_line: str
    edge: str
    outside: str
    stripe: str
    axis_x: str
    axis_y: str
    axis_z: str

    def colour(self, use: str) -> QColor:
        """Of a use, such as ink or ground."""
        return QColor(str(getattr(self, use)))

    def verdict(self, verdict: str) -> QColor:
        """The colour of a verdict."""
        return self.colour({"pass": "passed", "review": "review", "fail": "failed"}.get(verdict, "quiet"))


LIMESTONE = Palette(
    name="Limestone",
    ground="#ECE7DC", ground_far="#DDD5C4", panel="#F6F3EC", field="#FFFEFB", ink="#1F2A30", quiet="#5A6468",
    line="#CFC7B6", accent="#1E6F78", on_accent="#FFFFFF", passed="#55752F", review="#8F5C0A", failed="#A33B2E",
    part="#C9B99A", inside="#9C7F66", cut="#9A93B5", bed="#E2DBCB", bed_line="#B5AB96", edge="#6B5F4B",
    outside="#A9C3BE", stripe="#D8CBB0",
    axis_x="#B5473A", axis_y="#5C7F35", axis_z="#2F6E9E",
)  # fmt: skip

SLATE = Palette(
    name="Slate",
    ground="#2A3136", ground_far="#1E2428", panel="#232A2F", field="#1A2024", ink="#E8E4DA", quiet="#A3ABAE",
    line="#434D53", accent="#5FB4BD", on_accent="#10181B", passed="#9DBF6E", review="#E0A545", failed="#E58575",
    part="#B3A78E", inside="#7D6A58", cut="#7C769C", bed="#363F45", bed_line="#57636A", edge="#2E2A22",
    outside="#6E918C", stripe="#C9BEA5",
    axis_x="#E07A6C", axis_y="#95BC68", axis_z="#6FB0DE",
)  # fmt: skip

THEMES = {palette.name: palette for palette in (LIMESTONE, SLATE)}
