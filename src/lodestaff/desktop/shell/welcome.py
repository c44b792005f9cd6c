"""The first screen: what the program does, a job to open or begin, recent ones, the samples as diagrams."""

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.shell.vignettes import PICTURES, framed


class Welcome(QWidget):
    """Shown while no job is open."""

    demo = Signal()
    browse = Signal()
    recent = Signal(str)
    new = Signal()
    sample = Signal(str)
    tour = Signal()
    fault = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        self.scroller = QScrollArea()
        self.scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.scroller.setWidgetResizable(True)
        self.scroller.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        outside.addWidget(self.scroller)
        page = QWidget()
        page.setObjectName("surface")
        page.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._column = QVBoxLayout(page)
        self._column.setContentsMargins(32, 20, 24, 20)
        self._column.setSpacing(10)
        self._column.addWidget(_titled("One job, from the first visit to the handover", "title"))
        pictures = QHBoxLayout()
        pictures.setSpacing(14)
        for paint, words in PICTURES:
            pictures.addWidget(framed(paint, words), 1)
        self._column.addLayout(pictures)
        doing = FlowLayout()
        for words, signal in (
            ("Open the demo job", self.demo),
            ("Begin a new job…  Ctrl+N", self.new),
            ("Open a job file…  Ctrl+O", self.browse),
            ("Five minutes through the demo", self.tour),
        ):
            doing.addWidget(_button(words, signal.emit))
        self._column.addLayout(doing)
        self.lately = QWidget()
        self._lately = QVBoxLayout(self.lately)
        self._lately.setContentsMargins(0, 4, 0, 0)
        self._lately.setSpacing(6)
        self._column.addWidget(self.lately)
        self._column.addWidget(_titled("A sample of every kind of system", "heading"))
        self._column.addStretch(1)
        self.scroller.setWidget(page)

    def fill(self) -> None:
        """Bring the samples: they need more than Qt."""
        from lodestaff.desktop.shell.sample_cards import Samples

        self.samples = Samples(self.sample.emit, self.fault.emit)
        self._column.insertWidget(self._column.count() - 1, self.samples)

    def show_recent(self, paths: tuple[str, ...], states: dict[str, str] | None = None) -> None:
        """Show the recent jobs that are still there, each with how it stood when it was saved."""
        while (item := self._lately.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        here = [Path(path) for path in paths if Path(path).is_file()]
        self.lately.setVisible(bool(here))
        if here:
            self._lately.addWidget(_titled("Lately", "heading"))
        for path in here:
            day = datetime.fromtimestamp(path.stat().st_mtime)
            state = (states or {}).get(str(path), "")
            words = "   ".join(
                part for part in (path.name, state, f"{day:%Y-%m-%d}", f"({path.parent})") if part
            )
            self._lately.addWidget(_button(words, lambda path=path: self.recent.emit(str(path))))


def _titled(words: str, name: str) -> QLabel:
    label = QLabel(words)
    label.setObjectName(name)
    label.setWordWrap(True)
    return label


def _button(words: str, action: object) -> QPushButton:
    button = QPushButton(words)
    button.clicked.connect(lambda: action())  # type: ignore[operator]
    return button
