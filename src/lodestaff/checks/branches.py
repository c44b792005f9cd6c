"""Units behind modules: ARR-MICRO. One module on one unit; there is no string."""

from dataclasses import dataclass

from lodestaff.catalogue import ModuleSheet
from lodestaff.catalogue.parts import MicroinverterSheet
from lodestaff.checks.finding import Finding, Verdict
from lodestaff.electrical.strings import ModuleVolts
from lodestaff.quantities import Figure, Input, Provenance, Source, text_of

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
    first: bool  # of the branch's faces: what is of the whole branch is said once
    soft_low: tuple[str, ...]


def arr_micro(record: Branch) -> list[Finding]:
    """The module's cold volts and power against its unit's, one unit for each module, units on the branch."""
    unit, module = record.unit, record.module
    cold = record.volts.voc_cold_v
    volts = Figure(
        f"{record.name}, {record.face}: one module, open circuit at the record low", cold, "V", "Voc x (1 + beta/100 x (T − 25))",
        (Input("Voc", module.voc_v, "V", "sheet"), Input("coldest cell", record.volts.cold_c, "°C"),
         Input("unit takes", unit.max_in_v, "V", "sheet")), SHEET,
    )  # fmt: skip
    power = Figure(f"{record.name}, {record.face}: module's power", module.pmp_w, "W", "sheet",
                   (Input("unit takes", unit.max_module_w, "W", "sheet"),), SHEET)  # fmt: skip
    count = Figure(f"{record.name}: units", float(record.units), "", "count",
                   (Input("modules", float(record.modules)), Input("most on a branch", float(unit.most_on_branch), "", "sheet")),
                   SHEET)  # fmt: skip

    def made(bad: bool, text: str, figure: Figure, limit: float, because: tuple[str, ...], advice: str) -> Finding:
        return Finding("ARR-MICRO", Verdict.BLOCKS if bad else Verdict.PASSED, text, figure, limit, limit - figure.value,
                       SHEET, because, (), advice, (record.id,))  # fmt: skip

    where = f"{record.name}, {record.face}"
    many = record.units > unit.most_on_branch
    uneven = record.units != record.modules
    words = f"{record.name}: {record.units} units for {record.modules} modules; a branch takes {unit.most_on_branch}."
    return [
        made(cold > unit.max_in_v, f"{where}: a module reaches {text_of(cold, 'V')} at {text_of(record.volts.cold_c, '°C')}; its "
             f"unit takes {text_of(unit.max_in_v, 'V')}.", volts, unit.max_in_v, record.soft_low, "Another module, or another unit."),
        made(module.pmp_w > unit.max_module_w, f"{where}: a module of {module.pmp_w:g} W on a unit that takes {unit.max_module_w:g} W.",
             power, unit.max_module_w, (), "Another module, or a larger unit."),
        *((made(many or uneven, words, count, float(unit.most_on_branch), (), "One unit for each module; a further branch."),)
          if record.first else ()),
    ]  # fmt: skip
