"""A day of dispatch and one interval under an export limit, against values computed twice elsewhere."""

import numpy as np
import pytest

from lodestaff.energy.dispatch import Battery, Converter, simulate
from lodestaff.energy.tariff import self_consumption, self_sufficiency

PV = [0, 0, 0, 0, 0, 0.1, 0.4, 1.1, 2.3, 3.6, 4.7, 5.5, 5.9, 5.7, 5, 4, 2.8, 1.6, 0.7, 0.2, 0, 0, 0, 0]
LOAD = [0.35, 0.3, 0.3, 0.3, 0.35, 0.5, 1.1, 1.4, 0.9, 0.7, 0.6, 0.8, 1.2, 0.7, 0.6, 0.7, 0.9, 1.8, 3.4, 2.9,
        2, 1.4, 0.8, 0.5]  # fmt: skip
# Battery at the end of each hour, kWh.
ENERGY = [2.632, 2.316, 2.000, 1.920, 1.920, 1.920, 1.920, 1.920, 3.250, 5.625, 8.000, 9.600, 9.600, 9.600,
          9.600,
          9.600, 9.600, 9.389, 6.758, 4.126, 2.021, 1.920, 1.920, 1.920]  # fmt: skip


@pytest.fixture(scope="module")
def day():
    """A lossless inverter, so that all powers are at the AC side."""
    battery = Battery(9.6, 0.0, 0.2, 1, 2.5, 2.5, 0.95, 0.95, 1, 1)
    unit = Converter(0, 10, 10, 10, 0, 0, 0, 99, battery)
    return simulate(
        (unit,), np.array([PV], float), np.array([LOAD]), export_kw=2.5, soc_start=3 / 9.6, step_h=1.0
    )


@pytest.mark.parametrize(
    ("what", "expected"),
    # Source: derived; exact fractions, and the least import by a linear programme.
    [("import", 4.978), ("export", 16.40), ("curtailed", 7.916), ("charge", 8.084), ("discharge", 8.322),
     ("loss", 0.8422), ("end", 1.920)],
)  # fmt: skip
def test_greedy_day(day, what, expected):
    flow = day.series.battery_dc_kw
    charge, discharge = day.kwh(np.clip(-flow, 0, None)), day.kwh(np.clip(flow, 0, None))
    values = {
        "import": day.kwh(day.import_kw),
        "export": day.kwh(day.export_kw),
        "curtailed": day.kwh(day.series.curtailed_kw),
        "charge": charge,
        "discharge": discharge,
        "loss": charge * (1 - 0.95) + discharge * (1 / 0.95 - 1),
        "end": day.series.energy_kwh[0, -1],
    }
    assert values[what] == pytest.approx(expected, rel=1e-3)


def test_battery_hour_by_hour(day):
    """Source: derived; table of the same day."""
    assert day.series.energy_kwh[0] == pytest.approx(ENERGY, abs=6e-4)


def test_ratios_of_the_day(day):
    """Source: derived. Self-consumption is of the sun used, after curtailment."""
    used = sum(PV) - day.kwh(day.series.curtailed_kw)
    assert self_consumption(used, day.kwh(day.export_kw)) == pytest.approx(0.5404, rel=1e-3)
    assert self_sufficiency(sum(LOAD), day.kwh(day.import_kw)) == pytest.approx(0.7968, rel=1e-3)


@pytest.mark.parametrize(
    ("soc", "export", "curtailed", "output"),
    # Source: derived; largest export by a linear programme.
    [(0.1, 2.700, 0.0, 6.0), (1.0, 3.680, 1.420, 4.580)],
    ids=["charging", "full"],
)
def test_export_limit_in_one_interval(soc, export, curtailed, output):
    """A string inverter of 6 kW with an AC-coupled battery that takes 2.4 kW; 7.2 kW of sun, 0.9 kW of
    load."""
    string = Converter(0, 6, 6, 6, 0, 0, 0, 99, None)
    coupled = Converter(0, 5, 5, 5, 0, 0, 0, 0, Battery(100, 0, 0, 1, 2.4, 2.4, 1, 1, 1, 1), ac_charge=True)
    year = simulate(
        (string, coupled),
        np.array([[7.2], [0.0]]),
        np.array([[0.9]]),
        export_kw=3.68,
        soc_start=soc,
        step_h=1.0,
    )
    assert year.series.clipped_kw[0, 0] == pytest.approx(1.200)
    assert year.export_kw[0, 0] == pytest.approx(export)
    assert year.series.curtailed_kw[0, 0] == pytest.approx(curtailed, abs=1e-12)
    assert year.series.pv_ac_kw[0, 0] == pytest.approx(output)
