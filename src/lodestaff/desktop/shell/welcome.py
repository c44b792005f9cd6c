"""The first screen: the demo job, a file, or one of the recent jobs."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QLabel, QPushButton, QVBoxLayout, QWidget


class Welcome(QWidget):
    """Shown while no job is open."""

    demo = Signal()
    browse = Signal()
    recent = Signal(str)
    new = Signal()
    sample = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(60, 60, 60, 40)
        self._column.setSpacing(10)

    def show_recent(self, paths: tuple[str, ...]) -> None:
        """Lay the screen out anew with the recent jobs that are still there."""
        while (item := self._column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        title = QLabel("Which job?")
        title.setObjectName("title")
        self._column.addWidget(title)
        words = QLabel(
            "A job carries one installation from the first visit to the handover. The demo, Larkmoor "
            "Veterinary Surgery, is an invented site with a 6 kVA hybrid and an essential loads board; a "
            "sample of every kind of system stands beside it."
        )
        words.setWordWrap(True)
        words.setMaximumWidth(560)
        self._column.addWidget(words)
        self._add("Open the demo job", self.demo.emit)
        self._add("Begin a new job…  (Ctrl+N)", self.new.emit)
        self._add("Open a job file…  (Ctrl+O)", self.browse.emit)
        self._samples()
        here = [path for path in paths if Path(path).is_file()]
        if here:
            label = QLabel("Lately")
            label.setObjectName("soft")
            self._column.addWidget(label)
        for path in here:
            self._add(f"{Path(path).name}   ({Path(path).parent})", lambda path=path: self.recent.emit(path))
        self._column.addStretch(1)

    def _samples(self) -> None:
        """The other samples, to choose from."""
        from lodestaff.samples import sample_names

        box = QComboBox()
        box.setAccessibleName("Other sample jobs")
        box.setMaximumWidth(560)
        box.addItem("Another sample…")
        for name in sample_names()[1:]:
            box.addItem(name.replace("-", " ").capitalize(), name)
        box.activated.connect(lambda index: self.sample.emit(box.itemData(index)) if index > 0 else None)
        self._column.addWidget(box)

    def _add(self, words: str, action: object) -> None:
        button = QPushButton(words)
        button.setMaximumWidth(560)
        button.clicked.connect(action)
        self._column.addWidget(button)
