"""The Handover station: pages at the left with what is missing, the page in view, tables to fill the gaps."""

from datetime import date

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QPushButton, QSplitter, QTabWidget, QWidget

from lodestaff.checks import Finding
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.handover.paper import Paper
from lodestaff.desktop.stations.handover.tables import RegisterTable, SerialTable
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import mark
from lodestaff.desktop.worker import Worker
from lodestaff.handover import HandoverInput, Page, pages
from lodestaff.reckoning.proof_readings import handover_readings
from lodestaff.reckoning.readings import Reading

SOON_MS = 60


class HandoverStation(StationView):
    """The pack as it would be handed over now."""

    id = "handover"
    crowded = True
    hint = (
        "The pack as it stands now; ■ marks a page on which something is missing. The table takes "
        "serial numbers and the register."
    )

    def __init__(self, store: Store) -> None:
        self.pages: tuple[Page, ...] = ()
        self._made_of: object = None
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.write_button = QPushButton("Write the pack…")
        self.write_button.setToolTip("PDF, workbook or diagram (Ctrl+Shift+P)")
        self.write_button.clicked.connect(lambda: self.action_wanted.emit("report"))
        self.buttons.addWidget(self.write_button)
        self.maker = Worker(self.store.unexpected.emit, self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._ask)

    def _make_drawing(self) -> QWidget:
        self.list, self.paper = QListWidget(), Paper()
        self.list.setAccessibleName("Pages of the pack")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.currentRowChanged.connect(self._show)
        whole = QSplitter(Qt.Orientation.Horizontal)
        whole.setChildrenCollapsible(False)
        whole.addWidget(self.list)
        whole.addWidget(self.paper)
        whole.setSizes([210, 620])
        whole.setFocusProxy(self.list)
        return whole

    def _make_table(self) -> QWidget:
        tabs = QTabWidget()
        tabs.setAccessibleName("Serial numbers and register")
        tabs.tabBar().setAccessibleName("Serial numbers and register")
        self.serials = SerialTable(self.store)
        self.registers = [RegisterTable(self.store, part) for part in ("firm", "people", "instruments")]
        tabs.addTab(self.serials, "Serial numbers")
        for table in self.registers:
            tabs.addTab(table, table.part.capitalize())
        return tabs

    def refresh(self) -> None:
        """Make the pages anew, off the window's thread, where anything they rest on has changed."""
        job, site = self.store.job, self.store.site
        if job is None:
            return
        rests_on = (job, len(site.entries), site.register)
        if rests_on != self._made_of:
            self._made_of = rests_on
            self._soon.start()
        self.serials.refresh()
        for table in self.registers:
            table.refresh()

    def _ask(self) -> None:
        job, site, reckoner = self.store.job, self.store.site, self.store.reckoner
        if job is not None:
            given = HandoverInput(job, site.entries, site.register, date.today())
            self.maker.ask(
                "pages",
                lambda: pages(reckoner, given),
                then=self._made,
                wrong=lambda error: self.store.trouble.emit("pack", f"The pack can't be made. {error}"),
            )

    def _made(self, made: tuple[Page, ...]) -> None:
        self.store.settled.emit("pack")
        self.pages = made
        row = max(0, self.list.currentRow())
        self.list.blockSignals(True)
        self.list.clear()
        for number, page in enumerate(self.pages, start=1):
            title = page.title if number > 1 else "Summary"
            item = QListWidgetItem(_sign(bool(page.missing)), f"{number}   {title}")
            item.setToolTip("; ".join(page.missing))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{title}: {len(page.missing)} missing")
            self.list.addItem(item)
        self.list.setCurrentRow(min(row, len(self.pages) - 1))
        self.list.blockSignals(False)
        self._show(self.list.currentRow())
        self.reckoning_changed.emit()

    def _show(self, row: int) -> None:
        job = self.store.job
        if job is not None and 0 <= row < len(self.pages):
            self.paper.show_page(self.pages[row], job, self.store.reckoner.wiring(job))

    def readings(self) -> list[Reading]:
        job = self.store.job
        if job is None:
            return []
        proof = self.store.site.proof(job, self.store.reckoner.wiring(job).topology)
        missing = sum(len(page.missing) for page in self.pages)
        return handover_readings(
            proof, len(self.pages), sum(not page.missing for page in self.pages), missing
        )

    def findings(self) -> list[Finding]:
        return []

    def note(self) -> str:
        job = self.store.job
        return job.pack.caution("licence") if job else ""

    def close_station(self) -> None:
        self._soon.stop()
        self.maker.stop()


def _sign(missing: bool) -> QIcon:
    """A filled square where something is missing, a tick where nothing is."""
    pixmap = QPixmap(16, 16)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    mark(painter, current(), "blocks" if missing else "passed", QRectF(2, 2, 11, 11))
    painter.end()
    return QIcon(pixmap)
