"""Sheets of the parts around the unit: what a data sheet says of them. What it doesn't say stays None."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen
from lodestaff.catalogue.said import Said
from lodestaff.catalogue.sheets import Efficiency, Positive, Tracker

Count = Annotated[int, Field(ge=1, le=64)]
Name = Annotated[str, Field(min_length=1, max_length=80), Said("Name")]
MaybePower = Annotated[Positive | None, Said("Rated power", "kW", ("W",))]


class InverterSheet(Frozen):
    """A string inverter."""

    name: Name
    rated_kw: Annotated[Positive, Said("Rated power", "kW", ("W",))]
    rated_kva: Annotated[Positive, Said("Rated apparent power", "kVA", ("VA",))]
    phases: Annotated[Literal["1", "2", "3"], Said("Phases")] = "1"
    max_dc_kw: Annotated[Positive | None, Said("Most array power used", "kW", ("W",))] = None
    max_dc_v: Annotated[Positive, Said("Maximum array voltage", "V")]
    trackers: Annotated[tuple[Tracker, ...], Said("Trackers")]
    eta_euro: Annotated[Efficiency | None, Said("Weighted efficiency", "", ("%",))] = None
    frequency_curtailment: Annotated[bool | None, Said("Curtails by frequency")] = None
    residual_current_type: Annotated[
        Literal["A", "B", "F", "none"] | None, Said("Residual-current device asked for")
    ] = None


class OptimiserSheet(Frozen):
    """A power optimiser of one or two modules."""

    name: Name
    rated_w: Annotated[Positive, Said("Rated power", "W")]
    max_in_v: Annotated[Positive, Said("Maximum input voltage", "V")]
    max_in_a: Annotated[Positive, Said("Maximum input current", "A")]
    modules: Annotated[Count, Said("Modules to one")] = 1
    least_in_string: Annotated[Count | None, Said("Fewest in a string")] = None
    most_in_string: Annotated[Count | None, Said("Most in a string")] = None
    safe_v: Annotated[Positive | None, Said("Safe-state voltage", "V")] = None


class MicroinverterSheet(Frozen):
    """An inverter behind one module."""

    name: Name
    rated_va: Annotated[Positive, Said("Rated apparent power", "VA")]
    max_module_w: Annotated[Positive, Said("Largest module", "W")]
    max_in_v: Annotated[Positive, Said("Maximum input voltage", "V")]
    max_in_a: Annotated[Positive, Said("Maximum input current", "A")]
    most_on_branch: Annotated[Count, Said("Most on a branch")]
    branch_device_a: Annotated[Positive | None, Said("Branch device", "A")] = None
    eta_euro: Annotated[Efficiency | None, Said("Weighted efficiency", "", ("%",))] = None
    frequency_curtailment: Annotated[bool | None, Said("Curtails by frequency")] = None


class BatteryUnitSheet(Frozen):
    """A battery's own converter on AC, with or without solar inputs; its cells are battery modules of their own."""

    name: Name
    rated_kw: Annotated[Positive, Said("Rated power", "kW", ("W",))]
    rated_kva: Annotated[Positive, Said("Rated apparent power", "kVA", ("VA",))]
    surge_kva: Annotated[Positive, Said("Surge apparent power", "kVA", ("VA",))]
    surge_s: Annotated[Positive, Said("Surge duration", "s")]
    charge_kw: Annotated[Positive, Said("Charging power", "kW", ("W",))]
    discharge_kw: Annotated[Positive, Said("Discharging power", "kW", ("W",))]
    eta_inverter: Annotated[Efficiency, Said("Efficiency of the inverter", "", ("%",))]
    own_use_kw: Annotated[float, Field(ge=0), Said("Own use", "kW", ("W",))] = 0
    forms_island: Annotated[bool, Said("Forms an island")] = True
    frequency_curtailment: Annotated[bool | None, Said("Curtails AC-coupled generation by frequency")] = None
    trackers: Annotated[tuple[Tracker, ...], Said("Trackers")] = ()
    max_dc_kw: Annotated[Positive | None, Said("Most array power used", "kW", ("W",))] = None
    max_dc_v: Annotated[Positive | None, Said("Maximum array voltage", "V")] = None
    sealed: Annotated[bool, Said("Battery and its isolation inside the case")] = True


