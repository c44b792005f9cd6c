"""What of a job has a data sheet: each place, the sheet that it names, and what that sheet says of it."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from lodestaff.catalogue.kinds import kind_named
from lodestaff.catalogue.parts import DeviceSheet, GatewaySheet, MeterSheet
from lodestaff.job.array import Cable, array_run
from lodestaff.job.circuit import Circuit
from lodestaff.job.edit import Change
from lodestaff.job.facts import Fact, Known
from lodestaff.job.model import Job
from lodestaff.job.plan import AddBypass, Gateway, Generator, Insert, Sheeted, Throw, equipment_kind
from lodestaff.quantities.gauge import NEAR

FAMILIES = ("battery-unit", "microinverter", "inverter", "hybrid")  # kinds that a unit can be of


@dataclass(frozen=True)
class Holder:
    """One place. `path` is of the field that names its sheet; `sheet` is '' while it names none."""

    kind: str  # of equipment
    path: str
    id: str
    sheet: str
    thing: Any  # of the job

    @property
    def at(self) -> str:
        """The path of what holds the sheet."""
        return self.path.rpartition("/")[0]


@dataclass(frozen=True)
class Said:
    """What a sheet says of a field of the job, beside what stands there; None where it is silent."""

    path: str
    key: str  # of the sheet
    words: str
    unit: str
    says: Any
    has: Any
    fact: dict[str, Any] | None = None  # as it is stored where the job keeps a fact

    @property
    def agrees(self) -> bool:
        if isinstance(self.says, float) and isinstance(self.has, float | int):
            return math.isclose(self.says, self.has, rel_tol=1e-9)
        return bool(self.says == self.has)

    @property
    def change(self) -> Change:
        return Change(self.path, self.says if self.fact is None else self.fact)


def holders(job: Job) -> Iterator[Holder]:
    """Every place of a job that has a data sheet or may have one."""
    families = {name: kind for kind in FAMILIES for name in getattr(job.sheets, kind_named(kind).in_jobs)}
    for unit in job.units:
        yield Holder(families[unit.sheet], f"units/{unit.id}/sheet", unit.id, unit.sheet, unit)
    for bank in job.banks:
        yield Holder("battery", f"banks/{bank.id}/sheet", bank.id, bank.sheet, bank)
    for face in job.faces:
        yield Holder("module", f"faces/{face.id}/module", face.id, face.module, face)
        yield Holder("mounting", f"faces/{face.id}/mounting_sheet", face.id, face.mounting_sheet, face)
    for string in job.strings:
        yield Holder("optimiser", f"strings/{string.id}/optimiser", string.id, string.optimiser, string)
    for list_, things in (("parts", job.parts), ("adjustments", job.adjustments)):
        for part in things:
            if isinstance(part, Sheeted) and (kind := equipment_kind(part)):
                yield Holder(kind, f"{list_}/{part.id}/sheet", part.id, part.sheet, part)
    for circuit in job.circuits:
        if circuit.kind == "car charger":
            yield Holder("charger", f"circuits/{circuit.id}/sheet", circuit.id, circuit.sheet, circuit)
    for cable in job.cables:
        yield Holder("cable", f"cables/{cable.id}/sheet", cable.id, cable.sheet, cable)
        yield Holder("device", f"cables/{cable.id}/device_sheet", cable.id, cable.device_sheet, cable)


def sheet_of(job: Job, holder: Holder) -> Any:
    """The sheet that a place names."""
    return getattr(job.sheets, kind_named(holder.kind).in_jobs)[holder.sheet]


def sheet_names(job: Job) -> dict[str, str]:
    """The names of the sheets that the job's places have, by id."""
    return {holder.sheet: sheet_of(job, holder).name for holder in holders(job) if holder.sheet}


