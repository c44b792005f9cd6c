"""The map of battery modules by inverter sizes: a simulated year in each cell."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from lodestaff.energy.battery import ac_kw
from lodestaff.energy.calendar import STEP_H, STEPS, within
from lodestaff.energy.dispatch import Converter
from lodestaff.energy.outage import ride_horizon_h, ride_through
from lodestaff.job import Change, Job, Unit, edit
from lodestaff.quantities.convention import plain
from lodestaff.quantities.errors import JobError
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.selectors import phase_index

OUTCOMES = ("self-sufficiency", "bill", "curtailed", "endurance")
UNITS = {"self-sufficiency": "%", "bill": "", "curtailed": "kWh", "endurance": "h"}
BETTER_UP = {"self-sufficiency": True, "bill": False, "curtailed": False, "endurance": True}


@dataclass(frozen=True)
class Cell:
    """One candidate: inverter by sheet id, number of modules, what a year with it brings, and what forbids
    it."""

    hybrid: str
    modules: int
    self_sufficiency_pct: float
    bill: float
    curtailed_kwh: float
    endurance_h: float | None
    discharge_kw: float
    barred: tuple[str, ...]
    feeds: bool = False  # whether so many modules feed the inverter fully

    def value(self, outcome: str) -> float | None:
        return {
            "self-sufficiency": self.self_sufficiency_pct,
            "bill": self.bill,
            "curtailed": self.curtailed_kwh,
            "endurance": self.endurance_h,
        }[outcome]


@dataclass(frozen=True)
class StorageMap:
    """Inverters along (sheet ids by rating), modules up, and the site's limits across it."""

    unit: str
    hybrids: tuple[str, ...]
    names: dict[str, str]
    rated_kva: dict[str, float]
    rated_kw: dict[str, float]
    modules: tuple[int, ...]
    cells: dict[tuple[str, int], Cell]
    now: tuple[str, int]
    permitted_kva: float | None
    held_kva: float

    def feeding(self, hybrid: str) -> int | None:
        """The least count of modules that feeds this inverter fully, whatever it is set to."""
        return next((n for n in self.modules if (cell := self.cells.get((hybrid, n))) and cell.feeds), None)

    def best(self, outcome: str) -> Cell | None:
        """The best cell that nothing forbids."""
        free = [cell for cell in self.cells.values() if not cell.barred and cell.value(outcome) is not None]
        sign = -1 if BETTER_UP[outcome] else 1
        return min(free, key=lambda cell: sign * (cell.value(outcome) or 0.0), default=None)


def adopt(job: Job, unit: Unit, hybrid: str, modules: int) -> tuple[Change, ...]:
    """The changes that make a cell the job's."""
    bank = job.bank_of(unit)
    changes = [Change(f"units/{unit.id}/sheet", hybrid)]
    if bank is not None:
        changes.append(Change(f"banks/{bank.id}/modules", modules))
    return tuple(changes)


