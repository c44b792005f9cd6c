"""Devices of the runs: what they must break, and which stand behind which."""

from collections.abc import Iterator
from typing import Any

from lodestaff.catalogue.families import sealed
from lodestaff.checks.devices import Breaking, Series
from lodestaff.job import Fact, Job
from lodestaff.job.facts import Known
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.making import makes
from lodestaff.reckoning.records.runs import runs


@makes
def breakings(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Breaking]:
    """The devices on AC together, then the fuse of each bank."""
    pack = job.pack
    ac = [run for run in runs(reckoner, job, False) if not run.dc and run.use != "service"]
    devices = tuple(
        (run.id, run.name, run.cable.breaking_ka)
        for run in ac
        if run.cable is not None and run.cable.device_a is not None
    )
    if job.mains.grid and devices:
        yield Breaking(
            owner="",
            name="Devices behind the service",
            fault=job.mains.fault_ka,
            most=pack.values.get("fault_ka_most"),
            devices=devices,
            backed_a=job.site.supply.rating_a.value,
            backs_up=pack.values.get("fault_backed_up_a"),
        )
    for bank in job.banks:
        unit, sheet = job.unit(bank.unit), job.sheets.batteries[bank.sheet]
        cable = next((cable for cable in job.cables if cable.id == f"{bank.id}-run"), None)
        if cable is None or sealed(job.sheet_of(unit)):
            continue
        beside = bank.modules / (sheet.modules_in_series(bank.modules) or 1)
        known = sheet.fault_ka is not None
        yield Breaking(
            owner=bank.id,
            name=f"Fuse of the battery{f' of {unit.name}' if len(job.banks) > 1 else ''}",
            fault=Fact[float](value=sheet.fault_ka * beside, known=Known.SHEET)
            if sheet.fault_ka is not None
            else Fact[float](),
            most=None,
            devices=((cable.id, "its fuse", cable.breaking_ka),) if known or cable.device_a else (),
            bank=True,
        )


@makes
def series(reckoner: Reckoner, job: Job, deep: bool) -> Iterator[Series]:
    """Every device on AC that stands behind another one."""
    before = reckoner.wiring(job).before
    fitted: dict[str, tuple[str, float, Fact[Any]]] = {
        run.id: (run.name, run.cable.device_a, run.cable.selective)
        for run in runs(reckoner, job, False)
        if not run.dc and run.cable is not None and run.cable.device_a is not None
    }
    pairs = []
    for run, (name, device, fact) in fitted.items():
        ahead = [other for other in before.get(run, ()) if other in fitted]
        if ahead:
            pairs.append((run, name, device, fitted[ahead[-1]][1], fact))
    yield Series(tuple(pairs))
