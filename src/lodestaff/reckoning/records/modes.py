"""Records for the checks of modes, windows, charging powers, the generator, and what a battery lives
through."""

from collections.abc import Iterator
from itertools import combinations

import numpy as np

from lodestaff.checks.ageing import Life, Warmth
from lodestaff.checks.finding import Remedy, soft
from lodestaff.checks.generator import Running, Shared, Starting
from lodestaff.checks.modes import Modes, Netting, Powers, Served
from lodestaff.checks.windows import Hours, Overlaps
from lodestaff.electrical.battery_power import least_powers
from lodestaff.energy.calendar import STEP_H, Bools
from lodestaff.job import Bank, Change, Fact, Job, Unit, Window, edit
from lodestaff.job.plan import Generator as GeneratorPart
from lodestaff.quantities.units import clock
from lodestaff.reckoning.controlling import ALWAYS_SUMMED, netted, told
from lodestaff.reckoning.generating import charges_of, volts_told
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.topology.questions import led


@makes
def served(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Served]:
    if not job.mains.grid:
        return
    islands = reckoner.asked(job).islands
    for group in led(reckoner.wiring(job).topology):
        for name in group.units:
            unit = job.unit(name)
            others = [job.unit(other) for other in group.units if other != name]
            yield Served(
                owner=unit.id,
                unit=unit.name,
                serves=unit.serves,
                exports=unit.exports,
                has_ct=group.ct is not None,
                on_own_port=sum(len(island.circuits) for island in islands if name in island.forming),
                stores=job.bank_of(unit) is not None,
                export_kw=job.limits.export_kw,
                others=tuple(
                    other.name
                    for other in others
                    if (other.serves, other.exports) != (unit.serves, unit.exports)
                ),
            )


@makes
def nettings(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Netting]:
    """Where a meter may count each phase or their sum."""
    if not job.mains.grid or len(job.site.phases) < 2 or job.mains.system == ALWAYS_SUMMED:
        return
    summed = netted(job)
    other = None
    if deep:
        word = "each phase" if summed else "sum of phases"
        fact = {"value": word, "known": "assumed", "note": "", "date": ""}
        other = 100 * reckoner.figures(edit(job, Change("mains/netting", fact))).self_sufficiency
    yield Netting(
        summed=summed,
        met_pct=100 * reckoner.figures(job).self_sufficiency,
        otherwise_pct=other,
        because=soft(counting_of_phases=job.mains.netting),
    )


@makes
def modes(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Modes]:
    if not job.mains.grid or not job.banks:
        return
    limits = job.limits
    yield Modes(
        mode=limits.mode,
        has_backup=reckoner.asked(job).has_backup,
        peak_kw=limits.peak_kw,
        import_kw=limits.import_kw,
        gives=tuple(window_name(window) for window in limits.windows if window.kind == "give"),
        sellers=tuple(unit.name for unit in job.units if unit.exports == "sun and battery"),
        export_kw=limits.export_kw,
    )


def window_name(window: Window) -> str:
    """A window as people say it: what it does, and from when to when."""
    return f"{window.kind.capitalize()} {clock(window.start_h)} to {clock(window.end_h)}"


@makes
def powers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Powers]:
    for bank in job.banks:
        unit = job.unit(bank.unit)
        charge, discharge = least_powers(job, unit)
        yield Powers(
            owner=bank.id,
            unit=unit.name,
            charge_kw=job.told_charge_kw(bank),
            discharge_kw=job.told_discharge_kw(bank),
            bears_charge_kw=charge,
            bears_discharge_kw=discharge,
            several=len(job.banks) > 1,
        )


