"""The choices of a new job as a form: each control is made from the declaration of its choice."""

from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QLabel, QLineEdit, QSizePolicy, QWidget

from lodestaff.desktop.understood import as_number, understand
from lodestaff.quantities.convention import plain
from lodestaff.templates import Wanted
from lodestaff.templates.at_parts import HEAD
from lodestaff.templates.typed import choices, options_of

STANDS = ("grid", "system", "rating_a", "earthing", "existing", "charger",
          "generator",
          "second_building", "circuits")  # fmt: skip
WANTED = ("family", "units", "arrangement", "backup", "bypass", "interlock", "shutdown", "optimisers",
          "surplus", "metered",
          "outbuilding", "chosen_loads_ct", "own_sun")  # fmt: skip
GROUPS = (("What stands there", STANDS), ("What is wanted", WANTED))
COUNTS = ("1", "2", "3", "4")


class Choices(QWidget):
    """Two groups of controls. `values` are plain, as they are typed; nothing is refused here."""

    changed = Signal()
    pack_chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setMaximumWidth(276)
        self.controls: dict[str, QWidget] = {}
        self.labels: dict[str, QLabel] = {}
        words = {row["key"]: row["words"] for row in choices()}
        for key in HEAD:  # which the page sets at its head
            self.controls[key], self.labels[key] = self._control(key, words[key]), QLabel(words[key])
        form = QFormLayout(self)
        form.setContentsMargins(4, 4, 14, 4)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        form.setVerticalSpacing(5)
        form.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapAllRows)
        for title, keys in GROUPS:
            head = QLabel(title)
            head.setObjectName("strong")
            form.addRow(head)
            for key in keys:
                control = self._control(key, words[key])
                self.controls[key] = control
                if isinstance(control, QCheckBox):
                    form.addRow(control)
                else:
                    form.addRow(words[key], control)

    def _control(self, key: str, words: str) -> QWidget:
        options = options_of(key)
        if options == ("no", "yes"):
            box = QCheckBox(words)
            box.toggled.connect(self.changed)
            return box
        if options or key == "units":
            combo = QComboBox()
            combo.addItems(list(options or COUNTS))
            combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            combo.setMinimumContentsLength(10)
            combo.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            combo.setAccessibleName(words)
            combo.currentTextChanged.connect(self.changed)
            if key == "pack":
                combo.currentTextChanged.connect(self.pack_chosen)
            combo.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            return combo
        line = QLineEdit()
        line.setAccessibleName(words)
        line.textChanged.connect(self.changed)
        if key == "rating_a":
            understand(line, lambda: as_number("A"))
        return line

    def show_wanted(self, wanted: Wanted) -> None:
        """Show the choices of a starting point."""
        self.blockSignals(True)
        for key in self.controls:
            value = getattr(wanted, key)
            text = "" if value is None else plain(value) if isinstance(value, float) else str(value)
            self.put(key, text if not isinstance(value, bool) else "yes" if value else "no")
        self.blockSignals(False)
        self.changed.emit()

    def put(self, key: str, value: str) -> None:
        """Choose one value, as it is typed."""
        control = self.controls[key]
        if isinstance(control, QCheckBox):
            control.setChecked(value == "yes")
        elif isinstance(control, QComboBox):
            control.setCurrentText(value)
        elif isinstance(control, QLineEdit):
            control.setText(value)

    def texts(self) -> dict[str, Any]:
        """What is chosen and typed, by key."""
        values: dict[str, Any] = {}
        for key, control in self.controls.items():
            if isinstance(control, QCheckBox):
                values[key] = "yes" if control.isChecked() else "no"
            elif isinstance(control, QComboBox):
                values[key] = control.currentText()
            elif isinstance(control, QLineEdit):
                values[key] = control.text()
        return values
