"""Sheets of a PDF as pictures: window and printer show the very pack that is written."""

from typing import Any

from PySide6.QtGui import QImage

LEAST_PX = 50


def picture_of(sheet: Any, wide_px: int) -> QImage:
    """A sheet of a pypdfium2 document, so many pixels wide."""
    bitmap = sheet.render(scale=max(LEAST_PX, wide_px) / sheet.get_width())
    made = QImage(bitmap.buffer, bitmap.width, bitmap.height, bitmap.stride, QImage.Format.Format_BGR888)
    return made.copy()  # the buffer goes with the bitmap
