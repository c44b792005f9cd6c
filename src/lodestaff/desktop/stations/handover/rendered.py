"""The pack's PDF with where each page begins, and its sheets as pictures."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtGui import QImage

from lodestaff.desktop.sheets import picture_of
from lodestaff.handover import HandoverInput, Page
from lodestaff.reckoning import Reckoner


@dataclass(frozen=True)
class Rendered:
    """A pack as PDF; `first` is on which sheet (from 0) each page begins."""

    pages: tuple[Page, ...]
    raw: bytes
    first: tuple[int, ...]
    count: int

    def sheets(self, page: int) -> range:
        """The sheets of a page."""
        end = self.first[page + 1] if page + 1 < len(self.first) else self.count
        return range(self.first[page], max(end, self.first[page] + 1))

    def pictures(self, page: int, wide_px: int) -> list[QImage]:
        """The sheets of a page, each so many pixels wide."""
        import pypdfium2  # type: ignore[import-untyped]

        document = pypdfium2.PdfDocument(self.raw)
        try:
            return [picture_of(document[number], wide_px) for number in self.sheets(page)]
        finally:
            document.close()


def rendered(reckoner: Reckoner, given: HandoverInput, pages: Sequence[Page]) -> Rendered:
    """The pack as PDF with the beginnings of its pages, read from its own bookmarks."""
    import pypdfium2

    from lodestaff.exchange.pdf import pdf

    raw = pdf(reckoner, given, pages)
    document = pypdfium2.PdfDocument(raw)
    try:
        first = [mark.get_dest().get_index() for mark in document.get_toc() if mark.level == 1]
        return Rendered(tuple(pages), raw, tuple(first), len(document))
    finally:
        document.close()
