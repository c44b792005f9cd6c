"""The sheets that a job carries, and every family of converter seen as one: what it can do, not what it is
called."""

from collections.abc import Mapping
from functools import lru_cache

from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.parts import (
    BatteryUnitSheet,
    CableSheet,
    ChargerSheet,
    DeviceSheet,
    GatewaySheet,
    GeneratorSheet,
    InverterSheet,
    MeterSheet,
    MicroinverterSheet,
    MountingSheet,
    OptimiserSheet,
    TransferSheet,
)
from lodestaff.catalogue.sheets import BatterySheet, HybridSheet, ModuleSheet, Tracker

WITHOUT_EFFICIENCY = 0.96  # where a sheet gives none: common practice, no source
WITHOUT_OPTIMISER_EFFICIENCY = 0.985  # likewise
# what only a hybrid's sheet gives
HYBRID_ONLY = ("pass_through_a", "transfer_s", "start_order", "on_meter_loss", "residual_current_type",
               "eta_mppt",
               "eta_dcdc")  # fmt: skip
BRANCH = "branch"  # the one input of a branch of microinverters
UnitSheet = HybridSheet | InverterSheet | MicroinverterSheet | BatteryUnitSheet


class SeenAsHybrid(HybridSheet):
    """A converter of another family in a hybrid's terms.

    `unstated` names the fields that its own sheet doesn't give: what stands there only fills the place, and
    no check, step or page may quote it. `sealed` says that its battery, with the battery's isolation, is
    inside its case.
    """

    unstated: frozenset[str] = frozenset()
    sealed: bool = False


def states(sheet: HybridSheet, field: str) -> bool:
    """Whether a unit's own sheet gives a value."""
    return not (isinstance(sheet, SeenAsHybrid) and field in sheet.unstated)


def sealed(sheet: HybridSheet) -> bool:
    """Whether the battery is inside the unit's case: no terminals, isolator or run that an installer
    touches."""
    return isinstance(sheet, SeenAsHybrid) and sheet.sealed


class Sheets(Frozen):
    """The sheets a job was designed with, embedded in it by id, so that an old job keeps its numbers."""

    modules: dict[str, ModuleSheet] = {}
    hybrids: dict[str, HybridSheet] = {}
    batteries: dict[str, BatterySheet] = {}
    inverters: dict[str, InverterSheet] = {}
    microinverters: dict[str, MicroinverterSheet] = {}
    battery_units: dict[str, BatteryUnitSheet] = {}
    optimisers: dict[str, OptimiserSheet] = {}
    mountings: dict[str, MountingSheet] = {}
    gateways: dict[str, GatewaySheet] = {}
    transfers: dict[str, TransferSheet] = {}
    generators: dict[str, GeneratorSheet] = {}
    meters: dict[str, MeterSheet] = {}
    chargers: dict[str, ChargerSheet] = {}
    devices: dict[str, DeviceSheet] = {}
    cables: dict[str, CableSheet] = {}

    def units(self) -> dict[str, UnitSheet]:
        """Sheets that a unit can be of."""
        return {**self.battery_units, **self.microinverters, **self.inverters, **self.hybrids}

    def of_family(self, name: str) -> Mapping[str, UnitSheet]:
        """Sheets of the family of one. Raises KeyError for none."""
        places = (self.battery_units, self.microinverters, self.inverters, self.hybrids)
        home = next((place for place in places if name in place), None)
        if home is None:
            raise KeyError(name)
        return home


@lru_cache(maxsize=256)
def unit_sheet(sheet: UnitSheet, count: int = 1) -> HybridSheet:
    """A converter of any family as the program reckons with it.

    What a family has not is off: a string inverter has no changeover and forms no island, a battery unit has
    no changeover inside, a branch of `count` microinverters has one input for each module.
    """
    if isinstance(sheet, InverterSheet):
        return _follower(
            sheet.name,
            sheet.rated_kw,
            kva=sheet.rated_kva,
            trackers=sheet.trackers,
            most_v=sheet.max_dc_v,
            most_kw=sheet.max_dc_kw,
            eta=sheet.eta_euro,
            curtails=sheet.frequency_curtailment,
            module_level=False,
        )
    if isinstance(sheet, MicroinverterSheet):
        kva = sheet.rated_va / 1000 * count
        many = Tracker(
            name=BRANCH,
            v_min=1,
            v_max=sheet.max_in_v,
            v_start=1,
            imp_max_a=sheet.max_in_a * count * sheet.modules,
            isc_max_a=sheet.max_in_a * count * sheet.modules,
            inputs=min(12, count * sheet.modules),
        )
        return _follower(
            f"{count} x {sheet.name}" if count > 1 else sheet.name,
            kva,
            kva=kva,
            trackers=(many,),
            most_v=sheet.max_in_v,
            most_kw=None,
            eta=sheet.eta_euro,
            curtails=sheet.frequency_curtailment,
            module_level=True,
        )
    if isinstance(sheet, BatteryUnitSheet):
        absent = [name for name in ("max_dc_kw", "max_dc_v") if getattr(sheet, name) is None]
        return SeenAsHybrid(
            unstated=frozenset((*HYBRID_ONLY, *absent)),
            sealed=sheet.sealed,
            name=sheet.name,
            rated_kw=sheet.rated_kw,
            rated_kva=sheet.rated_kva,
            surge_kva=sheet.surge_kva,
            surge_s=sheet.surge_s,
            pass_through_a=sheet.rated_kva * 10,
            max_dc_kw=sheet.max_dc_kw or 2 * sheet.rated_kw,
            max_dc_v=sheet.max_dc_v or 1000,
            trackers=sheet.trackers,
            eta_mppt=1,
            charge_kw=sheet.charge_kw,
            discharge_kw=sheet.discharge_kw,
            eta_dcdc=1,
            efficiency=((1.0, sheet.eta_inverter),),
            own_use_kw=sheet.own_use_kw,
            neutral_switched=False,
            bond_relay=False,
            transfer_s=1,
            transfer=False,
            forms_island=sheet.forms_island,
            black_start=sheet.black_start,
            frequency_curtailment=sheet.frequency_curtailment,
        )
    return sheet


def _follower(
    name: str,
    kw: float,
    kva: float,
    trackers: tuple[Tracker, ...],
    most_v: float,
    most_kw: float | None,
    eta: float | None,
    curtails: bool | None,
    module_level: bool,
) -> HybridSheet:
    """A converter that follows a network and has no battery; what it lacks is never reached."""
    absent = (*HYBRID_ONLY, *(() if eta else ("efficiency",)), *(() if most_kw else ("max_dc_kw",)))
    return SeenAsHybrid(
        unstated=frozenset(absent),
        name=name,
        rated_kw=kw,
        rated_kva=kva,
        surge_kva=kva,
        surge_s=1,
        pass_through_a=kva * 10,
        max_dc_kw=most_kw or 2 * kw,
        max_dc_v=most_v,
        trackers=trackers,
        eta_mppt=1,
        charge_kw=kw,
        discharge_kw=kw,
        eta_dcdc=1,
        efficiency=((1.0, eta or WITHOUT_EFFICIENCY),),
        own_use_kw=0,
        neutral_switched=False,
        bond_relay=False,
        transfer_s=1,
        transfer=False,
        forms_island=False,
        frequency_curtailment=curtails,
        module_level=module_level,
    )
