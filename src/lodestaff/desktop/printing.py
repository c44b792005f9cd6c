"""Printing: a preview of a document, and from there the printer or a PDF file."""

from PySide6.QtCore import QMarginsF
from PySide6.QtGui import QFont, QPageLayout, QPageSize, QTextDocument
from PySide6.QtWidgets import QWidget

POINTS = 8.5
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


def preview(parent: QWidget, title: str, html: str, pictures: "dict[str, object] | None" = None,
            landscape: bool = True) -> None:  # fmt: skip
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
