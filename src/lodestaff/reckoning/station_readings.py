"""The handful of figures of the Site, Array and Storage stations, from findings and results."""

import math

from lodestaff.catalogue import BatterySheet, HybridSheet
from lodestaff.energy.battery import bank_energies, charge_hours
from lodestaff.energy.coupling import ac_coupled, dc_coupled
from lodestaff.job import Job
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of
from lodestaff.reckoning.readings import (
    SIMULATED,
    Reading,
    from_finding,
    least_margin,
    loads_readings,
    of_rule,
    on_the_place,
)
from lodestaff.reckoning.results import Results


def _reading(results: Results, code: str, name: str, better_up: bool = False) -> list[Reading]:
    finding = least_margin(of_rule(results, code))
    return [from_finding(name, finding, better_up)] if finding is not None else []


@on_the_place
def site_readings(results: Results) -> list[Reading]:
    """Demand against the rating, generation against permission, earth."""
    return [
        *_reading(results, "SITE-RATING", "Highest demand"),
        *_registered(results),
        *_demand(results),
        *[from_finding("Earth", finding) for finding in of_rule(results, "SITE-EARTH")[:1]],
        *_reading(results, "LIM-EXPORT: site", "Export, worst meter"),
    ]


def _registered(results: Results) -> list[Reading]:
    """Generation of the phase with the least margin."""
    ones = [finding for finding in of_rule(results, "SITE-PERMIT: phase") if finding.margin is not None]
    tightest = min(ones, key=lambda finding: finding.margin or 0.0, default=None)
    return [from_finding("Registered, busiest phase", tightest)] if tightest is not None else []


def _demand(results: Results) -> list[Reading]:
    """Service demand, by the log where there is one."""
    ones = [finding for finding in of_rule(results, "LOAD-DEMAND: service") if finding.limit is not None]
    return [from_finding("Service demand", ones[-1])] if ones else []


@on_the_place
def array_readings(results: Results) -> list[Reading]:
    """Coldest string, hottest string, busiest tracker, ratio, sun lost."""
    readings = [
        *_reading(results, "ARR-VOC", "Coldest string"),
        *_reading(results, "ARR-VMP", "Hottest string", True),
        *_reading(results, "ARR-ISC", "Busiest tracker"),
        *_reading(results, "ARR-RATIO", "DC/AC"),
    ]
    f = results.figures
    inputs = [Input("curtailed", f.curtailed_kwh, "kWh"), Input("clipped", f.clipped_kwh, "kWh")]
    if len(results.sun_by_unit) > 1:
        inputs += [Input(f"array of {unit}", kwh, "kWh", "on DC") for unit, kwh in results.sun_by_unit]
    figure = Figure(
        "Sun used in a year",
        f.pv_kwh,
        unit="kWh",
        formula="sun to AC + sun into batteries",
        inputs=tuple(inputs),
        source=SIMULATED,
    )
    return [
        *readings,
        Reading(
            "Produced, a year",
            figure,
            f"clipped {text_of(f.clipped_kwh, 'kWh', 0)}",
            "passed",
            0.0,
            quantity="produced",
        ),
    ]


def _ways(results: Results) -> list[Reading]:
    """How long a full charge takes, and what is left of sun that goes through the battery."""
    job = results.job
    bank = next(iter(job.banks), None)
    if bank is None:
        return []
    sheet, unit = job.sheets.batteries[bank.sheet], job.unit(bank.unit)
    hybrid = job.sheet_of(unit)
    power = min(
        hybrid.charge_kw, bank.modules * sheet.module_kwh * sheet.charge_c_per_h, job.told_charge_kw(bank)
    )
    readings = []
    if power > 0:
        capacity = bank.modules * sheet.module_kwh * bank.state_of_health
        cells = power * hybrid.eta_dcdc * sheet.eta_round_trip**0.5
        hours = charge_hours(
            capacity,
            job.limits.reserve_soc,
            stop_soc=sheet.top_soc,
            taper_soc=sheet.taper_start_soc,
            power_kw=cells,
            end_share=sheet.taper_end_share,
        )
        inputs = (
            Input("capacity", capacity, "kWh"),
            Input("from", job.limits.reserve_soc * 100, "%"),
            Input("charging", power, "kW"),
            Input("slows from", sheet.taper_start_soc * 100, "%"),
        )
        source = Source("linear taper near full: a simplified model", Provenance.DERIVED)
        figure = Figure(
            "From the reserve to full",
            hours,
            unit="h",
            formula="constant power to the taper, then falling in a straight line",
            inputs=inputs,
            source=source,
        )
        readings.append(
            Reading(
                "Full from the reserve in",
                figure,
                f"at {text_of(power, 'kW')}",
                "passed",
                0.0,
                quantity="charging",
                said="never quite full" if math.isinf(hours) else "",
            )
        )
    return [*readings, _stored_sun(job, hybrid, sheet)]


