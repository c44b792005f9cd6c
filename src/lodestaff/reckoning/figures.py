"""The year's figures, from its series."""

from dataclasses import dataclass

import numpy as np

from lodestaff.energy.calendar import Floats
from lodestaff.energy.dispatch import Converter, Year, onto_phases, unit_arrays
from lodestaff.energy.tariff import Bill, self_consumption, self_sufficiency

UNFELT_KW = 0.001  # less than this missing is no hour without power


@dataclass(frozen=True)
class YearFigures:
    """Energies in kWh a year, ratios as shares, money in currency units; AC unless it says DC."""

    pv_kwh: float
    load_kwh: float
    own_use_kwh: float
    import_kwh: float
    export_kwh: float
    curtailed_kwh: float
    clipped_kwh: float
    battery_in_kwh: float
    battery_out_kwh: float
    conversion_loss_kwh: float
    battery_loss_kwh: float
    energy_change_kwh: float
    self_consumption: float
    self_sufficiency: float
    cycles: float
    peak_import_kw: float
    surplus_load_kwh: float
    money: Bill
    unserved_kwh: float = 0.0  # without a grid: what circuits asked for and nothing gave
    off_grid: bool = False
    past_limit_kwh: float = 0.0  # of the export, by units that keep no limit; it earns nothing
    unserved_h: float = 0.0
    generator_kwh: float = 0.0
    generator_h: float = 0.0
    generator_starts: int = 0
    fuel_litres: float | None = None  # None: no generator runs, or its fuel isn't known
    fuel_cost: float | None = None

    @property
    def bill(self) -> float:
        return self.money.bill


def conversion_loss_kw(year: Year, converters: tuple[Converter, ...]) -> Floats:
    """Loss between DC bus and AC in each step, shape (unit, step): DC in less AC out, either way round."""
    series = year.series
    dc = series.pv_dc_kw + series.battery_dc_kw
    return dc - (series.pv_ac_kw + series.battery_ac_kw)


def battery_loss_kw(year: Year, converters: tuple[Converter, ...]) -> Floats:
    """Loss between DC bus and cells in each step, shape (unit, step)."""
    units = unit_arrays(converters)
    flow = year.series.battery_dc_kw
    into = np.clip(-flow, 0, None) * (1 - units.eta_charge[:, None])
    out = np.clip(flow, 0, None) * (1 / units.eta_discharge[:, None] - 1)
    return np.asarray(into + out)


def paid_export_kw(year: Year, limit_kw: float) -> Floats:
    """Export that may be counted on for money, shape (phase, step): what goes past the limit earns
    nothing."""
    total = year.export_kw.sum(axis=0)
    over = total > limit_kw * (1 + 1e-9) + 1e-9  # what rounding leaves is none
    return np.asarray(year.export_kw * np.where(over, limit_kw / np.maximum(total, 1e-9), 1.0))


