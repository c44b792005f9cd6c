"""Equipment sheets: what a data sheet says of a part, with units in the names.

All shipped sheets describe invented equipment. A value that a sheet does not give is None and
leaves the checks that need it open.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from lodestaff.catalogue.body import Body
from lodestaff.catalogue.field_meta import FieldMeta
from lodestaff.catalogue.frozen import Frozen
from lodestaff.quantities.convention import plain

Positive = Annotated[float, Field(gt=0)]
Share = Annotated[float, Field(ge=0, le=1)]
CellCount = Annotated[int, Field(ge=20, le=200)]
Derating = Annotated[float, Field(ge=0, le=10)]
Efficiency = Annotated[float, Field(gt=0.3, le=1)]
ShortText = Annotated[str, Field(min_length=1, max_length=40)]
BelowZero = Annotated[float, Field(lt=0)]
USUAL_BETA_PCT_PER_K = -0.3  # of silicon, where a sheet gives none: common practice, no source


class ModuleSheet(Frozen):
    """A solar module at standard test conditions (1000 W/m², 25 °C cell)."""

    name: Annotated[str, FieldMeta("Name")]
    pmp_w: Annotated[Positive, FieldMeta("Maximum power Pmp", "W")]
    voc_v: Annotated[Positive, FieldMeta("Open-circuit voltage Voc", "V")]
    isc_a: Annotated[Positive, FieldMeta("Short-circuit current Isc", "A")]
    vmp_v: Annotated[Positive, FieldMeta("Operating voltage Vmp", "V")]
    imp_a: Annotated[Positive, FieldMeta("Operating current Imp", "A")]
    alpha_isc_pct_per_k: Annotated[float, FieldMeta("Temperature coefficient of Isc", "%/K", ("A/K", "mA/K"))]
    beta_voc_pct_per_k: Annotated[
        BelowZero | None, FieldMeta("Temperature coefficient of Voc", "%/K", ("V/K", "mV/K"))
    ] = None
    gamma_pmp_pct_per_k: Annotated[
        float, Field(lt=0), FieldMeta("Temperature coefficient of Pmp", "%/K", ("W/K",))
    ]
    length_m: Annotated[Positive, FieldMeta("Length", "m", ("mm", "ft"))]
    width_m: Annotated[Positive, FieldMeta("Width", "m", ("mm", "ft"))]
    max_system_v: Annotated[Positive, FieldMeta("Maximum system voltage", "V")] = 1000
    max_series_fuse_a: Annotated[Positive | None, FieldMeta("Maximum series fuse", "A")] = None
    cells_in_series: Annotated[CellCount | None, FieldMeta("Cells in series")] = None
    clamp_from_m: Annotated[Positive | None, FieldMeta("Clamps from the short side, least", "m", ("mm",))] = (
        None
    )
    clamp_to_m: Annotated[Positive | None, FieldMeta("Clamps from the short side, most", "m", ("mm",))] = None
    connector: Annotated[ShortText | None, FieldMeta("Make and type of its connectors")] = None
    weight_kg: Annotated[Positive | None, FieldMeta("Weight", "kg")] = None
    bifacial_gain: Annotated[Share, FieldMeta("Current more by its back side", "", ("%",))] = 0

    @property
    def beta_pct_per_k(self) -> float:
        """Its coefficient of Voc, or the usual one where the sheet gives none; checks that rest on it stay
        open."""
        return USUAL_BETA_PCT_PER_K if self.beta_voc_pct_per_k is None else self.beta_voc_pct_per_k

    def lying(self, upright: bool) -> tuple[float, float]:
        """Width and height in m that it takes, upright or across."""
        return (self.width_m, self.length_m) if upright else (self.length_m, self.width_m)

    @model_validator(mode="after")
    def _points_agree(self) -> "ModuleSheet":
        if self.vmp_v >= self.voc_v or self.imp_a >= self.isc_a:
            raise ValueError(
                "the operating point must lie below open-circuit voltage and short-circuit current"
            )
        if abs(self.vmp_v * self.imp_a / self.pmp_w - 1) > 0.03:
            raise ValueError(
                f"pmp_w {self.pmp_w} differs from vmp_v x imp_a = {plain(self.vmp_v * self.imp_a, 0)} W"
            )
        return self


class Tracker(Frozen):
    """One tracker (MPPT) input with its own window."""

    name: str
    v_min: Positive
    v_max: Positive
    v_start: Positive
    imp_max_a: Positive
    isc_max_a: Positive
    inputs: Annotated[int, Field(ge=1, le=12)] = 1  # pairs of terminals, joined inside
    isc_with_factor: bool = False  # its short-circuit rating already allows for bright hours


def ratings_agree(rated_kw: float, rated_kva: float, surge_kva: float | None = None) -> None:
    """Raise ValueError where a converter's ratings can't be."""
    if rated_kw > rated_kva:
        raise ValueError(f"rated_kw {rated_kw} is above rated_kva {rated_kva}")
    if surge_kva is not None and surge_kva < rated_kva:
        raise ValueError(f"surge_kva {surge_kva} is below rated_kva {rated_kva}")


class HybridSheet(Body):
    """A DC-coupled hybrid: array and battery on one DC bus behind one inverter.

    `efficiency` holds points (share of rated power, efficiency) of the DC-to-AC path, own use
    included, as data sheets give them. `own_use_kw` is drawn at all times.
    """

    name: Annotated[str, FieldMeta("Name")]
    rated_kw: Annotated[Positive, FieldMeta("Rated power", "kW", ("W",))]
    rated_kva: Annotated[Positive, FieldMeta("Rated apparent power", "kVA", ("VA",))]
    surge_kva: Annotated[Positive, FieldMeta("Surge apparent power", "kVA", ("VA",))]
    surge_s: Annotated[Positive, FieldMeta("Surge duration", "s")]
    pass_through_a: Annotated[Positive, FieldMeta("Pass-through current", "A")]
    terminal_nm: Annotated[Positive | None, FieldMeta("Torque of its terminals", "Nm")] = None
    max_dc_kw: Annotated[Positive, FieldMeta("Most array power used", "kW", ("W",))]
    max_dc_v: Annotated[Positive, FieldMeta("Maximum array voltage", "V")]
    trackers: Annotated[tuple[Tracker, ...], FieldMeta("Trackers")]
    eta_mppt: Annotated[Efficiency, FieldMeta("Tracker efficiency", "", ("%",))]
    charge_kw: Annotated[Positive, FieldMeta("Charging power", "kW", ("W",))]
    discharge_kw: Annotated[Positive, FieldMeta("Discharging power", "kW", ("W",))]
    eta_dcdc: Annotated[Efficiency, FieldMeta("Efficiency of the battery converter", "", ("%",))]
    efficiency: Annotated[
        tuple[tuple[float, float], ...], Field(min_length=1), FieldMeta("Efficiency by share of rated power")
    ]
    own_use_kw: Annotated[float, Field(ge=0), FieldMeta("Own use", "kW", ("W",))]
    phases: Annotated[Literal["1", "2", "3"], FieldMeta("Phases")] = "1"
    residual_current_type: Annotated[
        Literal["A", "B", "F", "none"] | None, FieldMeta("Residual-current device asked for")
    ] = None
    neutral_switched: Annotated[bool, FieldMeta("Transfer opens the neutral")]
    bond_relay: Annotated[bool, FieldMeta("Bond relay")]
    transfer_s: Annotated[Positive, FieldMeta("Transfer time", "s", ("ms",))]
    start_order: Annotated[
        tuple[Literal["grid", "battery", "array"], ...], FieldMeta("Order of starting")
    ] = ("battery", "grid", "array")
    settings_over_link: Annotated[
        tuple[str, ...], FieldMeta("Settings that the link writes")
    ] = ()  # keys of the settings that can be written over the link
    transfer: Annotated[bool, FieldMeta("Changeover inside")] = True
    forms_island: Annotated[bool, FieldMeta("Forms an island")] = True
    black_start: Annotated[bool | None, FieldMeta("Starts an island again by the sun alone")] = None
    frequency_curtailment: Annotated[
        bool | None, FieldMeta("Curtails AC-coupled generation by frequency")
    ] = None
    module_level: Annotated[bool, FieldMeta("A converter behind each module")] = False
    derate_from_c: Annotated[float | None, FieldMeta("Derated above", "°C", ("°F",))] = None
    derate_pct_per_k: Annotated[Derating | None, FieldMeta("Derating", "%/K")] = None
    derate_from_m: Annotated[Positive | None, FieldMeta("Derated above altitude", "m", ("ft",))] = None
    on_meter_loss: Annotated[
        Literal["export stops", "export goes on", "not stated"], FieldMeta("When the meter is lost")
    ] = "not stated"
    feeds_unequal: Annotated[bool | None, FieldMeta("Feeds its phases unequally")] = None
    zero_export_band_kw: Annotated[
        Positive | None, FieldMeta("Export at a limit of zero, at most", "kW", ("W",))
    ] = None
    terminals_c: Annotated[
        Literal["60", "75"] | None, FieldMeta("AC terminals rated for conductors of", "°C")
    ] = None
    weight_kg: Annotated[Positive | None, FieldMeta("Weight", "kg")] = None

    @model_validator(mode="after")
    def _ratings_agree(self) -> "HybridSheet":
        ratings_agree(self.rated_kw, self.rated_kva, self.surge_kva)
        if sorted(self.start_order) != ["array", "battery", "grid"]:
            raise ValueError("start_order names grid, battery and array once each")
        if any(not (0 < share <= 1.2 and 0.3 < eta <= 1) for share, eta in self.efficiency):
            raise ValueError("efficiency points are (share of rated power 0 to 1.2, efficiency 0.3 to 1)")
        return self


class BatterySheet(Body):
    """A battery module. State of charge is a share of rated capacity at the present state of health."""

    name: Annotated[str, FieldMeta("Name")]
    module_kwh: Annotated[Positive, FieldMeta("Energy of a module", "kWh", ("Wh",))]
    charge_c_per_h: Annotated[Positive, FieldMeta("Charging limit", "1/h")]
    discharge_c_per_h: Annotated[Positive, FieldMeta("Discharging limit", "1/h")]
    floor_soc: Annotated[Share, FieldMeta("Lowest state of charge", "", ("%",))]
    top_soc: Annotated[Share, FieldMeta("Highest state of charge", "", ("%",))] = 1.0
    eta_round_trip: Annotated[Efficiency, FieldMeta("Round-trip efficiency", "", ("%",))]
    taper_start_soc: Annotated[Share, FieldMeta("Charging slows from", "", ("%",))] = 1.0
    taper_end_share: Annotated[Share, FieldMeta("Charging power when full, share", "", ("%",))] = 1.0
    max_modules: Annotated[int, Field(ge=1), FieldMeta("Most modules")]
    min_modules: Annotated[int, Field(ge=1), FieldMeta("Fewest modules")] = 1
    weight_kg: Annotated[Positive | None, FieldMeta("Weight of a module", "kg")] = None
    device_counts_usable: Annotated[bool, FieldMeta("The device shows its usable part as 0 to 100 %")] = (
        False  # whether the device shows floor to top as 0 to 100 %
    )
    fault_ka: Annotated[Positive | None, FieldMeta("Short-circuit current of a module", "kA", ("A",))] = None
    v_min: Annotated[Positive | None, FieldMeta("Lowest voltage", "V")] = None
    v_nominal: Annotated[Positive | None, FieldMeta("Nominal voltage", "V")] = None
    rest_v: Annotated[
        tuple[tuple[Share, Positive], ...], FieldMeta("Volts of a module at rest by state of charge")
    ] = ()  # points (state of charge, volts), from empty to full
    inner_mohm: Annotated[Positive | None, FieldMeta("Inner resistance of a module", "mΩ", ("Ω",))] = None
    wired: Annotated[Literal["series", "parallel"] | None, FieldMeta("Modules of a stack are wired in")] = (
        None
    )
    charge_from_c: Annotated[float | None, FieldMeta("Charges from", "°C", ("°F",))] = None
    works_to_c: Annotated[float | None, FieldMeta("Works up to", "°C", ("°F",))] = None
    warranty_cycles: Annotated[Positive | None, FieldMeta("Cycles warranted")] = None
    warranty_mwh: Annotated[Positive | None, FieldMeta("Energy warranted, each module", "MWh", ("kWh",))] = (
        None
    )
    warranty_years: Annotated[Positive | None, FieldMeta("Years warranted")] = None
    warranty_end_share: Annotated[
        Share | None, FieldMeta("Capacity left at the warranty's end", "", ("%",))
    ] = None

    @model_validator(mode="after")
    def _scale_in_order(self) -> "BatterySheet":
        if not self.floor_soc < self.top_soc:
            raise ValueError(f"floor_soc {self.floor_soc} must lie below top_soc {self.top_soc}")
        if any(a[0] >= b[0] or a[1] > b[1] for a, b in zip(self.rest_v, self.rest_v[1:], strict=False)):
            raise ValueError("rest_v is (state of charge, volts) from empty to full, neither of them falling")
        if len(self.rest_v) == 1:
            raise ValueError("rest_v has two points or more: (state of charge, volts)")
        return self

    def rest_curve(self, modules: int) -> tuple[tuple[tuple[float, float], ...], float] | None:
        """Volts of a bank as wired at rest, by state of charge, and its ohms; None while the sheet lacks
        them."""
        series = self.modules_in_series(modules)
        if series is None or not self.rest_v or self.inner_mohm is None:
            return None
        points = tuple((soc, volts * series) for soc, volts in self.rest_v)
        return points, self.inner_mohm / 1000 * series / (modules / series)

    def modules_in_series(self, modules: int) -> int | None:
        """How many modules stand in series in a bank; None while the sheet doesn't say how they are wired."""
        if modules == 1 or self.wired == "parallel":
            return 1
        return modules if self.wired == "series" else None
