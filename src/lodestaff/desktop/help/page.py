"""The page of help: what there is at the left, the text at the right; all of it without a network."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QSize, Qt, QUrl
from PySide6.QtGui import QImage, QTextDocument
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QSplitter, QTextBrowser

from lodestaff.checks import Finding
from lodestaff.desktop.help.chapters import about, chapters
from lodestaff.desktop.help.entries import check_entry, codes
from lodestaff.desktop.shell.side_page import SidePage
from lodestaff.desktop.theme import current

WIDEST_PX = 640  # of a picture
ABOUT, CHECK = "about", "check "


class Text(QTextBrowser):
    """Shows Markdown; its pictures are as wide as the page lets them be."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Help")
        self.setOpenLinks(False)

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        if kind != QTextDocument.ResourceType.ImageResource.value:
            return super().loadResource(kind, name)
        where = name.toString() if isinstance(name, QUrl) else name
        path = "/".join([*self.searchPaths()[:1], where])
        picture = QImage(path)
        wide = min(WIDEST_PX, max(200, self.viewport().width() - 40))
        if picture.width() > wide:
            picture = picture.scaledToWidth(wide, Qt.TransformationMode.SmoothTransformation)
        return picture


class HelpPage(SidePage):
    """Opened at a chapter, a check, or at words of its own (those of a step)."""

    def __init__(self, findings: Callable[[], Sequence[Finding]]) -> None:
        super().__init__("Help")
        self.findings = findings
        self.list, self.text = QListWidget(), Text()
        self.list.setAccessibleName("What there is")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        for key, title in (
            *((chapter.id, chapter.title) for chapter in chapters()),
            (ABOUT, "About Lodestaff"),
            *((CHECK + code, code) for code in codes()),
        ):
            item = QListWidgetItem(title)
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.list.addItem(item)
        self.list.currentItemChanged.connect(self._chosen)
        whole = QSplitter(Qt.Orientation.Horizontal)
        whole.setChildrenCollapsible(False)
        whole.addWidget(self.list)
        whole.addWidget(self.text)
        whole.setSizes([230, 760])
        self.column.addWidget(whole, 1)

    def minimumSizeHint(self) -> QSize:
        return QSize(400, 300)

    def turn_to(self, key: str) -> None:
        """Show a chapter by its id, or `check CODE`."""
        for row in range(self.list.count()):
            if self.list.item(row).data(Qt.ItemDataRole.UserRole) == key:
                self.list.setCurrentRow(row)
                self._chosen(self.list.item(row))
        self.list.setFocus()

    def show_words(self, text: str) -> None:
        """Show a text that stands in no list."""
        self.list.setCurrentRow(-1)
        self._show(text, "")
        self.text.setFocus()

    def _chosen(self, item: QListWidgetItem | None, before: object = None) -> None:
        if item is None:
            return
        key = item.data(Qt.ItemDataRole.UserRole)
        if key == ABOUT:
            self._show(about(), "")
        elif key.startswith(CHECK):
            self._show(check_entry(key.removeprefix(CHECK), self.findings()), "")
        else:
            chapter = next(each for each in chapters() if each.id == key)
            self._show(chapter.text, str(chapter.folder))

    def _show(self, text: str, folder: str) -> None:
        self.text.setSearchPaths([folder] if folder else [])
        self.text.document().setDefaultStyleSheet(f"a {{ color: {current().hand}; }}")
        self.text.document().setDocumentMargin(16)
        self.text.setMarkdown(text)
