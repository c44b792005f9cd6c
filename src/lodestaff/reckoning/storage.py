"""The map of sizes: a simulated year of the whole job in each cell, one unit's sheet and bank exchanged."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

from lodestaff.catalogue.families import unit_sheet
from lodestaff.electrical.battery_power import deliberate, least_powers
from lodestaff.electrical.permission import allowed_kva, registered, supply_phases
from lodestaff.energy.battery import ac_kw
from lodestaff.energy.dispatch import Converter
from lodestaff.energy.outage import islands_of, ride_horizon_h, ride_through
from lodestaff.energy.together import together
from lodestaff.job import Bank, Change, Job, Unit, edit
from lodestaff.places.room import modules_that_fit
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning import selectors
from lodestaff.reckoning.brief import briefs_of, whole_years
from lodestaff.reckoning.over_years import over_years
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.shelf.prices import PriceBook, cost

UNITS = {"self-sufficiency": "%", "bill": "", "curtailed": "kWh", "endurance": "h",
         "served": "%", "unserved": "kWh", "generator": "h", "saved over years": ""}  # fmt: skip
BETTER_UP = {"self-sufficiency": True, "bill": False, "curtailed": False, "endurance": True,
             "served": True, "unserved": False, "generator": False, "saved over years": True}  # fmt: skip
MOST_UNITS = 4  # of a family of which one size is at hand


@dataclass(frozen=True)
class Column:
    """What stands along the map: so many units of one sheet in the place of one unit."""

    sheet: str
    units: int = 1

    @property
    def id(self) -> str:
        return self.sheet if self.units == 1 else f"{self.sheet} x{self.units}"


@dataclass(frozen=True)
class Cell:
    """One candidate: units of a sheet (by id) with so many modules each, what a year with it brings, and what
    forbids it. None: the job knows no such outcome."""

    hybrid: str
    modules: int
    self_sufficiency_pct: float
    bill: float | None
    curtailed_kwh: float
    endurance_h: float | None
    discharge_kw: float
    barred: tuple[str, ...]
    feeds: bool = False  # whether so many modules feed the inverter fully
    units: int = 1
    unserved_kwh: float | None = None
    generator_h: float | None = None
    cost: float | None = None  # of the whole design with tax; None: a price is missing
    saved: float | None = None  # over the years of the job's wishes, today's money; None unless asked for

    @property
    def adoptable(self) -> bool:
        """Whether it is the job's by its sheet and bank alone: further units need a place in the wiring."""
        return self.units == 1

    def value(self, outcome: str) -> float | None:
        return {
            "self-sufficiency": self.self_sufficiency_pct,
            "served": self.self_sufficiency_pct,
            "bill": self.bill,
            "curtailed": self.curtailed_kwh,
            "endurance": self.endurance_h,
            "unserved": self.unserved_kwh,
            "generator": self.generator_h,
            "saved over years": self.saved,
        }[outcome]


@dataclass(frozen=True)
class StorageMap:
    """Columns along (sheets by rating, or units of one sheet), modules up, and the site's limits across."""

    unit: str
    hybrids: tuple[str, ...]  # ids of the columns
    names: dict[str, str]
    rated_kva: dict[str, float]
    rated_kw: dict[str, float]
    modules: tuple[int, ...]
    cells: dict[tuple[str, int], Cell]
    now: tuple[str, int]
    permitted_kva: float | None  # what may be registered here beside the other units
    held_kva: float  # what is held beside what the other units of the island carry
    outcomes: tuple[str, ...] = ()

    def feeding(self, hybrid: str) -> int | None:
        """The least count of modules that feeds this inverter fully, whatever it is set to."""
        return next((n for n in self.modules if (cell := self.cells.get((hybrid, n))) and cell.feeds), None)

    def best(self, outcome: str) -> Cell | None:
        """The best cell that nothing forbids."""
        free = [cell for cell in self.cells.values() if not cell.barred and cell.value(outcome) is not None]
        sign = -1 if BETTER_UP[outcome] else 1
        return min(free, key=lambda cell: sign * (cell.value(outcome) or 0.0), default=None)