def year_figures(
    year: Year,
    converters: tuple[Converter, ...],
    money: Bill,
    off_grid: bool = False,
    limit_kw: float = np.inf,
    fuel_per_litre: float | None = None,
) -> YearFigures:
    """Figures of a simulated year.

    Without a grid what nothing gives is unserved, not imported. Self-consumption is of what was produced
    after curtailment; both ratios by the usual definitions. `limit_kw` is the export limit of the site.
    """
    series = year.series
    imported, exported = year.kwh(year.import_kw), year.kwh(year.export_kw)
    island = year.island
    unserved = imported if off_grid else 0.0
    if island is not None:
        unserved = year.kwh(island.unserved_kw)
        imported, exported = unserved, 0.0
    litres = island.litres if island is not None and island.generator_h > 0 else None
    served_by_grid = 0.0 if off_grid else imported
    # Produced, as AC: what leaves the units from the sun, and what the sun put into batteries.
    sun_stored = year.kwh(np.clip(series.pv_dc_kw - _dc_of_ac(year, converters), 0, None))
    pv = year.kwh(series.pv_ac_kw) + sun_stored
    load, own = year.kwh(year.load_kw), year.kwh(year.own_use_kw)
    battery_in = year.kwh(np.clip(-series.battery_dc_kw, 0, None))
    battery_out = year.kwh(np.clip(series.battery_dc_kw, 0, None))
    swing = sum(
        (c.battery.top_soc - c.battery.floor_soc) * c.battery.capacity_kwh for c in converters if c.battery
    )
    drawn = battery_out / max(float(np.mean(unit_arrays(converters).eta_discharge)), 1e-9)
    return YearFigures(
        pv_kwh=pv,
        load_kwh=load,
        own_use_kwh=own,
        import_kwh=served_by_grid,
        export_kwh=0.0 if off_grid else exported,
        curtailed_kwh=year.kwh(series.curtailed_kw),
        clipped_kwh=year.kwh(series.clipped_kw),
        battery_in_kwh=battery_in,
        battery_out_kwh=battery_out,
        conversion_loss_kwh=year.kwh(conversion_loss_kw(year, converters)),
        battery_loss_kwh=year.kwh(battery_loss_kw(year, converters)),
        energy_change_kwh=float((series.energy_kwh[:, -1] - year.e_start_kwh).sum()),
        self_consumption=self_consumption(pv, exported),
        self_sufficiency=self_sufficiency(load, imported),
        cycles=drawn / swing if swing > 0 else 0.0,
        peak_import_kw=0.0 if off_grid else float(year.import_kw.sum(axis=0).max()),
        surplus_load_kwh=year.kwh(year.surplus_kw) if year.surplus_kw is not None else 0.0,
        money=money,
        unserved_kwh=unserved,
        off_grid=off_grid,
        unserved_h=float((island.unserved_kw > UNFELT_KW).sum() * year.step_h) if island else 0.0,
        generator_kwh=year.kwh(island.generator_kw) if island else 0.0,
        generator_h=island.generator_h if island else 0.0,
        generator_starts=island.starts if island else 0,
        fuel_litres=litres,
        fuel_cost=None if litres is None or fuel_per_litre is None else litres * fuel_per_litre,
        past_limit_kwh=0.0 if off_grid else exported - year.kwh(paid_export_kw(year, limit_kw)),
    )


def _dc_of_ac(year: Year, converters: tuple[Converter, ...]) -> Floats:
    """DC power behind the sun's AC power, shape (unit, step)."""
    units = unit_arrays(converters)
    ac = year.series.pv_ac_kw
    return np.asarray(ac + units.k1[:, None] * ac + units.k2[:, None] * ac**2)


def imbalance_kwh(year: Year, converters: tuple[Converter, ...]) -> dict[str, float]:
    """The largest imbalance of any step at each bus, in kWh; all are rounding only.

    AC bus: sun + battery + grid = load + own use. DC bus: sun + battery = the loss curve of the AC
    power. Cells: the change of energy is what went in and out after losses. Array: what was there =
    taken + clipped + curtailed.
    """
    series, h = year.series, year.step_h
    units = unit_arrays(converters)
    drawn = year.load_kw + year.own_use_kw
    ac_bus = onto_phases(converters, series.pv_ac_kw + series.battery_ac_kw, drawn) + series.grid_kw - drawn
    k1, k2 = units.k1[:, None], units.k2[:, None]
    out = series.pv_ac_kw + np.clip(series.battery_ac_kw, 0, None)
    taken = np.clip(-series.battery_ac_kw, 0, None)
    rectified = 2 * taken / ((1 + k1) + np.sqrt((1 + k1) ** 2 + 4 * k2 * taken))
    dc_bus = series.pv_dc_kw + series.battery_dc_kw + rectified - (out + k1 * out + k2 * out**2)
    before = np.concatenate([year.e_start_kwh[:, None], series.energy_kwh[:, :-1]], axis=1)
    flow = series.battery_dc_kw
    change = (
        np.clip(-flow, 0, None) * units.eta_charge[:, None]
        - np.clip(flow, 0, None) / units.eta_discharge[:, None]
    )
    cells = series.energy_kwh - before - change * h
    array = year.pv_available_kw - series.pv_dc_kw - series.clipped_kw - series.curtailed_kw
    return {
        "ac_bus": float(np.abs(ac_bus).max() * h),
        "dc_bus": float(np.abs(dc_bus).max() * h),
        "cells": float(np.abs(cells).max()),
        "array": float(np.abs(array).max() * h),
    }
