"""The Handover station: pages at the left with what is missing, the page in view, tables to fill the gaps."""

from datetime import date
from functools import partial

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QInputDialog,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QSplitter,
    QTabWidget,
    QWidget,
)

from lodestaff.checks import Finding
from lodestaff.desktop.stations.base import StationView
from lodestaff.desktop.stations.handover.agreed import (
    accounts_table,
    add_row,
    agreed_table,
    lines_of,
    registered_table,
    rows_of,
    warranties_table,
    without,
)
from lodestaff.desktop.stations.handover.built import (
    built_of,
    built_table,
    confirm_all,
    fill_photos,
    keep_plan,
    photos_table,
)
from lodestaff.desktop.stations.handover.paper import Paper
from lodestaff.desktop.stations.handover.rendered import Rendered, rendered
from lodestaff.desktop.stations.handover.tables import RegisterTable, SerialTable
from lodestaff.desktop.store import Store
from lodestaff.desktop.theme import current
from lodestaff.desktop.theme.paint import mark
from lodestaff.desktop.worker import Worker
from lodestaff.handover import PART_NAMES, HandoverInput, Page, pages
from lodestaff.job import Change
from lodestaff.job.handed import PackPart
from lodestaff.reckoning.proof_readings import handover_readings
from lodestaff.reckoning.readings import Reading

SOON_MS = 60


class HandoverStation(StationView):
    """The pack as it would be handed over now."""

    id = "handover"
    crowded = True
    hint = (
        "The pack as it prints; ■ marks a page on which something is missing. The table takes serial "
        "numbers, what is agreed, accounts and warranties, and the register."
    )

    def __init__(self, store: Store) -> None:
        self.pages: tuple[Page, ...] = ()
        self.rendered: Rendered | None = None
        self._made_of: object = None
        super().__init__(store)
        self.lay(self._make_drawing(), self._make_table())
        self.parts = QPushButton("Parts")
        self.parts.setToolTip("Whom the pack is for: owner, technical record, operator, firm")
        chosen = QMenu(self.parts)
        self.part_actions = {part: chosen.addAction(name) for part, name in PART_NAMES.items()}
        for part, action in self.part_actions.items():
            action.setCheckable(True)
            action.triggered.connect(partial(self.choose_part, part))
        self.parts.setMenu(chosen)
        self.add = QPushButton("Add…")
        adding = QMenu(self.add)
        adding.addAction("Account", partial(add_row, store, "accounts", "account"))
        adding.addAction("Warranty", partial(add_row, store, "warranties", "warranty"))
        adding.addAction("Entry in a register", partial(add_row, store, "registered", "register"))
        photos = adding.addMenu("Photo")
        photos.aboutToShow.connect(lambda: fill_photos(photos, self, self.store))
        adding.addSeparator()
        adding.addAction("Keep this as the plan", partial(keep_plan, store))
        self.confirm = adding.addAction("Confirm all that was built otherwise…", self.ask_confirm)
        self.add.setMenu(adding)
        self.write_button = QPushButton("Write the pack…")
        self.write_button.setToolTip("PDF, workbook or diagram (Ctrl+Shift+P)")
        self.write_button.clicked.connect(lambda: self.action_wanted.emit("report"))
        for button in (self.parts, self.add, self.write_button):
            self.buttons.addWidget(button)
        self.maker = Worker(self.store.unexpected.emit, self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._ask)

    def _make_drawing(self) -> QWidget:
        self.list, self.paper = QListWidget(), Paper(lambda _: self._show(self.list.currentRow()))
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
        self.agreed = agreed_table(self.store)
        self.accounts = accounts_table(self.store, partial(without, self.store))
        self.warranties = warranties_table(self.store, partial(without, self.store))
        tabs.addTab(self.agreed, "Agreed")
        tabs.addTab(self.accounts, "Accounts")
        tabs.addTab(self.warranties, "Warranties")
        self.registered = registered_table(self.store, partial(without, self.store))
        self.photos = photos_table(self.store, partial(without, self.store))
        self.built = built_table(self.store)
        tabs.addTab(self.registered, "Registers")
        tabs.addTab(self.photos, "Photos")
        tabs.addTab(self.built, "As built")
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
        self.agreed.show_rows(lines_of(job))
        self.accounts.show_rows(rows_of(job, "accounts"))
        self.warranties.show_rows(rows_of(job, "warranties"))
        self.registered.show_rows(rows_of(job, "registered"))
        self.photos.show_rows(rows_of(job, "photos"))
        built = built_of(self.store)
        self.built.show_rows(built.rows if built is not None else ())
        self.confirm.setEnabled(built is not None and bool(built.open))
        for part, action in self.part_actions.items():
            action.setChecked(part in job.handed.parts)
        for table in self.registers:
            table.refresh()

    def _ask(self) -> None:
        job, site, reckoner = self.store.job, self.store.site, self.store.reckoner
        if job is not None:
            given = HandoverInput(job, site.entries, site.register, date.today())
            self.maker.ask(
                "pages", lambda: pages(reckoner, given), partial(self._made, given), self._not_made
            )

    def _not_made(self, error: Exception) -> None:
        self.store.trouble.emit("pack", f"The pack can't be made. {error}")

    def _made(self, given: HandoverInput, made: tuple[Page, ...]) -> None:
        self.store.settled.emit("pack")
        reckoner = self.store.reckoner
        self.pages, self.rendered = made, None
        self.maker.ask("paper", lambda: rendered(reckoner, given, made), self._laid_out, self._not_made)
        row = max(0, self.list.currentRow())
        self.list.blockSignals(True)
        self.list.clear()
        part = ""
        for number, page in enumerate(self.pages, start=1):
            title = "Summary" if page.id == "summary" else page.title
            head = f"{PART_NAMES[page.part]}\n" if page.part != part else ""
            part = page.part
            item = QListWidgetItem(_sign(bool(page.missing)), f"{head}{number}   {title}")
            item.setToolTip("; ".join(page.missing))
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{title}: {len(page.missing)} missing")
            self.list.addItem(item)
        self.list.setCurrentRow(min(row, len(self.pages) - 1))
        self.list.blockSignals(False)
        self._show(self.list.currentRow())
        self.reckoning_changed.emit()

    def _show(self, row: int) -> None:
        if not 0 <= row < len(self.pages):
            return
        page, rendering = self.pages[row], self.rendered
        if rendering is None:
            self.paper.show_page(page, [])
            return
        wide = self.paper.wide_px()
        self.maker.ask(
            "sheets",
            lambda: rendering.pictures(row, wide),
            then=partial(self.paper.show_page, page),
            wrong=self._not_made,
        )

    def _laid_out(self, made: Rendered) -> None:
        """The pack as it prints is there: show its sheets."""
        if made.pages == self.pages:
            self.rendered = made
            self._show(self.list.currentRow())

    def choose_part(self, part: PackPart, _: bool = False) -> bool:
        """Put a part into the pack or take it out; one at least stays."""
        job = self.store.job
        if job is None:
            return False
        held = [name for name in PART_NAMES if (name in job.handed.parts) != (name == part)]
        if not held:
            self.say("One part at least stays in the pack.")
            self.refresh()
            return False
        return self.store.edit(
            f"Choose the parts of the pack: {', '.join(held)}", Change("handed/parts", held)
        )

    def ask_confirm(self) -> None:
        """Who stands for all that was built otherwise than planned."""
        name, yes = QInputDialog.getText(self, "As built", "Who confirms it?")
        if yes:
            confirm_all(self.store, name)

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
