"""A drawing as a picture: SVG for other programs, pixels for those that take no SVG."""

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMimeData
from PySide6.QtWidgets import QWidget

from lodestaff.desktop.spoken.item import Speaks

SVG = "image/svg+xml"


def svg_of(widget: QWidget, title: str) -> bytes:
    """What a widget paints, as an SVG document."""
    from PySide6.QtSvg import QSvgGenerator

    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setSize(widget.size())
    generator.setViewBox(widget.rect())
    generator.setTitle(title)
    widget.render(generator)
    buffer.close()
    return bytes(data.data())


def picture_of(widget: QWidget, title: str) -> QMimeData:
    """Both forms for the clipboard, with what stands in the drawing as a table beside them."""
    mime = QMimeData()
    mime.setData(SVG, QByteArray(svg_of(widget, title)))
    mime.setImageData(widget.grab().toImage())
    if isinstance(widget, Speaks):
        mime.setText("\n".join(f"{item.name}\t{item.value}" for item in widget.spoken()))
    return mime
