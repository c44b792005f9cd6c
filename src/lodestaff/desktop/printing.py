"""Printing: a preview of a document, and from there the printer or a PDF file."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QMarginsF, QRectF
from PySide6.QtGui import QFont, QPageLayout, QPageSize, QPainter, QTextDocument
from PySide6.QtWidgets import QWidget

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter

POINTS = 8.5
PRINT_DPI = 200.0
MARGIN_MM = 14.0


def document_of(html: str, pictures: "dict[str, object] | None" = None) -> QTextDocument:
    """A document of rich text with its pictures by name, in a size for paper."""
    from PySide6.QtCore import QUrl

    document = QTextDocument()
    face = QFont("B612")
    face.setPointSizeF(POINTS)
    document.setDefaultFont(face)
    for name, picture in (pictures or {}).items():
        document.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl(name), picture)
    document.setHtml(html)
    return document


def paper(landscape: bool) -> QPageLayout:
    """A sheet of A4."""
    turned = QPageLayout.Orientation.Landscape if landscape else QPageLayout.Orientation.Portrait
    margins = QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM)
    return QPageLayout(QPageSize(QPageSize.PageSizeId.A4), turned, margins, QPageLayout.Unit.Millimeter)


def preview(
    parent: QWidget,
    title: str,
    html: str,
    pictures: "dict[str, object] | None" = None,
    landscape: bool = True,
) -> None:
    """Show how a document will be printed; the person prints it from there."""
    from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(title)
    printer.setPageLayout(paper(landscape))
    dialog = QPrintPreviewDialog(printer, parent)
    dialog.setWindowTitle(title)
    document = document_of(html, pictures)
    dialog.paintRequested.connect(document.print_)
    dialog.exec()


def preview_sheets(parent: QWidget, title: str, raw: bytes) -> None:
    """Show how a PDF will be printed, each sheet as it lies; the person prints it from there."""
    from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(title)
    printer.setFullPage(True)
    dialog = QPrintPreviewDialog(printer, parent)
    dialog.setWindowTitle(title)
    dialog.paintRequested.connect(lambda device: print_sheets(device, raw))
    dialog.exec()


def print_sheets(printer: "QPrinter", raw: bytes) -> None:
    """A PDF's sheets onto a printer, each turned as it lies."""
    import pypdfium2  # type: ignore[import-untyped]

    from lodestaff.desktop.sheets import picture_of

    document = pypdfium2.PdfDocument(raw)
    painter = QPainter()
    try:
        for number in range(len(document)):
            sheet = document[number]
            broad = sheet.get_width() > sheet.get_height()
            turned = QPageLayout.Orientation.Landscape if broad else QPageLayout.Orientation.Portrait
            printer.setPageOrientation(turned)
            if number:
                printer.newPage()
            else:
                painter.begin(printer)
            image = picture_of(sheet, round(sheet.get_width() / 72 * PRINT_DPI))
            painter.drawImage(QRectF(painter.viewport()), image)
    finally:
        painter.end()
        document.close()
