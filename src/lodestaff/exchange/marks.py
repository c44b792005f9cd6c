"""What a PDF is found by: a bookmark for each part and page, and the count of its sheets."""

from datetime import date
from typing import Any

from lodestaff.handover import PART_NAMES, Page


def bookmark(page: Page, new_part: bool) -> Any:
    """A flowable without size that marks where a page begins, and its part where that is new."""
    from reportlab.platypus import Flowable

    class Mark(Flowable):  # type: ignore[misc,unused-ignore]
        def __init__(self) -> None:
            super().__init__()
            self.width = self.height = 0

        def draw(self) -> None:
            canvas: Any = self.canv
            if new_part:
                canvas.bookmarkPage(f"part {page.part}")
                canvas.addOutlineEntry(PART_NAMES[page.part], f"part {page.part}", level=0)
            canvas.bookmarkPage(page.id)
            canvas.addOutlineEntry(page.title, page.id, level=1)

    return Mark()


SHEETS = "sheets"  # the form that holds the count of them


def counting(printed: date) -> Any:
    """A canvas of reportlab that knows at its end how many sheets it has, a form that each of them shows; it
    bears the day on which it was printed, so that the same job prints the same bytes that day."""
    from reportlab.pdfgen.canvas import Canvas

    class Counting(Canvas):  # type: ignore[misc,unused-ignore]
        def save(self) -> None:
            open_sheet = bool(getattr(self, "_code", None))
            count = self.getPageNumber() - (0 if open_sheet else 1)
            self.beginForm(SHEETS)
            self.setFont("B612", 7)
            self.drawString(0, 0, str(count))
            self.endForm()
            stamp = self._doc._timeStamp  # type: ignore[attr-defined]
            stamp.YMDhms = (printed.year, printed.month, printed.day, 0, 0, 0)
            super().save()

    return Counting
