"""Places that have a data sheet, with what stands around them; and car chargers."""

import math
from collections.abc import Iterator
from typing import Any

from lodestaff.catalogue.parts import (
    CableSheet,
    ChargerSheet,
    DeviceSheet,
    GeneratorSheet,
    MeterSheet,
    TransferSheet,
)
from lodestaff.checks.finding import Remedy
from lodestaff.checks.runs import Run
from lodestaff.checks.sheets import Asked, Charger, Sheeted
from lodestaff.electrical.permission import SUM_SYSTEMS
from lodestaff.job import Job
from lodestaff.job.array import array_run
from lodestaff.job.holders import Holder, Said, holders, legs_of, said, sheet_of
from lodestaff.job.plan import Transformer
from lodestaff.quantities import text_of
from lodestaff.reckoning.passing import flowing
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.array import string_most_v
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs

PLAN = ("gateway", "transfer", "generator", "meter", "charger", "device", "cable")  # kinds that stand in it


@makes
def sheeted(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Sheeted]:
    """Parts, runs and circuits of which a sheet was taken."""
    for holder in holders(job):
        if holder.kind not in PLAN or not holder.sheet:
            continue
        sheet = sheet_of(job, holder)
        run = next((run for run in runs(reckoner, job, False) if run.id == holder.id), None)
        apart = [row for row in said(job, holder, sheet) if row.says is not None and not row.agrees]
        yield Sheeted(
            owner=f"{holder.kind} of {holder.id}",
            id=holder.id,
            name=getattr(holder.thing, "name", "") or (run.name if run is not None else holder.id),
            sheet=sheet.name,
            apart=tuple(map(_apart, apart)),
            follow=(Remedy("As the sheet says", tuple(row.change for row in apart)),) if apart else (),
            asked=tuple(_asked(reckoner, job, holder, sheet, run)),
        )


def _apart(row: Said) -> str:
    has, says = (text_of(v, row.unit) if isinstance(v, float) else str(v) for v in (row.has, row.says))
    return f"{row.words[:1].lower()}{row.words[1:]} {has}, by the sheet {says}"


def _asked(reckoner: Reckoner, job: Job, holder: Holder, sheet: Any, run: Run | None) -> Iterator[Asked]:
    part = holder.thing
    match sheet:
        case TransferSheet():
            yield _poles(job, sheet.poles, len(legs_of(job, getattr(part, "phases", ""))))
        case GeneratorSheet() if part.started_by:
            starter = next((unit.name for unit in job.units if unit.id == part.started_by), part.started_by)
            text = f"{starter} is to start it; it has {'a' if sheet.two_wire_start else 'no'} two-wire start"
            advice = "Start it by hand, or take one with a two-wire start."
            yield Asked("two-wire start", text, float(sheet.two_wire_start), 1.0, advice=advice)
        case ChargerSheet():
            phases, legs = int(sheet.phases), len(part.legs)
            text = f"charges on {_many(phases, 'phase')}; its circuit has {_legs(job, legs)}"
            need, advice = 3.0 if legs == 3 else 1.0, "Give its circuit the one phase that it takes."
            yield Asked("phases", text, float(phases), need, advice=advice)
        case MeterSheet() if isinstance(part, Transformer):
            most, primary_a = _through_a(reckoner, job, part), sheet.ct_ratio_a
            text = f"primary of {_text(primary_a, 'A')}; at most {_text(most, 'A')} pass it"
            advice = "One of a larger primary: beyond it no limit is proven."
            yield Asked("primary", text, primary_a, most, unit="A", advice=advice)
        case DeviceSheet() if run is not None and run.dc:
            yield _volts(sheet.dc_v, _most_v(job, run))
        case DeviceSheet():
            yield _poles(job, sheet.poles, run.legs if run is not None else len(job.site.phases))
        case CableSheet() if run is not None:
            yield from _of_cable(job, sheet, run)


def _text(value: float | None, unit: str) -> str:
    return "unknown" if value is None else text_of(value, unit)


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'s' if count > 1 else ''}"


def _legs(job: Job, count: int) -> str:
    return _many(count, "leg" if job.mains.system in SUM_SYSTEMS else "phase")


def _poles(job: Job, has: int, legs: int) -> Asked:
    text = f"{_many(has, 'pole')} for {_legs(job, legs)}"
    return Asked("poles", text, float(has), float(legs), advice="One of more poles.")


def _volts(has: float | None, most: float | None) -> Asked:
    text = f"rated {_text(has, 'V')}; its run comes to {_text(most, 'V')}"
    return Asked("volts", text, has, most, unit="V", advice="One of a higher rated voltage.")


def _of_cable(job: Job, sheet: CableSheet, run: Run) -> Iterator[Asked]:
    """Volts, cores and the temperature that the table counts on; DC cable has a table of its own kind."""
    yield _volts(sheet.max_v, _most_v(job, run))
    if sheet.cores > 1:
        live = 2 if run.dc else run.legs + 1
        text, advice = f"{sheet.cores} cores for {live} live conductors", "One of more cores."
        yield Asked("cores", text, float(sheet.cores), float(live), advice=advice)
    table_c = job.pack.conductor_c(run.chosen.table)
    if table_c is not None:
        text = f"bears {_text(sheet.conductor_c, '°C')}; its table counts on {_text(table_c, '°C')}"
        advice = "Choose the method whose column is of this cable's insulation."
        yield Asked("temperature", text, sheet.conductor_c, table_c, unit="°C", advice=advice)


def _most_v(job: Job, run: Run) -> float | None:
    """The highest volts of a run: between legs on AC, cold and open on an array's, full on a battery's."""
    if run.kind == "array":
        strings = [
            string
            for string in job.strings
            if array_run(string.unit, string.tracker) == run.id and job.modules_in(string.id)
        ]
        return max(string_most_v(job, string) for string in strings)
    if run.kind == "battery":
        bank = next(bank for bank in job.banks if f"{bank.id}-run" == run.id)
        curve = job.sheets.batteries[bank.sheet].rest_curve(bank.modules)
        return None if curve is None else curve[0][-1][1]
    nominal = job.pack.value("nominal_v").value
    between = 2.0 if job.mains.system == "120/240 V" else math.sqrt(3)
    return nominal * (between if run.legs > 1 else 1.0)


def _through_a(reckoner: Reckoner, job: Job, part: Transformer) -> float | None:
    """The most that passes a transformer's conductors in any state, on the busiest phase, A."""
    ct = next((ct for ct in reckoner.wiring(job).topology.cts if ct.id == part.id), None)
    if ct is None:
        return None
    return max(
        (
            sum(flow.conductors[name].most_a for name in ct.conductors if name in flow.conductors)
            for _, flow in flowing(reckoner, job)
        ),
        default=0.0,
    )


@makes
def chargers(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Charger]:
    for circuit in job.circuits if job.mains.grid else ():
        if circuit.kind == "car charger":
            asked = job.pack.values.get("charger_open_neutral")
            earthing = job.site.supply.earthing
            yield Charger(owner=circuit.id, circuit=circuit, earthing=earthing, asked=asked)
