"""The page of equipment and prices: a kind, its gallery, the data sheet of the case in hand."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QSplitter,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from lodestaff.catalogue.kinds import KINDS, kind_named
from lodestaff.desktop.parts.gallery import STRENGTH, Case, Gallery
from lodestaff.desktop.parts.places import PlaceBox
from lodestaff.desktop.parts.rates import RatesTable
from lodestaff.desktop.parts.sheet_form import SheetForm
from lodestaff.desktop.parts.summary import summary
from lodestaff.desktop.store import Store
from lodestaff.desktop.understood import as_number, understand
from lodestaff.desktop.worker import Worker
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.quantities.disk import write_whole
from lodestaff.quantities.errors import JobError
from lodestaff.quantities.reader import read_number
from lodestaff.reckoning.fits import Fit, fit
from lodestaff.shelf import Entry, Shelf, load_shelf, save_shelf
from lodestaff.shelf.prices import PriceBook, SupplierList, load_prices, save_prices

FORMS = "Sheets (*.json *.csv *.xlsx)"
OWN_LIST = "own list"
MOST_ROWS = 20  # modules taken from a table at once


class PartsPage(QWidget):
    """Takes the station's place until it is closed. The shelf is kept at once; a job changes only by `Take
    it`."""

    closed = Signal()
    try_wanted = Signal(str, object)  # the sheet the job uses, the entry to try in its place
    complained = Signal(str)

    def __init__(self, store: Store) -> None:
        super().__init__()
        self.setObjectName("surface")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.store = store
        self.shelf, self.book = Shelf(), PriceBook()
        self.fits: dict[str, Fit] = {}
        self.fitter = Worker(store.unexpected.emit, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 8, 14, 8)
        column.addLayout(self._make_head())
        self.words = QLabel("")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        self._table: Path | None = None
        self.table_line = QLineEdit()
        self.table_line.setAccessibleName("Rows of the module table")
        self.table_line.returnPressed.connect(self._rows_typed)
        self.table_line.hide()
        column.addWidget(self.table_line)
        self.gallery, self.form = Gallery(store), SheetForm()
        self.rates = RatesTable(lambda: self.book)
        self.rates.changed.connect(self._keep_book)
        self.rates.complained.connect(self.complained)
        scroller = QScrollArea()
        scroller.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroller.setWidgetResizable(True)
        scroller.setWidget(self.gallery)
        split = QSplitter(Qt.Orientation.Vertical)
        split.setChildrenCollapsible(False)
        split.addWidget(scroller)
        split.addWidget(self._make_sheet())
        split.setSizes([285, 345])
        column.addWidget(split, 1)
        self.gallery.chosen_changed.connect(lambda _: self._show_entry())
        self.gallery.tried.connect(self._try)
        self.form.changed.connect(self.keep)
        self.form.complained.connect(self.complained)

    def _make_head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        title = QLabel("Equipment")
        title.setObjectName("title")
        self.kinds = QComboBox()
        self.kinds.setAccessibleName("Kind of equipment")
        for kind in KINDS:
            self.kinds.addItem(kind.words, kind.id)
        self.kinds.currentIndexChanged.connect(lambda _: self._of_another())
        row.addWidget(title, 1)
        row.addWidget(self.kinds)
        for words, tip, action in (
            ("New sheet", "Begin a sheet of this kind, as a copy of the case in hand", self.begin),
            ("Import…", "From JSON, CSV, XLSX", self._ask_import),
            ("Export…", "As JSON, CSV (this kind) or XLSX", self._ask_export),
            ("Back · Esc", "Back to the station", self.closed.emit),
        ):
            button = QPushButton(words)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, action=action: action())
            row.addWidget(button)
        return row

    def _make_sheet(self) -> QWidget:
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        self.remarks = QLabel("")
        self.remarks.setWordWrap(True)
        self.price = QLineEdit()
        self.price.setAccessibleName("Price without tax")
        self.price.setMaximumWidth(110)
        self.price.editingFinished.connect(self._price_typed)
        understand(self.price, lambda: as_number(""))
        self.price_words = QLabel("Price")
        self.try_button = QPushButton("Try in this job")
        self.try_button.setToolTip(
            "Side by side with the job as it is; nothing changes before you take it (Enter)"
        )
        self.try_button.clicked.connect(lambda: self._try(self.gallery.chosen))
        self.remarks.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.remarks)
        self.places = PlaceBox()
        self.places.activated.connect(lambda _: self._of_another())
        row.addWidget(self.places, 1)
        self.supplier = QComboBox()
        self.supplier.setEditable(True)
        self.supplier.setAccessibleName("Supplier of the price")
        for widget in (self.price_words, self.price, self.supplier, self.try_button):
            row.addWidget(widget)
        column.addLayout(row)
        tabs = QTabWidget()
        tabs.setAccessibleName("Data sheet and rates")
        tabs.tabBar().setAccessibleName("Data sheet and rates")
        tabs.addTab(self.form, "Data sheet")
        tabs.addTab(self.rates, "Currency, tax, labour")
        column.addWidget(tabs)
        return whole

    # --- showing ------------------------------------------------------------------------------------------
    def open(self) -> None:
        """Read shelf and prices from disk and show them; what is damaged is said."""
        try:
            self.shelf, self.book = load_shelf(), load_prices()
        except JobError as trouble:
            self.complained.emit(f"Not read. {trouble}")
        self.fits = {}
        self.refresh()
        self.gallery.setFocus()

    @property
    def kind(self) -> str:
        return str(self.kinds.currentData())

    def _of_another(self) -> None:
        """Another kind or place: what fits is another thing."""
        self.fits = {}
        self.refresh()

    def refresh(self) -> None:
        """Show the kind in hand; what fits is found off the window's thread."""
        self.places.show_places(self.store.job, self.kind, self.store.reckoner)
        entries = self.shelf.of_kind(self.kind)
        self.gallery.show_cases(tuple(self._case(entry) for entry in entries))
        self._show_entry()
        job, place, reckoner = self.store.job, self.places.place, self.store.reckoner
        wanted = [entry for entry in entries if entry.id not in self.fits and not entry.missing]
        if job is not None and place is not None and wanted:
            self.fitter.ask(
                "fits",
                lambda: [fit(reckoner, job, place, entry) for entry in wanted],
                then=self._fitted,
                wrong=lambda error: self.complained.emit(f"What fits could not be found. {error}"),
            )
        self.words.setText(summary(job, self.store.reckoner, self.book, self.shelf))

    def _case(self, entry: Entry) -> Case:
        key = STRENGTH.get(entry.kind, "")
        value = entry.values.get(key)
        strength = float(value) if isinstance(value, int | float) else 0.0
        figure = text_of(strength, entry.of.row(key).unit) if key and strength else ""
        fitting, price = self.fits.get(entry.id), self.book.price(entry.id)
        if entry.missing:
            state, because = "half", f"missing: {', '.join(entry.missing)}"
        elif self.places.place is not None and entry.id == self.places.place.sheet:
            state, because = "chosen", ""
        elif fitting is None:
            state, because = "unknown", "…" if self.places.place is not None else ""
        else:
            state, because = ("fits", "") if fitting.fits else ("not", "; ".join(fitting.because))
        words = f"{text_of(price[0], self.book.currency)} {price[1]}" if price else "no price"
        return Case(
            entry.id, entry.name, figure=figure, strength=strength, price=words, state=state, because=because
        )

    def _fitted(self, fits: list[Fit]) -> None:
        self.fits |= {fit.entry: fit for fit in fits}
        self.gallery.show_cases(tuple(self._case(entry) for entry in self.shelf.of_kind(self.kind)))
        self._show_entry()

    def _entry(self) -> Entry | None:
        return next((entry for entry in self.shelf.entries if entry.id == self.gallery.chosen), None)

    def _show_entry(self) -> None:
        entry = self._entry()
        self.form.show_entry(entry)
        doubts = [f"{remark.weight}: {remark.words}" for remark in entry.remarks] if entry else []
        if entry is not None and entry.missing:
            doubts.append(f"missing: {', '.join(entry.missing)}")
        fitting = self.fits.get(entry.id) if entry else None
        if fitting is not None and not fitting.fits:
            doubts.append(f"does not fit: {'; '.join(fitting.because)}")
        words = "; ".join(doubts) or (entry.name if entry else "nothing of this kind is on the shelf")
        self.remarks.setText(words)
        self.remarks.setToolTip(words)
        self.remarks.setMaximumHeight(
            round(2.4 * self.remarks.fontMetrics().height())
        )  # the tooltip says it whole
        price = self.book.price(entry.id) if entry else None
        if not self.price.hasFocus():
            self.price.setText(f"{plain(price[0])}" if price else "")
        self.price_words.setText(f"Price, {self.book.currency}")
        if not self.supplier.hasFocus():
            self.supplier.clear()
            self.supplier.addItems([prices.supplier for prices in self.book.lists] or [OWN_LIST])
            self.supplier.setCurrentText(price[1] if price else self.supplier.itemText(0))
        self.rates.refresh()
        self.try_button.setEnabled(entry is not None and self.places.place is not None and not entry.missing)

    # --- doing --------------------------------------------------------------------------------------------
    def keep(self, entry: Entry) -> bool:
        """Put an entry on the shelf and the shelf on disk."""
        made = self.shelf.with_entry(entry)
        try:
            save_shelf(made)
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            return False
        self.shelf = made
        self.fits.pop(entry.id, None)
        self.gallery.chosen = entry.id
        self.refresh()
        return True

    def begin(self) -> None:
        """A new sheet of this kind: a copy of the case in hand under an id of its own."""
        base, kind = self._entry(), kind_named(self.kind)
        ids = {entry.id for entry in self.shelf.entries}
        number = next(n for n in range(1, len(ids) + 2) if f"{kind.id}-own-{n}" not in ids)
        values = dict(base.values) if base is not None and base.kind == kind.id else {}
        values["name"] = f"New {kind.words} {number}"
        self.keep(Entry(id=f"{kind.id}-own-{number}", kind=kind.id, values=values))
        self.form.setFocus()

    def _try(self, entry_id: str) -> None:
        entry = next((entry for entry in self.shelf.entries if entry.id == entry_id), None)
        if entry is None or self.places.place is None:
            return
        if entry.missing:
            self.complained.emit(f"{entry.name} can't be tried: {', '.join(entry.missing)} missing.")
            return
        self.try_wanted.emit(self.places.place.old, entry)

    def _price_typed(self) -> None:
        entry, text = self._entry(), self.price.text().strip()
        if entry is None or not self.price.isModified():
            return
        self.price.setModified(False)
        name = self.supplier.currentText().strip() or OWN_LIST
        own = next(
            (prices for prices in self.book.lists if prices.supplier == name), SupplierList(supplier=name)
        )
        prices = {name: price for name, price in own.prices.items() if name != entry.id}
        try:
            if text:
                prices[entry.id] = read_number(text)
            lists = (
                own.model_copy(update={"prices": prices}),
                *(o for o in self.book.lists if o.supplier != name),
            )
            book = PriceBook.model_validate(self.book.model_copy(update={"lists": lists}).model_dump())
            save_prices(book)
        except (ValueError, JobError) as trouble:
            why = trouble if isinstance(trouble, JobError) else f"{self.price.text()!r} is no price"
            self.complained.emit(f"Not kept. {why}; type an amount of 0 or more.")
            return
        self.book = book
        self.refresh()

    def _keep_book(self, book: PriceBook) -> None:
        """Keep currency, tax and labour."""
        try:
            save_prices(book)
        except JobError as trouble:
            self.complained.emit(f"Not kept. {trouble}")
            return
        self.book = book
        self.refresh()

    def _ask_import(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import sheets", "", FORMS)
        if name:
            self.import_file(Path(name))

    @staticmethod
    def _is_table(path: Path) -> bool:
        from lodestaff.exchange.shelf_tables import TABLE_COLUMNS

        with path.open(encoding="utf-8-sig", errors="replace") as stream:
            return set(TABLE_COLUMNS) <= {cell.strip() for cell in stream.readline().split(",")}

    def _ask_rows(self, path: Path) -> None:
        """A module table holds thousands: ask, in the page, for names or row numbers."""
        self._table = path
        self.table_line.setPlaceholderText(
            f"{path.name}: part of a module's name, or row numbers, then Enter"
        )
        self.table_line.show()
        self.table_line.setFocus()

    def _rows_typed(self) -> None:
        from lodestaff.exchange.shelf_tables import rows_named

        path, wanted = self._table, self.table_line.text().strip()
        if path is None or not wanted:
            return
        try:
            lines = rows_named(path, wanted)
        except JobError as trouble:
            self.complained.emit(f"Not imported. {trouble}")
            return
        if not 0 < len(lines) <= MOST_ROWS:
            shown = ", ".join(f"{number} {name}" for number, name in lines[:3])
            self.complained.emit(f"{len(lines)} modules match; name at most {MOST_ROWS} of them. {shown}")
            return
        self.import_file(path, tuple(number for number, _ in lines))

    def import_file(self, path: Path, rows: tuple[int, ...] = ()) -> None:
        """Put a file's entries on the shelf; a file that can't be read changes nothing."""
        from lodestaff.exchange.shelf_tables import read_shelf_file

        self.table_line.hide()
        try:
            if path.suffix.lower() == ".csv" and not rows and self._is_table(path):
                self._ask_rows(path)
                return
            entries = read_shelf_file(path, rows)
            made = self.shelf
            for entry in entries:
                made = made.with_entry(entry)
            save_shelf(made)
        except JobError as trouble:
            self.complained.emit(f"Not imported. {trouble}")
            return
        self.shelf, self.fits = made, {}
        self.refresh()

    def _ask_export(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Export sheets", f"{self.kind}.csv", FORMS)
        if name:
            self.export_file(Path(name))

    def export_file(self, path: Path) -> None:
        """Write the shelf; a CSV file holds the kind in hand."""
        from lodestaff.exchange.shelf_tables import shelf_bytes

        try:
            write_whole(
                path, shelf_bytes(self.shelf, path, self.kind if path.suffix.lower() == ".csv" else "")
            )
        except JobError as trouble:
            self.complained.emit(f"Not exported. {trouble}")

    def stop(self) -> None:
        self.fitter.stop()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)
