"""From a job to the record that each check takes."""

from collections.abc import Callable, Iterator
from typing import Any

from lodestaff.checks import array as array_checks
from lodestaff.checks import (
    conductors,
    isolating,
    limits,
    live,
    loads,
    protection,
    storage,
    transfer,
    transformers,
    wire,
)
from lodestaff.checks import site as site_checks
from lodestaff.job import Job
from lodestaff.reckoning.reckoner import Reckoner
from lodestaff.reckoning.records import array, backup, design, wiring

RECORDS: dict[type, Callable[[Reckoner, Job, bool], Iterator[Any]]] = {
    loads.HeldLoad: backup.held_loads,
    loads.HeldEnergy: backup.held_energies,
    loads.LockOut: backup.lock_outs,
    loads.Care: backup.cares,
    wire.Bonds: backup.bonds,
    limits.Export: backup.exports,
    limits.Import: backup.imports,
    limits.Reserve: backup.reserves,
    site_checks.Rating: design.ratings,
    site_checks.PermitOnPhase: design.permits,
    site_checks.Earth: design.earths,
    site_checks.Space: design.spaces,
    array_checks.StringVolts: array.string_volts,
    array_checks.OnTracker: array.on_trackers,
    array_checks.Ratio: array.ratios,
    storage.BankPower: design.bank_powers,
    conductors.Run: design.runs,
    protection.Electrode: design.electrodes,
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
    isolating.IslandArray: wiring.island_arrays,
}