def storage_map(
    reckoner: Reckoner,
    job: Job,
    unit: Unit,
    with_endurance: bool = False,
    progress: Callable[[float], bool] = lambda share: True,
) -> StorageMap | None:
    """Simulate every cell. `progress` is told the share done and answers whether to go on; None where
    stopped.

    One unit on one phase; a job with several units maps the named one with the others left out of it.
    Raises JobError where the unit has no battery.
    """
    bank = job.bank_of(unit)
    if unit.sheet not in job.sheets.hybrids:
        words = "no DC-coupled hybrid, and the map compares those only"
        raise JobError(words, unit.name, "compare variants of the job instead")
    if bank is None:
        raise JobError("no battery to map", unit.name, "give it a bank of modules")
    if not job.mains.grid:
        raise JobError(
            "no grid: sizes are open, not reckoned for this kind", unit.name, "compare variants of the job"
        )
    if not reckoner.converters(job)[job.units.index(unit)].keeps_limit:
        words = "obeys no transformer, so no limit: sizes are open, not reckoned for this kind"
        raise JobError(words, unit.name, "plan its transformer at Wire")
    phase = phase_index(job, unit.legs[0])
    beside = [
        other.name for other in job.units if other is not unit and phase_index(job, other.legs[0]) == phase
    ]
    if beside:
        words = (
            f"shares its phase with {', '.join(beside)}: sizes are open, not reckoned for several "
            "units together"
        )
        raise JobError(words, unit.name, "compare variants of the job")
    sheet = job.sheets.batteries[bank.sheet]
    hybrids = sorted(job.sheets.hybrids, key=lambda name: job.sheets.hybrids[name].rated_kva)
    counts = tuple(range(1, sheet.max_modules + 1))
    cells: dict[tuple[str, int], Cell] = {}
    for done, hybrid in enumerate(hybrids):
        if not progress(done / len(hybrids)):
            return None
        for cell in _column(
            reckoner, job, unit=unit, hybrid=hybrid, counts=counts, with_endurance=with_endurance
        ):
            cells[hybrid, cell.modules] = cell
    progress(1.0)
    permission = job.site.permission
    held = _held_kva(reckoner, job, unit)
    notify = job.pack.value("notify_a_per_phase").value * job.pack.value("nominal_v").value / 1000
    granted = permission.parallel_kva.value if permission.parallel_state == "granted" else None
    return StorageMap(
        unit.id,
        tuple(hybrids),
        names={name: job.sheets.hybrids[name].name for name in hybrids},
        rated_kva={name: job.sheets.hybrids[name].rated_kva for name in hybrids},
        rated_kw={name: job.sheets.hybrids[name].rated_kw for name in hybrids},
        modules=counts,
        cells=cells,
        now=(unit.sheet, bank.modules),
        permitted_kva=max(notify, granted or 0.0),
        held_kva=held,
    )


def _column(
    reckoner: Reckoner, job: Job, unit: Unit, hybrid: str, counts: tuple[int, ...], with_endurance: bool
) -> list[Cell]:
    """All module counts of one inverter."""
    variants, barred = [], []
    for modules in counts:
        try:
            variants.append(edit(job, *adopt(job, unit, hybrid, modules)))
            barred.append(_barred(reckoner, variants[-1], unit, hybrid, modules))
        except JobError as trouble:
            return [
                Cell(
                    hybrid,
                    n,
                    self_sufficiency_pct=float("nan"),
                    bill=float("nan"),
                    curtailed_kwh=float("nan"),
                    endurance_h=None,
                    discharge_kw=0.0,
                    barred=(str(trouble),),
                )
                for n in counts
            ]
    index = job.units.index(unit)
    converters = [reckoner.converters(variant)[index] for variant in variants]
    sums = _sums(reckoner, variants[0], index, converters)
    load = reckoner.load_kw(job)[phase_index(job, unit.legs[0])]
    load_kwh = float(load.sum() * STEP_H)
    tariff = job.tariff
    cells = []
    for row, (modules, converter, variant) in enumerate(zip(counts, converters, variants, strict=True)):
        high, low, export, curtailed, _, _ = (float(value) for value in sums[row])
        bill = (
            high * tariff.import_high
            + low * tariff.import_low
            - export * tariff.export
            + tariff.standing_per_day * STEPS / 96
        )
        assert converter.battery is not None
        hours = _endurance(reckoner, variant, index) if with_endurance else None
        share = 100 * (1 - (high + low) / load_kwh) if load_kwh else 100.0
        cells.append(
            Cell(
                hybrid,
                modules,
                self_sufficiency_pct=share,
                bill=bill,
                curtailed_kwh=curtailed,
                endurance_h=hours,
                discharge_kw=converter.bank_kw,
                barred=barred[row],
                feeds=_feeds(variant, unit, converter, modules),
            )
        )
    return cells


def _feeds(job: Job, unit: Unit, converter: Converter, modules: int) -> bool:
    """Whether so many modules feed the inverter fully, whatever discharging is set to."""
    bank, sheet = job.bank_of(unit), job.sheet_of(job.unit(unit.id))
    assert bank is not None
    cells = job.sheets.batteries[bank.sheet]
    given = ac_kw(modules * cells.module_kwh * cells.discharge_c_per_h, converter.k1, converter.k2)
    return given >= min(converter.rated_kw, ac_kw(sheet.discharge_kw, converter.k1, converter.k2)) - 1e-9