@makes
def window_hours(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Hours]:
    charging = tuple(window for window in job.limits.windows if window.kind == "charge")
    if not job.mains.grid or not charging or job.tariff.import_low >= job.tariff.import_high:
        return
    inside = _active(reckoner, job, charging)
    outside = float((inside & ~reckoner.low_band(job)).sum() * STEP_H)
    device, tariff = job.limits.device_clock, job.tariff.clock
    cost: float | None = None
    cures: tuple[Remedy, ...] = ()
    if outside > 0 and device != tariff:
        cures = (Remedy("The device goes by the tariff's clock", (Change("limits/device_clock", tariff),)),)
        if deep:
            alike = edit(job, Change("limits/device_clock", tariff))
            cost = reckoner.figures(job).bill - reckoner.figures(alike).bill
    yield Hours(
        windows=tuple(map(window_name, charging)),
        window_h=float(inside.sum() * STEP_H),
        outside_h=outside,
        device_clock=device,
        tariff_clock=tariff,
        cost=cost,
        currency=job.tariff.currency,
        cures=cures,
    )


def _active(reckoner: Reckoner, job: Job, windows: tuple[Window, ...]) -> Bools:
    """The steps of the year in which any of some windows runs."""
    only = job.model_copy(
        update={"limits": job.limits.model_copy(update={"windows": windows, "mode": "serve circuits"})}
    )
    each = told(only, reckoner.hours_by(job, job.limits.device_clock))
    return np.asarray(np.any([window.active for window in each], axis=0))


@makes
def overlaps(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Overlaps]:
    windows = job.limits.windows
    if not job.mains.grid or not windows:
        return
    pairs = []
    for first, other in combinations(windows, 2):
        both = _active(reckoner, job, (first,)) & _active(reckoner, job, (other,))
        if both.any() and (first.kind, first.target_soc, first.power_kw) != (
            other.kind,
            other.target_soc,
            other.power_kw,
        ):
            pairs.append((window_name(first), window_name(other), float(both.sum() * STEP_H)))
    reserve = job.limits.reserve_soc
    yield Overlaps(
        pairs=tuple(pairs),
        short=tuple(
            (window_name(window), window.target_soc, reserve)
            for window in windows
            if window.kind == "charge" and window.target_soc < reserve
        ),
        reserve_soc=reserve,
        count=len(windows),
    )


def _led_generators(reckoner: Reckoner, job: Job) -> Iterator[tuple[GeneratorPart, tuple[Unit, ...]]]:
    """Generators of the job, each with the units of the island that starts it."""
    for part in job.parts:
        if isinstance(part, GeneratorPart):
            leader = next((unit for unit in job.units if unit.id == part.started_by), None)
            yield part, reckoner.members(job, leader) if leader else ()


@makes
def starting(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Starting]:
    for part, members in _led_generators(reckoner, job):
        banks = [bank for bank in job.banks if bank.unit in {unit.id for unit in members}]
        by_volts, curve = part.start_by == "volts", volts_told(job, part)
        load, charging = _flows_at(reckoner, job, part, members)
        start: float | None = part.start_soc
        stop: float | None = part.stop_soc
        if by_volts and curve is not None and part.start_v is not None and part.stop_v is not None:
            start, stop = charges_of(curve, (part.start_v, load), (part.stop_v, -charging))
        yield Starting(
            owner=part.id,
            name=part.name,
            started_by=part.started_by,
            start_soc=start,
            stop_soc=stop,
            floor_soc=max((job.sheets.batteries[bank.sheet].floor_soc for bank in banks), default=0.0),
            start_v=part.start_v,
            stop_v=part.stop_v,
            by_volts=by_volts,
            told=curve is not None or None in (part.start_v, part.stop_v),
            delay_min=part.start_delay_min,
            load_kw=load,
            charging_kw=charging,
        )