def outcomes(reckoner: Reckoner, job: Job) -> tuple[str, ...]:
    """What the cells of a job can be read for."""
    if not job.mains.grid:
        run = any(reckoner.generator(job, unit) is not None for unit in reckoner.leads(job))
        return ("served", "unserved", *(("generator",) if run else ()), "curtailed")
    return (
        "self-sufficiency",
        "bill",
        "saved over years",
        "curtailed",
        *(("endurance",) if reckoner.leads(job) else ()),
    )


def columns(job: Job, unit: Unit) -> tuple[Column, ...]:
    """Sheets of the unit's family on as many phases, by rating; of a single one, several units."""
    place = job.sheets.of_family(unit.sheet)
    on = unit_sheet(place[unit.sheet]).phases
    fitting = [name for name, sheet in place.items() if unit_sheet(sheet).phases == on]
    if len(fitting) == 1:
        return tuple(Column(unit.sheet, number + 1) for number in range(MOST_UNITS))
    return tuple(Column(name) for name in sorted(fitting, key=lambda name: unit_sheet(place[name]).rated_kva))


def adopt(job: Job, unit: Unit, hybrid: str, modules: int) -> tuple[Change, ...]:
    """The changes that make a cell of one unit the job's; powers that were set to the least go with it."""
    taken = _with(job, unit, sheet=hybrid, modules=modules, bears=_least(job))
    bank = job.bank_of(unit)
    changes = [Change(f"units/{unit.id}/sheet", hybrid)]
    if bank is not None:
        changes.append(Change(f"banks/{bank.id}/modules", modules))
    for field in ("charge_kw", "discharge_kw"):
        if (value := getattr(taken.limits, field)) != getattr(job.limits, field):
            changes.append(Change(f"limits/{field}", value))
        own, then = getattr(bank, field, None), getattr(taken.bank_of(taken.unit(unit.id)), field, None)
        if bank is not None and own != then:
            changes.append(Change(f"banks/{bank.id}/{field}", then))
    return tuple(changes)


def _with(job: Job, unit: Unit, sheet: str, modules: int, bears: tuple[float, float]) -> Job:
    """The job with another sheet and bank for one unit. Charge and discharge settings that aren't
    deliberately below what all units bear today (`bears`) follow what all bear then."""
    units = tuple(
        other.model_copy(update={"sheet": sheet}) if other.id == unit.id else other for other in job.units
    )
    banks = tuple(
        other.model_copy(update={"modules": modules}) if other.unit == unit.id else other
        for other in job.banks
    )
    taken = job.model_copy(update={"units": units, "banks": banks})
    settings, then = {}, _least(taken)
    for at, field in enumerate(("charge_kw", "discharge_kw")):
        if not deliberate(getattr(job.limits, field), bears[at]):
            settings[field] = then[at]
    taken = taken.model_copy(update={"limits": job.limits.model_copy(update=settings)})
    return taken.model_copy(update={"banks": tuple(_own_powers(job, taken, bank) for bank in taken.banks)})


def _own_powers(job: Job, taken: Job, bank: Bank) -> Bank:
    """A bank whose own powers, where they were the least of its parts, are the least of its parts then."""
    unit, own = job.unit(bank.unit), {}
    for at, field in enumerate(("charge_kw", "discharge_kw")):
        now = getattr(bank, field)
        if now is not None and not deliberate(now, least_powers(job, unit)[at]):
            own[field] = least_powers(taken, taken.unit(unit.id))[at]
    return bank.model_copy(update=own) if own else bank


def _least(job: Job) -> tuple[float, float]:
    """What every unit with a bank may be told to charge and to discharge with, kW."""
    powers = [least_powers(job, unit) for unit in job.units if job.bank_of(unit) is not None]
    return min(charge for charge, _ in powers), min(discharge for _, discharge in powers)


