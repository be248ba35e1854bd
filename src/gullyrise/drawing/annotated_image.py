"""A picture of the view for the record: what was seen, of which parts, on which machine, from where, how large, when."""

from __future__ import annotations

from datetime import datetime

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF, Qt
from PyQt6.QtGui import QImage, QImageReader, QPainter

from gullyrise.core.camera.camera import Camera
from gullyrise.drawing.captions import round_length
from gullyrise.drawing.palette import Palette
from gullyrise.drawing.typeface import type_of

_FOOT = 52
_MOST_NAMES, _MOST_SIDE = 4, 1024


def recorded(view: QImage, camera: Camera, height: int, names: list[str], machine: str, palette: Palette) -> QImage:
    """The view with a strip below it. height : of the pane in its own pixels, of which the camera's span is that many mm."""
    ratio = view.devicePixelRatio()
    width, tall = view.width() / ratio, view.height() / ratio
    out = QImage(view.width(), view.height() + int(_FOOT * ratio), QImage.Format.Format_RGB32)
    out.setDevicePixelRatio(ratio)
    out.fill(palette.colour("panel"))
    with QPainter(out) as painter:
        painter.drawImage(QRectF(0, 0, width, tall), view)
        shown = ", ".join(names[:_MOST_NAMES]) + (f" and {len(names) - _MOST_NAMES} more" if len(names) > _MOST_NAMES else "")
        when = datetime.now().astimezone().strftime("%Y-%m-%d %H:%M")
        kind = "parallel" if camera.parallel else f"perspective {camera.field:.0f}°"
        stretched = (
            "" if camera.stretch == (1.0, 1.0, 1.0) else " · picture stretched " + "×".join(f"{f:g}" for f in camera.stretch)
        )
        bearing = (
            f"{camera.name()} · heading {camera.heading % 360:.1f}° · elevation {camera.elevation:+.1f}° · {kind}{stretched}"
        )
        if camera.roll:
            bearing += f" · roll {camera.roll:.1f}°"
        painter.setPen(palette.colour("ink"))
        painter.setFont(type_of(13, strong=True))
        room = QRectF(12, tall + 6, width - 240, 20)
        painter.drawText(
            room,
            Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(shown or "No parts", Qt.TextElideMode.ElideRight, int(room.width())),
        )
        painter.setFont(type_of(12))
        painter.setPen(palette.colour("quiet"))
        painter.drawText(QRectF(12, tall + 26, width - 240, 20), Qt.AlignmentFlag.AlignVCenter, f"{machine} · {bearing}")
        painter.drawText(
            QRectF(width - 222, tall + 6, 210, 20), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, when
        )
        if not stretched:
            mm = camera.span / height
            length = round_length(160 * mm)
            end, y = width - 12, tall + 42
            painter.setPen(palette.colour("ink"))
            painter.drawLine(int(end - length / mm), int(y), int(end), int(y))
            for x in (end - length / mm, end):
                painter.drawLine(int(x), int(y - 4), int(x), int(y + 4))
            words = f"{length:g} mm" + ("" if camera.parallel else " at the middle")
            painter.drawText(QRectF(width - 222, tall + 24, 210, 14), Qt.AlignmentFlag.AlignRight, words)
    for key, text in (("Title", shown), ("Machine", machine), ("View", bearing), ("Date", when), ("Software", "Gullyrise")):
        out.setText(key, text)
    return out


def png_of(image: QImage, width: int, height: int) -> bytes:
    """A little picture of it, cut to the shape asked for."""
    scaled = image.scaled(
        width, height, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
    )
    left, top = (scaled.width() - width) // 2, (scaled.height() - height) // 2
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    scaled.copy(left, top, width, height).save(buffer, "PNG")
    return bytes(data.data())


def kept_png(data: bytes) -> QImage:
    """A small picture from a job file; an empty one for bytes that are no PNG, or one that would unfold to more than is ever
    kept."""
    held = QBuffer()
    held.setData(data)
    held.open(QBuffer.OpenModeFlag.ReadOnly)
    reader = QImageReader(held, b"png")
    reader.setAutoDetectImageFormat(False)
    size = reader.size()
    if not size.isValid() or max(size.width(), size.height()) > _MOST_SIDE:
        return QImage()
    return reader.read()