def said(job: Job, holder: Holder, sheet: Any) -> tuple[Said, ...]:
    """What a sheet says of what stands in a place: the fields of the job that follow it. Where it is silent
    of a field that may be unknown, it says None of it; of another, nothing."""
    rows = []
    for field, key, value in values_of(job, holder, sheet):
        row, now, fact = kind_named(holder.kind).row(key), getattr(holder.thing, field), None
        if isinstance(now, Fact):
            known, note = (Known.SHEET, sheet.name) if value is not None else (Known.ASSUMED, "")
            fact, now = {"value": value, "known": str(known), "note": note, "date": ""}, now.value
        elif value is None and type(holder.thing).model_fields[field].default is not None:
            continue
        path = f"{holder.at}/{field}"
        rows.append(Said(path, key, row.words, row.unit, says=value, has=now, fact=fact))
    return tuple(rows)


Value = tuple[str, str, Any]  # field of the job, field of the sheet, value; None where the sheet is silent


def values_of(job: Job, holder: Holder, sheet: Any) -> tuple[Value, ...]:
    """What a sheet gives to the fields of what stands in a place."""
    match holder.thing:
        case Gateway() as part:
            lost = "none" if part.bond == "relay" else part.bond
            bond = "relay" if sheet.bond_relay else lost
            return (
                ("rated_a", "rated_a", sheet.rated_a),
                ("neutral_switched", "neutral_switched", sheet.neutral_switched),
                ("bond", "bond_relay", bond),
            )
        case Throw() as part:
            rated, of_gateway = ("rated_a", "rated_a", sheet.rated_a), isinstance(sheet, GatewaySheet)
            opens = sheet.neutral_switched if of_gateway else sheet.poles > len(legs_of(job, part.phases))
            neutral = "with neutral" if opens else "phases only"
            if of_gateway:
                return rated, ("neutral", "neutral_switched", neutral)
            return rated, ("middle_off", "middle_off", sheet.middle_off), ("neutral", "poles", neutral)
        case AddBypass():
            return (("rated_a", "rated_a", sheet.rated_a),)
        case Generator():
            return (
                ("rated_kva", "rated_kva", sheet.rated_kva),
                ("power_factor", "power_factor", sheet.power_factor),
                ("bonded", "neutral_bonded", sheet.neutral_bonded),
                ("litre_per_kwh", "litre_per_kwh", sheet.litre_per_kwh),
            )
        case Insert():
            if isinstance(sheet, MeterSheet):
                return (("two_way", "two_way", sheet.two_way),)
            return (("bidirectional", "bidirectional", _yes_no(sheet.bidirectional)),)
        case Circuit():
            return (
                ("running_w", "rated_kw", sheet.rated_kw * 1000),
                ("open_neutral", "open_neutral", _yes_no(sheet.open_neutral)),
            )
        case Cable() if isinstance(sheet, DeviceSheet):
            return device_values(job, holder.id, sheet)
        case Cable():
            sizes = [size for size, *_ in job.pack.table("cables").rows if size is not None]
            size = next((s for s in sizes if abs(s / sheet.size_mm2 - 1) <= NEAR), sheet.size_mm2)
            return ("size_mm2", "size_mm2", size), ("outside_mm", "outside_mm", sheet.outside_mm)
    return ()


def device_values(job: Job, run: str, sheet: DeviceSheet) -> tuple[Value, ...]:
    """A device in a run: in an array's it is the fuse of each string or the isolator, else what protects
    it."""
    if run in {array_run(unit.id, t.name) for unit in job.units for t in job.sheet_of(unit).trackers}:
        if sheet.curve == "gPV":
            return (("string_fuse_a", "rated_a", sheet.rated_a),)
        return ("isolator_a", "rated_a", sheet.rated_a), ("isolator_v", "dc_v", sheet.dc_v)
    return (
        ("device_a", "rated_a", sheet.rated_a),
        ("curve", "curve", sheet.curve if sheet.curve in ("B", "C", "D") else None),
        ("breaking_ka", "breaking_ka", sheet.breaking_ka),
        ("rcd_ma", "residual_ma", sheet.residual_ma),
        ("rcd_bidirectional", "bidirectional", _yes_no(sheet.bidirectional) if sheet.residual_ma else None),
    )


def _yes_no(value: bool | None) -> str | None:
    return None if value is None else "yes" if value else "no"


def legs_of(job: Job, phases: str) -> tuple[str, ...]:
    """The phases of a part: its own, joined by +, or all of the site's."""
    return tuple(phases.split("+")) if phases else job.site.phases