def storage_map(
    reckoner: Reckoner,
    job: Job,
    unit: Unit,
    with_endurance: bool = False,
    with_money: bool = False,
    prices: PriceBook | None = None,
    progress: Callable[[float], bool] = lambda share: True,
) -> StorageMap | None:
    """Simulate every cell; all other units stay in. `progress` is told the share done and answers whether to
    go on; None where stopped. Raises JobError where the unit has no battery.
    """
    bank = job.bank_of(unit)
    if bank is None:
        raise JobError("no battery to map", unit.name, "give it a bank of modules")
    along = columns(job, unit)
    counts = tuple(range(1, job.sheets.batteries[bank.sheet].max_modules + 1))
    cells: dict[tuple[str, int], Cell] = {}
    with ThreadPoolExecutor(2) as pool:
        asked = []
        for column in along:
            make = _column(
                reckoner,
                job,
                unit=unit,
                column=column,
                with_endurance=with_endurance,
                with_money=with_money,
                prices=prices,
            )
            asked += [(column, pool.submit(make, modules)) for modules in counts]
        for done, (column, cell) in enumerate(asked):
            if done % len(counts) == 0 and not progress(done / len(asked)):
                pool.shutdown(cancel_futures=True)
                return None
            cells[column.id, cell.result().modules] = cell.result()
    progress(1.0)
    sheets = {column.id: unit_sheet(job.sheets.units()[column.sheet]) for column in along}
    several_of = {column.id: column.units for column in along}
    return StorageMap(
        unit.id,
        tuple(sheets),
        names={
            id: (f"{n} × " if (n := several_of[id]) > 1 else "") + sheet.name for id, sheet in sheets.items()
        },
        rated_kva={id: sheet.rated_kva * several_of[id] for id, sheet in sheets.items()},
        rated_kw={id: sheet.rated_kw * several_of[id] for id, sheet in sheets.items()},
        modules=counts,
        cells=cells,
        now=(unit.sheet, bank.modules),
        permitted_kva=_free_kva(job, unit) if job.mains.grid else None,
        held_kva=max(0.0, _held(reckoner, job, unit)[0] - _beside(reckoner, job, unit)[0]),
        outcomes=outcomes(reckoner, job),
    )


def _column(
    reckoner: Reckoner,
    job: Job,
    unit: Unit,
    column: Column,
    with_endurance: bool,
    with_money: bool,
    prices: PriceBook | None,
) -> Callable[[int], Cell]:
    """What makes a column's cell of a module count. What the array gives is of the column's sheet."""
    try:
        whole = edit(job, Change(f"units/{unit.id}/sheet", column.sheet))
        parts = reckoner.parts(whole)
    except JobError as trouble:
        return partial(_impossible, column, why=str(trouble))
    brief = briefs_of(reckoner, whole, parts) or whole_years(reckoner, whole, parts)
    bank = job.bank_of(unit)
    room = modules_that_fit(job, reckoner.wiring(job).topology, bank.id) if bank is not None else None
    index, bars, bears = job.units.index(unit), _bars(reckoner, whole, unit), _least(job)

    def made(modules: int) -> Cell:
        taken = _with(job, unit, column.sheet, modules, bears)
        converters = list(reckoner.converters(taken))
        single = converters[index]
        converters[index] = together((single,) * column.units)
        short = brief(tuple(converters))
        paid = _cost(taken, prices) if column.units == 1 else None
        dear = paid is not None and job.wishes.budget is not None and paid > job.wishes.budget
        return Cell(
            column.sheet,
            modules,
            self_sufficiency_pct=100 * short.self_sufficiency,
            bill=short.bill,
            curtailed_kwh=short.curtailed_kwh,
            endurance_h=_endurance(reckoner, whole, unit, tuple(converters)) if with_endurance else None,
            discharge_kw=converters[index].bank_kw,
            barred=_barred(taken, unit=unit, converter=converters[index], bars=bars)
            + ((f"above the budget of {plain(job.wishes.budget or 0.0, 0)}",) if dear else ())
            + ((f"its place takes {room} modules",) if room is not None and modules > room else ()),
            cost=paid,
            feeds=_feeds(taken, unit, single, modules),
            units=column.units,
            unserved_kwh=short.unserved_kwh,
            generator_h=short.generator_h,
            saved=over_years(reckoner, taken).saved if with_money and column.units == 1 else None,
        )

    return made


def _cost(job: Job, prices: PriceBook | None) -> float | None:
    """What a design costs with tax; None where a price is missing."""
    if prices is None:
        return None
    costs = cost(job, prices)
    return None if costs.open or costs.currency != job.tariff.currency else costs.gross


