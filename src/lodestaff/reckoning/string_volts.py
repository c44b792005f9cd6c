"""Volts of modules at the site's record temperatures, and whether a string ever starts."""

from dataclasses import replace

from lodestaff.electrical.strings import ModuleVolts, module_volts
from lodestaff.job import Face, Job, ModuleString

RISES = {
    "open rack": "mounting_rise_rack_k",
    "close roof": "mounting_rise_roof_k",
    "in the roof": "mounting_rise_in_roof_k",
}
WITHOUT_LOW_C, WITHOUT_HIGH_C = -10.0, 35.0  # taken while the site's records are unknown; checks stay open


def volts_of(job: Job, face: Face) -> ModuleVolts:
    """One module's voltages on a face at the site's record temperatures."""
    site, module = job.site, job.sheets.modules[face.module]
    rise = job.pack.value(RISES[face.mounting]).value
    low = site.record_low_c.value if site.record_low_c.value is not None else WITHOUT_LOW_C
    high = site.record_high_c.value if site.record_high_c.value is not None else WITHOUT_HIGH_C
    volts = module_volts(
        module.voc_v,
        module.beta_pct_per_k,
        vmp_v=module.vmp_v,
        beta_vmp_pct_per_k=module.gamma_pmp_pct_per_k,
        record_low_c=low,
        ambient_max_c=high,
        mounting_rise_k=rise,
    )
    factor = cold_factor(job)
    if module.beta_voc_pct_per_k is None and factor is not None:
        return replace(volts, voc_cold_v=module.voc_v * factor)
    return volts


def cold_factor(job: Job) -> float | None:
    """The pack's factor on Voc at the record low, by the colder band.

    None where the pack has no such table, or the low is unknown or below it.
    """
    table, low = job.pack.tables.get("cold_voc"), job.site.record_low_c.value
    if table is None or low is None:
        return None
    bands = [band for band in table.row_keys() if band <= low]
    return table.at(max(bands), "factor") if bands else None


def starts(job: Job, string: ModuleString) -> bool:
    """Whether a string ever reaches the volts at which its tracker starts: open circuit at the record low
    is the most.

    Optimisers on all modules and converters behind each module set their volts themselves.
    """
    unit = job.unit(string.unit)
    sheet, parts = job.sheet_of(unit), job.modules_in(string.id)
    if sheet.module_level or job.optimisers_on(string) == "all" or not parts:
        return True
    tracker = next(tracker for tracker in sheet.trackers if tracker.name == string.tracker)
    return sum(count * volts_of(job, face).voc_cold_v for face, count in parts) >= tracker.v_start
