"""Every kind of equipment, each with the one declaration that feeds form, validation, command line and
import."""

from dataclasses import dataclass

from pydantic import ValidationError

from lodestaff.catalogue import parts
from lodestaff.catalogue.field_meta import FieldRow, rows_of
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.sheets import BatterySheet, HybridSheet, ModuleSheet
from lodestaff.quantities.errors import JobError


@dataclass(frozen=True)
class Kind:
    """A kind: its id, its words, and the sheet that declares its fields."""

    id: str
    words: str
    sheet: type[Frozen]
    in_jobs: str  # where a job keeps such sheets

    @property
    def rows(self) -> tuple[FieldRow, ...]:
        return rows_of(self.sheet)

    def row(self, key: str) -> FieldRow:
        """The row of a field. Raises JobError where there is none."""
        for other in self.rows:
            if other.key == key:
                return other
        raise JobError(
            f"a {self.words} has no field {key!r}", key, f"fields: {', '.join(row.key for row in self.rows)}"
        )


KINDS: tuple[Kind, ...] = (
    Kind("module", "solar module", ModuleSheet, "modules"),
    Kind("optimiser", "power optimiser", parts.OptimiserSheet, "optimisers"),
    Kind("microinverter", "microinverter", parts.MicroinverterSheet, "microinverters"),
    Kind("inverter", "string inverter", parts.InverterSheet, "inverters"),
    Kind("hybrid", "hybrid", HybridSheet, "hybrids"),
    Kind("battery", "battery module", BatterySheet, "batteries"),
    Kind("battery-unit", "battery unit on AC", parts.BatteryUnitSheet, "battery_units"),
    Kind("gateway", "gateway", parts.GatewaySheet, "gateways"),
    Kind("transfer", "transfer switch", parts.TransferSheet, "transfers"),
    Kind("generator", "generator", parts.GeneratorSheet, "generators"),
    Kind("meter", "meter", parts.MeterSheet, "meters"),
    Kind("charger", "car charger", parts.ChargerSheet, "chargers"),
    Kind("device", "protective device", parts.DeviceSheet, "devices"),
    Kind("cable", "cable", parts.CableSheet, "cables"),
    Kind("mounting", "mounting", parts.MountingSheet, "mountings"),
)


def kind_named(name: str) -> Kind:
    """The kind of an id. Raises JobError where there is none."""
    for kind in KINDS:
        if kind.id == name:
            return kind
    raise JobError(
        f"no kind of equipment {name!r}", "shelf", f"kinds: {', '.join(kind.id for kind in KINDS)}"
    )


def checked(kind: Kind, values: dict[str, object], where: str) -> Frozen:
    """A sheet from values. Raises JobError that names every field that is missing or wrong."""
    missing = [row.words for row in kind.rows if row.required and values.get(row.key) is None]
    if missing:
        raise JobError(
            f"{', '.join(missing)} missing", where, "type them from the data sheet; nothing is guessed"
        )
    try:
        return kind.sheet.model_validate(values)
    except ValidationError as trouble:
        first = trouble.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else ""
        row = next((each for each in kind.rows if each.key == field), None)
        right = row.bounds if row is not None else ""
        words = str(first["msg"]).removeprefix("Value error, ")
        raise JobError(words, f"{where} {row.words if row else field}".strip(), right) from trouble