def _impossible(column: Column, modules: int, why: str) -> Cell:
    nothing = float("nan")
    return Cell(
        column.sheet,
        modules,
        self_sufficiency_pct=nothing,
        bill=nothing,
        curtailed_kwh=nothing,
        endurance_h=None,
        discharge_kw=0.0,
        barred=(why,),
        units=column.units,
    )


def _feeds(job: Job, unit: Unit, converter: Converter, modules: int) -> bool:
    """Whether so many modules feed the inverter fully, whatever discharging is set to."""
    bank, sheet = job.bank_of(unit), job.sheet_of(job.unit(unit.id))
    assert bank is not None
    cells = job.sheets.batteries[bank.sheet]
    given = ac_kw(modules * cells.module_kwh * cells.discharge_c_per_h, converter.k1, converter.k2)
    return given >= min(converter.rated_kw, ac_kw(sheet.discharge_kw, converter.k1, converter.k2)) - 1e-9


def _free_kva(job: Job, unit: Unit) -> float:
    """What may be registered in this unit's place beside all others, kVA; it counts on each of its phases."""
    free = []
    for phases in supply_phases(job):
        part = sum(leg in phases for leg in unit.legs) / len(unit.legs)
        if part:
            others = sum(kva for _, kva in registered(job, phases)) - job.sheet_of(unit).rated_kva * part
            free.append(max(0.0, allowed_kva(job, phases) - others) / part)
    return min(free)


def _held(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[float, float]:
    """What is held on the unit's island, kVA and kW."""
    circuits = [c for c in reckoner.backed(job, unit).circuits if c.role == "held"]
    return sum(c.running_kva for c in circuits), sum(c.running_w for c in circuits) / 1000


def _beside(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[float, float]:
    """What the other units of the island give, kVA, and their banks, kW."""
    others = [member for member in reckoner.members(job, unit) if member.id != unit.id]
    banks = (
        selectors.converter(job, other, job.sheet_of(other), job.bank_of(other)).bank_kw for other in others
    )
    return sum(job.sheet_of(other).rated_kva for other in others), sum(banks)


def _bars(reckoner: Reckoner, job: Job, unit: Unit) -> tuple[float | None, float, float]:
    """What a column's cells are held to: what may be registered (None: there is no grid), what is held beside
    what the others of the island give, kVA, and what their banks give, kW."""
    own = job.unit(unit.id)
    held_kva, held_kw = _held(reckoner, job, own)
    beside_kva, beside_kw = _beside(reckoner, job, own)
    return _free_kva(job, own) if job.mains.grid else None, held_kva - beside_kva, held_kw - beside_kw


def _barred(
    job: Job, unit: Unit, converter: Converter, bars: tuple[float | None, float, float]
) -> tuple[str, ...]:
    """What forbids a cell: permission, the held circuits, the stack."""
    bank, reasons = job.bank_of(unit), []
    assert bank is not None
    free, held_kva, held_kw = bars
    if free is not None and converter.rated_kva > free + 1e-9:
        reasons.append(f"above the permitted {plain(free, 2)} kVA")
    if held_kva > converter.rated_kva + 1e-9:
        reasons.append(f"below the backed-up {plain(held_kva, 2)} kVA")
    if converter.bank_kw < held_kw - 1e-9:
        reasons.append("modules too few for the backed-up circuits")
    if bank.modules < job.sheets.batteries[bank.sheet].min_modules:
        reasons.append(f"the stack takes {job.sheets.batteries[bank.sheet].min_modules} at least")
    return tuple(reasons)


def _endurance(reckoner: Reckoner, job: Job, unit: Unit, converters: tuple[Converter, ...]) -> float:
    """Hours on the reserve alone, worst month, as the reserve's check reckons them; 0 without backup."""
    own = job.unit(unit.id)
    if not reckoner.backed(job, own).forming:
        return 0.0
    members = tuple(converters[job.units.index(member)] for member in reckoner.members(job, own))
    stored = sum(converter.battery.capacity_kwh for converter in members if converter.battery is not None)
    ride = ride_through(
        reckoner.island(job, own),
        islands_of(members, True),
        job.limits.reserve_soc * stored,
        ride_horizon_h(job.wishes.outage_h),
    )
    return ride.worst(job.pack.value("ride_through_percentile").value)[1]