class GatewaySheet(Frozen):
    """A gateway or automatic transfer device."""

    name: Name
    rated_a: Annotated[Positive, Said("Through current", "A")]
    neutral_switched: Annotated[bool, Said("Opens the neutral")]
    bond_relay: Annotated[bool, Said("Bond relay")] = False
    transfer_s: Annotated[Positive | None, Said("Transfer time", "s", ("ms",))] = None


class TransferSheet(Frozen):
    """A hand-worked switch between sources."""

    name: Name
    rated_a: Annotated[Positive, Said("Rated current", "A")]
    poles: Annotated[Count, Said("Poles")]
    middle_off: Annotated[bool, Said("Middle position is off")] = True


class GeneratorSheet(Frozen):
    """A generator."""

    name: Name
    rated_kva: Annotated[Positive, Said("Rated apparent power", "kVA", ("VA",))]
    power_factor: Annotated[float, Field(gt=0.3, le=1), Said("Power factor")] = 0.8
    two_wire_start: Annotated[bool, Said("Two-wire start")] = False
    neutral_bonded: Annotated[bool | None, Said("Neutral bonded in the generator")] = None
    litre_per_kwh: Annotated[Positive | None, Said("Fuel", "l/kWh")] = None


class MeterSheet(Frozen):
    """A meter with or without current transformers."""

    name: Name
    accuracy_class: Annotated[Positive, Said("Accuracy class", "%")]
    two_way: Annotated[bool, Said("Counts both ways")]
    ct_ratio_a: Annotated[Positive | None, Said("Current transformer, primary", "A")] = None
    ct_class: Annotated[Positive | None, Said("Class of the current transformer", "%")] = None


class ChargerSheet(Frozen):
    """A car charger."""

    name: Name
    rated_kw: Annotated[Positive, Said("Rated power", "kW", ("W",))]
    phases: Annotated[Literal["1", "3"], Said("Phases")] = "1"
    open_neutral: Annotated[bool | None, Said("Open-neutral protection inside")] = None


class DeviceSheet(Frozen):
    """A protective device."""

    name: Name
    rated_a: Annotated[Positive, Said("Rated current", "A")]
    curve: Annotated[Literal["B", "C", "D", "gG", "gPV"] | None, Said("Characteristic")] = None
    poles: Annotated[Count, Said("Poles")] = 1
    breaking_ka: Annotated[Positive | None, Said("Breaking capacity", "kA")] = None
    dc_v: Annotated[Positive | None, Said("Rated DC voltage", "V")] = None
    residual_ma: Annotated[Positive | None, Said("Residual current", "mA")] = None
    bidirectional: Annotated[bool | None, Said("Bidirectional")] = None


class CableSheet(Frozen):
    """A cable by the metre."""

    name: Name
    size_mm2: Annotated[Positive, Said("Size", "mm²", ("AWG", "kcmil"))]
    cores: Annotated[Count, Said("Cores")] = 2
    max_v: Annotated[Positive | None, Said("Rated voltage", "V")] = None
    conductor_c: Annotated[float | None, Said("Conductor temperature", "°C", ("°F",))] = None
    outside_mm: Annotated[Positive | None, Said("Outside diameter", "mm", ("in",))] = None


class MountingSheet(Frozen):
    """A mounting system."""

    name: Name
    most_overhang_m: Annotated[Positive | None, Said("Greatest overhang of a rail", "m", ("mm", "ft"))] = None
    support_spacing_m: Annotated[Positive | None, Said("Greatest spacing of supports", "m", ("mm", "ft"))] = None
    listed_bonding: Annotated[bool | None, Said("Clamps listed for bonding")] = None

    @model_validator(mode="after")
    def _says_something(self) -> "MountingSheet":
        if self.most_overhang_m is None and self.support_spacing_m is None:
            raise ValueError("give the overhang or the spacing of supports")
        return self
