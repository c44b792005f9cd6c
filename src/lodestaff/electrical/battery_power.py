"""What a unit may be told of its battery: never more than unit, bank and cable bear."""

import math

from lodestaff.catalogue.families import sealed
from lodestaff.job import Job, Unit

BATTERY_MARGIN = 1.25  # of the device over the current, where a pack gives none; common practice


ASIDE_KW = 0.05  # a setting that is so much below what all parts bear is deliberate


def deliberate(setting_kw: float, bears_kw: float) -> bool:
    """Whether a power was set below what all parts bear on purpose, so that it stays with other parts."""
    return setting_kw < bears_kw - ASIDE_KW


def least_powers(job: Job, unit: Unit) -> tuple[float, float]:
    """Charge and discharge power that unit, bank and the battery's device all bear, kW, down to a tenth."""
    sheet, bank = job.sheet_of(unit), job.bank_of(unit)
    if bank is None:
        return 0.0, 0.0
    cells = job.sheets.batteries[bank.sheet]
    kwh = bank.modules * cells.module_kwh
    charge = [sheet.charge_kw, kwh * cells.charge_c_per_h]
    discharge = [sheet.discharge_kw, kwh * cells.discharge_c_per_h]
    cable = next((cable for cable in job.cables if cable.id == f"{bank.id}-run"), None)
    series = cells.modules_in_series(bank.modules)
    if cable is not None and cable.device_a and cells.v_min is not None and series and not sealed(sheet):
        margin = job.pack.values.get("battery_current_margin")
        bears = cable.device_a / (margin.value if margin else BATTERY_MARGIN) * cells.v_min * series / 1000
        charge.append(bears)
        discharge.append(bears)
    return math.floor(min(charge) * 10 + 1e-9) / 10, math.floor(min(discharge) * 10 + 1e-9) / 10
