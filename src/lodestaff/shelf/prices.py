"""Price lists by supplier, labour, tax; what a design costs. A missing price leaves the sum open, never
zero."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Literal

from pydantic import Field

from lodestaff.catalogue.documents import load_document, save_document
from lodestaff.catalogue.frozen import Frozen
from lodestaff.job import Change, Job, edit
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain

Money = Annotated[float, Field(ge=0, le=10_000_000)]
Hours = Annotated[float, Field(ge=0, le=1000)]
FAR_APART = 5.0  # times; suppliers of one item don't differ so much (common practice, no source)


class SupplierList(Frozen):
    """What one supplier asks for, by id of the shelf (or of a cable's size), without tax."""

    supplier: Annotated[str, Field(min_length=1, max_length=60)]
    date: str = ""
    prices: dict[str, Money] = {}


class PriceBook(Frozen):
    """Currency, tax and labour, and the lists; the first list that has a price gives it."""

    version: Literal[1] = 1
    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] = "GBP"
    tax_pct: Annotated[float, Field(ge=0, le=100)] = 0.0
    labour_per_hour: Money | None = None
    labour_hours: dict[str, Hours] = {}
    lists: tuple[SupplierList, ...] = ()

    def price(self, item: str) -> tuple[float, str] | None:
        """The price of an item and whose it is; None where no list has one."""
        for offer in self.lists:
            if item in offer.prices:
                return offer.prices[item], offer.supplier
        return None


def doubts(book: PriceBook) -> tuple[str, ...]:
    """What can hardly be meant: a price of nothing, and one item far apart between suppliers."""
    words = [
        f"{item} costs nothing at {offer.supplier}"
        for offer in book.lists
        for item, price in offer.prices.items()
        if price == 0
    ]
    for item in dict.fromkeys(item for offer in book.lists for item in offer.prices):
        asked = [(offer.prices[item], offer.supplier) for offer in book.lists if offer.prices.get(item)]
        if asked and max(asked)[0] > FAR_APART * min(asked)[0]:
            (low, cheap), (high, dear) = min(asked), max(asked)
            words.append(
                f"{item} costs {text_of(low, book.currency)} at {cheap} and "
                f"{text_of(high, book.currency)} at {dear}"
            )
    return tuple(words)


@dataclass(frozen=True)
class CostLine:
    """One line: how many of what, at which price (None: open), by whom."""

    item: str
    words: str
    count: float
    unit: str
    each: float | None
    supplier: str

    @property
    def total(self) -> float | None:
        return None if self.each is None else self.count * self.each


@dataclass(frozen=True)
class Cost:
    """The lines of a design with sums of what has a price; `open` names what has none."""

    lines: tuple[CostLine, ...]
    currency: str
    tax_pct: float

    @property
    def open(self) -> tuple[str, ...]:
        return tuple(line.words for line in self.lines if line.total is None)

    @property
    def net(self) -> float:
        return sum(line.total or 0.0 for line in self.lines)

    @property
    def tax(self) -> float:
        return self.net * self.tax_pct / 100

    @property
    def gross(self) -> float:
        return self.net + self.tax


Bought = tuple[str, str, float, str]  # item, words, how many, of what


def cost(job: Job, book: PriceBook, more: Iterable[Bought] = ()) -> Cost:
    """What a design costs: units, battery modules, solar modules, cable by the metre of run, labour by the
    piece; what is there already isn't bought. `more` is bought beside these, without labour of its own."""
    lines: list[CostLine] = []
    hours: list[tuple[str, float]] = []

    def line(item: str, words: str, count: float, unit: str, kind: str) -> None:
        offer = book.price(item)
        lines.append(
            CostLine(
                item,
                words,
                count=count,
                unit=unit,
                each=offer[0] if offer else None,
                supplier=offer[1] if offer else "",
            )
        )
        hours.append((kind, count))

    bought = [unit for unit in job.units if not unit.existing]
    there = {unit.id for unit in job.units if unit.existing}
    for sheet in dict.fromkeys(unit.sheet for unit in bought):
        count = sum(unit.count for unit in bought if unit.sheet == sheet)
        line(sheet, job.sheets.units()[sheet].name, count, "pieces", "hybrid")
    banks = [bank for bank in job.banks if bank.unit not in there]
    for sheet in dict.fromkeys(bank.sheet for bank in banks):
        count = sum(bank.modules for bank in banks if bank.sheet == sheet)
        line(sheet, job.sheets.batteries[sheet].name, count, "pieces", "battery")
    old = {string.id for string in job.strings if string.unit in there}
    for module in dict.fromkeys(face.module for face in job.faces):
        count = sum(
            other.string not in old for face in job.faces if face.module == module for other in face.modules
        )
        if count:
            line(module, job.sheets.modules[module].name, count, "pieces", "module")
    runs: dict[tuple[str, str], float] = {}
    for cable in job.cables:
        if cable.existing:
            continue
        key = (
            f"cable-{cable.table.lower().replace(' ', '-')}-{plain(cable.size_mm2)}",
            f"Cable {cable.table}, {job.pack.size_words(cable.size_mm2)}",
        )
        if cable.sheet:
            key = cable.sheet, job.sheets.cables[cable.sheet].name
        runs[key] = runs.get(key, 0.0) + cable.length_m
    for (item, words), metres in runs.items():
        line(item, words, metres, "m", "cable")
    lines += _labour(book, hours)
    for item, words, many, unit in more:
        asked, supplier = book.price(item) or (None, "")
        lines.append(CostLine(item, words, count=many, unit=unit, each=asked, supplier=supplier))
    return Cost(tuple(lines), book.currency, book.tax_pct)


def one_more_module(job: Job, bank: str, book: PriceBook) -> float | None:
    """What one more battery module costs without tax, with its labour; None where a price of it is open."""
    now = next(each for each in job.banks if each.id == bank)
    more = edit(job, Change(f"banks/{bank}/modules", now.modules + 1))
    if (
        book.price(now.sheet) is None
        or book.labour_hours.get("battery") is None
        or book.labour_per_hour is None
    ):
        return None
    return cost(more, book).net - cost(job, book).net


def _labour(book: PriceBook, hours: list[tuple[str, float]]) -> list[CostLine]:
    """Labour by kind of part; open where neither hours nor a rate are known."""
    lines = []
    for kind in dict.fromkeys(kind for kind, _ in hours):
        count = sum(hours_of for name, hours_of in hours if name == kind)
        each = book.labour_hours.get(kind)
        if each is None:
            lines.append(
                CostLine(
                    f"labour-{kind}",
                    f"Labour, {kind} (hours not given)",
                    count=count,
                    unit="",
                    each=None,
                    supplier="",
                )
            )
        else:
            lines.append(
                CostLine(
                    f"labour-{kind}",
                    f"Labour, {kind}",
                    count=count * each,
                    unit="h",
                    each=book.labour_per_hour,
                    supplier="",
                )
            )
    return lines


def prices_path() -> Path:
    """Where the person's prices lie."""
    from lodestaff.shelf.model import shelf_path

    return shelf_path().with_name("prices.json")


def load_prices(path: Path | None = None) -> PriceBook:
    """The price book; an empty one where none was made. Raises JobError for a damaged one."""
    where = path or prices_path()
    if path is None and not where.exists():
        return PriceBook()
    return load_document(PriceBook, where, "price book")


def save_prices(book: PriceBook, path: Path | None = None) -> None:
    """Write the price book. Raises JobError where the disk refuses."""
    save_document(book.model_dump_json(indent=1) + "\n", path or prices_path())
