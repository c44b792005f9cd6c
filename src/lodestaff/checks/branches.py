"""Units behind modules: ARR-MICRO. One module on one unit; there is no string."""

from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet, PackValue
from lodestaff.catalogue.parts import MicroinverterSheet
from lodestaff.checks.check import check
from lodestaff.checks.finding import Finding, Findings, Verdict
from lodestaff.checks.makers import at_most
from lodestaff.electrical.strings import ModuleVolts
from lodestaff.quantities import Input, Provenance, Source, text_of
from lodestaff.quantities.convention import plain

SHEET = Source("the unit's and module's sheets", Provenance.SHEET)


@dataclass(frozen=True)
class Branch:
    """A face of a branch: its module on its unit, and how many units stand on the branch."""

    id: str
    name: str
    face: str
    module: ModuleSheet
    volts: ModuleVolts
    unit: MicroinverterSheet
    units: int
    modules: int
    nominal_v: float  # across the branch
    most_rise: PackValue | None  # percent, of generation
    first: bool  # of the branch's faces: what is of the whole branch is said once
    soft_low: tuple[str, ...]

    @property
    def owner(self) -> str:
        return f"{self.id} on {self.face}"


@check("ARR-MICRO", station="array", rests_on="sheets")
def arr_micro(record: Branch) -> Findings:
    """Does each module suit the unit behind it, and the units their branch?"""
    unit, module, where = record.unit, record.module, f"{record.name}, {record.face}"
    cold, cold_c = record.volts.voc_cold_v, record.volts.cold_c
    yield at_most(
        value=cold,
        limit=unit.max_in_v,
        unit="V",
        quantity="volts",
        source=SHEET,
        text=f"{where}: a module reaches {text_of(cold, 'V')} at {text_of(cold_c, '°C')}; its unit takes "
        f"{text_of(unit.max_in_v, 'V')}.",
        name=f"{where}: one module, open circuit at the record low",
        formula="Voc x (1 + beta/100 x (T − 25))",
        inputs=(
            Input("Voc", module.voc_v, "V", "sheet"),
            Input("coldest cell", cold_c, "°C"),
            Input("unit takes", unit.max_in_v, "V", "sheet"),
        ),
        because=record.soft_low,
        advice="Another module, or another unit.",
    )
    yield at_most(
        value=module.pmp_w,
        limit=unit.max_module_w,
        unit="W",
        quantity="power",
        source=SHEET,
        text=f"{where}: a module of {plain(module.pmp_w)} W on a unit that takes "
        f"{plain(unit.max_module_w)} W.",
        name=f"{where}: module's power",
        formula="sheet",
        inputs=(Input("unit takes", unit.max_module_w, "W", "sheet"),),
        advice="Another module, or a larger unit.",
    )
    if not record.first:
        return
    most, each = unit.most_on_branch, "module" if unit.modules == 1 else f"{unit.modules} modules"
    yield at_most(
        value=float(record.units),
        limit=float(most),
        quantity="units",
        source=SHEET,
        kept=record.units <= most and record.units == -(-record.modules // unit.modules),
        text=f"{record.name}: {record.units} units for {record.modules} modules; a branch takes {most}.",
        name=f"{record.name}: units",
        formula="count",
        inputs=(Input("modules", float(record.modules)), Input("most on a branch", float(most), "", "sheet")),
        advice=f"One unit for each {each}; a further branch.",
    )
    amps, device = record.units * unit.rated_va / record.nominal_v, unit.branch_device_a
    yield at_most(
        value=amps,
        limit=device,
        unit="A",
        quantity="device",
        source=SHEET,
        text=f"{record.name}: its units give up to {text_of(amps, 'A')} on a branch whose device is to be "
        f"{'unknown' if device is None else text_of(device, 'A')}.",
        name=f"{record.name}: current on the branch",
        formula="units x rated VA / V",
        inputs=(Input("unit", unit.rated_va, "VA", "sheet"), Input("volts", record.nominal_v, "V")),
        advice="Fewer units on the branch.",
    )
    if record.most_rise is not None:
        yield _rise(record, record.most_rise)


def _rise(record: Branch, most: PackValue) -> Finding:
    """Every length of the trunk carries the units beyond it: I R (1 + 2 + ... + n), there and back."""
    unit, n = record.unit, record.units
    each, ohm, step = unit.rated_va / record.nominal_v, unit.trunk_ohm_per_km, unit.trunk_step_m
    rise = None
    if ohm is not None and step is not None:
        rise = each * 2 * step * ohm / 1000 * n * (n + 1) / 2 / record.nominal_v * 100
    shown = "unknown" if rise is None else f"{plain(rise, 2)} %"
    return at_most(
        value=rise,
        limit=most.value,
        unit="%",
        quantity="rise",
        worse=Verdict.WARNS,
        because=() if rise is not None else ("the sheet gives no resistance or spacing of the trunk",),
        text=f"{record.name}: along its trunk the volts rise by {shown}; its cable to the board shares "
        f"{plain(most.value)} % with it.",
        name=f"{record.name}: rise along the trunk",
        formula="units' current x 2 x step x ohm/m x n (n + 1) / 2 / volts",
        inputs=(
            Input("units", float(n)),
            Input("current of one", each, "A"),
            *(
                (Input("trunk", ohm, "ohm/km", "sheet"), Input("step", step, "m", "sheet"))
                if ohm and step
                else ()
            ),
        ),
        source=most.cite(),
        advice="Feed the branch in its middle, or shorten it.",
    )