def _stored_sun(job: Job, hybrid: HybridSheet, cells: BatterySheet) -> Reading:
    """What is left of the sun that goes through the battery: on one DC bus, or over AC and back."""
    best = max(eta for _, eta in hybrid.efficiency)
    makers = [sheet for sheet in map(job.sheet_of, job.units) if sheet.trackers]
    if hybrid.trackers or not makers:
        words, formula = "DC-coupled", "tracker x converter x battery x converter x inverter"
        both_ways = hybrid.eta_dcdc**2  # none of it is on the straight way
        chain = dc_coupled(hybrid.eta_mppt, both_ways, cells.eta_round_trip, best)
        ways = [Input("tracker", hybrid.eta_mppt), Input("converter, each way", hybrid.eta_dcdc)]
    else:
        words, formula = "AC-coupled", "solar inverter x charger x battery x inverter"
        maker = min(sheet.eta_mppt * max(eta for _, eta in sheet.efficiency) for sheet in makers)
        chain = ac_coupled(maker, best, cells.eta_round_trip, best)
        ways = [Input("solar inverter, the worst", maker)]
    inputs = (*ways, Input("battery, round trip", cells.eta_round_trip), Input("inverter at its best", best),
              Input("straight to the circuits", chain.direct * 100, "%"))  # fmt: skip
    figure = Figure(
        "Sun through the battery to the circuits",
        chain.through_battery * 100,
        unit="%",
        formula=formula,
        inputs=inputs,
        source=Source("product of the sheets' efficiencies", Provenance.SHEET),
    )
    return Reading(
        "Left of stored sun", figure, words, "passed", chain.through_battery, quantity="stored sun"
    )


def _held(results: Results) -> list[Reading]:
    """What each bank holds for every day, and what it keeps for outages."""
    job = results.job
    several = len(job.banks) > 1
    readings = []
    for bank in job.banks:
        sheet, unit = job.sheets.batteries[bank.sheet], job.unit(bank.unit)
        reserve = job.limits.reserve_soc if job.mains.grid else sheet.floor_soc
        out = sheet.eta_round_trip**0.5 * job.sheet_of(unit).eta_dcdc
        held = bank_energies(
            bank.modules * sheet.module_kwh,
            bank.state_of_health,
            floor_soc=sheet.floor_soc,
            top_soc=sheet.top_soc,
            reserve_soc=reserve,
            eta_discharge=out,
        )
        inputs = (
            Input("nominal", held.nominal_kwh, "kWh", f"{bank.modules} modules"),
            Input("health", bank.state_of_health * 100, "%"),
            Input("capacity", held.capacity_kwh, "kWh"),
            Input("usable", held.usable_kwh, "kWh", "top to floor, at the cells"),
            Input("for every day", held.cycling_kwh, "kWh", "at the cells"),
            Input("left on the way out", out * 100, "%", "before the inverter"),
            Input("usable on the way out", held.usable_ac_kwh, "kWh"),
        )
        kept: tuple[Input, ...] = ()
        if job.mains.grid:
            kept = (
                Input("kept for outages", held.reserve_kwh, "kWh", "at the cells"),
                Input("kept, on the way out", held.reserve_ac_kwh, "kWh"),
            )
        figure = Figure(
            f"{unit.name} holds" if several else "Held for every day",
            held.cycling_ac_kwh,
            unit="kWh",
            formula="nominal x health x (top − reserve) x left"
            if job.mains.grid
            else "nominal x health x (top − floor) x left",
            inputs=(*inputs, *kept),
            source=Source("shares of the capacity at the present health", Provenance.COMMON_PRACTICE),
        )
        beside = f"of {text_of(held.usable_ac_kwh, 'kWh')}" if job.mains.grid else "down to the floor"
        readings.append(
            Reading(
                figure.name,
                figure,
                beside,
                "passed",
                held.cycling_ac_kwh / held.usable_ac_kwh if held.usable_ac_kwh > 0 else 0.0,
                quantity="held",
                owner=bank.id if several else "",
                better_up=True,
            )
        )
    return readings


@on_the_place
def storage_readings(results: Results) -> list[Reading]:
    """Power against the held circuits, night energy, endurance, money."""
    wanted = ("LOAD-ENERGY", "promise", "bill")
    loads = loads_readings(results)
    power = [from_finding("Battery's power", finding, True) for finding in of_rule(results, "STO-POWER")]
    lasts = [*_ways(results), *[reading for reading in loads if reading.key[0] == "lasts"]]
    return [*power, *_held(results), *lasts, *[reading for reading in loads if reading.key[0] in wanted]]
