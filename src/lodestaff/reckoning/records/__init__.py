"""From a job to the record that each check takes."""

from collections.abc import Callable, Iterator
from typing import Any

from lodestaff.checks import array as array_checks
from lodestaff.checks import (
    branches,
    demand,
    electrode,
    found,
    hands,
    isolating,
    limits,
    live,
    loads,
    permits,
    phases,
    storage,
    transfer,
    transformers,
    voltage,
    wire,
)
from lodestaff.checks import site as site_checks
from lodestaff.checks.runs import Run
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import array, backup, circuits, design, wiring
from lodestaff.reckoning.records import site as site_records
from lodestaff.reckoning.records.runs import runs as run_records

RECORDS: dict[type, Callable[[Reckoner, Job, bool], Iterator[Any]]] = {
    loads.HeldLoad: backup.held_loads,
    loads.HeldEnergy: backup.held_energies,
    loads.LockOut: backup.lock_outs,
    loads.Care: backup.cares,
    wire.Bonds: backup.bonds,
    limits.Export: backup.exports,
    limits.ExportByPhase: backup.exports_by_phase,
    limits.Import: backup.imports,
    limits.Reserve: backup.reserves,
    site_checks.Rating: site_records.ratings,
    permits.PermitOnPhase: site_records.permits,
    permits.Papers: site_records.papers,
    voltage.Volts: site_records.volts,
    site_checks.Earth: site_records.earths,
    site_checks.Space: site_records.spaces,
    found.FoundThing: site_records.found_things,
    phases.Legs: circuits.legs,
    phases.Strange: circuits.stranges,
    demand.ServiceDemand: circuits.service_demands,
    demand.Explained: circuits.explaineds,
    hands.ByHand: circuits.by_hands,
    hands.FullLoad: circuits.full_loads,
    hands.Restart: circuits.restarts,
    hands.Measured: circuits.measureds,
    array_checks.StringVolts: array.string_volts,
    array_checks.OnTracker: array.on_trackers,
    array_checks.Ratio: array.ratios,
    branches.Branch: array.branches,
    storage.BankPower: design.bank_powers,
    Run: run_records,
    electrode.Electrode: design.electrodes,
    transfer.Transfer: wiring.transfers,
    transfer.Joining: wiring.joinings,
    transfer.PassThrough: wiring.pass_throughs,
    transformers.Sight: wiring.sights,
    transformers.Limited: wiring.limiteds,
    live.LiveState: wiring.live_states,
    live.Borrowed: wiring.borroweds,
    live.Places: wiring.places,
    isolating.Isolated: wiring.isolations,
    isolating.Disconnects: wiring.disconnects,
    isolating.ShutdownSupply: wiring.shutdowns,
    isolating.NoShutdown: wiring.missing_shutdowns,
    isolating.IslandArray: wiring.island_arrays,
}
