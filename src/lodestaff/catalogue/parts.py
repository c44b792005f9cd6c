"""Sheets of the parts around the unit: what a data sheet says of them. What it doesn't say stays None."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from lodestaff.catalogue.body import Body
from lodestaff.catalogue.field_meta import FieldMeta
from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.sheets import Efficiency, Positive, ShortText, Tracker, ratings_agree

Count = Annotated[int, Field(ge=1, le=64)]
Name = Annotated[str, Field(min_length=1, max_length=80), FieldMeta("Name")]
MaybePower = Annotated[Positive | None, FieldMeta("Rated power", "kW", ("W",))]


class InverterSheet(Body):
    """A string inverter."""

    name: Name
    rated_kw: Annotated[Positive, FieldMeta("Rated power", "kW", ("W",))]
    rated_kva: Annotated[Positive, FieldMeta("Rated apparent power", "kVA", ("VA",))]
    phases: Annotated[Literal["1", "2", "3"], FieldMeta("Phases")] = "1"
    max_dc_kw: Annotated[Positive | None, FieldMeta("Most array power used", "kW", ("W",))] = None
    max_dc_v: Annotated[Positive, FieldMeta("Maximum array voltage", "V")]
    trackers: Annotated[tuple[Tracker, ...], FieldMeta("Trackers")]
    eta_euro: Annotated[Efficiency | None, FieldMeta("Weighted efficiency", "", ("%",))] = None
    frequency_curtailment: Annotated[bool | None, FieldMeta("Curtails by frequency")] = None
    residual_current_type: Annotated[
        Literal["A", "B", "F", "none"] | None, FieldMeta("Residual-current device asked for")
    ] = None
    weight_kg: Annotated[Positive | None, FieldMeta("Weight", "kg")] = None
    terminal_nm: Annotated[Positive | None, FieldMeta("Torque of its terminals", "Nm")] = None

    @model_validator(mode="after")
    def _ratings_agree(self) -> Self:
        ratings_agree(self.rated_kw, self.rated_kva)
        return self


class OptimiserSheet(Frozen):
    """A power optimiser of one or two modules."""

    name: Name
    rated_w: Annotated[Positive, FieldMeta("Rated power", "W")]
    max_in_v: Annotated[Positive, FieldMeta("Maximum input voltage", "V")]
    max_in_a: Annotated[Positive, FieldMeta("Maximum input current", "A")]
    modules: Annotated[Count, FieldMeta("Modules to one")] = 1
    least_in_string: Annotated[Count | None, FieldMeta("Fewest in a string")] = None
    most_in_string: Annotated[Count | None, FieldMeta("Most in a string")] = None
    most_string_w: Annotated[Positive | None, FieldMeta("Most power of a string", "W")] = None
    safe_v: Annotated[Positive | None, FieldMeta("Safe-state voltage", "V")] = None
    connector: Annotated[ShortText | None, FieldMeta("Make and type of its connectors")] = None
    on_single_modules: Annotated[bool | None, FieldMeta("May stand on some modules of a string only")] = None
    eta: Annotated[Efficiency | None, FieldMeta("Weighted efficiency", "", ("%",))] = None


class MicroinverterSheet(Frozen):
    """An inverter behind one module."""

    name: Name
    rated_va: Annotated[Positive, FieldMeta("Rated apparent power", "VA")]
    max_module_w: Annotated[Positive, FieldMeta("Largest module", "W")]
    max_in_v: Annotated[Positive, FieldMeta("Maximum input voltage", "V")]
    max_in_a: Annotated[Positive, FieldMeta("Maximum input current", "A")]
    modules: Annotated[Count, FieldMeta("Modules to one")] = 1
    most_on_branch: Annotated[Count, FieldMeta("Most on a branch")]
    trunk_ohm_per_km: Annotated[Positive | None, FieldMeta("Trunk cable, of one core", "ohm/km")] = None
    trunk_step_m: Annotated[Positive | None, FieldMeta("Trunk from unit to unit", "m")] = None
    branch_device_a: Annotated[Positive | None, FieldMeta("Branch device", "A")] = None
    eta_euro: Annotated[Efficiency | None, FieldMeta("Weighted efficiency", "", ("%",))] = None
    frequency_curtailment: Annotated[bool | None, FieldMeta("Curtails by frequency")] = None


class BatteryUnitSheet(Body):
    """A battery's own converter on AC, with or without solar inputs; its cells are battery modules of their
    own."""

    name: Name
    rated_kw: Annotated[Positive, FieldMeta("Rated power", "kW", ("W",))]
    rated_kva: Annotated[Positive, FieldMeta("Rated apparent power", "kVA", ("VA",))]
    surge_kva: Annotated[Positive, FieldMeta("Surge apparent power", "kVA", ("VA",))]
    surge_s: Annotated[Positive, FieldMeta("Surge duration", "s")]
    charge_kw: Annotated[Positive, FieldMeta("Charging power", "kW", ("W",))]
    discharge_kw: Annotated[Positive, FieldMeta("Discharging power", "kW", ("W",))]
    eta_inverter: Annotated[Efficiency, FieldMeta("Efficiency of the inverter", "", ("%",))]
    own_use_kw: Annotated[float, Field(ge=0), FieldMeta("Own use", "kW", ("W",))] = 0
    forms_island: Annotated[bool, FieldMeta("Forms an island")] = True
    black_start: Annotated[bool | None, FieldMeta("Starts an island again by the sun alone")] = None
    frequency_curtailment: Annotated[
        bool | None, FieldMeta("Curtails AC-coupled generation by frequency")
    ] = None
    trackers: Annotated[tuple[Tracker, ...], FieldMeta("Trackers")] = ()
    max_dc_kw: Annotated[Positive | None, FieldMeta("Most array power used", "kW", ("W",))] = None
    max_dc_v: Annotated[Positive | None, FieldMeta("Maximum array voltage", "V")] = None
    sealed: Annotated[bool, FieldMeta("Battery and its isolation inside the case")] = True
    weight_kg: Annotated[Positive | None, FieldMeta("Weight", "kg")] = None
    terminal_nm: Annotated[Positive | None, FieldMeta("Torque of its terminals", "Nm")] = None

    @model_validator(mode="after")
    def _ratings_agree(self) -> Self:
        ratings_agree(self.rated_kw, self.rated_kva, self.surge_kva)
        return self


class GatewaySheet(Frozen):
    """A gateway or automatic transfer device."""

    name: Name
    rated_a: Annotated[Positive, FieldMeta("Through current", "A")]
    neutral_switched: Annotated[bool, FieldMeta("Opens the neutral")]
    bond_relay: Annotated[bool, FieldMeta("Bond relay")] = False
    transfer_s: Annotated[Positive | None, FieldMeta("Transfer time", "s", ("ms",))] = None


class TransferSheet(Frozen):
    """A hand-worked switch between sources."""

    name: Name
    rated_a: Annotated[Positive, FieldMeta("Rated current", "A")]
    poles: Annotated[Count, FieldMeta("Poles")]
    middle_off: Annotated[bool, FieldMeta("Middle position is off")] = True


class GeneratorSheet(Frozen):
    """A generator."""

    name: Name
    rated_kva: Annotated[Positive, FieldMeta("Rated apparent power", "kVA", ("VA",))]
    power_factor: Annotated[float, Field(gt=0.3, le=1), FieldMeta("Power factor")] = 0.8
    two_wire_start: Annotated[bool, FieldMeta("Two-wire start")] = False
    neutral_bonded: Annotated[bool | None, FieldMeta("Neutral bonded in the generator")] = None
    litre_per_kwh: Annotated[Positive | None, FieldMeta("Fuel", "l/kWh")] = None


class MeterSheet(Frozen):
    """A meter with or without current transformers."""

    name: Name
    accuracy_class: Annotated[Positive, FieldMeta("Accuracy class", "%")]
    two_way: Annotated[bool, FieldMeta("Counts both ways")]
    ct_ratio_a: Annotated[Positive | None, FieldMeta("Current transformer, primary", "A")] = None
    ct_class: Annotated[Positive | None, FieldMeta("Class of the current transformer", "%")] = None


class ChargerSheet(Frozen):
    """A car charger."""

    name: Name
    rated_kw: Annotated[Positive, FieldMeta("Rated power", "kW", ("W",))]
    phases: Annotated[Literal["1", "3"], FieldMeta("Phases")] = "1"
    open_neutral: Annotated[bool | None, FieldMeta("Open-neutral protection inside")] = None


class DeviceSheet(Frozen):
    """A protective device."""

    name: Name
    rated_a: Annotated[Positive, FieldMeta("Rated current", "A")]
    curve: Annotated[Literal["B", "C", "D", "gG", "gPV"] | None, FieldMeta("Characteristic")] = None
    poles: Annotated[Count, FieldMeta("Poles")] = 1
    breaking_ka: Annotated[Positive | None, FieldMeta("Breaking capacity", "kA")] = None
    dc_v: Annotated[Positive | None, FieldMeta("Rated DC voltage", "V")] = None
    residual_ma: Annotated[Positive | None, FieldMeta("Residual current", "mA")] = None
    bidirectional: Annotated[bool | None, FieldMeta("Bidirectional")] = None


class CableSheet(Frozen):
    """A cable by the metre."""

    name: Name
    size_mm2: Annotated[Positive, FieldMeta("Size", "mm²", ("AWG", "kcmil"))]
    cores: Annotated[Count, FieldMeta("Cores")] = 2
    max_v: Annotated[Positive | None, FieldMeta("Rated voltage", "V")] = None
    conductor_c: Annotated[float | None, FieldMeta("Conductor temperature", "°C", ("°F",))] = None
    outside_mm: Annotated[Positive | None, FieldMeta("Outside diameter", "mm", ("in",))] = None


class MountingSheet(Frozen):
    """A mounting system."""

    name: Name
    most_overhang_m: Annotated[
        Positive | None, FieldMeta("Greatest overhang of a rail", "m", ("mm", "ft"))
    ] = None
    support_spacing_m: Annotated[
        Positive | None, FieldMeta("Greatest spacing of supports", "m", ("mm", "ft"))
    ] = None
    listed_bonding: Annotated[bool | None, FieldMeta("Clamps listed for bonding")] = None
    rail_m: Annotated[Positive | None, FieldMeta("Length of a rail", "m", ("mm", "ft"))] = None
    rail_kg_per_m: Annotated[Positive | None, FieldMeta("Weight of rail", "kg/m")] = None
    support_kg: Annotated[Positive | None, FieldMeta("Weight of a support", "kg")] = None

    @model_validator(mode="after")
    def _says_something(self) -> "MountingSheet":
        if self.most_overhang_m is None and self.support_spacing_m is None:
            raise ValueError("give the overhang or the spacing of supports")
        return self
