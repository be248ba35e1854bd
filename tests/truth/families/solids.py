"""Solids with exact surfaces, made by the kernel."""

from __future__ import annotations

from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

from gullyrise.core.part import Body
from gullyrise.core.solids.harvest import body_of

Place = tuple[float, float, float]


def block(low: Place, high: Place) -> Any:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape()


def rod(foot: Place, radius: float, length: float, axis: Place = (0, 0, 1)) -> Any:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*foot), gp_Dir(*axis)), radius, length).Shape()


def cone(foot: Place, low: float, high: float, length: float) -> Any:
    return BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(*foot), gp_Dir(0, 0, 1)), low, high, length).Shape()


def ball(middle: Place, radius: float) -> Any:
    return BRepPrimAPI_MakeSphere(gp_Pnt(*middle), radius).Shape()


def ring(middle: Place, radius: float, thick: float) -> Any:
    return BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(*middle), gp_Dir(0, 0, 1)), radius, thick).Shape()


def cut(shape: Any, *tools: Any) -> Any:
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return shape


def fused(shape: Any, *others: Any) -> Any:
    for other in others:
        shape = BRepAlgoAPI_Fuse(shape, other).Shape()
    return shape


def body(shape: Any) -> Body:
    return body_of("solid", shape)
