"""What each unit is told of the site's limits: its own share, and never above any sheet."""

import math
from dataclasses import dataclass

from lodestaff.electrical.battery_power import least_powers
from lodestaff.job import Job
from lodestaff.quantities.convention import plain
from lodestaff.topology import Topology
from lodestaff.topology.questions import Led, led


@dataclass(frozen=True)
class Share:
    """Of one unit. Powers in kW; None: the unit keeps no such limit.

    `others` names the units with which it keeps the limit together, `split` says that the site's limit is
    shared among groups that don't know of each other.
    """

    export_kw: float | None
    import_kw: float | None
    charge_kw: float
    discharge_kw: float
    led: Led
    split: bool

    @property
    def obeys(self) -> bool:
        return self.led.ct is not None


def site_export_kw(job: Job) -> float:
    """The site's export limit, with what holds meanwhile."""
    meanwhile = [limit.value for limit in job.site.interim if limit.what == "export" and not limit.lifted]
    return min([job.limits.export_kw, *meanwhile])


def site_import_kw(job: Job) -> float:
    """The site's import limit, with a smaller fuse that holds meanwhile."""
    volts, phases = job.pack.value("nominal_v").value, len(job.site.phases)
    meanwhile = [
        limit.value * volts * phases / 1000
        for limit in job.site.interim
        if limit.what == "main fuse" and not limit.lifted
    ]
    return min([job.limits.import_kw, *meanwhile])


def shares(job: Job, topology: Topology) -> dict[str, Share]:
    """The share of each unit, by id."""
    groups = led(topology)
    rated = {unit.id: job.sheet_of(unit).rated_kw for unit in job.units}
    banked = {bank.unit for bank in job.banks}

    def size(group: Led) -> float:
        return sum(rated[name] for name in group.units)

    keeping = [group for group in groups if group.ct is not None]
    storing = [group for group in groups if banked & set(group.units)]
    shares: dict[str, Share] = {}
    for group in groups:
        same = (
            [other for other in keeping if other.whole and set(other.phases) & set(group.phases)]
            if group.whole
            else []
        )
        for name in group.units:
            unit = job.unit(name)
            export = None
            if job.mains.grid and group.ct is not None:
                part = site_export_kw(job) * size(group) / sum(size(other) for other in keeping)
                export = unit.export_kw if unit.export_kw is not None else _down(part)
            taken = None
            if job.mains.grid and name in banked:
                part = (
                    len(group.phases) / len(job.site.phases) / max(1, len(same))
                    if group.whole
                    else size(group) / sum(size(other) for other in storing)
                )
                taken = unit.import_kw if unit.import_kw is not None else _down(site_import_kw(job) * part)
            charge, discharge = least_powers(job, unit)
            bank = job.bank_of(unit)
            shares[name] = Share(
                export,
                taken,
                charge_kw=min(job.told_charge_kw(bank), charge) if bank else 0.0,
                discharge_kw=min(job.told_discharge_kw(bank), discharge) if bank else 0.0,
                led=group,
                split=len(keeping) > 1,
            )
    return shares


def _down(kw: float) -> float:
    return math.floor(kw * 100 + 1e-6) / 100


def zero_band_kw(job: Job, units: tuple[str, ...]) -> tuple[float, str] | None:
    """Within how much of zero an export limit of zero is kept by these units, kW, and by what; None where
    nothing says."""
    total, words = 0.0, "the unit's sheet"
    for unit in job.units:
        if unit.id not in units:
            continue
        sheet = job.sheet_of(unit)
        if sheet.zero_export_band_kw is not None:
            total += sheet.zero_export_band_kw
            continue
        share = job.pack.values.get("zero_export_band_share")
        if share is None:
            return None
        total, words = total + share.value * sheet.rated_kw, f"{plain(share.value * 100)} % {share.source}"
    return total, words
