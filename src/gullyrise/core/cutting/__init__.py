"""Planar sections: outlines, their area, and the area along an axis."""

from gullyrise.core.cutting.section import Loop, Section, cut

__all__ = ["Loop", "Section", "cut"]