def _barred(reckoner: Reckoner, job: Job, unit: Unit, hybrid: str, modules: int) -> tuple[str, ...]:
    """What forbids a cell: permission, the held circuits, the stack."""
    sheet = job.sheets.hybrids[hybrid]
    bank = job.bank_of(unit)
    assert bank is not None
    battery = job.sheets.batteries[bank.sheet]
    converter = reckoner.converters(job)[job.units.index(job.unit(unit.id))]
    permission, reasons = job.site.permission, []
    notify = job.pack.value("notify_a_per_phase").value * job.pack.value("nominal_v").value / 1000
    allowed = max(
        notify, (permission.parallel_kva.value or 0.0) if permission.parallel_state == "granted" else 0.0
    )
    if sheet.rated_kva > allowed + 1e-9:
        reasons.append(f"above the permitted {plain(allowed, 2)} kVA")
    held = _held_kva(reckoner, job, unit)
    if held > sheet.rated_kva:
        reasons.append(f"below the backed-up {plain(held, 2)} kVA")
    if converter.bank_kw < _held_kw(reckoner, job, unit) - 1e-9:
        reasons.append("modules too few for the backed-up circuits")
    if modules < battery.min_modules:
        reasons.append(f"the stack takes {battery.min_modules} at least")
    return tuple(reasons)


def _held_kva(reckoner: Reckoner, job: Job, unit: Unit) -> float:
    """This unit's share of what is held on its island, kVA."""
    backed = reckoner.backed(job, unit)
    return sum(c.running_kva for c in backed.circuits if c.role == "held") * backed.share


def _held_kw(reckoner: Reckoner, job: Job, unit: Unit) -> float:
    """The same in kW."""
    backed = reckoner.backed(job, unit)
    return sum(c.running_w for c in backed.circuits if c.role == "held") / 1000 * backed.share


def _sums(reckoner: Reckoner, job: Job, index: int, converters: list[Converter]) -> np.ndarray:
    from lodestaff.energy.mapping import Candidates, map_year

    hours = reckoner.hours_by(job, job.limits.device_clock)
    window = np.zeros(STEPS, dtype=bool)
    target, power = 0.0, 0.0
    for one in job.limits.windows:
        window |= within(hours, one.start_h, one.end_h)
        target, power = max(target, one.target_soc), max(power, one.power_kw)
    banks = [converter.battery for converter in converters]
    assert all(bank is not None for bank in banks)

    def array(values: list[float]) -> np.ndarray:
        return np.array(values, dtype=float)

    candidates = Candidates(
        rated_kw=array([c.rated_kw for c in converters]),
        k1=array([c.k1 for c in converters]),
        k2=array([c.k2 for c in converters]),
        pv_max_kw=array([c.pv_max_kw for c in converters]),
        pv_share=np.ones(len(converters)),
        own_use_kw=array([c.own_use_kw for c in converters]),
        e_floor=array([b.capacity_kwh * b.reserve_soc for b in banks if b]),
        e_top=array([b.capacity_kwh * b.top_soc for b in banks if b]),
        charge_kw=array([b.charge_kw for b in banks if b]),
        discharge_kw=array([b.discharge_kw for b in banks if b]),
        eta_charge=array([b.eta_charge for b in banks if b]),
        eta_discharge=array([b.eta_discharge for b in banks if b]),
        e_taper=array([b.capacity_kwh * b.taper_start_soc for b in banks if b]),
        taper_end=array([b.taper_end_share for b in banks if b]),
        target_e=array([min(b.capacity_kwh * target, b.capacity_kwh * b.top_soc) for b in banks if b]),
        window_kw=np.full(len(converters), power),
    )
    load = reckoner.load_kw(job)[converters[0].phase]
    return np.asarray(
        map_year(
            candidates,
            reckoner.pv_dc_kw(job)[index],
            load,
            window,
            reckoner.low_band(job),
            job.limits.export_kw,
            job.limits.import_kw,
            STEP_H,
        )
    )


def _endurance(reckoner: Reckoner, job: Job, index: int) -> float:
    """Hours on the reserve alone, worst month, as the reserve's check reckons them."""
    unit = job.units[index]
    if not reckoner.backed(job, unit).forming:
        return 0.0  # no backup
    converter = reckoner.joint(job, unit)
    assert converter.battery is not None
    island = reckoner.island_units(job, unit, energy_only=True)
    energy = job.limits.reserve_soc * converter.battery.capacity_kwh
    ride = ride_through(reckoner.island(job, unit), island, energy, ride_horizon_h(job.wishes.outage_h))
    return ride.worst(job.pack.value("ride_through_percentile").value)[1]