def _flows_at(
    reckoner: Reckoner, job: Job, part: GeneratorPart, members: tuple[Unit, ...]
) -> tuple[float, float]:
    """DC power out of the battery that starts a generator, at the mean load, and into it while charged."""
    leader = next((unit for unit in members if unit.id == part.started_by), None)
    bank = None if leader is None else job.bank_of(leader)
    if leader is None or bank is None:
        return 0.0, 0.0
    carried = reckoner.backed(job, leader)
    load = sum(float(reckoner.circuit_kw(job, c).mean()) for c in carried.circuits) * carried.share
    converter = reckoner.converters(job)[job.units.index(leader)]
    assert converter.battery is not None
    charging = min(converter.battery.charge_kw, part.charger_kw or converter.rated_kw, part.usable_kw)
    return load * (1 + converter.k1) + converter.k2 * load**2, charging


@makes
def sharing_a_generator(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Shared]:
    for part, members in _led_generators(reckoner, job):
        if not members:
            continue
        carried = reckoner.backed(job, members[0]).circuits

        def takes(unit: Unit, most: float | None = part.charger_kw) -> float:
            return min(job.sheet_of(unit).rated_kw, least_powers(job, unit)[0]) if most is None else most

        yield Shared(
            owner=part.id,
            name=part.name,
            usable_kw=part.usable_kw,
            mean_load_kw=sum(float(reckoner.circuit_kw(job, c).mean()) for c in carried),
            chargers=tuple((unit.name, takes(unit)) for unit in members),
        )


@makes
def running(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Running]:
    if job.mains.grid:
        return
    for part, members in _led_generators(reckoner, job):
        figures = reckoner.figures(job)
        if members and figures.generator_starts:
            yield Running(
                owner=part.id,
                hours=figures.generator_h,
                starts=figures.generator_starts,
                kwh=figures.generator_kwh,
                litres=figures.fuel_litres,
                least_share=part.least_load_share.value,
                rated_kw=part.rated_kva * part.power_factor,
            )


@makes
def lives(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Life]:
    year, converters = reckoner.year(job), reckoner.converters(job)
    for index, unit in enumerate(job.units):
        bank, battery = job.bank_of(unit), converters[index].battery
        if bank is None or battery is None:
            continue
        sheet = job.sheets.batteries[bank.sheet]
        out = float(np.clip(year.series.battery_dc_kw[index], 0, None).sum() * year.step_h)
        usable = battery.capacity_kwh * (battery.top_soc - battery.floor_soc)
        yield Life(
            owner=bank.id,
            name=f"Battery of {unit.name}",
            cycles_year=out / battery.eta_discharge / usable,
            mwh_year=out / 1000,
            warranty_cycles=sheet.warranty_cycles,
            warranty_mwh=sheet.warranty_mwh * bank.modules if sheet.warranty_mwh is not None else None,
            warranty_years=sheet.warranty_years,
        )


@makes
def warmths(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Warmth]:
    for bank in job.banks:
        sheet = job.sheets.batteries[bank.sheet]
        silent = [
            f"the sheet gives no {word}"
            for word, value in (
                ("temperature that it charges from", sheet.charge_from_c),
                ("temperature that it works up to", sheet.works_to_c),
            )
            if value is None
        ]
        low, high = _range_of_place(job, bank)
        yield Warmth(
            owner=bank.id,
            name=f"Battery of {job.unit(bank.unit).name}",
            low_c=low.value,
            high_c=high.value,
            charge_from_c=sheet.charge_from_c,
            works_to_c=sheet.works_to_c,
            because=(*soft(coldest_of_its_place=low, hottest_of_its_place=high), *silent),
        )


def _range_of_place(job: Job, bank: Bank) -> tuple[Fact[float], Fact[float]]:
    """The coldest and hottest of a bank's place: as typed for it, else those of its wall."""
    at = next((standing.wall for standing in job.standing if standing.id in (bank.id, bank.unit)), "")
    wall = next((wall for wall in job.walls if wall.id == at), None)
    low = bank.place_low_c if bank.place_low_c.value is not None or wall is None else wall.low_c
    high = bank.place_high_c if bank.place_high_c.value is not None or wall is None else wall.high_c
    return low, high
