"""What stands on labels beside their words: volts and amperes of arrays, units and batteries, as reckoned."""

from lodestaff.job import Job
from lodestaff.quantities import text_of
from lodestaff.quantities.convention import plain
from lodestaff.reckoning.passing import on_leg_a, pair_factor
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records.array import home_runs
from lodestaff.reckoning.records.runs import runs


def label_ratings(reckoner: Reckoner, job: Job) -> dict[str, str]:
    """By part: of DC isolators the most on them, of batteries theirs, of units and feeds what they give.

    Open-circuit volts are those at the record low, currents with the pack's factor (NEC 690.53 and 690.54,
    BS 7671 712, from memory).
    """
    topology, ratings = reckoner.wiring(job).topology, dict[str, str]()
    for home in home_runs(reckoner, job, False):
        name, _, tracker = home.owner.partition("/")
        isolator = topology.array_isolator(name, tracker)
        amps = home.factor.value * sum(joint.isc_a for joint in home.strings)
        if isolator:
            ratings[isolator] = f"at most {text_of(home.cold_v, 'V')} DC, {text_of(amps, 'A')}"
    volts = job.pack.value("nominal_v").value
    for unit in job.units:
        sheet, legs = job.sheet_of(unit), len(unit.legs)
        between = 2 * volts / pair_factor(job) if legs == 2 else volts
        amps = on_leg_a(job, sheet.rated_kva, legs)
        words = f"{plain(between, 0)} V AC, {text_of(amps, 'A')}{' each phase' if legs > 2 else ''}"
        ratings[unit.id] = words
        if f"{unit.id}-feed" in topology.parts:
            ratings[f"{unit.id}-feed"] = f"source, {words}"
    for run in runs(reckoner, job, False):
        if run.kind == "battery" and not run.unknown and run.voltage_v is not None:
            bank = next(bank for bank in job.banks if run.id == f"{bank.id}-run")
            cells = job.sheets.batteries[bank.sheet]
            series = cells.modules_in_series(bank.modules) or 1
            usual = cells.v_nominal * series if cells.v_nominal is not None else run.voltage_v
            words = f"{text_of(usual, 'V')} DC, up to {text_of(run.design_a, 'A')}"
            for part in topology.on_way("battery", bank.unit):
                ratings[part.id] = words
    return ratings
