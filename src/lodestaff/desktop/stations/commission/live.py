"""The live values of the site, large, and what the window is connected to."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from lodestaff.desktop.flow import FlowLayout
from lodestaff.desktop.store import Store
from lodestaff.link.client import Value
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain

NAMES = (("meter", "Site"), ("unit", "Unit"), ("sun", "Sun"), ("charge", "Charge"))


class LiveStrip(QWidget):
    """Values once a second while something is connected; a state in words where there is no value."""

    complained = Signal(str)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.store = store
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        self.address = QLineEdit("127.0.0.1:502")
        self.address.setAccessibleName("Address of the units, host and port")
        self.address.setMinimumWidth(90)
        self.address.returnPressed.connect(self.connect_typed)
        self.connect_button = QPushButton("Connect")
        self.connect_button.setToolTip("Read the units at this address; a device elsewhere is only read")
        self.connect_button.clicked.connect(self.connect_typed)
        self.simulated_button = QPushButton("Simulated site")
        self.simulated_button.setCheckable(True)
        self.simulated_button.setToolTip("A site made from this job, to rehearse at")
        self.simulated_button.clicked.connect(self._simulate)
        self.state = QLabel("")
        self.state.setObjectName("soft")
        row.addWidget(self.address)
        row.addWidget(self.connect_button)
        self.device_button = QPushButton("A device")
        self.device_button.setCheckable(True)
        self.device_button.setToolTip("Connect to the units at an address")
        self.device_button.toggled.connect(self._fold)
        second = FlowLayout()
        for widget in (self.simulated_button, self.device_button, self.state):
            second.addWidget(widget)
        column.addLayout(second)
        column.addLayout(row)
        self.values = QWidget()
        values = QHBoxLayout(self.values)
        values.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.values)
        self.labels: dict[str, QLabel] = {}
        self.heads: dict[str, QLabel] = {}
        for name, words in NAMES:
            box = QVBoxLayout()
            box.setSpacing(0)
            head, value = QLabel(words), QLabel("–")
            head.setObjectName("soft")
            value.setObjectName("reading")
            value.setAccessibleName(f"{words}, live")
            box.addWidget(head)
            box.addWidget(value)
            values.addLayout(box, 1)
            self.labels[name], self.heads[name] = value, head

        self._fold(False)
        self.values.hide()

    def _fold(self, shown: bool) -> None:
        """The address is there when a device is to be connected."""
        self.address.setVisible(shown)
        self.connect_button.setVisible(shown)

    def connect_typed(self) -> None:
        """Connect to what was typed; what is no address is said."""
        host, _, port = self.address.text().strip().rpartition(":")
        if not host or not port.isdigit() or not 0 < int(port) < 65536:
            self.complained.emit(
                f"{self.address.text()!r} is no address; write host:port, like 127.0.0.1:502."
            )
            return
        self.store.site.connect_site(host, int(port))

    def _simulate(self, on: bool) -> None:
        if on:
            self.state.setText("building the simulated site…")
            self.store.site.start_simulated()
        else:
            self.store.site.disconnect_site()

    def refresh(self) -> None:
        """Show what is connected and its last values."""
        site = self.store.site
        self.simulated_button.setChecked(site.visit is not None)
        self.values.setVisible(site.connected)
        live = dict(site.live)
        suns = [live[name] for name in live if name.startswith("Prt.")]
        if suns:
            bad = next((sun for sun in suns if not sun.ok), None)
            live["sun"] = bad or Value(suns[0].state, sum(float(sun.value or 0) for sun in suns), "W")
        states = {str(value.state) for value in live.values() if not value.ok}
        if site.visit is not None:
            words = f"{site.visit.plant.right_clock():%H:%M} there"
        else:
            words = "connected" if site.connected else "not connected"
        self.state.setText("; ".join([words, *sorted(states)]))
        for name, words in NAMES:
            value, way = _words(name, live.get(name))
            self.labels[name].setText(value)
            self.heads[name].setText(f"{words} {way}".strip())


def _words(name: str, value: Value | None) -> tuple[str, str]:
    """A value, and its sign in words with its unit."""
    if value is None or not value.ok or not isinstance(value.value, float):
        return "–", ""
    if name == "charge":
        return f"{plain(value.value, 0)}", "%"
    kilowatts = value.value / 1000
    ways = {"meter": ("import kW", "export kW"), "unit": ("gives kW", "takes kW")}.get(name, ("kW", "kW"))
    return text_of(abs(kilowatts), "", 2), ways[kilowatts < 0]
