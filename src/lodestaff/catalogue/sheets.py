"""Equipment sheets: what a data sheet says of a part, with units in the names.

All shipped sheets describe invented equipment. A value that a sheet does not give is None and
leaves the checks that need it open.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from lodestaff.catalogue.frozen import Frozen

Positive = Annotated[float, Field(gt=0)]
Share = Annotated[float, Field(ge=0, le=1)]
Efficiency = Annotated[float, Field(gt=0.3, le=1)]


class ModuleSheet(Frozen):
    """A solar module at standard test conditions (1000 W/m², 25 °C cell)."""

    name: str
    pmp_w: Positive
    voc_v: Positive
    isc_a: Positive
    vmp_v: Positive
    imp_a: Positive
    alpha_isc_pct_per_k: float
    beta_voc_pct_per_k: Annotated[float, Field(lt=0)]
    gamma_pmp_pct_per_k: Annotated[float, Field(lt=0)]
    length_m: Positive
    width_m: Positive
    max_system_v: Positive = 1000
    max_series_fuse_a: Positive | None = None
    cells_in_series: Annotated[int, Field(ge=20, le=200)] | None = None

    @model_validator(mode="after")
    def _points_agree(self) -> "ModuleSheet":
        if self.vmp_v >= self.voc_v or self.imp_a >= self.isc_a:
            raise ValueError("the operating point must lie below open-circuit voltage and short-circuit current")
        if abs(self.vmp_v * self.imp_a / self.pmp_w - 1) > 0.03:
            raise ValueError(f"pmp_w {self.pmp_w} differs from vmp_v x imp_a = {self.vmp_v * self.imp_a:.0f} W")
        return self


class Tracker(Frozen):
    """One tracker (MPPT) input with its own window."""

    name: str
    v_min: Positive
    v_max: Positive
    v_start: Positive
    imp_max_a: Positive
    isc_max_a: Positive


class HybridSheet(Frozen):
    """A DC-coupled hybrid: array and battery on one DC bus behind one inverter.

    `efficiency` holds points (share of rated power, efficiency) of the DC-to-AC path, own use
    included, as data sheets give them. `own_use_kw` is drawn at all times.
    """

    name: str
    rated_kw: Positive
    rated_kva: Positive
    surge_kva: Positive
    surge_s: Positive
    pass_through_a: Positive
    max_dc_kw: Positive
    max_dc_v: Positive
    trackers: tuple[Tracker, ...]
    eta_mppt: Efficiency
    charge_kw: Positive
    discharge_kw: Positive
    eta_dcdc: Efficiency
    efficiency: Annotated[tuple[tuple[float, float], ...], Field(min_length=1)]
    own_use_kw: Annotated[float, Field(ge=0)]
    neutral_switched: bool
    bond_relay: bool
    transfer_s: Positive
    start_order: tuple[Literal["grid", "battery", "array"], ...] = ("battery", "grid", "array")
    settings_over_link: tuple[str, ...] = ()  # keys of the settings that can be written over the link
    derate_from_c: float | None = None
    derate_pct_per_k: Annotated[float, Field(ge=0, le=10)] | None = None
    derate_from_m: Positive | None = None
    on_meter_loss: Literal["export stops", "export goes on", "not stated"] = "not stated"

    @model_validator(mode="after")
    def _ratings_agree(self) -> "HybridSheet":
        if self.rated_kw > self.rated_kva:
            raise ValueError(f"rated_kw {self.rated_kw} is above rated_kva {self.rated_kva}")
        if sorted(self.start_order) != ["array", "battery", "grid"]:
            raise ValueError("start_order names grid, battery and array once each")
        if self.surge_kva < self.rated_kva:
            raise ValueError(f"surge_kva {self.surge_kva} is below rated_kva {self.rated_kva}")
        if any(not (0 < share <= 1.2 and 0.3 < eta <= 1) for share, eta in self.efficiency):
            raise ValueError("efficiency points are (share of rated power 0 to 1.2, efficiency 0.3 to 1)")
        return self


class BatterySheet(Frozen):
    """A battery module. State of charge is a share of rated capacity at the present state of health."""

    name: str
    module_kwh: Positive
    charge_c_per_h: Positive
    discharge_c_per_h: Positive
    floor_soc: Share
    top_soc: Share = 1.0
    eta_round_trip: Efficiency
    taper_start_soc: Share = 1.0
    taper_end_share: Share = 1.0
    max_modules: Annotated[int, Field(ge=1)]
    min_modules: Annotated[int, Field(ge=1)] = 1
    weight_kg: Positive | None = None
    device_counts_usable: bool = False  # whether the device shows floor to top as 0 to 100 %
    v_min: Positive | None = None
    v_nominal: Positive | None = None

    @model_validator(mode="after")
    def _scale_in_order(self) -> "BatterySheet":
        if not self.floor_soc < self.top_soc:
            raise ValueError(f"floor_soc {self.floor_soc} must lie below top_soc {self.top_soc}")
        return self


class Sheets(Frozen):
    """The sheets a job was designed with, embedded in it by id, so that an old job keeps its numbers."""

    modules: dict[str, ModuleSheet] = {}
    hybrids: dict[str, HybridSheet] = {}
    batteries: dict[str, BatterySheet] = {}
