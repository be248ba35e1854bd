"""Arrays as VTK and Qt have them; neither says in types what it takes."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtGui import QImage
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkDataArray, vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData


def to_vtk(array: np.ndarray, *, shared: bool = False) -> Any:
    """An array of VTK's, of the same kind and shape. shared : the memory, which VTK then keeps alive, instead of a copy"""
    return numpy_to_vtk(array if shared else np.ascontiguousarray(array), deep=not shared)  # type: ignore[no-untyped-call]


def from_vtk(array: vtkDataArray) -> np.ndarray:
    """The same memory as an array, as long as VTK's lives."""
    return np.asarray(vtk_to_numpy(array))  # type: ignore[no-untyped-call]


def image_over(pixels: np.ndarray, form: QImage.Format) -> QImage:
    """A picture over the memory of (height, width, bytes a pixel) uint8, which has to outlive it."""
    height, width, depth = pixels.shape
    return QImage(pixels.data, width, height, width * depth, form)  # type: ignore[call-overload,no-any-return]


def poly_data(vertices: np.ndarray, faces: np.ndarray) -> vtkPolyData:
    """Triangles as VTK wants them, vertices in single precision. Raises ValueError for corners that are not there, at which VTK
    would read whatever memory holds."""
    if len(faces) and not 0 <= int(np.min(faces)) <= int(np.max(faces)) < len(vertices):
        raise ValueError("faces name vertices that are not there")
    data = vtkPolyData()
    points = vtkPoints()
    # Shared, not copied: VTK would copy while it holds the interpreter's lock. The arrays hang on to the VTK ones.
    points.SetData(to_vtk(np.array(vertices, dtype=np.float32), shared=True))
    data.SetPoints(points)
    cells = vtkCellArray()
    offsets = np.arange(0, 3 * len(faces) + 1, 3, dtype=np.int32)
    flat = np.array(faces, dtype=np.int32).reshape(-1)
    cells.SetData(to_vtk(offsets, shared=True), to_vtk(flat, shared=True))
    data.SetPolys(cells)
    return data


def line_data(segments: np.ndarray) -> vtkPolyData:
    """(k, 2, 3) segments as lines."""
    data = vtkPolyData()
    points = vtkPoints()
    points.SetData(to_vtk(segments.reshape(-1, 3).astype(np.float32)))
    data.SetPoints(points)
    cells = vtkCellArray()
    offsets = np.arange(0, 2 * len(segments) + 1, 2, dtype=np.int32)
    cells.SetData(to_vtk(offsets), to_vtk(np.arange(2 * len(segments), dtype=np.int32)))
    data.SetLines(cells)
    return data
