"""Arrays as VTK and Qt have them; neither says in types what it takes."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtGui import QImage
from vtkmodules.util.numpy_support import numpy_to_vtk, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkDataArray


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
